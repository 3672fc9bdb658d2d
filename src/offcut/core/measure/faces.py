"""Faces: how many there are, how large and where, on a few frames of each shot.

Found by CenterFace (Xu et al. 2019, MIT licence; `offcut/face_model`), which OpenCV runs without a
network. Nobody is recognised: where faces lie is all that is kept.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.looked_at import FRAME, frames_to_look_at, keep_rows, kept_rows
from offcut.core.measure.shipped_model import ShippedModel, whole_picture
from offcut.core.measure.small_pictures import Crop
from offcut.core.model.source import Media

SIDE = 352
"""Pixels of the longer side that faces are looked for on; on twice as many where nobody is seen."""
SURE_SCORE, LEAST_SCORE = 0.6, 0.5
_OVERLAP = 0.3
MOST = 12
"""So many faces of a picture are kept, the largest."""
_MODEL = ShippedModel("face_model/centerface.onnx.xz", SIDE)
_OUTPUTS = ["537", "538", "539", "540"]


class Face(NamedTuple):
    """A face: its middle, width and height as shares of the picture, and how sure it is, 0 to 1."""

    x: float
    y: float
    width: float
    height: float
    score: float


class _Faces:
    """What faces are kept under, a row for each frame that was looked at.

    ``count`` int16 (k,), -1 where nobody was near and it was not looked at closely; ``boxes``
    float16 (k, 12, 5), each a `Face`.
    """

    name = "faces"
    version = 3
    arrays = (FRAME, "count", "boxes")


FACES = _Faces()
Looked = Mapping[int, list[Face] | None]
"""The faces of frames that were looked at; None where nobody is near, and who is far not known."""


def faces_in(picture: NDArray[np.uint8]) -> list[Face]:
    """Return the faces of a picture (h, w, 3) uint8 RGB, the largest first.

    Those that are far are seen on a larger picture only, which is looked at where nobody is near:
    41 ms against 173 on two cores.
    """
    return near_faces(picture) or _seen(picture, 2 * SIDE)


def near_faces(picture: NDArray[np.uint8]) -> list[Face] | None:
    """Return the faces of a picture that are near, None where there are none."""
    return _seen(picture, SIDE) or None


def _seen(picture: NDArray[np.uint8], side: int) -> list[Face]:
    told, w, h = _MODEL.answer(picture, _OUTPUTS, side=side)
    heat, size, offset, _ = (o[0] for o in told)
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
    return whole_picture(frame, crop, 2 * SIDE)


def frames_for_faces(shots: Iterable[tuple[int, int]], rate: float) -> list[int]:
    """Return where faces are looked for: every second, and in each shot."""
    return frames_to_look_at(shots, rate, 1.0)


def frames_to_look_closely(shots: Iterable[tuple[int, int]], rate: float) -> frozenset[int]:
    """Return on which of these frames those who are far are looked for too.

    Every fourth second of the film, and the middle one of a shot that holds none of these.
    """
    step, frames = max(1, round(rate)), set()
    for start, end in shots:
        looked = frames_for_faces([(start, end)], rate)
        fourth = [f for f in looked if f // step % 4 == 2]
        frames.update(fourth or [looked[len(looked) // 2]])
    return frozenset(frames)


def keep_faces(media: Media, found: Looked, crop: Crop | None = None) -> None:
    """Keep the faces of some frames beside those that are kept."""
    rows = {}
    for frame, faces in found.items():
        boxes = np.zeros((MOST, 5), np.float16)
        boxes[: len(faces or ())] = faces or np.zeros((0, 5))
        rows[frame] = {"count": np.int16(-1 if faces is None else len(faces)), "boxes": boxes}
    keep_rows(media, FACES, rows, crop)


def kept_faces(media: Media, crop: Crop | None = None) -> dict[int, list[Face] | None]:
    """Return the faces of the frames that were looked at."""
    return {
        frame: None
        if row["count"] < 0
        else [Face(*map(float, box)) for box in row["boxes"][: int(row["count"])]]
        for frame, row in kept_rows(media, FACES, crop).items()
        if row["boxes"].shape == (MOST, 5)
    }
