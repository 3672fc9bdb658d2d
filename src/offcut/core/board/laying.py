"""Laying shots out: strips hung from rails, or pictures on a sheet; where each lies, in pixels.

Everything is worked out in arrays, so that thousands of shots take milliseconds.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby, pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

HEAD, GAP, SIDE = 16, 8, 16
RAIL_ABOVE = 46
"""Room above the strips of a rail: the name of the scene, and the rail."""
BETWEEN_RAILS = 22
BETWEEN_SCENES = 30
STRIP_TOP, STRIP_FOOT, STRIP_EDGE = 17, 20, 3
SHEET_FOOT = 36
TALLEST = 7
"""So many pictures high is the longest strip."""


class SceneHeader(NamedTuple):
    """The name of a scene over its first strip on a rail: which group, and where."""

    group: int
    x: float
    y: float
    wide: float


@dataclass(frozen=True, eq=False)
class Layout:
    """Where everything lies.

    ``boxes`` is float64 of shape (n, 4): x, y, width, height of each shot, in the order they are
    read in; ``rails`` are (y, x, width) of each rail; ``high`` the whole height. ``line`` tells in
    which line each shot lies, rising.
    """

    boxes: NDArray[np.float64]
    line: NDArray[np.int64]
    tops: NDArray[np.float64]
    high: float
    rails: tuple[tuple[float, float, float], ...] = ()
    headers: tuple[SceneHeader, ...] = ()

    def shown(self, top: float, bottom: float) -> range:
        """Return which shots can be seen between two heights."""
        if not len(self.boxes):
            return range(0)
        first = max(0, int(np.searchsorted(self.tops, top, "right")) - 1)
        last = int(np.searchsorted(self.tops, bottom, "left"))
        low = int(np.searchsorted(self.line, first, "left"))
        return range(low, int(np.searchsorted(self.line, last, "left")))

    def at(self, x: float, y: float) -> int:
        """Return the shot at a place, -1 for none."""
        for n in self.shown(y, y + 1):
            left, top, wide, high = self.boxes[n]
            if left <= x < left + wide and top <= y < top + high:
                return n
        return -1

    def between(self, x: float, y: float) -> int:
        """Return before which shot something dropped at a place goes."""
        inside = self.shown(y, y + 1)
        if not inside:
            return len(self.boxes) if y > 0 else 0
        for n in inside:
            left, _top, wide, _high = self.boxes[n]
            if x < left + wide / 2:
                return n
        return inside[-1] + 1

    def inside(self, x: float, y: float, x2: float, y2: float) -> list[int]:
        """Return the shots that a frame drawn with the pointer touches."""
        left, right, top, bottom = min(x, x2), max(x, x2), min(y, y2), max(y, y2)
        rows = self.shown(top, bottom)
        some = self.boxes[rows.start : rows.stop]
        touched = (
            (some[:, 0] < right)
            & (some[:, 0] + some[:, 2] > left)
            & (some[:, 1] < bottom)
            & (some[:, 1] + some[:, 3] > top)
        )
        return [rows.start + int(i) for i in np.flatnonzero(touched)]

    def step(self, n: int, way: int) -> int:
        """Return the shot above (-1) or below (1) one, the nearest across."""
        wanted = int(self.line[n]) + way
        low, high = np.searchsorted(self.line, [wanted, wanted + 1])
        if low == high:
            return n
        middle = self.boxes[n, 0] + self.boxes[n, 2] / 2
        across = self.boxes[low:high, 0] + self.boxes[low:high, 2] / 2
        return int(low + np.abs(across - middle).argmin())


def strip_heights(
    seconds: NDArray[np.float64], picture_high: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Return how high the pictures of strips are: on a log scale, one picture up to a second."""
    pictures = 1 + 0.72 * np.log2(np.maximum(1.0, seconds))
    return np.minimum(TALLEST, pictures) * picture_high


def bin_layout(
    seconds: Sequence[float],
    groups: Sequence[int],
    shapes: Sequence[float],
    width: float,
    strip_wide: float,
) -> Layout:
    """Hang strips from rails, group after group; a group begins with its header.

    ``shapes`` are width over height of each shot's pictures; ``groups`` numbers that change where
    a new group begins.
    """
    count = len(seconds)
    if not count:
        return Layout(np.zeros((0, 4)), np.zeros(0, np.int64), np.zeros(0), 0.0)
    pictures = (strip_wide - 2 * STRIP_EDGE) / np.asarray(shapes, float)
    heights = strip_heights(np.asarray(seconds, float), pictures) + STRIP_TOP + STRIP_FOOT
    rails: list[tuple[float, float, float]] = []
    begun: list[tuple[int, float, float, float]] = []
    tops = [0.0]
    xs: list[float] = []
    ys: list[float] = []
    line: list[int] = []
    tall = heights.tolist()
    step, rail_wide = strip_wide + GAP, width - 2 * SIDE + 20
    x, y, row, row_high = float(SIDE), float(RAIL_ABOVE), 0, 0.0
    room = max(width - SIDE, SIDE + strip_wide)
    for group, run in groupby(groups):
        left = len(list(run))
        if x > SIDE:
            x += BETWEEN_SCENES
        while left:
            fit = int((room - x + GAP) // step)
            if fit <= 0 and x > SIDE:
                rails.append((y - 10, SIDE - 10, rail_wide))
                y += row_high + BETWEEN_RAILS + RAIL_ABOVE
                tops.append(y - RAIL_ABOVE)
                x, row, row_high = float(SIDE), row + 1, 0.0
                continue
            taken, n = min(left, max(1, fit)), len(xs)
            begun.append((group, x, y - RAIL_ABOVE + 6, taken * step - GAP))
            xs += [x + k * step for k in range(taken)]
            ys += [y] * taken
            line += [row] * taken
            row_high = max(row_high, max(tall[n : n + taken]))
            x += taken * step
            left -= taken
    rails.append((y - 10, SIDE - 10, rail_wide))
    boxes = np.stack([xs, ys, np.full(count, float(strip_wide)), heights], axis=1)
    return Layout(
        boxes,
        np.array(line),
        np.array(tops),
        y + row_high + BETWEEN_RAILS,
        tuple(rails),
        tuple(_headers(begun, width)),
    )


def _headers(begun: list[tuple[int, float, float, float]], width: float) -> Iterator[SceneHeader]:
    """Give each header the room up to the next one on its rail, or to the end of it."""
    ends = [after[1] - 14 if after[2] == now[2] else width - SIDE for now, after in pairwise(begun)]
    for (group, x, y, wide), end in zip(begun, [*ends, width - SIDE], strict=True):
        yield SceneHeader(group, x, y, max(wide, end - x))


def sheet_layout(shapes: Sequence[float], width: float, picture_wide: float) -> Layout:
    """Lay pictures out on a sheet, as many across as fit."""
    count = len(shapes)
    if not count:
        return Layout(np.zeros((0, 4)), np.zeros(0, np.int64), np.zeros(0), 0.0)
    across = max(1, round((width - 2 * SIDE + GAP) / (picture_wide + GAP)))
    wide = (width - 2 * SIDE + GAP) / across - GAP
    wide = min(wide, picture_wide * 1.5)
    tallest = wide / float(np.median(np.asarray(shapes, float)))
    high = tallest + SHEET_FOOT
    places = np.arange(count)
    line = places // across
    boxes = np.stack(
        [
            SIDE + (places % across) * (wide + GAP),
            SIDE + line * (high + GAP),
            np.full(count, wide),
            np.full(count, high),
        ],
        axis=1,
    )
    tops = SIDE + np.arange(line[-1] + 1) * (high + GAP)
    return Layout(boxes, line, tops, float(tops[-1] + high + SIDE))


def frames_along(start: int, end: int, count: int) -> list[int]:
    """Return frames that stand for equal parts of a shot, as many as asked."""
    length = end - start
    return [start + min(length - 1, length * (2 * k + 1) // (2 * count)) for k in range(count)]
