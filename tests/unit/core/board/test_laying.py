"""Where shots lie on the Board."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.board.laying import (
    bin_layout,
    frames_along,
    sheet_layout,
    strip_heights,
)

SECONDS = st.lists(st.floats(0.04, 4000), min_size=1, max_size=60)


@given(SECONDS, st.integers(1, 5), st.floats(200, 2000), st.floats(60, 220))
def test_strips_never_overlap_and_every_one_is_found_where_it_lies(
    seconds: list[float], each: int, width: float, strip: float
) -> None:
    groups = [n // each for n in range(len(seconds))]
    laid = bin_layout(seconds, groups, [16 / 9] * len(seconds), width, strip)
    for n, (x, y, wide, high) in enumerate(laid.boxes):
        assert laid.at(x + wide / 2, y + high / 2) == n
        assert x + wide <= max(width, strip + 32) + 1e-6
        assert y + high <= laid.high
    assert {h.group for h in laid.headers} == set(groups)
    assert len(laid.rails) == laid.line[-1] + 1
    # what is seen between two heights is all that lies there
    top, bottom = laid.high * 0.3, laid.high * 0.6
    seen = set(laid.shown(top, bottom))
    boxes = laid.boxes
    lies = np.flatnonzero((boxes[:, 1] < bottom) & (boxes[:, 1] + boxes[:, 3] > top))
    assert seen >= set(lies.tolist())


def test_a_strip_is_as_long_as_its_shot_on_a_log_scale() -> None:
    high = strip_heights(np.array([0.5, 1, 2, 4, 8]), np.full(5, 100.0))
    steps = np.diff(high)
    assert high[0] == high[1] == 100
    assert np.allclose(steps[1:], steps[1])


def test_scenes_share_a_rail_where_there_is_room() -> None:
    laid = bin_layout([2] * 7, [0, 0, 0, 1, 1, 1, 1], [1.78] * 7, 800, 88)
    assert laid.line.tolist() == [0] * 7
    assert [h.group for h in laid.headers] == [0, 1]
    narrow = bin_layout([2] * 7, [0, 0, 0, 1, 1, 1, 1], [1.78] * 7, 500, 88)
    assert narrow.line.tolist() == [0] * 4 + [1] * 3
    assert [h.group for h in narrow.headers] == [0, 1, 1]


@given(st.integers(1, 200), st.floats(200, 2000), st.floats(96, 420))
def test_a_sheet_holds_as_many_across_as_fit(count: int, width: float, picture: float) -> None:
    laid = sheet_layout([1.78] * count, width, picture)
    for n, (x, y, wide, high) in enumerate(laid.boxes):
        assert laid.at(x + wide / 2, y + high / 2) == n
    across = int((laid.line == 0).sum())
    assert across == count or across * (picture + 8) + 24 > width - picture - 8
    if count > across:
        assert laid.step(0, 1) == across
        assert laid.step(across, -1) == 0


def test_what_is_dropped_goes_before_the_shot_right_of_it() -> None:
    laid = sheet_layout([1.78] * 4, 800, 180)
    x, y, wide, _ = laid.boxes[1]
    assert laid.between(x + 3, y + 5) == 1
    assert laid.between(x + wide - 3, y + 5) == 2
    assert laid.between(790, laid.high + 50) == 4
    assert sorted(laid.inside(0, 0, x + 5, y + 5)) == [0, 1]


def test_pictures_stand_for_equal_parts_of_a_shot() -> None:
    assert frames_along(100, 200, 2) == [125, 175]
    assert frames_along(7, 8, 3) == [7, 7, 7]


def test_nothing_is_laid_out_without_a_word() -> None:
    assert len(bin_layout([], [], [], 500, 88).boxes) == 0
    assert sheet_layout([], 500, 88).at(10, 10) == -1
