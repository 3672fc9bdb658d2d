"""Measures the Board: scrolling and zooming thousands of shots, finding, the library, playing.

    board.py scroll [FILM]     5,000 shots in the real window, offscreen; a film of its own if none
    board.py find              10,000 shots as one types; 300,000 in the library
    board.py play [FILM]       shots back to back: pictures shown and left out
    board.py repeats           shots used twice, also flopped, zoomed, slowed

Figures of suggestions: ``places.py``.
"""

from __future__ import annotations

import os
import random
import resource
import statistics
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HOME = Path(tempfile.gettempdir()) / "offcut-bench"
SHOTS = 5000
WORDS = [
    "bridge",
    "night",
    "harbour",
    "tram",
    "depot",
    "rain",
    "street",
    "quay",
    "tower",
    "bell",
    "window",
    "driver",
    "hand",
    "wires",
    "rails",
    "crossing",
    "morning",
    "smoke",
    "gull",
    "boat",
    "crowd",
    "clock",
    "stair",
    "lamp",
    "door",
    "market",
    "snow",
    "roof",
    "engine",
    "track",
]


def named_project(films: int, shots: int, frames: int = 60):  # type: ignore[no-untyped-def]
    """Return a project of so many films and shots in each, named, noted and sorted at random."""
    from offcut.core.model.card import Card
    from offcut.core.model.project import Project, Scene
    from offcut.core.model.seam import Seam, Standing
    from offcut.core.model.source import Media, Source

    rng = random.Random(7)
    scenes = tuple(Scene(n + 1, f"{rng.choice(WORDS)} {n}") for n in range(8))
    sources = []
    for f in range(films):
        seams = []
        for k in range(1, shots):
            note = " ".join(rng.choices(WORDS, k=6)) if rng.random() < 0.4 else ""
            card = Card(
                " ".join(rng.choices(WORDS, k=3)), note, rng.random() < 0.05, None, rng.randrange(9)
            )
            at = k * frames + rng.randrange(frames // 2)
            seams.append(
                Seam(1000 + k, at, at, at, score=90.0, opening=card, standing=Standing.KEPT)
            )
        media = Media(
            f"/films/{f}.mov", Fraction(25), shots * frames, 1920, 1080, fingerprint=f"f{f}"
        )
        sources.append(Source(10 + f, media, 0, shots * frames, tuple(seams), searched=True))
    return Project("Bench", tuple(sources), scenes, next_id=10**6)


def searched(project, source_id):  # type: ignore[no-untyped-def]
    """Return a project whose film counts as searched."""
    from dataclasses import replace

    from offcut.core.model.verbs.replacing import with_source

    return with_source(project, replace(project.source(source_id), searched=True))


def median(times: list[float]) -> str:
    """Say a median and the 95th of 100 in milliseconds."""
    ordered = sorted(times)
    return f"median {ordered[len(ordered) // 2] * 1000:.1f} ms, 95 of 100 within {ordered[int(len(ordered) * 0.95)] * 1000:.1f} ms"


def scroll(film: Path, size: tuple[int, int] = (1280, 800)) -> None:
    """Scroll and zoom 5,000 shots of a real film in the real window."""
    from PySide6.QtCore import QEventLoop, QSettings, QTimer
    from PySide6.QtWidgets import QApplication

    from offcut.app.shell.main import settle
    from offcut.app.shell.window import Window
    from offcut.app.theme import load_fonts
    from offcut.core.model.seam import Origin, Seam
    from offcut.core.model.verbs.replacing import with_seams

    app = QApplication.instance() or QApplication(["bench"])
    load_fonts()
    folder = tempfile.mkdtemp()
    window = Window(QSettings(f"{folder}/s.ini", QSettings.Format.IniFormat))
    window.files.search_at_once = False
    window.resize(*size)
    window.show()
    window.files.open_films([film])
    settle(window)
    session = window.session
    source = session.source
    assert source is not None
    frames = source.media.frames
    rng = random.Random(3)
    at = sorted(rng.sample(range(1, frames), min(SHOTS, frames - 1)))
    seams = [Seam(10_000 + n, f, f, f, origin=Origin.PLACED) for n, f in enumerate(at)]
    session.edit(lambda p, i: searched(with_seams(p, i, seams), i), "Bench")
    began = time.perf_counter()
    view = window.open_view("board")  # from now on shots are looked at in the background
    print(
        f"{len(session.shots)} shots: the Board opens in {(time.perf_counter() - began) * 1000:.0f} ms"
    )

    def turn(ms: int) -> None:
        loop = QEventLoop()
        QTimer.singleShot(ms, loop.quit)
        loop.exec()

    for layout in ("bin", "sheet"):
        view.show_layout(layout)
        turn(200)
        bar = view.canvas.verticalScrollBar()
        bar.setValue(0)
        times: list[float] = []
        missing = 0
        for _ in range(400):
            start = time.perf_counter()
            bar.setValue(bar.value() + 60)
            view.canvas.viewport().repaint()
            times.append(time.perf_counter() - start)
            missing += not view.pictures.idle
            turn(max(1, int(16.7 - times[-1] * 1000)))
        print(
            f"{layout}, scrolled 60 pixels a picture: {median(times)}; pictures were on their way at {missing} of 400"
        )
        zooms = []
        for k in range(40):
            start = time.perf_counter()
            view.canvas.set_size(view.canvas.size_now + (6 if k < 20 else -6))
            view.canvas.viewport().repaint()
            zooms.append(time.perf_counter() - start)
            turn(5)
        print(f"{layout}, zoomed: {median(zooms)}")
    view.show_layout("table")
    turn(100)
    bar, times = view.table.verticalScrollBar(), []
    for _ in range(300):
        start = time.perf_counter()
        bar.setValue(bar.value() + 60)
        app.processEvents()  # what is scrolled is moved, and only what is new is painted
        times.append(time.perf_counter() - start)
        turn(3)
    print(f"table, scrolled: {median(times)}")
    view.show_layout("bin")
    edits = []
    for n in range(15):
        view.shots.step(100 + n)
        start = time.perf_counter()
        view.actions_on.name(f"name {n}")
        edits.append(time.perf_counter() - start)
        turn(5)
    view.type_find()
    turn(400)  # words are folded while a person reaches for the first key
    typed = []
    for text in ("n", "na", "nam", "name", "name 1", "> 3 s", "> 30 s", "unnamed", ""):
        start = time.perf_counter()
        view.find_field.setText(text)
        view.canvas.viewport().repaint()
        typed.append(time.perf_counter() - start)
        turn(5)
    print(f"finding among {SHOTS} as one types, to the end of painting: {median(typed)}")
    print(f"naming a shot of {SHOTS}: {median(edits)}")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(
        f"pictures held: {view.pictures.held_bytes / 1e6:.0f} MB; the whole process at most {peak:.0f} MB"
    )
    session.history.mark_saved()
    window.close()
    del app


def find() -> None:
    """Time finding in a project, and in the library."""
    from offcut.core.board.rows import RowFinder, rows_of
    from offcut.core.facts.query import query_of
    from offcut.core.store.library import Library

    project = named_project(2, 5000)
    rows, finding = rows_of(project), RowFinder()
    limits = {s.id: 10 for s in project.sources}
    for text in (
        "n",
        "night",
        "night bridge",
        "> 3 s -rain",
        "scene:depot bell",
        "aside",
        "unsorted tra",
    ):
        times = []
        for _ in range(5):
            start = time.perf_counter()
            found = finding.found(rows, query_of(text), project, limits)
            times.append(time.perf_counter() - start)
        print(
            f"{len(rows)} shots, “{text}”: {len(found)} found, {statistics.median(times) * 1000:.1f} ms (first {times[0] * 1000:.0f})"
        )
    with tempfile.TemporaryDirectory() as folder, Library(Path(folder) / "library.db") as library:
        start = time.perf_counter()
        for n in range(1000):
            library.take(named_project(1, 300), Path(folder) / f"{n}.offcut")
        print(
            f"library of 1,000 projects, 300,000 shots: made in {time.perf_counter() - start:.0f} s, {library.file.stat().st_size / 1e6:.0f} MB"
        )
        for text in (
            "night bridge",
            "bridge",
            "br",
            "> 3 s",
            "tram > 3 s",
            "-rain night",
            "scene:depot bell",
            "unsorted tra",
            "aside",
            "tower unnamed",
            "zzz",
        ):
            times = []
            for _ in range(3):
                start = time.perf_counter()
                told = library.find(query_of(text))
                times.append(time.perf_counter() - start)
            print(
                f"library, “{text}”: {len(told.shots)}{' and more' if told.more else ''}, {statistics.median(times) * 1000:.1f} ms"
            )


def play(film: Path) -> None:
    """Play shots of a film back to back, and count what was shown."""
    from PySide6.QtCore import QCoreApplication, QEventLoop
    from PySide6.QtGui import QGuiApplication

    from offcut.app.shared.back_to_back import BackToBack, PlayedStretch
    from offcut.app.shared.player_sound import Sound, open_device
    from offcut.core.media.probe import open_source
    from offcut.core.model.source import Source

    app = QCoreApplication.instance() or QGuiApplication([])
    opened = open_source(film)
    media = opened.media
    source = Source(1, media, 0, media.frames)
    rng = random.Random(5)
    for seconds in (3.0, 1.0, 0.5):
        long = round(seconds * media.rate)
        starts = [rng.randrange(0, media.frames - long) for _ in range(round(12 / seconds))]
        player = BackToBack(sound=Sound(lambda: open_device(silent=True)))
        loop = QEventLoop()
        player.ended.connect(loop.quit)
        player.play([PlayedStretch(source, a, a + long, "", opened) for a in starts], (960, 540))
        loop.exec()
        print(
            f"{len(starts)} shots of {seconds} s: {player.count} pictures shown, {player.dropped} left out"
        )
        player.close()
    del app


def repeats() -> None:
    """Tell how many shots used twice are pointed out, and how many are wrongly."""
    import cv2
    import numpy as np

    from films import Shelf, photo_shot
    from offcut.core.facts.places import WIDE
    from offcut.core.facts.repeats import MovingPictures, repeat_of

    def pictures(frames):  # type: ignore[no-untyped-def]
        grey = [
            cv2.resize(
                cv2.cvtColor(
                    np.ascontiguousarray(np.clip(f, 0, 255).astype(np.uint8)), cv2.COLOR_RGB2GRAY
                ),
                (WIDE, 108),
                interpolation=cv2.INTER_AREA,
            )
            for f in frames
        ]
        return MovingPictures(np.arange(len(grey)), grey)

    shelf, rng = Shelf("bench"), np.random.default_rng(11)
    zoom = cv2.getRotationMatrix2D((192, 108), 0, 1.35)
    told: dict[str, list[bool]] = {}
    for trial in range(16):
        shot = (
            list(photo_shot(rng, shelf, 100))
            if trial % 2
            else [f.astype(np.float32) for f in (shelf.clips[trial // 2 % 4] * 3)[:100]]
        )
        other = list(photo_shot(rng, shelf, 60))
        ways = {
            "the same": shot[10:60],
            "flopped": [f[:, ::-1] for f in shot[10:60]],
            "closer": [cv2.warpAffine(f, zoom, (384, 216)) for f in shot[10:60]],
            "slower": [shot[int(10 + k / 2)] for k in range(90)],
            "faster": shot[4:68:2],
            "graded": [np.clip(f * 0.8 + 20, 0, 255) for f in shot[10:60]],
            "another shot": other,
        }
        if trial % 2:  # a photograph's camera goes on, and does not come back
            ways["the shot going on"] = shot[72:100]
        for way, frames in ways.items():
            found = repeat_of(pictures(shot[:70]), pictures(frames), flopped=way == "flopped")
            told.setdefault(way, []).append(found is not None)
    for way, found in told.items():
        print(f"{way}: pointed out {sum(found)} of {len(found)}")


def main() -> None:
    """Measure what is asked for."""
    what = sys.argv[1] if len(sys.argv) > 1 else ""
    film = Path(sys.argv[2]) if len(sys.argv) > 2 else HOME / "full-hd.mp4"
    if what in ("scroll", "play") and not film.exists():
        sys.exit(f"{film} is not there: bench/speed.py makes it, or name another film")
    ways = {
        "scroll": lambda: scroll(film),
        "find": find,
        "play": lambda: play(film),
        "repeats": repeats,
    }
    if what not in ways:
        sys.exit(__doc__)
    ways[what]()


if __name__ == "__main__":
    main()
