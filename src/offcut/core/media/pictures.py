"""Pictures for people: a decoded frame as RGB of a wanted size, with the right colours."""

from __future__ import annotations

from functools import cache
from typing import Any

import av
import numpy as np
from av.video.reformatter import Colorspace, Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.media.display import Display


def rgb_of(
    frame: av.VideoFrame,
    width: int,
    height: int,
    reformatter: VideoReformatter | None = None,
    display: Display | None = None,
    *,
    quick: bool = False,
) -> NDArray[np.uint8]:
    """Return a frame as uint8 RGB, shape (height, width, 3), contiguous, as a display has it.

    ``quick`` is for pictures that move: they are scaled a little less exactly.
    """
    tagged = matrix_of(frame)
    deep = display is not None and not quick and any(c.bits > 8 for c in frame.format.components)
    small = (reformatter or VideoReformatter()).reformat(
        frame,
        width=width,
        height=height,
        format="rgb48le" if deep else "rgb24",
        src_colorspace=tagged,
        dst_colorspace=tagged,
        interpolation=Interpolation.FAST_BILINEAR
        if quick
        else Interpolation.AREA
        if width < frame.width
        else Interpolation.BICUBIC,
    )
    pixels: NDArray[Any] = np.ascontiguousarray(small.to_ndarray())
    return pixels if display is None else display.seen(pixels)


def matrix_of(frame: av.VideoFrame) -> int:
    """Return the colour matrix of a frame as FFmpeg numbers it.

    Where the file does not tell it, BT.709 is taken from 720 lines up and BT.601 below: common
    practice, no published source.
    """
    tagged = int(frame.colorspace)
    if tagged in (0, 2):  # RGB or not specified
        return int(Colorspace.ITU709 if frame.height >= 720 else Colorspace.ITU601)
    return tagged


def fit(width: int, height: int, into_width: int, into_height: int) -> tuple[int, int]:
    """Return the largest size of the shape width:height that fits, at least 2 by 2."""
    scale = min(into_width / width, into_height / height)
    return max(2, round(width * scale)), max(2, round(height * scale))


@cache
def to_bgr(hd: bool, full: bool) -> NDArray[np.float32]:
    """Return the matrix from Y, Cb, Cr and 1 to BGR, float32 (3, 4).

    ITU-R BT.709 where ``hd``, else BT.601; ``full`` where samples use the full range.
    """
    kr, kb = (0.2126, 0.0722) if hd else (0.299, 0.114)
    kg = 1 - kr - kb
    light, colour = (1.0, 1.0) if full else (255 / 219, 255 / 224)
    rows = np.array(
        [
            [light, 0, 2 * (1 - kr) * colour],
            [light, -2 * (1 - kb) * kb / kg * colour, -2 * (1 - kr) * kr / kg * colour],
            [light, 2 * (1 - kb) * colour, 0],
        ]
    )
    zero = np.array([0.0 if full else 16.0, 128.0, 128.0])
    return np.hstack([rows, -(rows @ zero)[:, None]])[::-1].astype(np.float32)
