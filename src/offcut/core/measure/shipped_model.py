"""A model that ships with Offcut, which OpenCV runs without a network on a few whole pictures."""

from __future__ import annotations

import lzma
import threading
from collections.abc import Sequence
from functools import cached_property
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.measure.small_pictures import Crop, stretch

_STEP = 32
_FOLDER = Path(__file__).parents[2]


class ShippedModel:
    """One model file. ``side`` is the longer one it looks at, each thread for itself.

    At another side all threads look one after another: what a network of large pictures holds is
    held once.
    """

    def __init__(self, file: str, side: int) -> None:
        self._file = _FOLDER / file
        self.side = side
        self._own = threading.local()
        self._shared: dict[int, Any] = {}
        self._one_at_a_time = threading.Lock()

    @cached_property
    def _bytes(self) -> NDArray[np.uint8]:
        return np.frombuffer(lzma.decompress(self._file.read_bytes()), np.uint8)

    def answer(
        self,
        picture: NDArray[np.uint8],
        outputs: Sequence[str] = (),
        scale: float = 1.0,
        mean: Sequence[float] = (),
        side: int = 0,
    ) -> tuple[list[Any], int, int]:
        """Return what the model says of a picture (h, w, 3) uint8 RGB, and the size it saw (w, h).

        Each of the ``outputs``, or its only one, as float32 (1, k, h, w). Pixels are told less
        ``mean`` and times ``scale``; ``side`` is another longer one than usual.
        """
        high, wide = picture.shape[:2]
        share = (side or self.side) / max(high, wide)
        w, h = (max(_STEP, round(x * share / _STEP) * _STEP) for x in (wide, high))
        blob = cv2.dnn.blobFromImage(picture, scale, (w, h), mean)
        if side and side != self.side:
            with self._one_at_a_time:
                return self._told(self._shared, side, blob, outputs), w, h
        return self._told(self._own.__dict__, self.side, blob, outputs), w, h

    def _told(
        self, nets: dict[Any, Any], side: int, blob: Any, outputs: Sequence[str]
    ) -> list[Any]:
        """Return what the network for pictures of a side says: another would be laid out anew."""
        if side not in nets:
            nets[side] = cv2.dnn.readNetFromONNX(self._bytes)
        net = nets[side]
        net.setInput(blob)
        return [o.copy() for o in (net.forward(list(outputs)) if outputs else [net.forward()])]


_own = threading.local()


def whole_picture(frame: av.VideoFrame, crop: Crop, side: int) -> NDArray[np.uint8]:
    """Return a frame inside a framing as RGB (h, w, 3), its longer side ``side`` at most."""
    if not hasattr(_own, "reformatter"):
        _own.reformatter = VideoReformatter()
    scale = min(1.0, side / max(frame.width, frame.height))
    made = _own.reformatter.reformat(
        frame, max(2, round(frame.width * scale)), max(2, round(frame.height * scale)),
        format="rgb24", interpolation=Interpolation.AREA,
    ).to_ndarray()  # fmt: skip
    top, bottom = stretch(made.shape[0], crop.top, crop.bottom)
    left, right = stretch(made.shape[1], crop.left, crop.right)
    return np.ascontiguousarray(made[top:bottom, left:right])
