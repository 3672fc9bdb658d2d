"""The curve that small pictures are seen through: full range and high dynamic range as others are.

Judging was trained on pictures of usual range and curve. Codes of full range are laid into the
limited one; PQ (SMPTE ST 2084) and HLG (ARIB STD-B67) are turned to display light, white at 203
nits (ITU-R BT.2408), what is lighter bent towards white, and coded by a power of 1/2.4. Constants
from memory.
"""

from __future__ import annotations

from functools import cache

import av
import numpy as np
from numpy.typing import NDArray

PQ, HLG = 16, 18
"""Transfer characteristics as ITU-T H.273 numbers them."""
_FULL = 2
_KNEE = 0.8


def curve_of(frame: av.VideoFrame) -> NDArray[np.uint8] | None:
    """Return the table (256,) that a frame's 8 bit luma is seen through; None as it is."""
    full = int(frame.color_range) == _FULL or frame.format.name.startswith("yuvj")
    transfer = int(frame.color_trc)
    if not full and transfer not in (PQ, HLG):
        return None
    return _table(transfer if transfer in (PQ, HLG) else 0, full)


@cache
def _table(transfer: int, full: bool) -> NDArray[np.uint8]:
    code = np.arange(256.0)
    value = code / 255 if full else np.clip((code - 16) / 219, 0, 1)
    if transfer == PQ:
        power = value ** (1 / 78.84375)
        light = np.maximum(power - 0.8359375, 0) / (18.8515625 - 18.6875 * power)
        value = _shown(light ** (1 / 0.1593017578125) * 10000 / 203)
    elif transfer == HLG:
        scene = np.where(
            value <= 0.5,
            value**2 / 3,
            (np.exp((value - 0.55991073) / 0.17883277) + 0.28466892) / 12,
        )
        value = _shown(scene / 0.265)
    return np.asarray(np.clip(np.rint(16 + 219 * value), 0, 255), np.uint8)


def _shown(light: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return light, 1 for white, as a screen's code of 0 to 1; what is lighter is bent."""
    over = np.maximum(light - _KNEE, 0)
    bent = np.where(light > _KNEE, _KNEE + (1 - _KNEE) * over / (over + 1 - _KNEE), light)
    return np.asarray(bent ** (1 / 2.4))
