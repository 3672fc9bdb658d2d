"""Light: how light, clipped, contrasty, colourful and sharp each picture is, in a few figures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measurer import Arrays
from offcut.core.measure.seen_whole import luma_plane
from offcut.core.measure.small_pictures import HEIGHT, WIDTH, Crop, SmallPictures, stretch
from offcut.core.media.pictures import to_bgr
from offcut.core.model.source import Media

FIGURES = (
    "light", "clipped", "crushed", "low", "high", "colourful", "warm", "detail_1",
    "detail_2", "detail_4", "detail_8",
)  # fmt: skip
_CLIPPED, _CRUSHED = 232, 20
"""Luma of usual range from which a tone counts as clipped, and up to which as crushed."""
_SHARP_WIDE, _SHARP_LINES = 320, 40
"""Detail is looked at along so many lines of pictures so many pixels wide, whatever their size."""
_AT_ONCE = 32
_LUMINANCE = np.array([0.0722, 0.7152, 0.2126], np.float32)
"""Of blue, green, red: ITU-R BT.709."""


def _linear_table() -> NDArray[np.float32]:
    """Return the linear light of a code of 0 to 255 (IEC 61966-2-1), float32 (256,)."""
    code = np.arange(256) / 255
    made = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
    return np.asarray(made, np.float32)


_LINEAR = _linear_table()
_MATRIX = to_bgr(True, False)


class Light:
    """The measurer of light.

    Its one signal is ``light`` float16 (n, 11), by `FIGURES`: the mean of linear light, white 1, in
    hundredths; the shares of clipped and of crushed pixels; the tones that 5 and 95 of 100 pixels
    stay under, 0 to 1; how colourful, and how warm (red less blue) the picture is, in linear light
    of white 1; detail of four sizes, as the root mean square of what a pixel differs from the mean
    of those one, two, four and eight beside it, twice that, of a picture 320 wide, in grey levels.
    """

    name = "lighting"
    version = 1
    arrays = ("light",)
    bytes_a_frame = 2 * len(FIGURES)
    history = 0

    @staticmethod
    def look(frame: av.VideoFrame, crop: Crop) -> NDArray[np.float32]:
        """Return the detail of a frame, float32 (4,), of four sizes."""
        return _detail(frame, crop)

    def prepare(self, run: SmallPictures) -> NDArray[np.float16]:
        """Return the figures of a run."""
        made = np.empty((len(run), len(FIGURES)), np.float32)
        made[:, 7:] = run.looked[self.name]
        for first in range(0, len(run), _AT_ONCE):
            some = slice(first, first + _AT_ONCE)
            made[some, :7] = _tones(run.luma[some], run.chroma[some])
        return made.astype(np.float16)

    def compare(self, before: Sequence[object], now: NDArray[np.float16]) -> Arrays:
        """Return the signals of a run."""
        return {"light": now}


def _tones(luma: NDArray[np.uint8], chroma: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Return the first seven figures of small pictures, float32 (n, 7)."""
    n = len(luma)
    whole = np.empty((n, HEIGHT, WIDTH, 3), np.uint8)
    whole[..., 0] = luma
    whole[..., 1:] = chroma.transpose(0, 2, 3, 1).repeat(2, axis=1).repeat(2, axis=2)
    bgr = cv2.transform(whole.reshape(n * HEIGHT, WIDTH, 3), _MATRIX.astype(np.float32))
    linear = cv2.LUT(bgr, _LINEAR).reshape(n, -1, 3)
    flat = luma.reshape(n, -1)
    low, high = flat.shape[1] // 20, flat.shape[1] * 19 // 20
    ranked = np.partition(flat, (low, high), axis=1)
    blue, green, red = (linear[..., c] for c in range(3))
    most, least = np.maximum(np.maximum(blue, green), red), np.minimum(np.minimum(blue, green), red)
    means = [c.mean(axis=1) for c in (blue, green, red)]
    made = np.empty((n, 7), np.float32)
    made[:, 0] = 100 * (np.stack(means, axis=1) @ _LUMINANCE)
    made[:, 1] = (flat >= _CLIPPED).mean(axis=1)
    made[:, 2] = (flat <= _CRUSHED).mean(axis=1)
    made[:, 3] = (ranked[:, low].astype(np.float32) - 16) / 219
    made[:, 4] = (ranked[:, high].astype(np.float32) - 16) / 219
    made[:, 5] = most.mean(axis=1) - least.mean(axis=1)
    made[:, 6] = means[2] - means[0]
    return made


def _detail(frame: av.VideoFrame, crop: Crop) -> NDArray[np.float32]:
    """Return how much pixels differ from those one, two, four and eight beside them."""
    light, shift = luma_plane(frame, 2 * _SHARP_WIDE, _SHARP_WIDE)
    top, bottom = stretch(light.shape[0], crop.top, crop.bottom)
    left, right = stretch(light.shape[1], crop.left, crop.right)
    lines = top + (np.arange(_SHARP_LINES) * 2 + 1) * (bottom - top) // (2 * _SHARP_LINES)
    picked = light[np.minimum(lines, len(light) - 1), left:right]
    small = cv2.resize(picked, (_SHARP_WIDE, _SHARP_LINES), interpolation=cv2.INTER_AREA)
    rows = small.astype(np.float32) / (1 << shift)
    made = []
    for d in (1, 2, 4, 8):
        off = rows[:, 2 * d :] + rows[:, : -2 * d] - 2 * rows[:, d:-d]
        made.append(cv2.norm(off, cv2.NORM_L2) / off.size**0.5)
    return np.array(made, np.float32)


@dataclass(frozen=True, eq=False)
class Lights:
    """What is kept of the light of frames: ``rows`` float32 (n, 11) and which are ``known``."""

    rows: NDArray[np.float32]
    known: NDArray[np.bool_]

    def of(self, figure: str) -> NDArray[np.float32]:
        """Return one of `FIGURES` for each frame, float32 (n,)."""
        return self.rows[:, FIGURES.index(figure)]


def kept_light(media: Media, start: int, end: int, crop: Crop | None = None) -> Lights:
    """Return the light of frames [start, end)."""
    rows = np.zeros((end - start, len(FIGURES)), np.float32)
    known = np.zeros(end - start, np.bool_)
    for low, high, arrays in KeptSignals(media, crop).pieces(Light(), start, end):
        if arrays["light"].shape[1:] == (len(FIGURES),):
            rows[low - start : high - start] = arrays["light"]
            known[low - start : high - start] = True
    return Lights(rows, known)
