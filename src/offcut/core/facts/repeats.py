"""Shots used twice: the same pictures again, also flopped, zoomed or at another speed.

Two shots of one set-up look alike; a repeat moves alike too. So pictures spread over one shot are
looked for in the other, and only where they are found again in a steady order, each at its own
moment and not just anywhere, is it the same pictures.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray

from offcut.core.facts.places import WIDE, Grey, Match, PlaceFinder, match, points_of
from offcut.core.media.pictures import rgb_of
from offcut.core.media.reader import Reader

SMALL = (96, 54)
MOST = 160
"""So many pictures of a shot are looked at."""
SAMPLES = 12
_SAME, _FLAT, _SHARE = 0.10, 0.45, 0.7
"""How unlike a picture found again may be, that against the usual one, and how many must be."""
_STEADY = 0.04
"""Where pictures lie otherwise in the frame, only one speed is believed: a camera that goes on
moving shows the like as well, but not at its own pace."""
_LEAST = 8


@dataclass(frozen=True, slots=True)
class Repeat:
    """One shot has the pictures of another.

    ``first`` and ``second`` are their places in the list that was given, the earlier one first;
    the second is ``flopped``, as much larger as ``scale``, and runs at ``speed`` of the first,
    negative backwards; 1 each where it is just the same.
    """

    first: int
    second: int
    flopped: bool
    scale: float
    speed: float

    @property
    def words(self) -> str:
        """How they are the same, in words."""
        how = []
        if self.flopped:
            how.append("flopped")
        if abs(self.scale - 1) > 0.04:
            how.append("closer" if self.scale > 1 else "wider")
        if self.speed < 0:
            how.append("backwards")
        if abs(abs(self.speed) - 1) > 0.06:
            how.append("slower" if abs(self.speed) < 1 else "faster")
        return ", ".join(how) or "the same pictures"


@dataclass(frozen=True, slots=True)
class MovingPictures:
    """MovingPictures of a shot in grey: their frames, and arrays of one size."""

    frames: NDArray[np.int64]
    greys: list[Grey]


def pictures_of(reader: Reader, start: int, end: int) -> MovingPictures:
    """Read pictures of a shot [start, end), every one of a short shot. Raises MediaError."""
    frames = np.unique(np.linspace(start, end - 1, min(MOST, end - start)).round().astype(int))
    reformatter = VideoReformatter()
    greys = []
    for frame in frames.tolist():
        picture = reader.frame(frame)
        high = max(16, round(picture.height * WIDE / picture.width))
        rgb = rgb_of(picture, WIDE, high, reformatter)
        greys.append(np.asarray(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), np.uint8))
    return MovingPictures(frames.astype(np.int64), greys)


def candidates(
    finder: PlaceFinder,
    pairs: dict[tuple[int, int], Match],
    stop: threading.Event | None = None,
) -> list[tuple[int, int, bool]]:
    """Return pairs of shots that may be repeats, each with whether the second is flopped."""
    straight = [(a, b, False) for (a, b), m in sorted(pairs.items()) if m.likeness >= 60]
    return straight + [(a, b, True) for a, b in finder.flopped_pairs(stop)]


def repeat_of(
    first: MovingPictures, second: MovingPictures, *, flopped: bool = False
) -> Repeat | None:
    """Tell whether the second shot has pictures of the first, None where it has not.

    The numbers of the shots in what is returned are 0 and 1.
    """
    if min(len(first.greys), len(second.greys)) < _LEAST:
        return None
    mine = first.greys
    theirs = [np.ascontiguousarray(g[:, ::-1]) if flopped else g for g in second.greys]
    chosen = np.unique(np.linspace(0, len(theirs) - 1, SAMPLES).round().astype(int))
    sampled = [theirs[int(k)] for k in chosen]
    best: tuple[float, float, NDArray[np.float64]] | None = None
    for tried, matrix in enumerate(_ways_to_lie(mine, sampled)):
        far = _distances(mine, sampled, matrix)
        line = _steady(far, first.frames, second.frames[chosen], moved=bool(tried))
        if line is not None and (best is None or line[1] < best[0]):
            best = line[1], line[0], matrix
    if best is None:
        return None
    _, speed, matrix = best
    # a picture shown larger in the second is shrunk to lie in the first
    scale = 1 / float(np.hypot(matrix[0, 0], matrix[1, 0]))
    return Repeat(0, 1, flopped, scale, speed)


def _ways_to_lie(mine: Sequence[Grey], theirs: Sequence[Grey]) -> list[NDArray[np.float64]]:
    """Return how pictures of one shot may lie in those of the other: as they are, or moved.

    Where the camera moves, pictures of two moments match as well; so the best few are tried.
    """
    found: list[Match] = []
    seen = [points_of(mine[int(i)]) for i in np.linspace(0, len(mine) - 1, 8)]
    for grey in theirs[1 :: max(1, len(theirs) // 5)]:
        here = points_of(grey)
        found += [m for there in seen if (m := match(there, here)) is not None and m.points]
    found.sort(key=lambda m: -m.likeness)
    matrices = [np.array([[1.0, 0, 0], [0, 1, 0]])]
    return matrices + [m.matrix for m in found[:6] if m.likeness >= 50]


def _distances(
    mine: Sequence[Grey], theirs: Sequence[Grey], matrix: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Return for each of their pictures how unlike each of mine it is, 0 to 2, by correlation."""
    high, wide = mine[0].shape
    there = cv2.warpAffine(np.full((high, wide), 255, np.uint8), matrix, (wide, high)) > 250
    small_there = cv2.resize(there.astype(np.uint8), SMALL, interpolation=cv2.INTER_AREA) > 0
    if small_there.sum() < 0.15 * small_there.size:
        return np.full((len(theirs), len(mine)), 2.0)

    def row(grey: Grey) -> NDArray[np.float64]:
        values = cv2.resize(grey, SMALL, interpolation=cv2.INTER_AREA)[small_there].astype(float)
        values -= values.mean()
        norm = float(np.linalg.norm(values))
        return np.asarray(values / norm if norm > 1e-6 else values)

    ours = np.stack([row(g) for g in mine])
    moved = (np.asarray(cv2.warpAffine(g, matrix, (wide, high)), np.uint8) for g in theirs)
    other = np.stack([row(g) for g in moved])
    return np.asarray(1 - other @ ours.T)


def _steady(
    far: NDArray[np.float64],
    frames: NDArray[np.int64],
    sampled: NDArray[np.int64],
    *,
    moved: bool,
) -> tuple[float, float] | None:
    """Return how many frames of the first pass for one of the second, and how unlike they are.

    None where pictures are not found again in a steady order.

    ``far`` has a row for each picture sampled of the second, a column for each of the first. With
    ``moved`` pictures lie otherwise in the frame.
    """
    best = far.argmin(axis=1)
    lowest = far[np.arange(len(far)), best]
    usual = np.median(far, axis=1)
    found = (lowest < _SAME) & (lowest < _FLAT * usual)
    if found.sum() < 5:
        return None
    x, y = sampled[found].astype(float), frames[best[found]].astype(float)
    step = max(1.5, float(np.diff(frames).max(initial=1)) * 1.2)
    held, slope = np.zeros(0, bool), 0.0
    for i in range(len(x)):
        for j in range(i + 1, len(x)):
            tried = (y[j] - y[i]) / (x[j] - x[i])
            if not 0.12 < abs(tried) < 8:
                continue
            on_line = np.abs(y - y[i] - tried * (x - x[i])) <= step
            if on_line.sum() > held.sum():
                held, slope = on_line, tried
    if held.sum() < max(5, _SHARE * len(x)):
        return None
    slope, begin = np.polyfit(x[held], y[held], 1)
    # those whose moment lies inside the first shot must be found there
    moments = begin + slope * sampled
    inside = (moments >= frames[0] + step) & (moments <= frames[-1] - step)
    if inside.sum() and held.sum() < _SHARE * inside.sum():
        return None
    if not 0.12 < abs(slope) < 8 or (moved and abs(abs(slope) - 1) > _STEADY):
        return None
    return float(slope), float(lowest[found][held].mean())
