"""Columns: what is too dense to be drawn thing by thing, worked out a pixel column at a time."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QImage

Frames = NDArray[np.int64]
_BAR = 3


def rolls_image(
    starts: Frames, end: int, left: float, scale: float, width: int, colour: QColor
) -> QImage:
    """Return rolls A and B as an image two rows high: a column belongs to the shot at its middle.

    ``starts`` are the first frames of the shots, ``end`` the frame after the last; ``left`` the
    frame at the left edge and ``scale`` the pixels a frame.
    """
    frames = left + (np.arange(width) + 0.5) / scale
    shot = np.searchsorted(starts, frames, side="right")
    inside = (shot > 0) & (frames < end)
    rows = np.stack([inside & (shot % 2 == 1), inside & (shot % 2 == 0)])
    return masked(rows, colour)


def crowd_image(
    frames: Frames, left: float, scale: float, width: int, high: int, colour: QColor
) -> QImage:
    """Return thin bars about a middle line, each as tall as there are many of the frames in it.

    A bar is two pixels wide and a pixel from the next; the tallest are ``high`` pixels.
    """
    bars = np.floor((frames - left) * scale / _BAR).astype(np.int64)
    count = -(-width // _BAR)
    many = np.bincount(bars[(bars >= 0) & (bars < count)], minlength=count)
    tall = np.where(many > 0, 3 + (high - 3) * many / max(1, int(many.max())), 0)
    tall = np.repeat(tall, _BAR)[:width]
    tall[_BAR - 1 :: _BAR] = 0
    rows = np.abs(np.arange(high) + 0.5 - high / 2)[:, None] * 2
    return masked(rows < tall[None, :], colour)


def trace_image(tall: NDArray[np.floating[Any]], high: int, colour: QColor) -> QImage:
    """Return a filled curve: ``tall`` pixels of colour from the foot in every column."""
    rows = np.arange(high, 0, -1)[:, None] - 0.5
    return masked(rows < tall[None, :], colour)


def masked(rows: NDArray[np.bool_], colour: QColor) -> QImage:
    """Return an image of one colour where ``rows`` is true, and nothing elsewhere."""
    data = np.where(rows, np.uint32(colour.rgba()), np.uint32(0)).astype(np.uint32)
    high, wide = data.shape
    return QImage(
        data.tobytes(), wide, high, 4 * wide, QImage.Format.Format_ARGB32_Premultiplied
    ).copy()
