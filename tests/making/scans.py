"""Runs of stills that the tests write, with OpenImageIO and by hand."""

from __future__ import annotations

import struct
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenImageIO as oiio
from numpy.typing import NDArray


def write_still(
    path: Path, pixels: NDArray[Any], *, bits: int = 0, told: dict[str, Any] | None = None
) -> Path:
    """Write RGB pixels (uint8, uint16 or float32, full scale) with OpenImageIO."""
    high, wide = pixels.shape[:2]
    kind = {"uint8": "uint8", "uint16": "uint16", "float32": "half"}[str(pixels.dtype)]
    spec = oiio.ImageSpec(wide, high, 3, kind)
    if bits:
        spec.attribute("oiio:BitsPerSample", bits)
    for name, value in (told or {}).items():
        if name == "smpte:TimeCode":
            spec.attribute(name, oiio.TypeDesc("timecode"), value)
        elif isinstance(value, tuple):
            spec.attribute(name, oiio.TypeDesc("rational"), value)
        else:
            spec.attribute(name, value)
    out = oiio.ImageOutput.create(str(path))
    assert out is not None, oiio.geterror()
    assert out.open(str(path), spec), out.geterror()
    assert out.write_image(np.ascontiguousarray(pixels)), out.geterror()
    out.close()
    return path


def write_cineon(path: Path, codes: NDArray[np.uint16]) -> Path:
    """Write 10-bit codes (height, width, 3) as a Cineon file, version 4.5, filled words.

    The layout is that of the Cineon image file format, draft 4.5 of 1995, from memory.
    """
    high, wide = codes.shape[:2]
    head = bytearray(2048)
    struct.pack_into(">IIIIII", head, 0, 0x802A5FD7, 2048, 1024, 1024, 0, 2048 + 4 * wide * high)
    head[24:28] = b"V4.5"
    head[192] = 0
    head[193] = 3
    for channel in range(3):
        at = 196 + 28 * channel
        struct.pack_into(">BBBBII", head, at, 0, channel + 1, 10, 0, wide, high)
        struct.pack_into(">ffff", head, at + 12, 0.0, 0.0, 1023.0, 2.046)
    struct.pack_into(">BBBBIII", head, 680, 0, 5, 0, 0, 0, 0, 0)
    words = (
        codes[..., 0].astype(np.uint32) << 22
        | codes[..., 1].astype(np.uint32) << 12
        | codes[..., 2].astype(np.uint32) << 2
    )
    path.write_bytes(bytes(head) + words.astype(">u4").tobytes())
    return path


def write_run(
    folder: Path,
    pictures: Iterable[NDArray[Any]],
    *,
    name: str = "K07_{:04d}.dpx",
    first: int = 0,
    holes: Iterable[int] = (),
    bits: int = 0,
    told: dict[str, Any] | None = None,
) -> Path:
    """Write pictures as a run from a number on, those of the holes left out; return the folder."""
    folder.mkdir(parents=True, exist_ok=True)
    gone = set(holes)
    for number, pixels in enumerate(pictures, start=first):
        if number not in gone:
            write_still(folder / name.format(number), pixels, bits=bits, told=told)
    return folder


def deep(pixels: NDArray[np.uint8]) -> NDArray[np.uint16]:
    """Return 8-bit pixels spread over 16 bits."""
    return (pixels.astype(np.uint16) * 257).astype(np.uint16)


def in_a_gate(
    pixels: NDArray[np.uint8], size: tuple[int, int], live: tuple[int, int, int, int], place: int
) -> NDArray[np.uint8]:
    """Return a picture as a scan shows it: a black gate, perforations at the left, weaving."""
    wide, high = size
    left, top, right, bottom = live
    rng = np.random.default_rng(place)
    scan = np.full((high, wide, 3), 22, np.uint8)
    dx, dy = round(1.2 * np.sin(place)), round(0.9 * np.cos(2 * place))
    for k in range(4):
        y = high // 16 + k * high // 4 + dy
        cv2.rectangle(
            scan, (left // 3 + dx, y), (left * 2 // 3 + dx, y + high // 10), (205,) * 3, -1
        )
    seen = cv2.resize(pixels, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
    scan[top:bottom, left:right] = seen
    grain = rng.normal(0, 2.0, (high, wide, 1))
    return np.clip(scan + grain, 0, 255).astype(np.uint8)
