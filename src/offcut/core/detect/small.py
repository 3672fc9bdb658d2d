"""Small pictures: each frame as a few hundred numbers, read off the planes as they lie.

A few rows of each plane are enough: they are picked with even spacing from one field, so that
combing cannot look like change, and averaged along the row.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.media.index import FrameIndex
from offcut.core.media.reader import FrameReader
from offcut.core.model.project import Framing, Media

WIDTH, HEIGHT = 64, 40
CHROMA_WIDTH, CHROMA_HEIGHT = 32, 20
_ROWS_PER_ROW = 4

_PLANAR_8 = {"yuv420p", "yuvj420p", "yuv422p", "yuvj422p", "yuv444p", "yuvj444p", "nv12"}
_PLANAR_DEEP = {
    f"yuv{shape}p{bits}le": bits for shape in ("420", "422", "444") for bits in (9, 10, 12, 14, 16)
}
_FAST = {"skip_loop_filter": "all"}

cv2.setNumThreads(1)

_Plane = NDArray[Any]


@dataclass(frozen=True)
class SmallPictures:
    """A run of small pictures, all uint8.

    Attributes: ``start`` frame of the first; ``luma`` (n, 40, 64); ``chroma`` (n, 2, 20, 32);
    ``held`` bool (n,), True where the picture could not be decoded and the one before stands in.
    """

    start: int
    luma: NDArray[np.uint8]
    chroma: NDArray[np.uint8]
    held: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.luma)


@dataclass(frozen=True)
class Crop:
    """The part of the picture to look at, as fractions of width and height from the top left."""

    left: float = 0.0
    top: float = 0.0
    right: float = 1.0
    bottom: float = 1.0


def crop_of(framing: Framing, media: Media) -> Crop:
    """Return the part of the picture that a framing leaves."""
    wide, high = media.width, media.height
    return Crop(
        framing.left / wide,
        framing.top / high,
        1 - framing.right / wide,
        1 - framing.bottom / high,
    )


def _plane(plane: av.video.plane.VideoPlane, deep: bool) -> _Plane:
    """View a plane as an array, shape (height, width), without copying."""
    kind: np.dtype[Any] = np.dtype(np.uint16 if deep else np.uint8)
    data: _Plane = np.frombuffer(memoryview(plane), kind)
    stride = plane.line_size // kind.itemsize
    return data[: stride * plane.height].reshape(plane.height, stride)[:, : plane.width]


def _shrunk(plane: _Plane, width: int, height: int, crop: Crop, shift: int) -> NDArray[np.uint8]:
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


def small_picture(
    frame: av.VideoFrame, crop: Crop, reformatter: VideoReformatter
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Return a frame's small luma (40, 64) and chroma (2, 20, 32)."""
    name = frame.format.name
    bits = _PLANAR_DEEP.get(name, 8)
    if name not in _PLANAR_8 and bits == 8:
        frame = reformatter.reformat(
            frame, 4 * WIDTH, 4 * HEIGHT, format="yuv444p", interpolation=Interpolation.AREA
        )
        name = "yuv444p"
    deep, shift = bits > 8, bits - 8
    luma = _shrunk(_plane(frame.planes[0], deep), WIDTH, HEIGHT, crop, shift)
    if name == "nv12":
        both = _plane(frame.planes[1], False)
        pair = (both[:, 0::2], both[:, 1::2])
    else:
        pair = (_plane(frame.planes[1], deep), _plane(frame.planes[2], deep))
    chroma = np.stack([_shrunk(p, CHROMA_WIDTH, CHROMA_HEIGHT, crop, shift) for p in pair])
    return luma, chroma


def pictures_of(
    path: str | Path,
    index: FrameIndex,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    threads: int = 2,
    stop: threading.Event | None = None,
    piece: int = 256,
) -> Iterator[SmallPictures]:
    """Yield the small pictures of frames [start, end) in order, in runs of up to ``piece``.

    The film is divided at keyframes and ``threads`` decoders work on the parts side by side: a
    decoder on one core wastes nothing on handing pictures between threads. What comes out does
    not depend on how many there are. Stops early once ``stop`` is set.
    """
    stop = stop or threading.Event()
    crop = crop or Crop()
    parts = _parts(index, start, end)
    if len(parts) == 1 or threads == 1:
        many = 0 if threads > 1 else 1
        for first, last in parts if threads == 1 else [(start, end)]:
            yield from _one_part(path, index, first, last, crop, many, stop, piece)
        return
    abandoned = threading.Event()

    def work(part: tuple[int, int]) -> list[SmallPictures]:
        runs = []
        for run in _one_part(path, index, *part, crop, 1, stop, piece):
            if abandoned.is_set():
                break
            runs.append(run)
        return runs

    waiting: deque[Future[list[SmallPictures]]] = deque()
    left = iter(parts)
    with ThreadPoolExecutor(threads, thread_name_prefix="offcut-measure") as pool:
        try:
            for part in left:
                waiting.append(pool.submit(work, part))
                if len(waiting) > threads + 1:
                    break
            while waiting:
                runs = waiting.popleft().result()
                part_next = next(left, None)
                if part_next is not None and not stop.is_set():
                    waiting.append(pool.submit(work, part_next))
                yield from runs
                if stop.is_set():
                    return
        finally:
            abandoned.set()
            for job in waiting:
                job.cancel()


def _parts(index: FrameIndex, start: int, end: int) -> list[tuple[int, int]]:
    """Divide [start, end) at keyframes into parts of about 300 frames, none over 6,000."""
    if index.by_count or len(index.keys) < 2:
        return [(start, end)]
    bounds = [start]
    for key in index.keys.tolist():
        if key - bounds[-1] >= 300 and key < end - 60:
            bounds.append(key)
    bounds.append(end)
    parts = list(pairwise(bounds))
    if max(last - first for first, last in parts) > 6000:
        return [(start, end)]
    return parts


def _one_part(
    path: str | Path,
    index: FrameIndex,
    start: int,
    end: int,
    crop: Crop,
    threads: int,
    stop: threading.Event,
    piece: int,
) -> Iterator[SmallPictures]:
    luma: list[NDArray[np.uint8]] = []
    chroma: list[NDArray[np.uint8]] = []
    held: list[bool] = []
    at = start
    last: tuple[NDArray[np.uint8], NDArray[np.uint8]] | None = None
    reformatter = VideoReformatter()

    def taken() -> SmallPictures:
        run = SmallPictures(
            at - len(luma), np.stack(luma), np.stack(chroma), np.array(held, np.bool_)
        )
        for kept in (luma, chroma, held):
            kept.clear()
        return run

    with FrameReader(path, index, threads=threads, options=_FAST) as reader:
        for number, frame in reader.frames(start, end):
            if stop.is_set():
                break
            now = small_picture(frame, crop, reformatter)
            while at <= number:
                whole = at == number
                stand_in = now if whole or last is None else last
                luma.append(stand_in[0])
                chroma.append(stand_in[1])
                held.append(not whole)
                at += 1
                if len(luma) == piece:
                    yield taken()
            last = now
    if last is None and not stop.is_set():
        last = (
            np.zeros((HEIGHT, WIDTH), np.uint8),
            np.full((2, CHROMA_HEIGHT, CHROMA_WIDTH), 128, np.uint8),
        )
    while at < end and last is not None and not stop.is_set():
        luma.append(last[0])
        chroma.append(last[1])
        held.append(True)
        at += 1
        if len(luma) == piece:
            yield taken()
    if luma:
        yield taken()
