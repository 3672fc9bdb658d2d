"""Ground: what of a picture is one plain tone, what stands on it, and what moves at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measurer import Arrays
from offcut.core.measure.small_pictures import HEIGHT, WIDTH, Crop, SmallPictures
from offcut.core.model.source import Media

FIGURES = ("moves", "moves_most", "plain", "tone", "strokes", "stripes", "bands", "tint")
_NEAR_TONE = 6
_STROKE = 40
_UPPER = HEIGHT * 6 // 10
_EVEN = 4.0
_STRIPED = 0.6
"""Bands are counted where so many columns stay the same."""


class Ground:
    """The measurer of grounds.

    Its one signal is ``ground`` float16 (n, 8), by `FIGURES`: the mean and the 98th of 100 pixels
    of what differs from the picture before, in grey levels; the share of the picture that is one
    tone, and that tone; the share of strong edges; the share of columns that stay the same over the
    upper six tenths, how many plain bands lie side by side there, and how far those are from grey.
    """

    name = "ground"
    version = 1
    arrays = ("ground",)
    bytes_a_frame = 2 * len(FIGURES)
    history = 1
    look = None

    def prepare(self, run: SmallPictures) -> tuple[SmallPictures, NDArray[np.float32]]:
        """Return the run, and the figures of each picture alone."""
        return run, _alone(run.luma, run.chroma)

    def compare(
        self,
        before: Sequence[tuple[SmallPictures, Any]],
        now: tuple[SmallPictures, NDArray[np.float32]],
    ) -> Arrays:
        """Return the signals of a run; at the film's head a frame is held against itself."""
        run, made = now
        made = made.copy()
        last = before[-1][0].luma[-1] if before else run.luma[0]
        then = np.concatenate([last[None], run.luma[:-1]])
        apart = cv2.absdiff(run.luma.reshape(-1, WIDTH), then.reshape(-1, WIDTH))
        apart = apart.reshape(len(run), -1)
        made[:, 0] = apart.mean(axis=1)
        made[:, 1] = np.partition(apart, apart.shape[1] * 98 // 100, axis=1)[
            :, apart.shape[1] * 98 // 100
        ]
        return {"ground": made.astype(np.float16)}


def _alone(luma: NDArray[np.uint8], chroma: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Return what each picture of a run says by itself, (n, 8): the first two are left 0."""
    n, pixels = len(luma), luma[0].size
    made = np.zeros((n, len(FIGURES)), np.float32)
    flat = luma.reshape(n, pixels).astype(np.int32) + 256 * np.arange(n, dtype=np.int32)[:, None]
    counts = np.bincount(flat.ravel(), minlength=256 * n).reshape(n, 256)
    sums = np.zeros((n, 257 + 2 * _NEAR_TONE), np.int64)
    sums[:, _NEAR_TONE + 1 : _NEAR_TONE + 257] = np.cumsum(counts, axis=1)
    sums[:, _NEAR_TONE + 257 :] = pixels
    near = sums[:, 2 * _NEAR_TONE + 1 :] - sums[:, : -2 * _NEAR_TONE - 1]
    made[:, 3] = near.argmax(axis=1)
    made[:, 2] = near.max(axis=1) / pixels
    across = cv2.absdiff(
        np.ascontiguousarray(luma[:, :, 1:]).reshape(n, -1),
        np.ascontiguousarray(luma[:, :, :-1]).reshape(n, -1),
    )
    made[:, 4] = (across > _STROKE).mean(axis=1)
    upper = luma[:, 3:_UPPER].astype(np.float32)
    means = upper.mean(axis=1)
    even = (upper * upper).mean(axis=1) - means * means < _EVEN**2
    made[:, 5] = even.mean(axis=1)
    tint = np.abs(chroma[:, :, 2 : _UPPER // 2].mean(axis=2, dtype=np.float32) - 128)
    made[:, 7] = tint.max(axis=1).mean(axis=1)
    for i in np.flatnonzero(made[:, 5] > _STRIPED):
        made[i, 6] = _bands(means[i], even[i])
    return made


def _bands(columns: NDArray[np.float32], even: NDArray[np.bool_]) -> int:
    """Return how many plain bands lie side by side, each three columns wide or more."""
    bands, at = 0, 0
    while at < len(columns):
        end = at + 1
        while end < len(columns) and abs(float(columns[end] - columns[at])) < _EVEN:
            end += 1
        if end - at >= 3 and even[at:end].mean() > 0.8:
            bands += 1
        at = end
    return bands


@dataclass(frozen=True, eq=False)
class Grounds:
    """What is kept of the grounds of frames: ``rows`` float32 (n, 8) and which are ``known``."""

    rows: NDArray[np.float32]
    known: NDArray[np.bool_]

    def of(self, figure: str) -> NDArray[np.float32]:
        """Return one of `FIGURES` for each frame, float32 (n,)."""
        return self.rows[:, FIGURES.index(figure)]


def kept_ground(media: Media, start: int, end: int, crop: Crop | None = None) -> Grounds:
    """Return the grounds of frames [start, end)."""
    rows = np.zeros((end - start, len(FIGURES)), np.float32)
    known = np.zeros(end - start, np.bool_)
    for low, high, arrays in KeptSignals(media, crop).pieces(Ground(), start, end):
        if arrays["ground"].shape[1:] == (len(FIGURES),):
            rows[low - start : high - start] = arrays["ground"]
            known[low - start : high - start] = True
    return Grounds(rows, known)
