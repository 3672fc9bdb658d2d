"""How long a person waits for a picture, measured in the real window.

Steps back, random seeks and walks from seam to seam on a 1080p H.264 film with B-frames and long
groups of pictures, from the key to the moment the picture is there to be painted. Beside it, the
time one frame takes to decode.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import av
import numpy as np
from PySide6.QtCore import QCoreApplication, QEventLoop, QSettings
from PySide6.QtWidgets import QApplication

from films import HOME
from offcut.app.shell.main import settle
from offcut.app.shell.window import Window
from offcut.app.theme import load_fonts
from speed import full_hd

PACE = 0.08
"""Seconds between steps: a key held down repeats about as fast."""


def run_events(seconds: float) -> None:
    """Let the window work for a while."""
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)


def shown(window: Window) -> bool:
    """Tell whether everything the large picture shows is there."""
    pair = window.view("seams").pair
    size = pair._size(pair._cells()[0])
    return all(window.large.picture(f, *size) is not None for f in pair._frames())


def waited(window: Window, act: Callable[[], object], limit: float = 10.0) -> float:
    """Return milliseconds from an action until its picture is there."""
    began = time.perf_counter()
    act()
    while not shown(window) and time.perf_counter() - began < limit:
        QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 1)
    return 1000 * (time.perf_counter() - began)


def row(name: str, target: int, times: list[float]) -> str:
    """Return a line of the table."""
    within = 100 * sum(t <= target for t in times) / len(times)
    median, high = np.percentile(times, 50), np.percentile(times, 95)
    return f"| {name} | {target} | {median:.0f} | {high:.0f} | {within:.0f} % of {len(times)} |"


def one_decode(path: Path) -> float:
    """Return milliseconds a frame takes to decode, the film read through."""
    began, count = time.perf_counter(), 0
    with av.open(str(path)) as film:
        film.streams.video[0].thread_type = "AUTO"
        for _ in film.decode(video=0):
            count += 1
    return 1000 * (time.perf_counter() - began) / count


def main() -> None:
    """Print the table."""
    path = (
        Path(sys.argv[1])
        if sys.argv[1:] and sys.argv[1] != "--tell"
        else full_hd(HOME / "full-hd.mp4")
    )
    app = QApplication.instance() or QApplication(["offcut"])
    load_fonts()
    rng = np.random.default_rng(5)
    with tempfile.TemporaryDirectory() as folder:
        window = Window(QSettings(f"{folder}/s.ini", QSettings.Format.IniFormat))
        window.set_theme("day")
        window.show()
        window.files.open_films([path])
        settle(window)
        film = window.session.film
        assert film is not None
        frames = film.media.frames
        keys = np.diff([*film.index.keys.tolist(), frames])
        print(
            f"{path.name}: {film.media.width}x{film.media.height}, {frames} frames, keyframes "
            f"{keys.min()} to {keys.max()} apart, one frame decodes in {one_decode(path):.1f} ms\n"
        )
        print("| what | within ms | median ms | 95 of 100 ms | within |\n|---|---|---|---|---|")
        window.session.select(None)
        back: list[float] = []
        for start in rng.integers(120, frames - 10, 4).tolist():
            window.session.go_to(start)
            settle(window)
            for _ in range(60):
                back.append(waited(window, lambda: window.seam_actions.step(-1)))
                run_events(PACE)
        print(row("a frame back, again and again", 40, back), flush=True)
        seeks = []
        for to in rng.integers(0, frames, 40).tolist():
            seeks.append(waited(window, lambda to=to: window.session.go_to(to)))
            if "--tell" in sys.argv:
                print(to, to - film.index.key_before(to), round(seeks[-1]), file=sys.stderr)
            run_events(0.3)
        print(row("to any place", 250, seeks), flush=True)
        for name, way in (("to the seam after", 1), ("to the seam before", -1)):
            steps = []
            window.session.go_to(0 if way > 0 else frames - 1)
            settle(window)
            for _ in range(20):
                steps.append(waited(window, lambda way=way: window.seam_actions.next_seam(way)))
                run_events(0.5)
            print(row(name, 100, steps), flush=True)
        settle(window)
        print(f"\nPictures held: {window.large.held_bytes / 2**20:.0f} MB")
        window.session.history.mark_saved()
        window.close()
    del app


if __name__ == "__main__":
    main()
