"""What the band of a scene looks like: a pattern that carries it, and a tint that helps."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from typing import NamedTuple


class Pattern(StrEnum):
    """How a band is drawn; it reads in greys."""

    PLAIN = "plain"
    SLANT = "slant"
    CHECK = "check"
    BAR = "bar"
    DOTS = "dots"
    LEVEL = "level"
    HALF = "half"
    CROSS = "cross"


class Tint(StrEnum):
    """What a band is coloured with."""

    STONE = "stone"
    OCHRE = "ochre"
    SEA = "sea"
    BRICK = "brick"
    MOSS = "moss"
    PLUM = "plum"


TINT_RGB = {
    Tint.STONE: (154, 154, 154),
    Tint.OCHRE: (190, 154, 80),
    Tint.SEA: (106, 152, 170),
    Tint.BRICK: (186, 119, 102),
    Tint.MOSS: (134, 159, 110),
    Tint.PLUM: (154, 128, 164),
}


class Stroke(NamedTuple):
    """A line of a pattern from x, y to ``to_x``, ``to_y``, and how thick; a band cuts it off."""

    x: float
    y: float
    to_x: float
    to_y: float
    thick: float


def strokes_of(pattern: Pattern, wide: float, high: float, step: float) -> list[Stroke]:
    """Return the strokes of a pattern in a band, from its upper left corner, ``step`` apart.

    Whoever draws a band, on a screen or on paper, draws these.
    """
    thin = step * 0.24
    across = [k * step - high for k in range(int((wide + 2 * high) / step) + 2)]
    down = [(k + 0.4) * step * 0.7 for k in range(max(1, int(high / (step * 0.7))))]
    rising = [Stroke(x, high, x + high, 0.0, thin) for x in across]
    if pattern is Pattern.SLANT:
        return rising
    if pattern is Pattern.CHECK:
        return rising + [Stroke(x, 0.0, x + high, high, thin) for x in across]
    if pattern is Pattern.BAR:
        return [Stroke(x, 0.0, x, high, step * 0.5) for x in across[::2]]
    if pattern is Pattern.DOTS:
        size = step * 0.36
        rows = [(y, step * 0.5 * (n % 2)) for n, y in enumerate(down)]
        return [
            Stroke(x + aside, y, x + aside + size, y, size) for y, aside in rows for x in across
        ]
    if pattern is Pattern.LEVEL:
        return [Stroke(0.0, y, wide, y, thin) for y in down]
    if pattern is Pattern.HALF:
        return [Stroke(0.0, high * 0.75, wide, high * 0.75, high * 0.5)]
    if pattern is Pattern.CROSS:
        upright = [Stroke(x, 0.0, x, high, thin) for x in across]
        return [Stroke(0.0, high / 2, wide, high / 2, thin), *upright]
    return []


def next_look(taken: Iterable[tuple[Pattern, Tint]]) -> tuple[Pattern, Tint]:
    """Return the pattern and tint of a new scene: a pattern that few have, the next tint."""
    looks = list(taken)
    patterns, tints = list(Pattern), list(Tint)
    pattern = min(patterns, key=lambda p: sum(look[0] is p for look in looks))
    return pattern, tints[len(looks) % len(tints)]
