"""Changes: what happened to each shot from one version to the other, as values."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from offcut.core.model.seam import Certainty, Reason

Span = tuple[int, int]


class What(StrEnum):
    """What happened to a shot."""

    SAME = "same"
    SHORTER = "shorter"
    LONGER = "longer"
    OTHER = "other picture"
    NEW = "new"
    GONE = "gone"


@dataclass(frozen=True, slots=True)
class Change:
    """What happened to one shot, told in frames of both versions.

    Attributes: ``old`` and ``new`` frames [start, end) of the shot in each, None where it is not
    there; ``head`` and ``tail`` frames added (+) or taken away (-) at either end, in frames of the
    new version; ``moved`` True where it lies in another place among its neighbours; ``speed`` old
    frames a new one; ``offset`` old frame = new frame + offset where both show the same, None
    where nothing does; ``reasons`` what speaks for it and against it; ``by_hand`` True where a
    person said so.
    """

    what: What
    old: Span | None
    new: Span | None
    head: int = 0
    tail: int = 0
    moved: bool = False
    certainty: Certainty = Certainty.SURE
    reasons: tuple[Reason, ...] = ()
    speed: Fraction = Fraction(1)
    offset: int | None = None
    by_hand: bool = False

    @property
    def alike(self) -> bool:
        """True where nothing happened to the shot, not even that it moved."""
        return self.what is What.SAME and not self.moved

    def is_of(self, other: Change) -> bool:
        """True where both are about the same shots."""
        return (self.old, self.new) == (other.old, other.new)

    @property
    def words(self) -> str:
        """What happened, in a few plain words."""
        said = [self._ends()] if self.what not in (What.SAME, What.NEW, What.GONE) else []
        if self.what is What.NEW and self.new:
            said.append(f"a new shot of {frames_words(self.new[1] - self.new[0])}")
        if self.what is What.GONE and self.old:
            said.append(f"gone, {frames_words(self.old[1] - self.old[0])}")
        if self.moved:
            said.append("in another place")
        return ", ".join(w for w in said if w) or "the same"

    def _ends(self) -> str:
        if self.what is What.OTHER:
            return "same place, other picture"
        if self.speed != 1:
            return "backwards" if self.speed < 0 else f"at {float(self.speed):.0%} speed"
        ends = [(self.head, "head"), (self.tail, "tail")]
        said = [
            f"{frames_words(abs(n))} {'more' if n > 0 else 'off'} at its {end}"
            for n, end in ends
            if n
        ]
        return ", ".join(said)


def frames_words(count: int) -> str:
    """Return a number of frames in words."""
    return f"{count} frame{'' if count == 1 else 's'}"


@dataclass(frozen=True, slots=True)
class Comparison:
    """What became of every shot, in the new version's order; those that are gone where they were.

    Attributes: ``facts`` what is so all along (another rate, a new grade, a crop), in words;
    ``speed`` old frames a new one over the whole, 1 unless the rate was converted.
    """

    changes: tuple[Change, ...]
    facts: tuple[str, ...] = ()
    speed: Fraction = Fraction(1)

    @property
    def tied(self) -> bool:
        """False where the two have nothing in common: they are two films."""
        return any(c.old and c.new and c.what is not What.OTHER for c in self.changes)

    def count(self, what: What) -> int:
        """Return to how many shots this happened."""
        return sum(c.what is what for c in self.changes)

    @property
    def counts(self) -> dict[str, int]:
        """How many shots are the same, changed, moved and so on, in words that are shown."""
        return {
            "the same": sum(c.alike for c in self.changes),
            "shorter or longer": self.count(What.SHORTER) + self.count(What.LONGER),
            "other picture": self.count(What.OTHER),
            "new": self.count(What.NEW),
            "gone": self.count(What.GONE),
            "in another place": sum(c.moved for c in self.changes),
        }


def in_order(new_order: Sequence[Change], gone: Sequence[Change]) -> tuple[Change, ...]:
    """Return changes in the new version's order, each that is gone after the one that lay before
    it in the old version.
    """
    made = list(new_order)
    for change in sorted(gone, key=lambda c: c.old or (0, 0)):
        assert change.old is not None
        before = [
            (c.old[1], n)
            for n, c in enumerate(made)
            if c.old is not None and not c.moved and c.old[0] <= change.old[0]
        ]
        made.insert(max(before)[1] + 1 if before else 0, change)
    return tuple(made)
