"""What of a film is to be measured, and where it is divided: by what is kept and its index alone.

A film is divided at the same keyframes whatever is asked of it and whoever measures it, on however
many cores: each part is decoded from its keyframe on, so that a damaged film too gives the same
signals everywhere.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from offcut.core.measure.kept_signals import Range, Store, gaps_between
from offcut.core.measure.measurer import Measurer
from offcut.core.media.index import FrameIndex

_SHARES = 24
LEAST_PART, PART, LONGEST = 40, 300, 2000
"""A part has about so many frames, by the length of the film, and none has more than the last; else
one decoder reads."""
_TAIL = 60
"""The last part has more frames than that."""


@dataclass(frozen=True)
class Gap:
    """Frames [start, end) that some measurers have not seen."""

    start: int
    end: int
    measurers: tuple[Measurer, ...]


def gaps_of(store: Store, measurers: Sequence[Measurer], start: int, end: int) -> list[Gap]:
    """Return what of frames [start, end) is missing in a store, in order; no two touch."""
    missing = {m.name: gaps_between(store.ranges(m, start, end), start, end) for m in measurers}
    return [
        Gap(low, high, tuple(m for m in measurers if _meet(missing[m.name], low, high)))
        for low, high in _joined([gap for gaps in missing.values() for gap in gaps])
    ]


def _meet(ranges: Sequence[Range], low: int, high: int) -> bool:
    return any(a < high and b > low for a, b in ranges)


def _joined(ranges: Sequence[Range]) -> list[Range]:
    """Return ranges put together where they touch or overlap, in order."""
    joined: list[Range] = []
    for low, high in sorted(ranges):
        if joined and low <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(joined[-1][1], high))
        else:
            joined.append((low, high))
    return joined


def bounds_of(index: FrameIndex) -> list[int]:
    """Return the frames that parts of a film begin at, in order, 0 the first.

    Of a short film parts are shorter, so that no decoder is left with most of it. A film that
    cannot be divided, or whose keyframes are too far apart, has but the one.
    """
    bounds = [0]
    if index.by_count or len(index.keys) < 2:
        return bounds
    part = max(LEAST_PART, min(PART, len(index) // _SHARES))
    for key in index.keys.tolist():
        if key - bounds[-1] >= part and key < len(index) - _TAIL:
            bounds.append(key)
    longest = max(last - first for first, last in pairwise((*bounds, len(index))))
    return bounds if longest <= LONGEST else [0]


def reading_from(index: FrameIndex, start: int, history: int) -> int:
    """Return where reading begins so that signals from ``start`` on are those of the whole film.

    ``history`` is how many frames before a frame is looked at.
    """
    early = max(0, start - history)
    bounds = bounds_of(index)
    if not history or len(bounds) == 1:
        return early
    return bounds[bisect_right(bounds, early) - 1]


def parts_between(index: FrameIndex, start: int, end: int, least: int = 0) -> list[Range]:
    """Divide frames [start, end) at the bounds of the film, into parts of ``least`` frames or more.

    The first begins at ``start`` itself, the last ends at ``end``.
    """
    cuts = [start]
    for bound in bounds_of(index):
        if bound < end and bound > start and bound - cuts[-1] >= least:
            cuts.append(bound)
    return list(pairwise((*cuts, end)))
