"""Measures Rhythm: drawing, zooming and moving 3,000 shots, a range dragged, the page, loudness.

rhythm.py view [SHOTS]     the real window, offscreen, signals for every frame (3,000 shots)
rhythm.py page             a study page, charts and tables of 3,000 shots
rhythm.py sound FILM       loudness against bare decoding of the same sound
rhythm.py tones FILM       light and colours: measuring with them against measuring without
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def median(times: list[float]) -> str:
    """Say a median and the 95th of 100 in milliseconds."""
    ordered = sorted(times)
    return f"median {ordered[len(ordered) // 2] * 1000:.1f} ms, 95 of 100 within {ordered[int(len(ordered) * 0.95)] * 1000:.1f} ms"


def paced_project(shots: int):  # type: ignore[no-untyped-def]
    """Return a project of one film whose lengths are log-normal, in scenes, some joins gradual."""
    import numpy as np

    from offcut.core.model.card import Card
    from offcut.core.model.project import Project, Scene
    from offcut.core.model.scene_look import Pattern, Tint
    from offcut.core.model.seam import Kind, Seam, Standing
    from offcut.core.model.source import Media, Source

    rng = np.random.default_rng(7)
    lengths = np.maximum(8, np.round(rng.lognormal(0.8, 0.6, shots) * 25)).astype(int)
    frames = np.cumsum(lengths)
    seams = []
    for k, at in enumerate(frames[:-1].tolist()):
        kind = Kind.DISSOLVE if k % 40 == 3 else Kind.FADE if k % 97 == 5 else Kind.CUT
        half = 0 if kind is Kind.CUT else 3
        card = Card(scene=1 + k // 60 % 8)
        seams.append(
            Seam(
                1000 + k, at, at - half, at + half, kind, 90.0, opening=card, standing=Standing.KEPT
            )
        )
    scenes = tuple(
        Scene(n + 1, f"Scene {n + 1}", list(Pattern)[n], list(Tint)[n % 6]) for n in range(8)
    )
    whole = int(frames[-1])
    media = Media("/films/paced.mov", Fraction(25), whole, 1920, 1080, fingerprint=f"paced-{shots}")
    source = Source(10, media, 0, whole, tuple(seams), searched=True)
    return Project("Paced", (source,), scenes, next_id=10**6)


def made_signals(frames: int):  # type: ignore[no-untyped-def]
    """Return signals of so many frames, made up."""
    import numpy as np

    from offcut.core.rhythm.lanes import FilmSignals

    rng = np.random.default_rng(3)
    colours = rng.integers(0, 255, (frames, 10, 3), np.uint8)
    light, movement = rng.random(frames, np.float32) * 100, rng.random(frames, np.float32) * 8
    return FilmSignals(
        colours, light, movement, -20 - 20 * rng.random(frames, np.float32), True, True
    )


def view(shots: int) -> None:
    """Zoom, move, and drag a range over many shots in the real window."""
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from offcut.app.shell.window import Window
    from offcut.app.theme import load_fonts

    app = QApplication([])
    load_fonts()
    with tempfile.TemporaryDirectory() as folder:
        for name in ("XDG_CACHE_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
            os.environ[name] = folder
        window = Window(QSettings(f"{folder}/s.ini", QSettings.Format.IniFormat))
        window.set_theme("day")
        window.resize(1280, 800)
        window.show()
        project = paced_project(shots)
        window.session.put_in(project, None)
        app.processEvents()
        import scipy.ndimage
        import scipy.signal
        import scipy.stats

        assert scipy.stats  # what the window loads while nobody waits
        began = time.perf_counter()
        import offcut.app.views.rhythm.view

        assert offcut.app.views.rhythm.view
        print(f"charts are loaded in {(time.perf_counter() - began) * 1000:.0f} ms, once")
        began = time.perf_counter()
        room = window.open_view("rhythm")
        room.study.signals.films[10] = made_signals(project.sources[0].media.frames)
        room.study.signals._keys[10] = None
        room.study.signals._closed = True
        room.study._take_signals()
        app.processEvents()
        window.grab()
        print(
            f"{shots} shots, {project.sources[0].media.frames} frames; opens in {(time.perf_counter() - began) * 1000:.0f} ms"
        )

        def drawn(do) -> float:  # type: ignore[no-untyped-def]
            began = time.perf_counter()
            do()
            app.processEvents()
            return time.perf_counter() - began

        skyline = room.skyline
        whole = project.sources[0].media.frames / 25
        for log in (False, True):
            room.study.set_manner(log=log)
            app.processEvents()
            skyline.show_all()
            app.processEvents()
            zoomed = [
                drawn(lambda n=n: skyline.zoom(1.04 if n % 160 < 80 else 1 / 1.04, whole * 0.4))
                for n in range(320)
            ]
            print(f"{'log  ' if log else 'plain'} zooming: {median(zoomed)}")
            skyline.show_between(whole * 0.2, whole * 0.45)
            app.processEvents()
            moved = [
                drawn(lambda n=n: skyline.push(0.004 if n % 200 < 100 else -0.004))
                for n in range(300)
            ]
            print(f"      moving a quarter of it: {median(moved)}")
            skyline.show_all()
            followed = [drawn(lambda n=n: window.session.go_to(n * 137)) for n in range(200)]
            print(f"      the playhead: {median(followed)}")
        room.study.set_manner(log=False)
        for many in (0, 1, 3):
            if many:
                from offcut.app.views.rhythm.study import HeldBeside
                from offcut.core.rhythm.lengths import lengths_of_film

                while len(room.study.beside) < many:
                    other = lengths_of_film(
                        paced_project(shots - 100 * len(room.study.beside) - 50).sources[0], "Other"
                    )
                    room.study._hold(f"file:{len(room.study.beside)}", other)
                assert isinstance(room.study.beside[0], HeldBeside)
            app.processEvents()
            times = []
            for n in range(60):
                began = time.perf_counter()
                room.study.mark_part(whole * 0.1, whole * (0.3 + n * 0.01))
                app.processEvents()
                times.append(time.perf_counter() - began)
            print(f"a range dragged, {many} beside, all figures: {median(times)}")
        window.session.history.mark_saved()
        window.close()


def page() -> None:
    """Draw a page, charts and tables of 3,000 shots."""
    from offcut.core.rhythm.charts import write_charts
    from offcut.core.rhythm.figures_out import write_csv, write_workbook
    from offcut.core.rhythm.lanes import lanes_of
    from offcut.core.rhythm.lengths import lengths_of_film
    from offcut.core.rhythm.page import write_page
    from offcut.core.rhythm.whole_study import whole_study

    project = paced_project(3000)
    lengths = lengths_of_film(project.sources[0])
    lanes = lanes_of(lengths, {10: made_signals(project.sources[0].media.frames)})
    study = whole_study(
        "Paced",
        lengths,
        [lengths_of_film(paced_project(2800).sources[0], "Other")],
        scenes=project.scenes,
        lanes=lanes,
    )
    with tempfile.TemporaryDirectory() as folder:
        for words, write in (
            ("page", lambda: write_page(study, f"{folder}/page.pdf")),
            ("charts as SVG", lambda: write_charts(study, folder, "svg")),
            ("charts as PNG", lambda: write_charts(study, folder, "png")),
            ("CSV", lambda: write_csv(study, f"{folder}/l.csv")),
            ("spreadsheet", lambda: write_workbook(study, f"{folder}/l.xlsx")),
        ):
            times = []
            for _ in range(3):
                began = time.perf_counter()
                write()
                times.append(time.perf_counter() - began)
            print(f"{words}: {sorted(times)[1]:.2f} s")
        print(f"the page is {Path(folder, 'page.pdf').stat().st_size / 1000:.0f} kB")


def sound(film: Path) -> None:
    """Measure loudness against bare decoding of the same sound."""
    from offcut.core.measure.loudness import measure_loudness
    from offcut.core.media.probe import open_source
    from offcut.core.media.sound import samples_from

    os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp()
    opened = open_source(film)
    bare, whole = [], []
    for _ in range(3):
        began = time.perf_counter()
        for _piece in samples_from(film, Fraction(0)):
            pass
        bare.append(time.perf_counter() - began)
        began = time.perf_counter()
        measure_loudness(opened)
        whole.append(time.perf_counter() - began)
    a, b = sorted(bare)[1], sorted(whole)[1]
    seconds = float(opened.media.frames / opened.media.rate)
    print(f"{seconds:.0f} s of sound: decoding {a:.2f} s, loudness {b:.2f} s, ratio {b / a:.2f}")


def tones(film: Path) -> None:
    """Measure all with light and colours against change alone, in the same run."""
    from offcut.core.measure.ranges import measure_range
    from offcut.core.measure.registry import CHANGE, OURS
    from offcut.core.media.probe import open_source

    opened = open_source(film)
    times: dict[str, list[float]] = {"change": [], "all": []}
    for _ in range(3):
        for words, measurers in (("change", (CHANGE,)), ("all", OURS)):
            os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp()
            began = time.process_time()
            for _run in measure_range(opened, 0, opened.media.frames, measurers=measurers):
                pass
            times[words].append(time.process_time() - began)
    a, b = (sorted(times[w])[1] for w in ("change", "all"))
    print(f"processor seconds: change {a:.2f}, with light and colours {b:.2f}, ratio {b / a:.3f}")


if __name__ == "__main__":
    what, *rest = sys.argv[1:] or ["view"]
    if what == "view":
        view(int(rest[0]) if rest else 3000)
    elif what == "page":
        page()
    elif what in ("sound", "tones"):
        (sound if what == "sound" else tones)(Path(rest[0]))
    else:
        sys.exit(__doc__)
