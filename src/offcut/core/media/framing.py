"""Framing: the part of the picture that is the film, found by itself and cut to exactly."""

from __future__ import annotations

import threading

import av
import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.media.filtering import Filtering
from offcut.core.media.probe import OpenedFilm
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.source import SMALLEST, WHOLE, Framing

LOOKS = 48
BLACK = 30
"""A line is black below so much luma of 255. Black is 16 in video range (ITU-R BT.709); the rest is
room for the noise of an encoder."""
LIT = 0.02
"""Of a line of the picture at least this share is lighter than black in some frame."""


def find_framing(
    film: OpenedFilm, start: int, end: int, stop: threading.Event | None = None
) -> Framing:
    """Return the framing without the black bars around the picture in frames [start, end).

    Frames spread over the range are looked at; a line belongs to a bar when it is black in all
    of them. Sides come out even, for chroma that is shared by two lines. A film that is black
    all over, or that has no bars, is whole. Frames that cannot be read are passed over.
    """
    rows: NDArray[np.float64] | None = None
    columns: NDArray[np.float64] | None = None
    with open_reader(film, Purpose.HAND_OVER) as reader:
        many = min(LOOKS, end - start)
        for frame in np.unique(np.linspace(start, end - 1, many).round().astype(int)).tolist():
            if stop is not None and stop.is_set():
                return WHOLE
            try:
                grey = np.asarray(reader.frame(frame).to_ndarray(format="gray"), np.uint8)
            except MediaError:
                continue
            lit = grey > _black(grey)
            of_rows, of_columns = lit.mean(axis=1), lit.mean(axis=0)
            rows = of_rows if rows is None else np.maximum(rows, of_rows)
            columns = of_columns if columns is None else np.maximum(columns, of_columns)
    if rows is None or columns is None:
        return WHOLE
    (top, bottom), (left, right) = _sides(rows), _sides(columns)
    wide, high = len(columns) - left - right, len(rows) - top - bottom
    return Framing(left, top, right, bottom) if min(wide, high) >= SMALLEST else WHOLE


def _black(grey: NDArray[np.uint8]) -> int:
    """Return the luma below which a picture is black; bars are never lighter than its darkest."""
    return max(BLACK, int(grey.min()) + 8) if grey.min() < BLACK else BLACK


def _sides(lit: NDArray[np.float64]) -> tuple[int, int]:
    """Return how many lines are dark all the time at both ends, even and inside the picture."""
    bright = np.flatnonzero(lit >= LIT)
    if not len(bright):
        return 0, 0
    first, last = int(bright[0]), len(lit) - 1 - int(bright[-1])
    return first + first % 2, last + last % 2


class Cut:
    """Cuts frames to a framing, their format and colours as they are."""

    def __init__(self, framing: Framing) -> None:
        self._framing = framing
        self._filtering = Filtering()

    def __call__(self, frame: av.VideoFrame) -> av.VideoFrame:
        """Return the frame cut; itself when the framing is the whole picture.

        Raises MediaError when the framing leaves nothing of it.
        """
        f = self._framing
        if not f:
            return frame
        wide, high = frame.width - f.left - f.right, frame.height - f.top - f.bottom
        if min(wide, high) < 1:
            size = f"{frame.width}x{frame.height}"
            raise MediaError(f"the framing leaves nothing of a {size} picture")
        return self._filtering(frame, (("crop", f"{wide}:{high}:{f.left}:{f.top}:0:1"),))
