"""Small pictures: each frame as a few hundred numbers, read off the planes as they lie.

A few rows of each plane are enough: they are picked with even spacing from one field, so that
combing cannot look like change, and averaged along the row. Of interlaced pictures it is the later
field: a frame then shows the new shot where any of it does.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import chain
from typing import Any, NamedTuple

import av
import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.measure.seen_curve import curve_of
from offcut.core.media.bands import BLOCK, Bands, bands_with, rows_apart
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.planes import Plane, planes_of
from offcut.core.media.reader import Reader
from offcut.core.model.source import Source
from offcut.core.model.ticket import Fields

WIDTH, HEIGHT = 64, 40
CHROMA_WIDTH, CHROMA_HEIGHT = 32, 20
_ROWS_PER_ROW = 4

RUN = 256
"""Frames in a run."""

cv2.setNumThreads(1)


@dataclass(frozen=True)
class SmallPictures:
    """A run of small pictures, all uint8.

    Attributes: ``start`` frame of the first; ``luma`` (n, 40, 64); ``chroma`` (n, 2, 20, 32);
    ``held`` bool (n,), True where the picture could not be decoded and the one before stands in;
    ``first`` (n, 40, 64) luma of the earlier field, empty (0, 40, 64) where there are no fields;
    ``looked`` by a measurer's name what it saw of each whole picture, (n, ...).
    """

    start: int
    luma: NDArray[np.uint8]
    chroma: NDArray[np.uint8]
    held: NDArray[np.bool_]
    first: NDArray[np.uint8]
    looked: Mapping[str, NDArray[Any]] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.luma)


@dataclass(frozen=True)
class Crop:
    """The part of the picture to look at, as fractions of width and height from the top left.

    ``first`` is "top" or "bottom", the field that comes first where pictures are interlaced.
    """

    left: float = 0.0
    top: float = 0.0
    right: float = 1.0
    bottom: float = 1.0
    first: str = ""

    @property
    def parity(self) -> int | None:
        """Whether even (0) or odd (1) lines are looked at, the later field; None for any."""
        return {"top": 1, "bottom": 0}.get(self.first)


Look = Callable[[av.VideoFrame, Crop], NDArray[Any]]
"""What a measurer sees of a whole picture: an array of one shape for all."""


def crop_of(source: Source) -> Crop:
    """Return the part of a film's pictures that its framing leaves, and its fields."""
    framing, wide, high = source.framing, source.media.width, source.media.height
    set_to = source.ticket.fields
    own = set_to is Fields.AS_FILE
    return Crop(
        framing.left / wide,
        framing.top / high,
        1 - framing.right / wide,
        1 - framing.bottom / high,
        source.media.fields if own else "" if set_to is Fields.NONE else set_to.value,
    )


@dataclass(frozen=True)
class Banded:
    """What is looked at of pictures whose rows of blocks lie apart: four lines of one row each.

    Attributes: ``bands`` the rows needed; ``lines`` int64 (40, 4), even ones, of the whole picture.
    """

    bands: Bands
    lines: NDArray[np.int64]

    def rows(self, plane: Plane, frame: av.VideoFrame, height: int) -> NDArray[np.int64]:
        """Return the rows of a plane, of a frame that is whole or not, for a small one."""
        lines = self.lines
        if height < HEIGHT:  # of two rows of luma the middle lines each
            lines = lines[:, 1:3]
        if frame.height == self.bands.lines:
            lines = self.bands.places(lines)
        found: NDArray[np.int64] = lines.ravel() * len(plane) // frame.height
        return found


_WORTH = 0.8
"""Where more of a picture than that is needed it is decoded whole."""


def banded(film: OpenedFilm, crop: Crop) -> Banded | None:
    """Return what is looked at of a film's pictures where their rows of blocks lie apart.

    None where they do not, or where nothing would be won. The same lines are looked at when the
    pictures are decoded whole for another reason: so it makes no difference to what is measured.
    """
    media = film.media
    if media.rotation or crop.parity is not None or not rows_apart(media.codec):
        return None
    top, bottom = stretch(media.height, crop.top, crop.bottom)
    edges = top + np.arange(HEIGHT + 1) * (bottom - top) // HEIGHT
    row = (edges[:-1] + edges[1:]) // (2 * BLOCK)
    low = np.maximum(edges[:-1], BLOCK * row)
    high = np.minimum(np.maximum(edges[1:], low + 1), BLOCK * (row + 1))
    within = (np.arange(_ROWS_PER_ROW) * 2 + 1) * (high - low)[:, None]
    lines = (low[:, None] + within // (2 * _ROWS_PER_ROW)) & ~1
    bands = bands_with(media.height, lines)
    return Banded(bands, lines) if bands.share <= _WORTH else None


def stretch(size: int, low: float, high: float) -> tuple[int, int]:
    first = int(low * size)
    return first, max(first + 2, int(high * size))


def rows_of(high: int, height: int, crop: Crop, parity: int | None) -> NDArray[np.int64]:
    """Return a few rows of a plane, of one parity or any, for each of ``height``."""
    top, bottom = stretch(high, crop.top, crop.bottom)
    wanted = height * _ROWS_PER_ROW
    rows = top + (np.arange(wanted) * 2 + 1) * (bottom - top) // (2 * wanted)
    if parity is not None:
        rows = np.minimum((rows & ~1) + parity, high - 1)
    elif bottom - top >= 4 * wanted:
        rows &= ~1
    return np.minimum(rows, high - 1)  # of pictures a line or two high


def shrunk(
    plane: Plane, rows: NDArray[np.int64], width: int, height: int, crop: Crop, shift: int
) -> NDArray[np.uint8]:
    """Average rows of a plane down to (height, width), uint8."""
    left, right = stretch(plane.shape[1], crop.left, crop.right)
    step = (right - left) // width
    if step >= 8:
        left += (right - left - step * width) // 2
        right = left + step * width
    picked = plane[rows, left:right]
    while step >= 8 and len(picked) > height:  # four pixels to one: what processors do quickest
        half = (picked.shape[1] // 2, len(picked) // 2)
        picked = cv2.resize(picked, half, interpolation=cv2.INTER_AREA)
    small = cv2.resize(picked, (width, height), interpolation=cv2.INTER_AREA)
    return np.asarray(np.right_shift(np.asarray(small, plane.dtype), shift), np.uint8)


def small_picture(
    frame: av.VideoFrame, crop: Crop, reformatter: VideoReformatter, banded: Banded | None = None
) -> tuple[NDArray[np.uint8], NDArray[np.uint8], NDArray[np.uint8] | None]:
    """Return a frame's small luma (40, 64) and chroma (2, 20, 32), and the earlier field's luma.

    ``banded`` says what is looked at where rows of blocks lie apart, the frame whole or not.
    """
    if banded is not None and frame.height not in (banded.bands.height, banded.bands.lines):
        banded = None  # a picture of another size among the others
    planes = planes_of(frame)
    if planes is None:
        high = 4 * HEIGHT if banded is None else frame.height
        frame = reformatter.reformat(
            frame, 4 * WIDTH, high, format="yuv444p", interpolation=Interpolation.AREA
        )
        planes = planes_of(frame)
        assert planes is not None
    (light, *pair), shift = planes
    parity, curve = crop.parity, curve_of(frame)

    def small(plane: Plane, width: int, height: int, parity: int | None) -> NDArray[np.uint8]:
        if banded is not None:
            rows = banded.rows(plane, frame, height)
        else:
            rows = rows_of(len(plane), height, crop, parity)
        return shrunk(plane, rows, width, height, crop, shift)

    luma = small(light, WIDTH, HEIGHT, parity)
    chroma = np.stack([small(p, CHROMA_WIDTH, CHROMA_HEIGHT, parity) for p in pair])
    first = None if parity is None else small(light, WIDTH, HEIGHT, 1 - parity)
    if curve is not None:
        luma = curve[luma]
        first = None if first is None else curve[first]
    return luma, chroma, first


def runs_of(
    reader: Reader,
    start: int,
    end: int,
    crop: Crop,
    *,
    stop: threading.Event,
    piece: int = RUN,
    looks: Mapping[str, Look] | None = None,
    banded: Banded | None = None,
    seen: Sequence[Callable[[int, av.VideoFrame, NDArray[np.uint8]], None]] = (),
) -> Iterator[SmallPictures]:
    """Yield the small pictures of frames [start, end) in order, in runs of up to ``piece``.

    ``looks`` are what measurers want to see of every whole picture; ``banded`` as in
    `small_picture`; ``seen`` are shown each on the way. Stops early once ``stop`` is set.
    """
    looks = looks or {}
    rows: list[_Row] = []
    at = start
    last: _Row | None = None
    reformatter = VideoReformatter()

    def taken() -> SmallPictures:
        run = SmallPictures(
            at - len(rows),
            np.stack([r.luma for r in rows]),
            np.stack([r.chroma for r in rows]),
            np.array([r.held for r in rows], np.bool_),
            np.stack([r.first for r in rows if r.first is not None] or [_NO_FIELD])[
                : len(rows) if rows[0].first is not None else 0
            ],
            {name: np.stack([r.looked[name] for r in rows]) for name in looks},
        )
        rows.clear()
        return run

    def row_of(frame: av.VideoFrame) -> _Row:
        luma, chroma, first = small_picture(frame, crop, reformatter, banded)
        return _Row(luma, chroma, {name: look(frame, crop) for name, look in looks.items()}, first)

    frames = reader.frames(start, end)
    begin = next(frames, None)
    if begin is not None:
        frames = chain((begin,), frames)
    if start > 0 and (begin is None or begin[0] > start) and not stop.is_set():
        with suppress(MediaError):  # it cannot be decoded: the picture before stands in
            last = row_of(reader.frame(start - 1))
        frames = reader.frames(start, end)
    for number, frame in frames:
        if stop.is_set():
            break
        now = row_of(frame)
        for see in seen:
            see(number, frame, now.luma)
        while at <= number:
            rows.append(now if at == number else (last or now).held_over())
            at += 1
            if len(rows) == piece:
                yield taken()
        last = now
    if last is None and not stop.is_set():
        last = _blank(looks, crop)
    while at < end and last is not None and not stop.is_set():
        rows.append(last.held_over())
        at += 1
        if len(rows) == piece:
            yield taken()
    if rows:
        yield taken()


class _Row(NamedTuple):
    luma: NDArray[np.uint8]
    chroma: NDArray[np.uint8]
    looked: Mapping[str, NDArray[Any]]
    first: NDArray[np.uint8] | None = None
    held: bool = False

    def held_over(self) -> _Row:
        """Return the row as it stands in for a picture that could not be read."""
        return self._replace(held=True)


_NO_FIELD = np.zeros((HEIGHT, WIDTH), np.uint8)


def _blank(looks: Mapping[str, Look], crop: Crop) -> _Row:
    """Return the row of a film of which nothing can be read: black."""
    black = av.VideoFrame.from_ndarray(np.zeros((2 * HEIGHT, 2 * WIDTH, 3), np.uint8), "rgb24")
    return _Row(
        np.zeros((HEIGHT, WIDTH), np.uint8),
        np.full((2, CHROMA_HEIGHT, CHROMA_WIDTH), 128, np.uint8),
        {name: look(black, Crop()) for name, look in looks.items()},
        None if crop.parity is None else _NO_FIELD,
    )
