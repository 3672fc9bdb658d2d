"""Prints: each frame as a few cells of luma, by which it is known again in another version.

A print is 12 by 8 means, kept with the contrast of the frame itself, so that a dark or a
logarithmic picture is kept as finely as any other: one frame is told from the next by
small differences that many cells share.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measurer import Arrays
from offcut.core.measure.small_pictures import HEIGHT, WIDTH, Crop, SmallPictures
from offcut.core.model.source import Media

ACROSS, DOWN = 12, 8
CELLS = ACROSS * DOWN
_MOST = 127


def _thirds() -> NDArray[np.float32]:
    """Return how many thirds of each of 64 columns lie in each of 12 cells, (64, 12)."""
    shares = np.zeros((WIDTH, ACROSS), np.float32)
    thirds = np.arange(3 * WIDTH)
    np.add.at(shares, (thirds // 3, thirds * ACROSS // (3 * WIDTH)), 1)
    return shares


_THIRDS = _thirds()
_ROWS = HEIGHT // DOWN


class Prints:
    """The measurer of prints.

    Its signals are ``cells`` int8 (n, 96), row by row from the top left, and ``levels`` float16
    (n, 2): luma of a cell, 0 to 255 as it is coded, is ``levels[0] + cells * levels[1]``.
    """

    name = "prints"
    version = 2
    arrays = ("cells", "levels")
    bytes_a_frame = CELLS + 4
    history = 0
    look = None

    def prepare(self, run: SmallPictures) -> Arrays:
        """Return the prints of a run."""
        n = len(run)
        rows = run.luma.reshape(n, DOWN, _ROWS, WIDTH).astype(np.float32).sum(axis=2)
        # whole numbers below 2**24 all the way, so that how they are added up does not matter
        sums = (rows.reshape(-1, WIDTH) @ _THIRDS).reshape(n, CELLS)
        luma = sums / (_ROWS * WIDTH * 3 / ACROSS)
        low, high = luma.min(axis=1), luma.max(axis=1)
        levels = np.stack([(low + high) / 2, (high - low) / (2 * _MOST)], axis=1)
        levels = levels.astype(np.float16)
        levels[:, 1] = np.maximum(levels[:, 1], np.float16(1e-3))
        kept = levels.astype(np.float32)
        cells = np.round((luma - kept[:, :1]) / kept[:, 1:])
        return {"cells": np.clip(cells, -_MOST, _MOST).astype(np.int8), "levels": levels}

    def compare(self, before: Sequence[Any], now: Arrays) -> Arrays:
        """Return the signals of a run."""
        return now


FINE_ACROSS, FINE_DOWN = 32, 20
FINE_CELLS = FINE_ACROSS * FINE_DOWN


class FinePrints:
    """The measurer of fine prints, 32 by 20: what tells takes of one set-up apart, and where a film
    shows only a part of its original. Made where originals are looked for, and nowhere else.

    Its one signal is ``fine`` uint8 (n, 640), luma as it is coded, row by row from the top left.
    """

    name = "fine-prints"
    version = 2
    arrays = ("fine",)
    bytes_a_frame = FINE_CELLS
    history = 0
    look = None

    def prepare(self, run: SmallPictures) -> Arrays:
        """Return the fine prints of a run."""
        blocks = run.luma.reshape(len(run), FINE_DOWN, HEIGHT // FINE_DOWN, FINE_ACROSS, -1)
        means = blocks.astype(np.uint16).sum(axis=(2, 4), dtype=np.uint16)
        return {"fine": ((means + 2) >> 2).astype(np.uint8).reshape(len(run), FINE_CELLS)}

    def compare(self, before: Sequence[Any], now: Arrays) -> Arrays:
        """Return the signals of a run."""
        return now


def luma_of(cells: NDArray[np.int8], levels: NDArray[np.float16]) -> NDArray[np.float32]:
    """Return prints as luma, float32 (n, 96), 0 to 255 as it is coded."""
    scale = levels.astype(np.float32)
    return cells.astype(np.float32) * scale[:, 1:] + scale[:, :1]


def kept_fine_prints(
    media: Media, start: int, end: int, crop: Crop | None = None
) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    """Return the fine prints of frames [start, end), uint8 (n, 640), and which are known."""
    fine = np.zeros((end - start, FINE_CELLS), np.uint8)
    known = np.zeros(end - start, np.bool_)
    for low, high, arrays in KeptSignals(media, crop).pieces(FinePrints(), start, end):
        part = arrays["fine"]
        if part.shape[1:] == (FINE_CELLS,):
            fine[low - start : high - start] = part
            known[low - start : high - start] = True
    return fine, known


def kept_prints(
    media: Media, start: int, end: int, crop: Crop | None = None
) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Return the prints of frames [start, end) as luma, float32 (n, 96), and which are known."""
    luma = np.zeros((end - start, CELLS), np.float32)
    known = np.zeros(end - start, np.bool_)
    for low, high, arrays in KeptSignals(media, crop).pieces(Prints(), start, end):
        cells, levels = arrays["cells"], arrays["levels"]
        if cells.shape[1:] == (CELLS,) and levels.shape[1:] == (2,):
            luma[low - start : high - start] = luma_of(cells, levels)
            known[low - start : high - start] = True
    return luma, known
