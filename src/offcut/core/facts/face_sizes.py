"""Face sizes: how many faces a shot has, and by the largest how near it is taken."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import groupby, pairwise

from offcut.core.facts.fact import Fact, FactCertainty, Figure, Sort
from offcut.core.measure.faces import SURE_SCORE, Face

SIZES = ("far", "whole", "half", "close", "very close")
LIMITS = (0.055, 0.13, 0.27, 0.52)
"""The height of the largest face, brow to chin, beside the picture's, from which each is the next.

A head is an eighth of a body and a face two thirds of a head (common practice, no published
source): a body that fills the picture has a face of a twelfth, one seen to the waist of a fifth.
"""


def size_of(height: float) -> str:
    """Return how near a face of a height, as a share of the picture's, is taken."""
    return SIZES[sum(height >= limit for limit in LIMITS)]


def faces_of(looked: Mapping[int, list[Face]], start: int, end: int) -> list[Fact]:
    """Return how many faces there are in one shot [start, end), from what some of its frames show.

    A fact goes half way to the frame where it is another; where a face is not sure, it is told as
    perhaps.
    """
    frames = sorted(f for f in looked if start <= f < end)
    if not frames:
        return []
    edges = [start, *((a + b + 1) // 2 for a, b in pairwise(frames)), end]
    seen = [(*ends, _seen(looked[f])) for f, ends in zip(frames, pairwise(edges), strict=True)]
    facts = []
    for (count, size, sure), group in groupby(seen, key=lambda s: s[2]):
        stretch = list(group)
        figures: dict[str, Figure] = {"size": size} if size else {}
        certainty = FactCertainty.SURE if sure else FactCertainty.PERHAPS
        facts.append(Fact(Sort.FACES, count, stretch[0][0], stretch[-1][1], certainty, figures))
    return facts


def _seen(faces: list[Face]) -> tuple[int, str, bool]:
    """Return the number of faces, the size of the largest, and whether that is sure."""
    if not faces:
        return 0, "", True
    return len(faces), size_of(max(f.height for f in faces)), faces_sure(faces)


def faces_sure(faces: list[Face]) -> bool:
    """Tell whether each of some faces is sure."""
    return all(f.score >= SURE_SCORE for f in faces)
