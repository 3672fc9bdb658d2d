"""How long a person waits for a film: a two-hour one opened again, and one of two hundred.

    python bench/opening.py [--films 200]

From the call to the moment the first picture is there to be painted, in the real window; the
second opening of the long film finds its index and signals kept. Then, with two hundred films of
1080p in a project, from the key that steps to another film to its picture, for films used before.
"""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QCoreApplication, QEventLoop, QSettings, QTimer
from PySide6.QtWidgets import QApplication

from films import HOME
from memory import long_film
from offcut.app.session.in_hand import OPEN_FILMS
from offcut.app.shell.window import Window
from offcut.app.theme import load_fonts
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_source
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.project_file import save_project
from speed import full_hd

START = """
import os, sys, time
began = time.perf_counter()
from PySide6.QtCore import QTimer
from offcut.app.shell import main
class Brief(main.Window):
    def showEvent(self, event):
        super().showEvent(event)
        QTimer.singleShot(0, self.close)
main.Window = Brief
main.run_window()
print(time.perf_counter() - began, "opentimelineio" in sys.modules)
"""


def wait_for(there: Callable[[], bool], limit: float = 120.0) -> float:
    """Let the window work until something is there; return the milliseconds it took.

    The window sleeps in between, as it does before a person: a loop that asks without rest would
    hold Python back in every other thread.
    """
    began = time.perf_counter()
    loop, again = QEventLoop(), QTimer()
    again.timeout.connect(
        lambda: loop.quit() if there() or time.perf_counter() - began > limit else None
    )
    again.start(2)
    loop.exec()
    return 1000 * (time.perf_counter() - began)


def shown(window: Window) -> bool:
    """Tell whether the picture of the film in hand is there."""
    if window.session.film is None:
        return False
    pair = window.view("seams").pair
    size = pair._size(pair._cells()[0])
    return all(window.large.picture(f, *size) is not None for f in pair._frames())


def a_window(folder: str) -> Window:
    """Return a window with settings of its own."""
    window = Window(QSettings(f"{folder}/s.ini", QSettings.Format.IniFormat))
    window.set_theme("day")
    window.show()
    QCoreApplication.processEvents()
    return window


def rest(window: Window) -> None:
    """Wait until nothing is under way."""
    wait_for(lambda: not window.session.jobs.running and window.large.idle and window.small.idle)


def opened(path: Path, folder: str, *, all_of_it: bool) -> float:
    """Open a film in a new window; return milliseconds to its first picture."""
    window = a_window(folder)
    window.files.open_films([path])
    took = wait_for(lambda: shown(window))
    if all_of_it:
        rest(window)
    window.stop_work()
    rest(window)
    window.session.history.mark_saved()
    window.close()
    return took


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--films", type=int, default=200)
    call = parser.parse_args()
    HOME.mkdir(exist_ok=True)
    app = QApplication.instance() or QApplication(["offcut"])
    load_fonts()
    starts = [
        subprocess.run(
            [sys.executable, "-c", START], capture_output=True, text=True, check=True
        ).stdout.split()
        for _ in range(3)
    ]
    print(
        f"start to window {statistics.median(float(s[0]) for s in starts):.2f} s, "
        f"OpenTimelineIO imported meanwhile: {starts[0][1]}"
    )
    long = long_film(HOME / "long-2.0.mp4", 2.0)
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        first = opened(long, folder, all_of_it=False)
        again = [opened(long, folder, all_of_it=False) for _ in range(3)]
        print(
            f"two hours, {long.stat().st_size >> 20} MB: first picture after {first:.0f} ms, "
            f"opened again {statistics.median(again):.0f} ms (asked: 300)"
        )
    film = full_hd(HOME / "full-hd.mp4")
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        media = open_source(film).media
        project = Project(name="shelf")
        for n in range(call.films):
            path = Path(folder, f"film-{n:03}.mp4")
            path.symlink_to(film)
            source_id = project.next_id
            project = add_source(project, replace(media, path=str(path)))
            project = place_seam(project, source_id, 300)
            source = project.source(source_id)
            project = with_source(project, replace(source, searched=True))
        file = save_project(project, Path(folder, "shelf.offcut"))
        window = a_window(folder)
        s = window.session
        window.files.open_project(file)
        wait_for(lambda: shown(window))
        rest(window)
        for _ in range(OPEN_FILMS + 2):
            s.step_film(1)
            wait_for(lambda: shown(window))
            rest(window)
        near, far = [], []
        for way in (-1, -1, -1, 1, 1, 1, -1, 1):
            s.step_film(way)
            near.append(wait_for(lambda: shown(window)))
            rest(window)
        ids = [x.id for x in s.project.sources]
        for n in (0, 1, 2):  # used before, and let go since
            s.take_in_hand(ids[n])
            far.append(wait_for(lambda: shown(window)))
            rest(window)
        print(
            f"{call.films} films of 1080p, {len(s.films)} of them open: to one used before "
            f"{statistics.median(near):.0f} ms, worst {max(near):.0f} (asked: 150); "
            f"to one let go since {statistics.median(far):.0f} ms"
        )
        window.session.history.mark_saved()
        window.close()
    del app


if __name__ == "__main__":
    main()
