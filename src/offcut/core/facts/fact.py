"""A fact: what measuring says is in a stretch of a film, and how sure it is."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from itertools import pairwise
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray


class Sort(StrEnum):
    """What facts are about, in the order they are told."""

    CAMERA = "camera"
    STEADINESS = "steadiness"
    LIGHT = "light"
    FOCUS = "focus"
    FACES = "faces"
    SOUND = "sound"
    LOUDNESS = "loudness"
    PART = "part"
    TEXT = "text"
    COLOUR = "colour"


SORTS = tuple(Sort)

USUAL: frozenset[tuple[Sort, str | int | float]] = frozenset(
    {
        (Sort.CAMERA, "still"),
        (Sort.STEADINESS, "steady"),
        (Sort.LIGHT, "normal"),
        (Sort.FOCUS, "sharp"),
        (Sort.FACES, 0),
        (Sort.PART, "programme"),
    }
)
"""What needs no telling where a line or a lane says what is special of a shot."""


class FactCertainty(StrEnum):
    """How sure a fact is; below the last nothing is told."""

    SURE = "sure"
    LIKELY = "likely"
    PERHAPS = "perhaps"


Figure = float | str | tuple[str, ...]
"""What was measured: a number, a word, or several."""
_NONE: Mapping[str, Figure] = MappingProxyType({})


@dataclass(frozen=True, slots=True)
class Fact:
    """What is true from frame ``start`` to the one before ``end``.

    Attributes: ``value`` a word, or a number; ``certainty`` how sure that
    is; ``figures`` what was measured, by name (``speed`` in picture widths a second).
    """

    sort: Sort
    value: str | float | int
    start: int
    end: int
    certainty: FactCertainty = FactCertainty.SURE
    figures: Mapping[str, Figure] = field(default_factory=lambda: _NONE, hash=False)

    @property
    def length(self) -> int:
        """Frames."""
        return self.end - self.start

    def number(self, name: str, otherwise: float = 0.0) -> float:
        """Return a figure that is a number; ``otherwise`` where there is none of the name."""
        told = self.figures.get(name)
        return float(told) if isinstance(told, int | float) else otherwise

    def moved(self, frames: int) -> Fact:
        """Return the fact so many frames later."""
        return replace(self, start=self.start + frames, end=self.end + frames)


def stretches(values: NDArray[np.generic]) -> Iterator[tuple[int, int]]:
    """Yield where values stay the same, as (first, last + 1), all of them in order."""
    if not len(values):
        return
    turns = np.flatnonzero(values[1:] != values[:-1]) + 1
    edges = [0, *turns.tolist(), len(values)]
    yield from pairwise(edges)


def without_short(values: NDArray[np.int64], least: int) -> NDArray[np.int64]:
    """Return values where each stretch shorter than ``least`` is given to its longer neighbour.

    The shortest goes first; a single stretch stays however short it is.
    """
    made = values.copy()
    while True:
        runs = list(stretches(made))
        short = [(b - a, a, b) for a, b in runs if b - a < least]
        if not short or len(runs) == 1:
            return made
        _, a, b = min(short)
        place = runs.index((a, b))
        before = runs[place - 1] if place else None
        after = runs[place + 1] if place + 1 < len(runs) else None
        longer = max((r for r in (before, after) if r is not None), key=lambda r: r[1] - r[0])
        made[a:b] = made[longer[0]]
