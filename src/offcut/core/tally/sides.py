"""Sides: what one film brings when two are held against each other: its prints and its shots."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.prints import kept_prints
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.seam import Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Source

Floats = NDArray[np.float32]
Frames = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Side:
    """A film as it is held against another.

    Attributes: ``luma`` float32 (n, 96) the prints of frames ``start`` to ``start + n``;
    ``bounds`` int64 (k + 1,) where its shots begin and, last, where the film ends, in frames of
    the film; ``loose`` int64 (k + 1,) by how many frames each of them may lie otherwise, half
    the span of a gradual seam; ``faint`` int64 (j,) where seams may be that do not count now;
    ``rate`` frames per second.
    """

    luma: Floats
    start: int
    bounds: Frames
    loose: Frames
    faint: Frames
    rate: Fraction

    @property
    def shots(self) -> list[tuple[int, int]]:
        """The shots, as frames [start, end)."""
        return list(zip(self.bounds[:-1].tolist(), self.bounds[1:].tolist(), strict=True))

    @property
    def stretches(self) -> list[tuple[int, int]]:
        """What lies between all seams, those that do not count among them."""
        cuts = np.unique(np.concatenate([self.bounds, self.faint])).tolist()
        return list(pairwise(cuts))

    @property
    def end(self) -> int:
        """The frame after the last."""
        return self.start + len(self.luma)


def side_of(source: Source) -> tuple[Side, int]:
    """Return a film's side, and how many of its frames were not measured for it yet."""
    luma, known = kept_prints(source.media, source.start, source.end, crop_of(source))
    seams = counted_seams(source)
    bounds = np.array([source.start, *(s.frame for s in seams), source.end], np.int64)
    loose = np.array([0, *((s.end - s.start + 1) // 2 for s in seams), 0], np.int64)
    faint = sorted(
        {s.frame for s in source.seams if s.standing is not Standing.STRUCK}
        - set(bounds.tolist())
    )  # fmt: skip
    inside = [f for f in faint if source.start < f < source.end]
    side = Side(luma, source.start, bounds, loose, np.array(inside, np.int64), source.media.rate)
    return side, int((~known).sum())
