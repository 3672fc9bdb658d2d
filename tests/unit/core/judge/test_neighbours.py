"""Neighbours: cuts seen among those about them, so that shots of a frame stand beside others."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from films import encode, scene
from offcut.core.errands.seams import find_seams
from offcut.core.judge.judge import _alone
from offcut.core.judge.neighbours import NOWHERE, with_neighbours
from offcut.core.judge.trees import trees_named
from offcut.core.media.probe import open_source


def told(odds: dict[int, float], of: int) -> dict[str, float]:
    """What is known of the neighbours of one thinkable cut, by name."""
    places = np.array(sorted(odds))
    line = np.array([odds[p] for p in places.tolist()], np.float32)
    figures = np.zeros((len(places), 1), np.float32)
    at = np.flatnonzero(places == of)
    found, names = with_neighbours(figures, ("step",), places, line, at)
    return dict(zip(names, found[0].tolist(), strict=True))


def test_neighbours_are_told_by_where_they_lie_and_how_likely_they_are() -> None:
    one = told({100: 2.0, 101: 5.0, 108: -3.0, 140: 1.0, 200: 4.0}, of=101)
    assert (one["first_look"], one["look_-1"], one["look_1"]) == (5.0, 2.0, NOWHERE)
    assert (one["look_5_12"], one["look_13_40"], one["look_-40_-13"]) == (-3.0, 1.0, NOWHERE)
    assert one["look_above"] == 3.0
    assert one["likely_near"] == 2.0


def test_a_cut_in_the_first_frames_has_nothing_before_it() -> None:
    one = told({1: 6.0, 3: -20.0}, of=1)
    assert all(one[f"look_{k}"] == NOWHERE for k in (-4, -3, -2, -1, 1, 2))


def test_the_second_look_is_asked_with_the_figures_it_was_trained_on() -> None:
    figures = np.zeros((1, len(trees_named("cut").names)), np.float32)
    one = np.array([50])
    _, names = with_neighbours(
        figures, trees_named("cut").names, one, np.zeros(1, np.float32), np.array([0])
    )
    assert names == trees_named("near").names


def test_of_two_places_that_may_be_one_cut_the_likelier_stands_for_both() -> None:
    places = np.array([40, 41, 80, 81, 120])
    chances = np.array([0.30, 0.45, 0.97, 0.92, 0.30], np.float32)
    alone = _alone(places, chances)
    assert alone[1] == pytest.approx(0.75)
    assert alone[0] == pytest.approx(0.03)
    assert alone[2:].tolist() == pytest.approx([0.97, 0.92, 0.30])  # each is a cut of its own


@pytest.mark.parametrize(("frames", "films", "least"), [(1, 6, 5), (2, 3, 3), (3, 2, 2)])
def test_a_shot_of_a_frame_or_three_has_a_cut_on_either_side(
    tmp_path: Path, frames: int, films: int, least: int
) -> None:
    right = 0
    for n in range(films):
        seeds = (100 + 3 * n, 101 + 3 * n, 102 + 3 * n)
        pictures = [p for s, m in zip(seeds, (40, frames, 40), strict=True) for p in scene(s, m)]
        seams = find_seams(open_source(encode(tmp_path / f"{n}.mp4", pictures))).seams
        right += [s.frame for s in seams if s.score >= 50] == [40, 40 + frames]
    assert right >= least
