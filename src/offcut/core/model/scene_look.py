"""What the band of a scene looks like: a pattern that carries it, and a tint that helps."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum


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


def next_look(taken: Iterable[tuple[Pattern, Tint]]) -> tuple[Pattern, Tint]:
    """Return the pattern and tint of a new scene: a pattern that few have, the next tint."""
    looks = list(taken)
    patterns, tints = list(Pattern), list(Tint)
    pattern = min(patterns, key=lambda p: sum(look[0] is p for look in looks))
    return pattern, tints[len(looks) % len(tints)]
