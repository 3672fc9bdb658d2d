"""Tones: the light and colours of each frame as one column of a few cells, top to bottom."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measurer import Arrays
from offcut.core.measure.small_pictures import Crop, SmallPictures
from offcut.core.media.pictures import to_bgr
from offcut.core.model.source import Media

CELLS = 10
_HD = 720


class Tones:
    """The measurer of light and colours.

    Its one signal is ``tones`` uint8 (n, 10, 3): luma and both chromas of ten strips of the
    picture as they are coded, each strip's mean, from the top down.
    """

    name = "tones"
    version = 2
    arrays = ("tones",)
    bytes_a_frame = 3 * CELLS
    history = 0
    look = None

    def prepare(self, run: SmallPictures) -> NDArray[np.uint8]:
        """Return the tones of a run."""
        n = len(run)
        tones = np.empty((n, CELLS, 3), np.uint8)
        luma = run.luma.reshape(n * CELLS, -1)
        tones[..., 0] = _means(luma).reshape(n, CELLS)
        chroma = run.chroma.reshape(n * 2 * CELLS, -1)
        tones[..., 1:] = _means(chroma).reshape(n, 2, CELLS).transpose(0, 2, 1)
        return tones

    def compare(self, before: Sequence[Any], now: NDArray[np.uint8]) -> Arrays:
        """Return the signals of a run."""
        return {"tones": now}


def _means(rows: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return the mean of each row, rounded."""
    means = cv2.reduce(rows, 1, cv2.REDUCE_AVG, dtype=cv2.CV_32F)
    return np.asarray(means[:, 0] + 0.5, np.uint8)


def kept_tones(
    media: Media, start: int, end: int, crop: Crop | None = None
) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    """Return the tones of frames [start, end), uint8 (n, 10, 3), and for which they are known."""
    tones = np.zeros((end - start, CELLS, 3), np.uint8)
    known = np.zeros(end - start, np.bool_)
    for low, high, arrays in KeptSignals(media, crop).pieces(Tones(), start, end):
        part = arrays["tones"]
        if part.shape[1:] == (CELLS, 3):
            tones[low - start : high - start] = part
            known[low - start : high - start] = True
    return tones, known


def colours_of(tones: NDArray[Any], media: Media) -> NDArray[np.uint8]:
    """Return tones as RGB, uint8 of the same shape; by ITU-R BT.709, of small films by BT.601."""
    matrix = to_bgr(media.height >= _HD, False)
    rgb = tones.astype(np.float32) @ matrix[:, :3].T + matrix[:, 3]
    return np.asarray(np.clip(np.round(rgb[..., ::-1]), 0, 255), np.uint8)


def light_of(tones: NDArray[Any]) -> NDArray[np.float32]:
    """Return the light of frames, float32 (n,), 0 black to 100 white, from their tones."""
    luma = tones[..., 0].astype(np.float32).mean(axis=-1)
    return np.asarray(np.clip((luma - 16) / 219, 0, 1) * 100, np.float32)
