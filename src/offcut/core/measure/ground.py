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
        made = np.zeros((len(run), len(FIGURES)), np.float32)
        for i in range(len(run)):
            made[i, 2:] = _alone(run.luma[i], run.chroma[i])
        return run, made

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
    """Return what one picture says: from ``plain`` on."""
    counts = np.bincount(luma.ravel(), minlength=256)
    sums = np.convolve(counts, np.ones(2 * _NEAR_TONE + 1), mode="same")
    tone = int(sums.argmax())
    across = cv2.absdiff(luma[:, 1:], luma[:, :-1])
    strokes = float((across > _STROKE).mean())
    upper = luma[3:_UPPER].astype(np.float32)
    even = upper.std(axis=0) < _EVEN
    colour = np.abs(chroma[:, 2 : _UPPER // 2].astype(np.float32).mean(axis=1) - 128).max(axis=0)
    return np.array(
        [
            float(sums[tone]) / luma.size,
            float(tone),
            strokes,
            float(even.mean()),
            float(_bands(upper.mean(axis=0), even)),
            float(colour.mean()),
        ],
        np.float32,
    )


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
