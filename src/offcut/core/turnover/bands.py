"""Bands of scenes on paper: the strokes of each pattern, as lines."""

from __future__ import annotations

from offcut.core.model.scene_look import Pattern

Stroke = tuple[float, float, float, float]
"""A line from x, y to x, y; it may reach beyond the band, which cuts it off."""


def strokes_of(pattern: Pattern, wide: float, high: float) -> list[Stroke]:
    """Return the strokes of a pattern in a band, from its upper left corner, in its own unit."""
    step = high * 1.5
    places = [k * step - high for k in range(int((wide + 2 * high) / step) + 2)]
    middle = high / 2
    if pattern is Pattern.SLANT:
        return [(x, high, x + high, 0.0) for x in places]
    if pattern is Pattern.CHECK:
        return [s for x in places for s in ((x, high, x + high, 0.0), (x, 0.0, x + high, high))]
    if pattern is Pattern.BAR:
        return [(x, 0.0, x, high) for x in places]
    if pattern is Pattern.DOTS:
        return [(x, middle, x + high * 0.2, middle) for x in places]
    if pattern is Pattern.LEVEL:
        return [(0.0, high * share, wide, high * share) for share in (0.25, 0.75)]
    if pattern is Pattern.HALF:
        return [(0.0, high * share, wide, high * share) for share in (0.6, 0.75, 0.9)]
    if pattern is Pattern.CROSS:
        return [(0.0, middle, wide, middle), *((x, 0.0, x, high) for x in places)]
    return []
