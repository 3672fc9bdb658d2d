"""Clips: the originals a film may have been made from, as they are held against it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.seam import Certainty, Reason
from offcut.core.model.source import Media
from offcut.core.tally.reframing import PLAIN, Reframing

Floats = NDArray[np.float32]
Span = tuple[int, int]


@dataclass(frozen=True, eq=False)
class Clip:
    """One original.

    Attributes: ``media`` its facts, with the timecode of its first frame; ``reel`` the name its
    header gives it, often empty; ``luma`` float32 (n, 96) the prints of its frames, none where
    they were not measured.
    """

    media: Media
    reel: str = ""
    luma: Floats | None = None


class By(StrEnum):
    """How an original was found."""

    TIMECODE = "timecode"
    NAME = "name"
    PICTURE = "picture"
    HAND = "hand"


@dataclass(frozen=True, slots=True)
class Match:
    """The original of a shot.

    Attributes: ``clip`` its place among the clips; ``first`` its frame at the shot's first, and
    ``speed`` its frames per frame of the film, negative where it runs backwards; ``reframing``
    where the film's picture lies in it; ``apart`` how far apart the pictures are, 0 the same to 2,
    None where they were not compared; ``certainty`` and ``reasons`` what is thought of it.
    """

    clip: int
    first: int
    speed: Fraction
    by: By
    reframing: Reframing = PLAIN
    apart: float | None = None
    certainty: Certainty = Certainty.LIKELY
    reasons: tuple[Reason, ...] = ()

    def span(self, frames: int) -> Span:
        """Return the original's frames [in, out) that so many frames of the film use."""
        long = max(1, round((frames - 1) * abs(self.speed)) + 1)
        if self.speed < 0:
            return self.first + 1 - long, self.first + 1
        return self.first, self.first + long


@dataclass(frozen=True, slots=True)
class OriginalsOfShot:
    """What is known of a shot's original: the likeliest first, none where there is none."""

    shot: Span
    matches: tuple[Match, ...] = ()

    @property
    def best(self) -> Match | None:
        """The likeliest, None where there is none."""
        return self.matches[0] if self.matches else None
