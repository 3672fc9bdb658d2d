"""Found in the film: what there is of each sort, how often and for how long."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from offcut.core.facts.face_sizes import SIZES
from offcut.core.facts.fact import USUAL, Fact, FactCertainty, Sort
from offcut.core.facts.fact_words import value_words

OVER_A_CUT = "speech over a cut"
BOTH_SIDES = "on both sides of a cut"
_HEADS = (
    ("Camera", (Sort.CAMERA, Sort.STEADINESS)),
    ("Light", (Sort.LIGHT,)),
    ("Sharpness", (Sort.FOCUS,)),
    ("Faces", (Sort.FACES,)),
    ("Sound", (Sort.SOUND,)),
    ("Colour", (Sort.COLOUR,)),
    ("Text", (Sort.TEXT,)),
    ("No picture of the film", (Sort.PART,)),
)
_USUAL = USUAL - {(Sort.CAMERA, "still"), (Sort.FACES, 0)}
"""Where the camera stands and where nobody is can be looked for."""
_TOO = {"dark": "too dark", "burnt out": "burnt out"}
_ORDER = (
    "pan right", "pan left", "tilt up", "tilt down", "zoom in", "zoom out", "roll right",
    "roll left", "whip", "travel", "still", "strong", "medium", "slight", "dark", "low", "bright",
    "burnt out", "soft", *reversed(SIZES), BOTH_SIDES, "0", "speech", "perhaps speech", OVER_A_CUT,
    "silence", "black", "white", "bars", "tone", "leader", "slate", "still held",
)  # fmt: skip
_BESIDE = 0.5
"""Seconds before and after a cut that speech runs over."""


@dataclass(frozen=True)
class Found:
    """One thing that was found: under which head, in words, and every stretch of it."""

    head: str
    words: str
    facts: tuple[Fact, ...]

    @property
    def frames(self) -> int:
        """Frames together."""
        return sum(f.length for f in self.facts)

    @property
    def key(self) -> tuple[str, str]:
        """What tells it from all others."""
        return self.head, self.words


def found_in(facts: Sequence[Fact], cuts: Iterable[int] = (), rate: float = 25.0) -> list[Found]:
    """Return what was found, by head and in a steady order; what is as usual is left out.

    ``cuts`` are the seams that count, by their frames: where speech runs over one is told too.
    """
    made = []
    joins = sorted(cuts)
    every = [*facts, *over_cuts(facts, joins, rate), *on_both_sides(facts, joins, rate)]
    for head, sorts in _HEADS:
        groups: dict[tuple[int, str], list[Fact]] = {}
        for fact in every:
            if fact.sort in sorts and (fact.sort, fact.value) not in _USUAL:
                groups.setdefault(_group_of(fact), []).append(fact)
        made += [
            Found(head, words, tuple(groups[key])) for key in sorted(groups) for words in (key[1],)
        ]
    return made


def _group_of(fact: Fact) -> tuple[int, str]:
    told = str(fact.value)
    if fact.sort is Sort.FACES and fact.value == BOTH_SIDES:
        words = told
    elif fact.sort is Sort.FACES:
        told = str(fact.figures.get("size", "")) if fact.value else "0"
        words = told if fact.value else "nobody"
    elif fact.sort is Sort.PART:
        told = "still held" if told == "still" else told
        words = value_words(fact.sort, fact.value)
    else:
        words = _TOO.get(told) or value_words(fact.sort, fact.value)
    return (_ORDER.index(told) if told in _ORDER else len(_ORDER)), words


def over_cuts(facts: Sequence[Fact], cuts: Iterable[int], rate: float) -> list[Fact]:
    """Return where speech runs over a cut, as stretches about it."""
    beside = max(1, round(_BESIDE * rate))
    spoken = [f for f in facts if f.sort is Sort.SOUND and f.value == "speech"]
    made, at = [], 0
    for cut in sorted(cuts):
        while at < len(spoken) and spoken[at].end <= cut + 1:
            at += 1
        if at < len(spoken) and spoken[at].start < cut - 1:
            a, b = max(spoken[at].start, cut - beside), min(spoken[at].end, cut + beside)
            made.append(Fact(Sort.SOUND, OVER_A_CUT, a, b, FactCertainty.SURE, {"cut": float(cut)}))
    return made


def on_both_sides(facts: Sequence[Fact], cuts: Iterable[int], rate: float) -> list[Fact]:
    """Return where as many faces, as large, are seen before and after a cut, as stretches about it.

    So it is where a person goes on over a jump cut.
    """
    beside = max(1, round(_BESIDE * rate))
    ends = {f.end: f for f in facts if f.sort is Sort.FACES and f.value}
    starts = {f.start: f for f in facts if f.sort is Sort.FACES and f.value}
    made = []
    for cut in cuts:
        before, after = ends.get(cut), starts.get(cut)
        if before is None or after is None or before.value != after.value:
            continue
        if before.figures.get("size") == after.figures.get("size"):
            a, b = max(before.start, cut - beside), min(after.end, cut + beside)
            made.append(
                Fact(Sort.FACES, BOTH_SIDES, a, b, FactCertainty.LIKELY, {"cut": float(cut)})
            )
    return made
