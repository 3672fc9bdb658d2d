"""Likeness: which neighbour a very short shot looks more like."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray

from offcut.core.measure.change import levelled
from offcut.core.measure.small_pictures import Crop, small_picture
from offcut.core.media.reader import Reader

_FLASH = 45.0
"""Grey levels by which a flash frame is brighter than what lies on either side."""


@dataclass(frozen=True)
class Likeness:
    """Which side a sliver belongs to: -1 before, 1 after, and in plain words why."""

    side: int
    words: str


def likeness_of(reader: Reader, start: int, end: int, low: int, high: int) -> Likeness:
    """Hold the middle frame of shot [start, end) against its neighbours.

    They span [low, start) and [end, high). A flash at a camera stop stays with the shot before
    it: there the camera ran out. MediaError when nothing can be decoded.
    """
    middle = (start + end) // 2
    sides = [max(low, start - 3)] if start > low else []
    ahead = [min(high - 1, end + 2)] if end < high else []
    reformatter = VideoReformatter()
    seen = {
        f: small_picture(reader.frame(f), Crop(), reformatter)[:2]
        for f in sorted({middle, *sides, *ahead})
    }
    if not sides or not ahead:
        return Likeness(-1 if sides else 1, "its only neighbour")
    here, before, after = seen[middle], seen[sides[0]], seen[ahead[0]]
    light = [float(p[0].mean()) for p in (here, before, after)]
    if light[0] > max(light[1:]) + _FLASH:
        return Likeness(-1, "a flash, stays with the shot before")
    near = [_apart(here, other) for other in (before, after)]
    side = -1 if near[0] <= near[1] else 1
    word = "before" if side < 0 else "after"
    if abs(near[0] - near[1]) < 0.12 * max(near):
        return Likeness(side, f"like both, a little more the one {word}")
    return Likeness(side, f"looks like the one {word}")


_Small = tuple[NDArray[np.uint8], NDArray[np.uint8]]


def _apart(a: _Small, b: _Small) -> float:
    """Return how unlike two small pictures are: structure, colour and light."""
    shape = np.abs(levelled(a[0]).astype(np.float32) - levelled(b[0])).mean() / 40
    colour = np.abs(a[1].astype(np.float32) - b[1]).mean() / 12
    light = np.abs(a[0].astype(np.float32) - b[0]).mean() / 60
    return float(shape + colour + light)
