"""Planes: the luma and chroma of a decoded picture as arrays, as they lie and without copying."""

from __future__ import annotations

from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

_PLANAR_8 = {
    *(f"{kind}{shape}p" for kind in ("yuv", "yuvj", "yuva") for shape in ("420", "422", "444")),
    "nv12",
}
_PLANAR_DEEP = {
    f"{kind}{shape}p{bits}le": bits
    for kind in ("yuv", "yuva")  # alpha lies behind the three
    for shape in ("420", "422", "444")
    for bits in (9, 10, 12, 14, 16)
}

Plane = NDArray[Any]


def _plane(plane: av.video.plane.VideoPlane, deep: bool) -> Plane:
    """View a plane as an array, shape (height, width), without copying."""
    kind: np.dtype[Any] = np.dtype(np.uint16 if deep else np.uint8)
    data: Plane = np.frombuffer(memoryview(plane), kind)
    stride = plane.line_size // kind.itemsize
    return data[: stride * plane.height].reshape(plane.height, stride)[:, : plane.width]


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


def luma_of(frame: av.VideoFrame) -> NDArray[np.uint8] | None:
    """Return a copy of a frame's luma as 8 bits, (h, w); None where it does not lie apart."""
    planes = planes_of(frame)
    if planes is None:
        return None
    (luma, _, _), shift = planes
    return (luma >> shift).astype(np.uint8)
