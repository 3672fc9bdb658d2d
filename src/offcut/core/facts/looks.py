"""How a shot looks: a few small pictures of it, boiled down to light, layout and colours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.model.shots import Shot

Picture = NDArray[np.uint8]
"""A small picture, RGB, shape (height, width, 3)."""
PICTURES = 3
"""So many pictures of a shot are looked at."""
WIDE = 160
LAYOUT, COARSE = (16, 9), (8, 5)
_FAR_LAYOUT, _FAR_COLOURS = 0.30, 0.9
"""How far apart two shots are that have nothing in common, by layout and by colours."""


@dataclass(frozen=True, eq=False)
class ShotLook:
    """How one shot looks.

    Attributes: ``frames`` those that were looked at; ``light`` mean luma, 0 to 100; ``layouts``
    float16 of shape (n, 9, 16, 3), each picture in Lab at 16 by 9, its light evened; ``colours``
    float16 of shape (n, 64), the root of the share of each of 64 colours.
    """

    frames: tuple[int, ...]
    light: float
    layouts: NDArray[np.float16]
    colours: NDArray[np.float16]


def frames_to_look_at(shot: Shot, end: int, step: int) -> tuple[int, ...]:
    """Return the frames of a shot that tell how it looks, rising; ``end`` is its last clean one's.

    Early, middle and late; each the nearest multiple of ``step``, whose pictures measuring keeps,
    where that lies in the shot and not far off. Frames that a gradual seam mixes are left out.
    """
    first = min(max(shot.start, shot.opened_by.end if shot.opened_by else 0), shot.end - 1)
    last = max(first + 1, min(end, shot.end))
    length = last - first
    chosen = []
    for k in (1, PICTURES, 2 * PICTURES - 1):
        frame = first + length * k // (2 * PICTURES)
        near = round(frame / step) * step
        good = first <= near < last and abs(near - frame) <= max(4, length // 5)
        chosen.append(near if good else frame)
    return tuple(sorted(set(chosen)))


def look_of(frames: tuple[int, ...], pictures: list[Picture]) -> ShotLook:
    """Return how a shot looks by pictures of it, at least one."""
    layouts, colours, lights = [], [], []
    for picture in pictures:
        lab = cv2.cvtColor(np.ascontiguousarray(picture), cv2.COLOR_RGB2LAB)
        small = cv2.resize(lab, LAYOUT, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
        lights.append(float(small[..., 0].mean()) * 100)
        light = small[..., 0]
        spread = max(0.04, float(light.std()))
        small[..., 0] = np.clip((light - light.mean()) / spread * 0.2, -0.6, 0.6)
        small[..., 1:] = (small[..., 1:] - 0.5) * 1.5
        layouts.append(small)
        histogram = cv2.calcHist([lab], [0, 1, 2], None, [4, 4, 4], [0, 256, 64, 192, 64, 192])
        share = histogram.ravel() / max(1.0, float(histogram.sum()))
        colours.append(np.sqrt(share))
    return ShotLook(
        frames,
        float(np.mean(lights)),
        np.stack(layouts).astype(np.float16),
        np.stack(colours).astype(np.float16),
    )


class LookIndex:
    """Many looks side by side, to tell at once how far all are from one.

    Layouts are compared coarsely, at 8 by 5; colours by the Hellinger distance of histograms.
    """

    def __init__(self, looks: Sequence[ShotLook]) -> None:
        self._begins = np.cumsum([0, *(len(x.layouts) for x in looks)])
        count = int(self._begins[-1])
        self._layouts = np.zeros((count, COARSE[1] * COARSE[0] * 3), np.float32)
        self._flopped = np.zeros_like(self._layouts)
        self._colours = np.zeros((count, 64), np.float32)
        for look, at in zip(looks, self._begins[:-1].tolist(), strict=True):
            for k, (layout, colours) in enumerate(zip(look.layouts, look.colours, strict=True)):
                small = cv2.resize(layout.astype(np.float32), COARSE, interpolation=cv2.INTER_AREA)
                self._layouts[at + k] = small.ravel()
                self._flopped[at + k] = small[:, ::-1].ravel()
                self._colours[at + k] = colours

    def far(self, n: int, begin: int = 0, *, flopped: bool = False) -> NDArray[np.float64]:
        """Return how far looks from ``begin`` on are from look ``n``: 0 the same, 1 not alike.

        With ``flopped`` look ``n`` is turned left for right first.
        """
        first = int(self._begins[begin])
        best = np.full(len(self._layouts) - first, np.inf)
        for k in range(int(self._begins[n]), int(self._begins[n + 1])):
            mine = (self._flopped if flopped else self._layouts)[k]
            by_layout = np.abs(self._layouts[first:] - mine).mean(axis=1) / _FAR_LAYOUT
            by_colour = np.sqrt(
                np.maximum(0.0, 2 - 2 * (self._colours[first:] @ self._colours[k]))
            ) / _FAR_COLOURS  # fmt: skip
            best = np.minimum(best, 0.65 * by_layout + 0.35 * by_colour)
        begins = self._begins[begin:-1] - first
        return np.minimum.reduceat(best, begins) if len(begins) else np.zeros(0)

    def colours_far(self, n: int, begin: int) -> NDArray[np.float64]:
        """Return how far the colours of looks from ``begin`` on are from those of look ``n``."""
        means = self._means
        return np.asarray(np.abs(means[begin:] - means[n]).sum(axis=1))

    @cached_property
    def _means(self) -> NDArray[np.float32]:
        sums = np.add.reduceat(self._colours, self._begins[:-1])
        return np.asarray(sums / np.diff(self._begins)[:, None], np.float32)


def likeness_to(look: ShotLook, others: Sequence[ShotLook]) -> NDArray[np.float64]:
    """Return how alike shots look to one, 0 to 100, by layout and colours of their pictures."""
    index = LookIndex([look, *others])
    return 100 * (1 - np.minimum(1.0, index.far(0, 1)))
