"""A span: where a gradual seam is thinkable, from its first mixed to its first clean frame."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from offcut.core.judge.planes import Floats, Frames
from offcut.core.model.seam import Kind

LONGEST = 121
"""Frames of the longest one that is looked for."""


@dataclass(frozen=True)
class Span:
    """A thinkable seam that takes its time: first mixed frame, first clean frame, and kind.

    Of kind cut it is a camera stop: its frames are flash frames.
    """

    start: int
    end: int
    kind: Kind

    @property
    def middle(self) -> float:
        """Halfway between its first mixed and its first clean frame."""
        return (self.start + self.end) / 2


def best_places(best: Floats, least: float, before: Frames, after: Frames) -> Frames:
    """Return the places that fit best, the best first, none near a better one.

    Each place that is taken takes those from ``before`` frames before it up to ``after`` after it.
    """
    taken = np.zeros(len(best), np.bool_)
    places: list[int] = []
    worthy = np.flatnonzero(best >= least)
    for place in worthy[np.argsort(-best[worthy], kind="stable")].tolist():
        if not taken[place]:
            taken[max(0, place - int(before[place])) : place + int(after[place])] = True
            places.append(place)
    return np.array(places, np.int64)
