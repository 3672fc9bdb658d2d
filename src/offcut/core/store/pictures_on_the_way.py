"""Small pictures kept while a film is measured: the pass that decodes every frame leaves them.

One of every `STEP` frames, and the last before and first after each possible cut. Which frames
those are is known only once a stretch is judged; until then a few kilobytes of each frame at which
the picture changes are held.
"""

from __future__ import annotations

import threading
from typing import Any

import av
import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.judge.judge import MARGIN
from offcut.core.media.pictures import fit, matrix_of, to_bgr
from offcut.core.media.planes import Plane, planes_of
from offcut.core.media.probe import shown_size
from offcut.core.model.seam import Seam
from offcut.core.model.source import Media
from offcut.core.store.thumbnails import LIMIT, Thumbnails, film_key

STEP = 24
SIZE = (160, 120)
"""Room that a picture fits into."""
QUALITY = 80
LEAST, CHANGE = 1.5, 20.0
"""Grey levels in the mean by which pictures on either side of a cut differ at least, beyond what is
usual there; and what counts of a change for what is usual."""
TAKEN_EVERY = 1500
"""After so many frames those about possible seams are taken."""
HELD = 2 * TAKEN_EVERY + 2 * MARGIN
"""So many frames are held at most until they are judged."""


def kept_size(media: Media) -> tuple[int, int]:
    """Return width and height of the pictures that are kept of a film."""
    return fit(*shown_size(media), *SIZE)


class PicturesOnTheWay:
    """Keeps small pictures of one film while it is measured; `watch` is given to the pass."""

    def __init__(self, media: Media, limit: int = LIMIT) -> None:
        """``limit`` is the most bytes kept of all films."""
        self._media = media
        self._limit = limit
        self._size = kept_size(media)
        self._held: dict[int, bytes] = {}
        self._kept: set[int] = set()
        self._lock = threading.Lock()

    def watch(self) -> _Watcher:
        """Return what sees the pictures of one part of the pass."""
        return _Watcher(self, self._size)

    def hold(self, number: int, data: bytes) -> None:
        """Hold the picture of a frame until it is known whether it is kept. Any thread may call."""
        with self._lock:
            self._held[number] = data

    def take(self, seams: tuple[Seam, ...], reached: int, *, complete: bool) -> None:
        """Keep the pictures of frames before ``reached`` that are wanted, by the seams known now.

        What lies well before it is let go.
        """
        wanted = {f for s in seams for f in (s.start - 1, s.frame - 1, s.frame, s.end)}
        let_go = reached if complete else reached - HELD
        with self._lock:
            chosen = {
                n: d
                for n, d in self._held.items()
                if n not in self._kept and (n % STEP == 0 or n in wanted) and n < reached
            }
            for number in [n for n in self._held if n < let_go]:
                del self._held[number]
        if not chosen:
            return
        self._kept |= chosen.keys()
        kept = Thumbnails(film_key(self._media), self._limit)
        for number in sorted(chosen):
            kept.keep_coded(number, *self._size, chosen[number])
        kept.close()


class _Watcher:
    """Shrinks and codes pictures on the thread that decodes: one in `STEP`, and where it changes.

    A picture that is much like the one before it has no cut beside it; the few at the ends of
    gradual seams are decoded when they are looked at.
    """

    whole = True

    def __init__(self, keeper: PicturesOnTheWay, size: tuple[int, int]) -> None:
        self._keeper = keeper
        self._size = size
        self._reformatter = VideoReformatter()
        self._before: tuple[int, av.VideoFrame, NDArray[np.uint8] | None] | None = None
        self._coded = -1
        self._usual = 0.0

    def see(self, number: int, frame: av.VideoFrame, luma: NDArray[np.uint8] | None = None) -> None:
        """Hold small pictures of a frame, and of the one before where it changes between them."""
        changed = self._changed(number, luma)
        if changed and self._before is not None:
            self._code(*self._before[:2])
        if changed or number % STEP == 0:
            self._code(number, frame)
        self._before = number, frame, luma

    def _changed(self, number: int, luma: NDArray[np.uint8] | None) -> bool:
        """Tell whether there may be a cut before a frame: it changes more than it did lately."""
        before = self._before
        if before is None or luma is None or before[2] is None or before[0] != number - 1:
            return True
        change = cv2.norm(luma, before[2], cv2.NORM_L1) / luma.size
        usual, self._usual = self._usual, 0.9 * self._usual + 0.1 * min(change, CHANGE)
        return change > LEAST + 1.5 * usual

    def _code(self, number: int, frame: av.VideoFrame) -> None:
        if number == self._coded:
            return
        bgr = small_bgr(frame, *self._size, self._reformatter)
        good, data = cv2.imencode(".jpg", bgr, (cv2.IMWRITE_JPEG_QUALITY, QUALITY))
        if good:
            self._coded = number
            self._keeper.hold(number, data.tobytes())

    def end(self) -> None:
        """Nothing is under way."""
        self._before = None


def small_bgr(
    frame: av.VideoFrame, width: int, height: int, reformatter: VideoReformatter
) -> NDArray[np.uint8]:
    """Return a frame as small uint8 BGR, shape (height, width, 3), from samples of its planes.

    The colours are those of `rgb_of`: the matrices of ITU-R BT.601 and BT.709 in video range.
    """
    planes = planes_of(frame)
    packed = _PACKED.get(frame.format.name)
    if packed is not None and frame.width >= 2 * width:
        return _of_packed(frame, width, height, packed)
    if planes is None or frame.width < 2 * width:
        small = reformatter.reformat(
            frame, width, height, format="bgr24", interpolation=Interpolation.AREA,
            src_colorspace=matrix_of(frame), dst_colorspace=matrix_of(frame),
        )  # fmt: skip
        return np.asarray(small.to_ndarray(), np.uint8)
    parts, shift = planes
    yuv = cv2.merge([_sampled(p, width, height, shift, k == 0) for k, p in enumerate(parts)])
    full = frame.format.name.startswith("yuvj") or int(frame.color_range) == 2
    matrix = to_bgr(int(matrix_of(frame)) == 1, full)
    return np.asarray(cv2.transform(yuv, matrix), np.uint8)


_PACKED = {"rgb24": 8, "rgb48le": 16}
"""Formats whose samples lie red, green, blue side by side, and their bits."""


def _of_packed(frame: av.VideoFrame, width: int, height: int, bits: int) -> NDArray[np.uint8]:
    plane = frame.planes[0]
    kind: np.dtype[Any] = np.dtype(np.uint16 if bits > 8 else np.uint8)
    across = plane.line_size // kind.itemsize
    rows = np.frombuffer(memoryview(plane), kind).reshape(plane.height, across)
    pixels: Plane = rows[:, : 3 * frame.width].reshape(plane.height, frame.width, 3)
    large: Plane = cv2.resize(pixels, (2 * width, 2 * height), interpolation=cv2.INTER_NEAREST)
    small: Plane = cv2.resize(large, (width, height), interpolation=cv2.INTER_AREA)
    narrow = (small >> 8).astype(np.uint8) if bits > 8 else small
    return np.ascontiguousarray(np.asarray(narrow, np.uint8)[..., ::-1])


def _sampled(plane: Plane, width: int, height: int, shift: int, fine: bool) -> NDArray[np.uint8]:
    """Return a plane at (height, width) from samples of it; ``fine`` from four to a pixel.

    What takes time is fetching the picture from memory, so little of it is looked at.
    """
    size = (2 * width, 2 * height) if fine else (width, height)
    small: Plane = cv2.resize(plane, size, interpolation=cv2.INTER_NEAREST)
    if shift:
        small = (small >> shift).astype(np.uint8)
    if fine:
        small = cv2.resize(small, (width, height), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.uint8)
