"""Small pictures: each frame as a few hundred numbers, read off the planes as they lie.

A few rows of each plane are enough: they are picked with even spacing from one field, so that
combing cannot look like change, and averaged along the row.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import av
import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.media.reader import Reader
from offcut.core.model.source import Framing, Media

WIDTH, HEIGHT = 64, 40
CHROMA_WIDTH, CHROMA_HEIGHT = 32, 20
_ROWS_PER_ROW = 4

_PLANAR_8 = {"yuv420p", "yuvj420p", "yuv422p", "yuvj422p", "yuv444p", "yuvj444p", "nv12"}
_PLANAR_DEEP = {
    f"yuv{shape}p{bits}le": bits for shape in ("420", "422", "444") for bits in (9, 10, 12, 14, 16)
}
PIECE = 256
"""Frames in a run."""

cv2.setNumThreads(1)

Plane = NDArray[Any]


@dataclass(frozen=True)
class SmallPictures:
    """A run of small pictures, all uint8.

    Attributes: ``start`` frame of the first; ``luma`` (n, 40, 64); ``chroma`` (n, 2, 20, 32);
    ``held`` bool (n,), True where the picture could not be decoded and the one before stands in;
    ``looked`` by a measurer's name what it saw of each whole picture, (n, ...).
    """

    start: int
    luma: NDArray[np.uint8]
    chroma: NDArray[np.uint8]
    held: NDArray[np.bool_]
    looked: Mapping[str, NDArray[Any]] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.luma)


@dataclass(frozen=True)
class Crop:
    """The part of the picture to look at, as fractions of width and height from the top left."""

    left: float = 0.0
    top: float = 0.0
    right: float = 1.0
    bottom: float = 1.0


Look = Callable[[av.VideoFrame, Crop], NDArray[Any]]
"""What a measurer sees of a whole picture: an array of one shape for all."""


def crop_of(framing: Framing, media: Media) -> Crop:
    """Return the part of the picture that a framing leaves."""
    wide, high = media.width, media.height
    return Crop(
        framing.left / wide,
        framing.top / high,
        1 - framing.right / wide,
        1 - framing.bottom / high,
    )


def _plane(plane: av.video.plane.VideoPlane, deep: bool) -> Plane:
    """View a plane as an array, shape (height, width), without copying."""
    kind: np.dtype[Any] = np.dtype(np.uint16 if deep else np.uint8)
    data: Plane = np.frombuffer(memoryview(plane), kind)
    stride = plane.line_size // kind.itemsize
    return data[: stride * plane.height].reshape(plane.height, stride)[:, : plane.width]


def _shrunk(plane: Plane, width: int, height: int, crop: Crop, shift: int) -> NDArray[np.uint8]:
    """Average a few rows of a plane down to (height, width), uint8."""
    high, wide = plane.shape
    top, bottom = int(crop.top * high), max(int(crop.top * high) + 2, int(crop.bottom * high))
    left, right = int(crop.left * wide), max(int(crop.left * wide) + 2, int(crop.right * wide))
    wanted = height * _ROWS_PER_ROW
    rows = top + (np.arange(wanted) * 2 + 1) * (bottom - top) // (2 * wanted)
    if bottom - top >= 4 * wanted:
        rows &= ~1
    step = (right - left) // width
    if step >= 8:
        left += (right - left - step * width) // 2
        right = left + step * width
    picked = plane[rows, left:right]
    if shift:
        picked = (picked >> shift).astype(np.uint8)
    small = cv2.resize(picked, (width, height), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.uint8)


def planes_of(frame: av.VideoFrame) -> tuple[tuple[Plane, Plane, Plane], int] | None:
    """Return luma and both chroma planes as they lie, and by how many bits they are too deep.

    None where they do not lie apart.
    """
    name = frame.format.name
    bits = _PLANAR_DEEP.get(name, 8)
    if name not in _PLANAR_8 and bits == 8:
        return None
    deep = bits > 8
    luma = _plane(frame.planes[0], deep)
    if name == "nv12":
        both = _plane(frame.planes[1], False)
        return (luma, both[:, 0::2], both[:, 1::2]), 0
    return (luma, _plane(frame.planes[1], deep), _plane(frame.planes[2], deep)), bits - 8


def small_picture(
    frame: av.VideoFrame, crop: Crop, reformatter: VideoReformatter
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Return a frame's small luma (40, 64) and chroma (2, 20, 32)."""
    planes = planes_of(frame)
    if planes is None:
        frame = reformatter.reformat(
            frame, 4 * WIDTH, 4 * HEIGHT, format="yuv444p", interpolation=Interpolation.AREA
        )
        planes = planes_of(frame)
        assert planes is not None
    (light, *pair), shift = planes
    luma = _shrunk(light, WIDTH, HEIGHT, crop, shift)
    chroma = np.stack([_shrunk(p, CHROMA_WIDTH, CHROMA_HEIGHT, crop, shift) for p in pair])
    return luma, chroma


def runs_of(
    reader: Reader,
    start: int,
    end: int,
    crop: Crop,
    *,
    stop: threading.Event,
    piece: int = PIECE,
    looks: Mapping[str, Look] | None = None,
    seen: Sequence[Callable[[int, av.VideoFrame, NDArray[np.uint8]], None]] = (),
) -> Iterator[SmallPictures]:
    """Yield the small pictures of frames [start, end) in order, in runs of up to ``piece``.

    ``looks`` are what measurers want to see of every whole picture; ``seen`` are shown each on the
    way. Stops early once ``stop`` is set.
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
            {name: np.stack([r.looked[name] for r in rows]) for name in looks},
        )
        rows.clear()
        return run

    for number, frame in reader.frames(start, end):
        if stop.is_set():
            break
        luma, chroma = small_picture(frame, crop, reformatter)
        for see in seen:
            see(number, frame, luma)
        now = _Row(luma, chroma, {name: look(frame, crop) for name, look in looks.items()})
        while at <= number:
            rows.append(now if at == number else (last or now).held_over())
            at += 1
            if len(rows) == piece:
                yield taken()
        last = now
    if last is None and not stop.is_set():
        last = _blank(looks)
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
    held: bool = False

    def held_over(self) -> _Row:
        """Return the row as it stands in for a picture that could not be read."""
        return self._replace(held=True)


def _blank(looks: Mapping[str, Look]) -> _Row:
    """Return the row of a film of which nothing can be read: black."""
    black = av.VideoFrame.from_ndarray(np.zeros((2 * HEIGHT, 2 * WIDTH, 3), np.uint8), "rgb24")
    return _Row(
        np.zeros((HEIGHT, WIDTH), np.uint8),
        np.full((2, CHROMA_HEIGHT, CHROMA_WIDTH), 128, np.uint8),
        {name: look(black, Crop()) for name, look in looks.items()},
    )
