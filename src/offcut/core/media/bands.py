"""Bands: pictures of which only some rows of blocks are decoded, where a codec keeps rows apart.

In ProRes (SMPTE RDD 36:2015) and VC-3, known as DNxHD (SMPTE ST 2019-1:2008), rows of blocks 16
lines high are coded each by itself, and a table says where each begins. A packet with fewer rows
and a table to match is a picture of fewer lines, every one of them as it is in the whole picture.
(Both layouts from memory, and held against what FFmpeg decodes.)
"""

from __future__ import annotations

import struct
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

BLOCK = 16
"""Lines in a row of blocks."""


@dataclass(frozen=True)
class Bands:
    """Rows of blocks, rising, of pictures ``height`` lines high."""

    height: int
    rows: tuple[int, ...]

    @property
    def lines(self) -> int:
        """How many lines a picture of these rows alone has."""
        return BLOCK * len(self.rows)

    @property
    def share(self) -> float:
        """How much of a picture the rows are."""
        return len(self.rows) / _rows_in(self.height)

    @cached_property
    def _places(self) -> NDArray[np.int64]:
        places = np.zeros(_rows_in(self.height), np.int64)
        places[list(self.rows)] = np.arange(len(self.rows))
        return places

    def places(self, lines: NDArray[np.int64]) -> NDArray[np.int64]:
        """Return where lines of the whole picture lie in one of these rows alone."""
        return self._places[lines // BLOCK] * BLOCK + lines % BLOCK

    def narrowed(self, codec: str, packet: av.Packet[Any]) -> av.Packet[Any]:
        """Return a packet of these rows alone, or the packet itself where it is not as expected."""
        cut = _CUTS.get(codec)
        if cut is None or packet.size == 0 or packet.is_discard:
            return packet
        data = cut(bytes(packet), self)
        if data is None:
            return packet
        narrow: av.Packet[Any] = av.Packet(data)
        narrow.pts, narrow.dts, narrow.duration = packet.pts, packet.dts, packet.duration
        if packet.time_base is not None:
            narrow.time_base = packet.time_base
        narrow.is_keyframe = packet.is_keyframe
        return narrow


def _rows_in(height: int) -> int:
    return -(-height // BLOCK)


def _prores(data: bytes, bands: Bands) -> bytes | None:
    """Return a ProRes frame of some rows of slices; None for one in fields, or of another size."""
    try:
        _, mark, header = struct.unpack_from(">I4sH", data)
        width, height, how = struct.unpack_from(">HHB", data, 16)
        picture = 8 + header
        long, _, slices, shape = struct.unpack_from(">BIHB", data, picture)
    except struct.error:
        return None
    rows, in_fields = _rows_in(height), how & 0x0C
    if mark != b"icpf" or in_fields or rows != _rows_in(bands.height) or shape & 15:
        return None
    across, most = -(-width // BLOCK), shape >> 4
    each = (across >> most) + (across & ((1 << most) - 1)).bit_count()  # slices in a row
    table = picture + (long >> 3)
    starts = table + 2 * each * rows
    if slices not in (0, each * rows) or starts > len(data):
        return None
    sizes = np.frombuffer(data, ">u2", each * rows, table).astype(np.int64)
    at = starts + np.concatenate([[0], np.cumsum(sizes.reshape(rows, each).sum(axis=1))])
    if at[-1] > len(data):
        return None
    kept = [data[table + 2 * each * r : table + 2 * each * (r + 1)] for r in bands.rows]
    kept += [data[at[r] : at[r + 1]] for r in bands.rows]
    body = b"".join(kept)
    head = bytearray(data[8:table])
    struct.pack_into(">H", head, 10, bands.lines)
    struct.pack_into(">IH", head, header + 1, (long >> 3) + len(body), each * len(bands.rows))
    return struct.pack(">I4s", 8 + len(head) + len(body), b"icpf") + head + body


_HEAD, _TABLE, _COUNT = 0x280, 0x170, 0x16C
"""Of a VC-3 frame: the length of its header, and where the table of rows and their number are.
With more rows than fit into it (UHD) the header is as long as their table."""
_FIT = (_HEAD - _TABLE) // 4


def _dnxhd(data: bytes, bands: Bands) -> bytes | None:
    """Return a VC-3 frame of some rows; None for one in fields, or of another size."""
    try:
        (height,) = struct.unpack_from(">H", data, 0x18)
        (rows,) = struct.unpack_from(">H", data, _COUNT)
    except struct.error:
        return None
    known = data[:2] == b"\0\0" and data[4] in (1, 2, 3) and not data[5] & 2
    if not known or rows != _rows_in(bands.height) or _rows_in(height) != rows:
        return None
    begin = _HEAD if rows <= _FIT else _TABLE + 4 * rows
    if begin > len(data) or len(bands.rows) > _FIT:
        return None
    scan = np.frombuffer(data, ">u4", rows, _TABLE).astype(np.int64)
    ends = np.append(scan[1:], len(data) - begin)
    if scan[0] < 0 or (ends < scan).any():
        return None
    if rows <= _FIT:  # the table alone leads to other rows; some kinds must keep their size
        head = bytearray(data)
        at = scan[list(bands.rows)]
    else:
        kept = [data[begin + scan[r] : begin + ends[r]] for r in bands.rows]
        at = np.concatenate([[0], np.cumsum([len(k) for k in kept])])[:-1]
        head = bytearray(data[:_HEAD])
        struct.pack_into(">H", head, 2, _HEAD)
        head += b"".join(kept)
    struct.pack_into(">H", head, 0x18, bands.lines)
    struct.pack_into(">H", head, _COUNT, len(bands.rows))
    head[_TABLE : _TABLE + 4 * len(at)] = at.astype(">u4").tobytes()
    return bytes(head)


_CUTS: dict[str, Callable[[bytes, Bands], bytes | None]] = {"prores": _prores, "dnxhd": _dnxhd}
_WORDS = ("ProRes", "DNxHD")


def rows_apart(codec: str) -> bool:
    """Tell whether a codec, as `Media.codec` says it in words, keeps rows of blocks apart."""
    return codec in _WORDS


def bands_with(height: int, lines: NDArray[np.int64]) -> Bands:
    """Return the rows of blocks that hold lines of a picture ``height`` lines high."""
    rows: Sequence[int] = np.unique(lines // BLOCK).tolist()
    return Bands(height, tuple(rows))
