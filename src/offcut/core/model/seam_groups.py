"""Groups of seams: of one certainty, or with one reason, taken together for one action."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from offcut.core.model.seam import FIELDS, Certainty, Seam

_REASONS = {
    "flash": "a flash",
    "passer": "something crossing the lens",
    "light": "only a change of light",
    "alike": "a pair that looks alike",
    "motion": "much moving around",
    "flicker": "a flicker around",
    "part": "most of the picture found again",
    "misfit": "a mix that fits poorly",
    "little": "little change in all",
    "damage": "damaged pictures beside it",
}


_KINDS = {"stop": "a camera stop", FIELDS: "between two fields"}
"""Reasons that say what a seam is, not whether it is one."""


@dataclass(frozen=True, slots=True)
class SeamGroup:
    """Open seams that share a certainty or a reason against them.

    Attributes: ``words`` what they share; ``ids`` theirs, in order of frame; ``against`` True
    for a reason to doubt.
    """

    words: str
    ids: tuple[int, ...]
    against: bool


def seam_groups(seams: Iterable[Seam]) -> tuple[SeamGroup, ...]:
    """Return the groups there are among the seams not judged yet: certainties, kinds, reasons.

    A seam belongs to every reason it carries; the reasons with most seams come first.
    """
    open_ones = sorted((s for s in seams if not s.judged), key=lambda s: s.frame)
    found = [
        SeamGroup(c.value, ids, False)
        for c in reversed(Certainty)
        if (ids := tuple(s.id for s in open_ones if s.certainty is c))
    ]
    for code, words in _KINDS.items():
        ids = tuple(s.id for s in open_ones if any(r.code == code for r in s.reasons))
        if ids:
            found.append(SeamGroup(words, ids, False))
    by_code: dict[str, list[int]] = {}
    for seam in open_ones:
        for code in {r.code for r in seam.reasons if r.against and r.code}:
            by_code.setdefault(code, []).append(seam.id)
    ordered = sorted(by_code.items(), key=lambda item: (-len(item[1]), item[0]))
    found += [SeamGroup(_REASONS.get(code, code), tuple(ids), True) for code, ids in ordered]
    return tuple(found)
