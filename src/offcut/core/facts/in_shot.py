"""What is in each shot of a film: the facts, a line of words, and the words it is found by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from offcut.core.facts.fact import Fact
from offcut.core.facts.fact_words import find_words, shot_words
from offcut.core.facts.film_facts import by_shot, kept_facts
from offcut.core.facts.kept_facts import KeptFacts
from offcut.core.facts.query import folded
from offcut.core.model.shots import Shot
from offcut.core.model.source import Source


class InShot(NamedTuple):
    """What is in a shot: ``line`` as people read it, ``sought`` folded, as they look for it.

    ``still`` is the frame that tells most of it, None where it is not known.
    """

    facts: tuple[Fact, ...]
    line: str
    sought: str
    still: int | None = None


NOTHING = InShot((), "", "")
InShots = Mapping[tuple[int, int], InShot]
"""By the shots' frames [start, end)."""


def in_shots(
    source: Source, facts: Sequence[Fact] | None = None, before: InShots | None = None
) -> dict[tuple[int, int], InShot]:
    """Return what is in the shots of a film, by what is kept of it where no facts are given.

    ``before`` is what was told last: a shot whose facts are the same is not put in words anew.
    """
    told = kept_facts(source) if facts is None else facts
    if not told:
        return {}
    kept, made = KeptFacts(source), {}
    for bounds, mine in by_shot(source, told).items():
        known = before.get(bounds) if before is not None else None
        still = kept.still(bounds)
        same = known is not None and known.facts == mine and known.still == still
        made[bounds] = known if same and known is not None else _put(mine, still)
    return made


def _put(facts: tuple[Fact, ...], still: int | None) -> InShot:
    return InShot(facts, shot_words(facts), folded(find_words(facts)), still)


def in_shot(inside: InShots, shot: Shot) -> InShot:
    """Return what is in one shot, nothing where it is not known."""
    return inside.get((shot.start, shot.end), NOTHING)
