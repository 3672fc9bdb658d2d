"""Colouring: whether a shot is black-and-white, and how warm and how colourful it is."""

from __future__ import annotations

import numpy as np

from offcut.core.facts.fact import Fact, FactCertainty, Figure, Sort
from offcut.core.measure.light import Lights

GREY, PALE, COLOURFUL = "black-and-white", "pale", "colourful"
WARM, COLD = "warm", "cold"
_GREY, _STRONG = 0.05, 0.6
"""How far the colours of a picture lie apart, beside its light: up to which it has none, and from
which it is colourful."""
_LEAN = 0.28
"""By how much red is more than blue, beside the light, in a warm picture."""
_DARK = 0.004


def colour_of(lights: Lights) -> list[Fact]:
    """Return how one shot is coloured, frames from its first on; nothing where it is too dark."""
    n = len(lights.rows)
    known = lights.known & (lights.of("light") / 100 > _DARK)
    if known.sum() < max(1, 0.5 * n):
        return []
    light = lights.of("light")[known] / 100
    span = float(np.median(lights.of("colourful")[known] / light))
    lean = float(np.median(lights.of("warm")[known] / light))
    figures: dict[str, Figure] = {"saturation": round(span, 3), "warmth": round(lean, 3)}
    if span < _GREY:
        value = GREY
    elif abs(lean) >= _LEAN:
        value = WARM if lean > 0 else COLD
    else:
        value = COLOURFUL if span >= _STRONG else PALE
    near = min(abs(span - _GREY) / _GREY, abs(abs(lean) - _LEAN) / _LEAN)
    certainty = FactCertainty.SURE if near > 0.25 else FactCertainty.LIKELY
    return [Fact(Sort.COLOUR, value, 0, n, certainty, figures)]
