"""Whether two 1080p H.264 films play at their rate in step, as Tally plays them side by side,
without proxies.

Tells how many pairs were shown, in how many of them both pictures were new, and how many the
leading film left out. Run it by hand; nothing else should run meanwhile.
"""

from __future__ import annotations

import argparse
import os
import shutil
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QCoreApplication, QEventLoop
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from films import HOME
from offcut.app.shared.back_to_back import PlayedStretch
from offcut.app.shared.pair_player import PairPlayer
from offcut.core.errands.bringing_in import bring_in
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from speed import full_hd

ROOM = (700, 394)


def main() -> None:
    """Play both."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--frames", type=int, default=500)
    call = asked.parse_args()
    app = QApplication([])
    HOME.mkdir(parents=True, exist_ok=True)
    one = HOME / "pair-1080p.mp4"
    if not one.exists():
        full_hd(one)
    other = HOME / "pair-1080p-second.mp4"
    if not other.exists():
        shutil.copy(one, other)
    films = [open_source(p) for p in (one, other)]
    sources = [bring_in(Project(), f).sources[0] for f in films]
    player = PairPlayer()
    shown: list[tuple[int, int]] = []

    def take(old: QImage | None, new: QImage | None, count: int) -> None:
        if old is not None and new is not None:
            shown.append((old.cacheKey(), new.cacheKey()))

    player.shown.connect(take)
    for name, heard in (("the new one leads", 1), ("the old one leads", 0)):
        shown.clear()
        player.heard = heard
        stretches = [
            PlayedStretch(s, 0, call.frames, film=f) for s, f in zip(sources, films, strict=True)
        ]
        began = time.monotonic()
        player.play((stretches[0], stretches[1]), ROOM)
        while player.playing and time.monotonic() - began < 120:
            QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents, 20)
        seconds = time.monotonic() - began
        fresh = [len({keys[k] for keys in shown}) for k in (0, 1)]
        due = call.frames / float(sources[0].media.rate)
        print(
            f"{name}: {len(shown)} pairs of {call.frames} shown in {seconds:.1f} s (due {due:.1f} s), "
            f"{fresh[0]} and {fresh[1]} pictures; shown and left out by the leading: {player.counts}"
        )
    player.close()
    app.quit()


if __name__ == "__main__":
    main()
