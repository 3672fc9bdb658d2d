"""Lettering: where text stands in a picture, and what colours hold most of it, on a few frames.

Text is found, not read, by the detector of PP-OCR version 3 (Du et al. 2020, Liao et al. 2020;
Apache licence 2.0; `offcut/text_model`), which OpenCV runs without a network.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.looked_at import FRAME, frames_to_look_at, keep_rows, kept_rows
from offcut.core.measure.seen_whole import luma_plane
from offcut.core.measure.shipped_model import ShippedModel, whole_picture
from offcut.core.measure.small_pictures import Crop, stretch
from offcut.core.model.source import Media

SIDE = 480
"""Pixels of the longer side that text is looked for on."""
_ON, LEAST_SCORE = 0.3, 0.7
_LONG, _TALLEST = 1.8, 0.15
"""A line is so many times as long as it is high, and no higher than this share of the picture:
what is not so is taken for branches, waves and windows more often than for a letter."""
_GROWN = 1.6
"""The detector marks the heart of a line; so much of its area over its girth lies around it."""
MOST, COLOURS = 8, 5
_MODEL = ShippedModel("text_model/ppocr-v3-det.onnx.xz", SIDE)
_MEAN = (0.485 * 255, 0.456 * 255, 0.406 * 255)
_SPREAD = 0.226 * 255
"""What the pictures were brought to that the detector learnt from."""


class Text(NamedTuple):
    """A line of text: middle, width and height as shares of the picture, and how sure, 0 to 1."""

    x: float
    y: float
    width: float
    height: float
    score: float


class Lettered(NamedTuple):
    """What a frame shows: its lines of text, the largest first; and its colours.

    ``colours`` float32 (5, 4): red, green, blue 0 to 255 and the share of the picture, largest
    first; ``grain`` in grey levels of 8 bits.
    """

    texts: list[Text]
    colours: NDArray[np.float32]
    grain: float = 0.0


class _Lettering:
    """What is kept of a frame: ``texts`` (k, 8, 5), their ``count``, ``colours``, ``grain``."""

    name = "lettering"
    version = 1
    arrays = (FRAME, "count", "texts", "colours", "grain")


LETTERING = _Lettering()


def texts_in(picture: NDArray[np.uint8]) -> list[Text]:
    """Return the lines of text in a picture (h, w, 3) uint8 RGB, the largest first."""
    told, w, h = _MODEL.answer(picture, (), 1 / _SPREAD, _MEAN)
    likely = told[0][0, 0]
    found = []
    outlines, _ = cv2.findContours(
        (likely > _ON).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE
    )
    for outline in outlines:
        left, top, across, down = cv2.boundingRect(outline)
        inside = np.zeros((down, across), np.uint8)
        cv2.drawContours(inside, [outline], -1, 1, -1, offset=(-left, -top))
        score = cv2.mean(likely[top : top + down, left : left + across], inside)[0]
        grown = _GROWN * across * down / (2 * (across + down))
        line = across >= _LONG * down and down + 2 * grown <= _TALLEST * h
        if line and score >= LEAST_SCORE and down >= 2:
            found.append(
                Text(
                    (left + across / 2) / w, (top + down / 2) / h, (across + 2 * grown) / w,
                    (down + 2 * grown) / h, float(score),
                )
            )  # fmt: skip
    return sorted(found, key=lambda t: -t.width * t.height)[:MOST]


_BITS = 3


def colours_of(picture: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Return the five colours that hold most of a picture (h, w, 3) uint8 RGB.

    Pixels are put into boxes of an eighth of each of red, green and blue; the fullest boxes that do
    not lie side by side are the seeds, and each pixel goes to the nearest.
    """
    small = cv2.resize(picture, (64, 36), interpolation=cv2.INTER_AREA).reshape(-1, 3)
    box = small.astype(np.int32) >> (8 - _BITS)
    key = (box[:, 0] << 2 * _BITS) | (box[:, 1] << _BITS) | box[:, 2]
    seeds: list[NDArray[np.int32]] = []
    for value in np.argsort(-np.bincount(key, minlength=1 << 3 * _BITS), kind="stable"):
        mine = key == value
        if not mine.any() or len(seeds) == COLOURS:
            break
        at = box[mine][0]
        if all(np.abs(at - s).max() > 1 for s in seeds):
            seeds.append(at)
    near = np.argmin(
        np.stack([np.abs(box - s).sum(axis=1) for s in seeds], axis=1), axis=1
    )  # fmt: skip
    made = np.zeros((COLOURS, 4), np.float32)
    for place in range(len(seeds)):
        mine = near == place
        made[place, :3] = small[mine].mean(axis=0)
        made[place, 3] = mine.mean()
    return made[np.argsort(-made[:, 3], kind="stable")]


def lettered(frame: av.VideoFrame, crop: Crop) -> Lettered:
    """Return what a frame shows inside a framing."""
    picture = whole_picture(frame, crop, SIDE * 3 // 2)
    return Lettered(texts_in(picture), colours_of(picture), _grain(frame, crop))


_NOISE = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
_TILE, _SMOOTH = 16, 0.1


def _grain(frame: av.VideoFrame, crop: Crop) -> float:
    """Return the strength of grain and noise, sigma in grey levels, in the smoothest tenth.

    Immerkær 1996, "Fast noise variance estimation": a mask that knows neither light nor slope; here
    over tiles, of which the smoothest tell, so that texture is not taken for grain.
    """
    light, shift = luma_plane(frame, frame.width, frame.height)
    top, bottom = stretch(light.shape[0], crop.top, crop.bottom)
    left, right = stretch(light.shape[1], crop.left, crop.right)
    high, wide = min(bottom - top, 512), min(right - left, 512)
    y, x = (top + bottom - high) // 2, (left + right - wide) // 2
    middle = light[y : y + high, x : x + wide].astype(np.float32) / (1 << shift)
    if min(middle.shape) < 2 * _TILE:
        return 0.0
    off = cv2.filter2D(middle, -1, _NOISE)[1:-1, 1:-1]
    rows, columns = off.shape[0] // _TILE, off.shape[1] // _TILE
    tiles = off[: rows * _TILE, : columns * _TILE].reshape(rows, _TILE, columns, _TILE)
    power = np.sort((tiles**2).mean(axis=(1, 3)).ravel())
    return float(np.sqrt(power[: max(1, round(_SMOOTH * len(power)))].mean()) / 6)


def frames_for_lettering(shots: Iterable[tuple[int, int]], rate: float) -> list[int]:
    """Return where text is looked for: every 6 s, and in each shot."""
    return frames_to_look_at(shots, rate, 6.0)


def keep_lettering(media: Media, found: Mapping[int, Lettered], crop: Crop | None = None) -> None:
    """Keep what some frames show beside what is kept."""
    rows = {}
    for frame, (texts, colours, grain) in found.items():
        boxes = np.zeros((MOST, 5), np.float16)
        boxes[: len(texts)] = texts or np.zeros((0, 5))
        rows[frame] = {
            "count": np.int16(len(texts)),
            "texts": boxes,
            "colours": colours,
            "grain": np.float32(grain),
        }
    keep_rows(media, LETTERING, rows, crop)


def kept_lettering(media: Media, crop: Crop | None = None) -> dict[int, Lettered]:
    """Return what the frames show that were looked at."""
    return {
        frame: Lettered(
            [Text(*map(float, box)) for box in row["texts"][: int(row["count"])]],
            row["colours"],
            float(row["grain"]),
        )
        for frame, row in kept_rows(media, LETTERING, crop).items()
        if row["texts"].shape == (MOST, 5) and row["colours"].shape == (COLOURS, 4)
    }
