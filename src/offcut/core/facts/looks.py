"""How a shot looks: a few small pictures of it, boiled down to light, layout and colours."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.model.shots import Shot

Picture = NDArray[np.uint8]
"""A small picture, RGB, shape (height, width, 3)."""
PICTURES = 3
"""So many pictures of a shot are looked at."""
WIDE = 160
LAYOUT = (16, 9)
_FAR_LAYOUT, _FAR_COLOURS = 0.30, 0.9
"""How far apart two shots are that have nothing in common, by layout and by colours."""


@dataclass(frozen=True, eq=False)
class Look:
    """How one shot looks.

    Attributes: ``frames`` those that were looked at; ``light`` mean luma, 0 to 100; ``layouts``
    float32 of shape (n, 9, 16, 3), each picture in Lab at 16 by 9, its light evened; ``colours``
    float32 of shape (n, 64), the share of each of 64 colours.
    """

    frames: tuple[int, ...]
    light: float
    layouts: NDArray[np.float32]
    colours: NDArray[np.float32]


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


def look_of(frames: tuple[int, ...], pictures: list[Picture]) -> Look:
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
        colours.append(np.sqrt(share).astype(np.float32))
    return Look(frames, float(np.mean(lights)), np.stack(layouts), np.stack(colours))


def likeness_to(look: Look, others: list[Look]) -> NDArray[np.float64]:
    """Return how alike shots look to one, 0 to 100, by layout and colours of their pictures.

    Colours are compared by the Hellinger distance of their histograms.
    """
    return 100 * (1 - np.minimum(1.0, apart(look, others)))


def apart(look: Look, others: list[Look], *, flopped: bool = False) -> NDArray[np.float64]:
    """Return how far apart shots are from one: 0 the same, 1 nothing in common."""
    if not others:
        return np.zeros(0)
    layouts = np.concatenate([o.layouts for o in others])
    colours = np.concatenate([o.colours for o in others])
    ends = np.cumsum([len(o.layouts) for o in others])
    mine = look.layouts[:, :, ::-1] if flopped else look.layouts
    best = np.full(len(layouts), np.inf)
    for layout, colour in zip(mine, look.colours, strict=True):
        by_layout = np.abs(layouts - layout).mean(axis=(1, 2, 3)) / _FAR_LAYOUT
        by_colour = np.linalg.norm(colours - colour, axis=1) / _FAR_COLOURS
        best = np.minimum(best, 0.65 * by_layout + 0.35 * by_colour)
    return np.minimum.reduceat(best, [0, *ends[:-1]])
