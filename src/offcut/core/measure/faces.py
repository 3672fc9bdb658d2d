"""Faces: how many there are, how large and where, on a few frames of each shot.

Found by CenterFace (Xu et al. 2019, MIT licence; `offcut/face_model`), which OpenCV runs without a
network. Nobody is recognised: where faces lie is all that is kept.
"""

from __future__ import annotations

import lzma
import threading
from collections.abc import Iterable, Mapping
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import av
import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.small_pictures import Crop, stretch
from offcut.core.model.source import Media

SIDE = 352
"""Pixels of the longer side that faces are looked for on."""
_STEP = 32
SURE_SCORE, LEAST_SCORE = 0.6, 0.5
_OVERLAP = 0.3
MOST = 12
"""So many faces of a picture are kept, the largest."""
_MODEL = Path(__file__).parents[2] / "face_model" / "centerface.onnx.xz"
_OUTPUTS = ["537", "538", "539", "540"]


class Face(NamedTuple):
    """A face: its middle, width and height as shares of the picture, and how sure it is, 0 to 1."""

    x: float
    y: float
    width: float
    height: float
    score: float


class _Faces:
    """What faces are kept under, a row for each frame.

    ``count`` int16 (n,), -1 where nobody looked; ``boxes`` float16 (n, 12, 5), each a `Face`.
    """

    name = "faces"
    version = 1
    arrays = ("count", "boxes")


FACES = _Faces()
_own = threading.local()


@cache
def _model() -> bytes:
    return lzma.decompress(_MODEL.read_bytes())


def _net() -> Any:
    """Return the model of this thread."""
    if not hasattr(_own, "net"):
        _own.net = cv2.dnn.readNetFromONNX(np.frombuffer(_model(), np.uint8))
        _own.reformatter = VideoReformatter()
    return _own.net


def faces_in(picture: NDArray[np.uint8]) -> list[Face]:
    """Return the faces of a picture (h, w, 3) uint8 RGB, the largest first."""
    high, wide = picture.shape[:2]
    scale = SIDE / max(high, wide)
    w = max(_STEP, round(wide * scale / _STEP) * _STEP)
    h = max(_STEP, round(high * scale / _STEP) * _STEP)
    net = _net()
    net.setInput(cv2.dnn.blobFromImage(picture, 1.0, (w, h)))
    heat, size, offset, _ = (o[0] for o in net.forward(_OUTPUTS))
    rows, columns = np.nonzero(heat[0] > LEAST_SCORE)
    if not len(rows):
        return []
    high_px, wide_px = (4 * np.exp(size[i, rows, columns]) for i in (0, 1))
    y, x = (4 * (at + offset[i, rows, columns] + 0.5) for i, at in ((0, rows), (1, columns)))
    boxes = np.stack([x - wide_px / 2, y - high_px / 2, wide_px, high_px], axis=1)
    scores = heat[0, rows, columns]
    kept = cv2.dnn.NMSBoxes(boxes.tolist(), scores.tolist(), LEAST_SCORE, _OVERLAP)
    found = [
        Face(
            float(x[i] / w), float(y[i] / h), float(wide_px[i] / w), float(high_px[i] / h),
            float(scores[i]),
        )
        for i in np.asarray(kept).ravel()
    ]  # fmt: skip
    return sorted(found, key=lambda f: -f.height)[:MOST]


def picture_for_faces(frame: av.VideoFrame, crop: Crop) -> NDArray[np.uint8]:
    """Return a frame inside a framing as RGB (h, w, 3), about as large as faces are looked for."""
    _net()
    wide, high = frame.width, frame.height
    scale = min(1.0, 2 * SIDE / max(wide, high))
    made = _own.reformatter.reformat(
        frame, max(2, round(wide * scale)), max(2, round(high * scale)), format="rgb24",
        interpolation=Interpolation.AREA,
    ).to_ndarray()  # fmt: skip
    top, bottom = stretch(made.shape[0], crop.top, crop.bottom)
    left, right = stretch(made.shape[1], crop.left, crop.right)
    return np.ascontiguousarray(made[top:bottom, left:right])


class FaceWatcher:
    """Looks for faces in wanted frames as a film is decoded; all of a pass share ``found``."""

    whole = True

    def __init__(self, wanted: frozenset[int], crop: Crop, found: dict[int, list[Face]]) -> None:
        self._wanted, self._crop, self._found = wanted, crop, found

    def see(self, number: int, frame: av.VideoFrame, _luma: NDArray[np.uint8]) -> None:
        """Look at a frame where it is wanted."""
        if number in self._wanted and number not in self._found:
            self._found[number] = faces_in(picture_for_faces(frame, self._crop))

    def end(self) -> None:
        """There is nothing to let go of."""


def frames_to_look_at(shots: Iterable[tuple[int, int]], rate: float) -> list[int]:
    """Return where faces are looked for: in one frame of a short shot, every 1.5 s of others."""
    frames = []
    for start, end in shots:
        count = max(1, round((end - start) / (1.5 * rate) + 0.4))
        frames += [start + (2 * i + 1) * (end - start) // (2 * count) for i in range(count)]
    return frames


def keep_faces(media: Media, found: Mapping[int, list[Face]], crop: Crop | None = None) -> None:
    """Keep the faces of some frames beside those that are kept."""
    count, boxes = _kept(media, crop)
    for frame, faces in found.items():
        if 0 <= frame < media.frames:
            count[frame] = len(faces)
            boxes[frame] = 0
            for place, face in enumerate(faces):
                boxes[frame, place] = face
    KeptSignals(media, crop).keep(FACES, 0, [{"count": count, "boxes": boxes}])


def kept_faces(media: Media, crop: Crop | None = None) -> dict[int, list[Face]]:
    """Return the faces of the frames that were looked at."""
    count, boxes = _kept(media, crop)
    return {
        int(frame): [Face(*map(float, row)) for row in boxes[frame, : count[frame]]]
        for frame in np.flatnonzero(count >= 0)
    }


def _kept(media: Media, crop: Crop | None) -> tuple[NDArray[np.int16], NDArray[np.float16]]:
    count = np.full(media.frames, -1, np.int16)
    boxes = np.zeros((media.frames, MOST, 5), np.float16)
    for low, high, arrays in KeptSignals(media, crop).pieces(FACES, 0, media.frames):
        if arrays["boxes"].shape[1:] == (MOST, 5):
            count[low:high] = np.clip(arrays["count"], -1, MOST)
            boxes[low:high] = arrays["boxes"]
    return count, boxes
