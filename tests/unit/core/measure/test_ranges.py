"""Measuring ranges: what is missing alone, each measurer for itself, with and without threads."""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from films import encode, scene
from offcut.core.measure import film_pass, ranges
from offcut.core.measure.kept_signals import KeptSignals, gaps_between, signals_folder
from offcut.core.measure.measurer import Arrays
from offcut.core.measure.measuring import OnThisThread, ToMeasure, measuring_on
from offcut.core.measure.ranges import change_signals, kept_trace, measure_range, missing_ranges
from offcut.core.measure.registry import CHANGE, OURS
from offcut.core.measure.signals import ARRAYS, Signals, signals_joined
from offcut.core.measure.small_pictures import SmallPictures
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.media.reader import Reader
from offcut.core.media.readers import open_reader


class Light:
    """How light each picture is, and how much lighter than the one before: a small measurer."""

    name = "light"
    history = 1
    arrays = ("light", "step")
    bytes_a_frame = 8
    look = None

    def __init__(self, version: int = 1) -> None:
        self.version = version
        self.seen: list[tuple[int, int]] = []

    def prepare(self, run: SmallPictures) -> Any:
        self.seen.append((run.start, run.start + len(run)))
        return run.luma.mean(axis=(1, 2), dtype=np.float32)

    def compare(self, before: Sequence[Any], now: Any) -> Arrays:
        past = before[-1][-1:] if before else now[:1]
        return {"light": now, "step": np.diff(np.concatenate([past, now]))}


@pytest.fixture
def film(four_shots: Path) -> OpenedFilm:
    return open_source(four_shots)


@pytest.fixture(autouse=True)
def _small_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(ranges, "KEPT_PIECE", 40)


def change(film: OpenedFilm, start: int, end: int, **how: Any) -> Signals:
    return signals_joined(list(change_signals(film, start, end, **how)))


def same(one: Signals, other: Signals) -> bool:
    return one.start == other.start and all(
        np.array_equal(getattr(one, n), getattr(other, n)) for n in ARRAYS
    )


def light(film: OpenedFilm, measurer: Light, start: int, end: int) -> np.ndarray:
    kept = KeptSignals(film.media)
    parts = [a["light"] for _, _, a in kept.pieces(measurer, start, end)]
    return np.concatenate(parts)


def test_what_is_not_measured_is_missing_and_then_is_not(film: OpenedFilm) -> None:
    assert missing_ranges(film.media, 0, 160) == [(0, 160)]
    list(measure_range(film, 40, 80))
    list(measure_range(film, 100, 120))
    assert missing_ranges(film.media, 0, 160) == [(0, 40), (80, 100), (120, 160)]
    assert missing_ranges(film.media, 50, 70) == []


def test_gaps_are_measured_alone_and_give_the_signals_of_the_whole(
    film: OpenedFilm, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    measurer = Light()
    for low, high in ((40, 80), (100, 120)):
        list(measure_range(film, low, high, measurers=[CHANGE, measurer], measuring=OnThisThread()))
    measurer.seen.clear()
    runs = list(measure_range(film, 0, 160, measurers=[CHANGE, measurer], measuring=OnThisThread()))
    assert [(r.start, r.end) for r in runs] == [(0, 40), (80, 100), (120, 160)]
    decoded = sum(high - low for low, high in measurer.seen)
    assert decoded <= 100 + 2 * CHANGE.history  # what lies before each gap is only looked back at
    pieced = change(film, 0, 160)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "another"))
    assert same(pieced, change(film, 0, 160))


@pytest.mark.parametrize("threads", [1, 2, 5])
def test_threads_and_where_one_begins_change_no_signal(film: OpenedFilm, threads: int) -> None:
    whole = next(iter(OnThisThread().measured(ToMeasure(film, 0, 160, OURS))))
    assert (whole.start, whole.end) == (0, 160) or whole.start == 0
    one = signals_joined(
        [
            ranges.signals_from(run.start, run.signals["change"])
            for run in OnThisThread().measured(ToMeasure(film, 0, 160, OURS))
        ]
    )
    part = [
        ranges.signals_from(run.start, run.signals["change"])
        for run in measuring_on(threads).measured(ToMeasure(film, 90, 160, OURS))
    ]
    cut = Signals(90, *(getattr(one, n)[90:] for n in ARRAYS))
    assert same(signals_joined(part), cut)


@pytest.mark.parametrize("threads", [1, 2])
def test_parts_share_as_many_readers_as_threads_and_all_are_closed(
    tmp_path: Path, threads: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    options = {"g": "12", "keyint_min": "12", "sc_threshold": "0"}
    film = open_source(encode(tmp_path / "parts.mp4", scene(7, 300), options=options))
    closed: list[Reader] = []
    opened: list[Reader] = []

    def opening(*words: Any, **how: Any) -> Reader:
        reader = open_reader(*words, **how)
        close = reader.close
        monkeypatch.setattr(reader, "close", lambda: (closed.append(reader), close()))
        opened.append(reader)
        return reader

    monkeypatch.setattr(film_pass, "open_reader", opening)
    list(measuring_on(threads).measured(ToMeasure(film, 0, 300, (Light(),))))
    assert 1 <= len(opened) <= threads
    assert sorted(map(id, closed)) == sorted(map(id, opened))


def test_a_new_measurer_and_a_new_version_leave_the_others_signals_alone(
    film: OpenedFilm,
) -> None:
    before = change(film, 0, 160)
    files = {f: f.stat().st_mtime_ns for f in signals_folder().rglob("*.npz")}
    first = Light()
    list(measure_range(film, 0, 160, measurers=[CHANGE, first]))
    assert first.seen  # it alone saw the film: the other's signals were there
    assert missing_ranges(film.media, 0, 160, measurers=[CHANGE, first]) == []
    second = Light(version=2)
    assert missing_ranges(film.media, 0, 160, measurers=[CHANGE, second]) == [(0, 160)]
    list(measure_range(film, 0, 160, measurers=[CHANGE, second]))
    assert {f: f.stat().st_mtime_ns for f in files} == files
    assert len(light(film, first, 0, 160)) == len(light(film, second, 0, 160)) == 160
    assert same(change(film, 0, 160), before)


def test_signals_are_what_the_pictures_say(film: OpenedFilm) -> None:
    measurer = Light()
    runs = list(measure_range(film, 0, 160, measurers=[measurer]))
    steps = np.concatenate([r.signals["light"]["step"] for r in runs])
    assert set(np.argsort(-np.abs(steps))[:3].tolist()) == {40, 75, 120}


@pytest.mark.parametrize("harm", [b"", b"PK\x03\x04 and no more"])
def test_a_damaged_piece_is_measured_again_and_no_other(film: OpenedFilm, harm: bytes) -> None:
    for low, high in ((0, 60), (60, 110), (110, 160)):
        list(measure_range(film, low, high))
    whole = change(film, 0, 160)
    files = sorted(signals_folder().rglob("*.npz"), key=lambda f: int(f.stem.split("-")[0]))
    assert len(files) > 2
    times = {f: f.stat().st_mtime_ns for f in files}
    files[1].write_bytes(harm)
    assert same(change(film, 0, 160), whole)
    changed = {f for f in files if not f.exists() or f.stat().st_mtime_ns != times[f]}
    assert changed == {files[1]}


def test_a_piece_without_one_of_its_signals_harms_no_other_measurer(film: OpenedFilm) -> None:
    measurer = Light()
    list(measure_range(film, 0, 160, measurers=[CHANGE, measurer]))
    for file in signals_folder().rglob("light-1/*.npz"):
        with np.load(file) as data:
            np.savez(file, light=data["light"])  # "step" is gone
    assert list(KeptSignals(film.media).pieces(measurer, 0, 160)) == []
    assert missing_ranges(film.media, 0, 160, measurers=[CHANGE]) == []
    assert missing_ranges(film.media, 0, 160, measurers=[measurer]) == [(0, 160)]


def test_measuring_that_was_stopped_goes_on_where_it_was(film: OpenedFilm) -> None:
    stop = threading.Event()
    runs = []
    for run in measure_range(film, 0, 160, stop=stop, measuring=OnThisThread()):
        runs.append(run)
        stop.set()
    reached = runs[-1].end
    rest = missing_ranges(film.media, 0, 160)
    assert rest in ([(reached, 160)], [])
    assert len(kept_trace(film.media, 0, 160)) == reached
    list(measure_range(film, 0, 160))
    assert missing_ranges(film.media, 0, 160) == []


def test_the_kept_trace_ends_at_the_first_gap(film: OpenedFilm) -> None:
    list(measure_range(film, 0, 40))
    list(measure_range(film, 80, 160))
    assert len(kept_trace(film.media, 0, 160)) == 40
    assert len(kept_trace(film.media, 50, 160)) == 0


def test_gaps_between_ranges() -> None:
    assert gaps_between([(10, 20), (15, 30), (50, 60)], 0, 70) == [(0, 10), (30, 50), (60, 70)]
    assert gaps_between([(0, 100)], 20, 40) == []
    assert gaps_between([], 3, 3) == []


def test_measuring_needs_no_window() -> None:
    words = (
        "import sys; from offcut.core.measure.ranges import measure_range, missing_ranges;"
        "print([m for m in sys.modules if m.startswith(('PySide6', 'shiboken6'))])"
    )
    done = subprocess.run(
        [sys.executable, "-c", words], capture_output=True, text=True, check=True, timeout=60
    )
    assert done.stdout.strip() == "[]"
