"""Light in other measures: as printing density in codes of 10 bits, and as a screen has it."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

WHITE, BLACK = 685, 95
DENSITY, GAMMA = 0.002, 0.6
"""Code of 90 % white and of 1 % black, density of a code, gamma of a negative: the conversion of
the Cineon system (Kennel, "Digital Film Scanning and Recording: The Technology and Practice",
SMPTE Journal 103, 1994; values from memory)."""
_OFFSET = 10 ** ((BLACK - WHITE) * DENSITY / GAMMA)


def cineon_light(code: NDArray[Any]) -> NDArray[np.float32]:
    """Return light, 0 at black and 1 at white, of codes 0 to 1023."""
    raw = 10 ** ((np.asarray(code, np.float64) - WHITE) * DENSITY / GAMMA)
    return np.asarray((raw - _OFFSET) / (1 - _OFFSET), np.float32)


def cineon_code(light: NDArray[Any]) -> NDArray[np.float32]:
    """Return codes of light; what is below black becomes its code."""
    raw = np.maximum(np.asarray(light, np.float64), 0) * (1 - _OFFSET) + _OFFSET
    return np.asarray(WHITE + GAMMA / DENSITY * np.log10(raw), np.float32)


def screen_values(light: NDArray[Any]) -> NDArray[np.float32]:
    """Return light, 1 at white, as values of an sRGB screen (IEC 61966-2-1), 0 to 1."""
    held = np.clip(light, 0, 1)
    curve = np.where(held <= 0.0031308, 12.92 * held, 1.055 * held ** (1 / 2.4) - 0.055)
    return np.asarray(curve, np.float32)
