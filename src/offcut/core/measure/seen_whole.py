"""Whole pictures made a few times larger than the small ones, to see camera and sharpness on."""

from __future__ import annotations

import threading

import av
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.measure.seen_curve import curve_of
from offcut.core.measure.small_pictures import Crop, rows_of, shrunk
from offcut.core.media.planes import Plane, planes_of

_own = threading.local()


def luma_plane(frame: av.VideoFrame, width: int, height: int) -> tuple[Plane, int]:
    """Return a frame's luma as it lies and by how many bits it is too deep.

    Where it does not lie apart the picture is made about ``width`` by ``height`` first.
    """
    planes = planes_of(frame)
    if planes is None:
        if not hasattr(_own, "reformatter"):
            _own.reformatter = VideoReformatter()
        frame = _own.reformatter.reformat(
            frame, width, height, format="yuv444p", interpolation=Interpolation.AREA
        )
        planes = planes_of(frame)
        assert planes is not None
    (light, _, _), shift = planes
    return light, shift


def seen_luma(frame: av.VideoFrame, crop: Crop, width: int, height: int) -> NDArray[np.uint8]:
    """Return a frame's luma inside a framing as uint8 (height, width), of usual range and curve.

    Of interlaced pictures it is the later field.
    """
    light, shift = luma_plane(frame, 4 * width, 4 * height)
    parity = crop.parity if frame.height == len(light) else None
    rows = rows_of(len(light), height, crop, parity)
    luma = shrunk(light, rows, width, height, crop, shift)
    curve = curve_of(frame)
    return luma if curve is None else curve[luma]
