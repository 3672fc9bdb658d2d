"""Seams: where two shots are joined, how, and what is thought and decided about it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from offcut.core.model.card import NO_CARD, Card

FIELDS = "fields"
"""The code of the reason that says a cut lies between two fields."""


class Kind(StrEnum):
    """How two shots are joined."""

    CUT = "cut"
    DISSOLVE = "dissolve"
    FADE = "fade"
    WIPE = "wipe"
    WHIP = "whip"
    """A join made by movement: a whip pan, a fast zoom, a spin, a tear."""


class Standing(StrEnum):
    """What a person decided about a seam."""

    OPEN = "open"
    KEPT = "kept"
    STRUCK = "struck"


class Origin(StrEnum):
    """Where a seam comes from."""

    FOUND = "found"
    PLACED = "placed"
    LISTED = "listed"


class Certainty(StrEnum):
    """How far the picture and the reasons agree on a seam."""

    SURE = "sure"
    LIKELY = "likely"
    DOUBTFUL = "doubtful"


@dataclass(frozen=True, slots=True)
class Reason:
    """A short, plain statement for or against a seam.

    Attributes: ``text`` the statement; ``weight`` how strongly it speaks, 0 to 1; ``against``
    True when it speaks against the seam; ``code`` a stable word for grouping ("flash").
    """

    text: str
    weight: float = 0.0
    against: bool = False
    code: str = ""


@dataclass(frozen=True, slots=True)
class Former:
    """What a gradual seam was before it was made one cut: kind, and frames before and after."""

    kind: Kind
    before: int
    after: int


@dataclass(frozen=True, slots=True)
class AsFound:
    """What a search knows a seam by: its frame, and whether it is gradual.

    A cut and a gradual seam can lie at one frame; two of one sort cannot.
    """

    frame: int
    gradual: bool


@dataclass(frozen=True, slots=True)
class Seam:
    """The join of two shots.

    Attributes: ``id`` stays with the seam for good; ``frame`` first frame of the later shot;
    ``start`` first mixed frame and ``end`` first clean frame after it (both equal ``frame``
    at a cut); ``score`` 0 to 100; ``opening`` the card of the shot it opens; ``former`` what it
    was before a person made one cut of it; ``as_found`` what a search knows it by where it was
    moved, or made another kind, since: else it lies as it was found.
    """

    id: int
    frame: int
    start: int
    end: int
    kind: Kind = Kind.CUT
    score: float = 0.0
    certainty: Certainty = Certainty.DOUBTFUL
    standing: Standing = Standing.OPEN
    origin: Origin = Origin.FOUND
    reasons: tuple[Reason, ...] = ()
    opening: Card = NO_CARD
    former: Former | None = None
    as_found: AsFound | None = None

    @property
    def found(self) -> AsFound:
        """What a search knows it by."""
        return self.as_found or AsFound(self.frame, self.gradual)

    @property
    def judged(self) -> bool:
        """True once a person has decided or placed it: nothing automatic may move it."""
        return self.standing is not Standing.OPEN or self.origin is Origin.PLACED

    @property
    def gradual(self) -> bool:
        """True when it has a span of its own."""
        return self.end > self.start


def between_fields(seam: Seam) -> bool:
    """Tell whether a cut lies between the fields of its frame, which shows both shots."""
    return any(r.code == FIELDS for r in seam.reasons)
