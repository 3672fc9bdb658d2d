"""How fluent the window is with 3,000 seams in a two-hour film: each picture painted is timed.

Scrolling the list, zooming and panning the ribbon, walking, judging and moving the sensitivity,
each from the call to the end of its painting, with pictures arriving meanwhile.
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtCore import QCoreApplication, QSettings
from PySide6.QtWidgets import QApplication

from films import HOME
from memory import long_film
from offcut.app.shell.window import Window
from offcut.app.theme import load_fonts
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Reason, Seam
from offcut.core.model.verbs.searching import set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.missing_films import FilmThere

SEAMS = 3000


def many_seams(frames: int) -> list[Seam]:
    """Return 3,000 found seams, a third of them in doubt, and as many faint ones."""
    rng = np.random.default_rng(3)
    at = np.sort(rng.choice(np.arange(10, frames - 10), 2 * SEAMS, replace=False)).tolist()
    scores = [float(s) for s in rng.uniform(50, 99.9, SEAMS)]
    scores += [float(s) for s in rng.uniform(2, 49, SEAMS)]
    rng.shuffle(scores)
    reasons = (Reason("the pair looks alike", 0.4, True, "alike"),)
    return [
        Seam(0, f, f, f, score=s, certainty=Certainty.DOUBTFUL, reasons=reasons)
        for f, s in zip(at, scores, strict=True)
    ]


def timed(act: Callable[[int], object], times: int) -> list[float]:
    """Return milliseconds of each call, its events and its painting."""
    took = []
    for n in range(times):
        began = time.perf_counter()
        act(n)
        QCoreApplication.processEvents()
        took.append(1000 * (time.perf_counter() - began))
    return took


def main() -> None:
    """Print the table."""
    HOME.mkdir(exist_ok=True)
    path = long_film(HOME / "long-2.0.mp4", 2.0)
    app = QApplication.instance() or QApplication(["offcut"])
    load_fonts()
    with tempfile.TemporaryDirectory() as folder:
        window = Window(QSettings(f"{folder}/s.ini", QSettings.Format.IniFormat))
        window.set_theme("day")
        window.show()
        session = window.session
        film = open_source(path)
        project = add_source(Project("many"), film.media)
        source_id = project.sources[0].id
        seams = many_seams(film.media.frames)
        project = take_found(project, source_id, seams, 0, film.media.frames)
        session.put_in(project, Path(folder) / "many.offcut", source_id)
        session.film_is_there(source_id, FilmThere(film))
        timed(lambda _n: None, 20)
        print(f"{len(session.shots)} shots, {len(session.doubts)} seams listed\n")
        print("| what | asked ms | median ms | 95 of 100 ms | worst ms |\n|---|---|---|---|---|")
        bar = window.view("seams").list.view.verticalScrollBar()
        ribbon = window.ribbon
        ribbon.zoom(30)

        def say(name: str, asked: int, took: list[float]) -> None:
            median, high = np.percentile(took, 50), np.percentile(took, 95)
            print(f"| {name} | {asked} | {median:.1f} | {high:.1f} | {max(took):.1f} |", flush=True)

        def pan(n: int) -> None:
            ribbon.show_stretch(ribbon.stretch.panned(-25))

        def zoom(n: int) -> None:
            ribbon.zoom(1.06 if n % 80 < 40 else 1 / 1.06)

        def level(n: int) -> None:
            session.edit(lambda p, s: set_sensitivity(p, s, 30 + n % 40), "level")

        say("scroll the list", 17, timed(lambda n: bar.setValue(n * 37), 200))
        say("pan the ribbon", 17, timed(pan, 200))
        say("zoom the ribbon", 17, timed(zoom, 200))
        ribbon.zoom(1e-6)
        say("zoom with the whole film shown", 17, timed(zoom, 80))
        say("move the sensitivity", 100, timed(level, 60))
        say("walk to the seam after", 100, timed(lambda _n: window.seam_actions.next_seam(1), 60))
        window.seam_actions.next_doubtful()
        say("strike and go on", 100, timed(lambda _n: window.seam_actions.strike(), 60))
        say("undo", 100, timed(lambda _n: session.undo(), 60))
        session.history.mark_saved()
        window.close()
    del app


if __name__ == "__main__":
    main()
