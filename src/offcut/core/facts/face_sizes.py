"""Face sizes: how many faces a shot has, and by the largest how near it is taken."""

from __future__ import annotations

from itertools import groupby, pairwise

from offcut.core.facts.fact import Fact, FactCertainty, Figure, Sort
from offcut.core.measure.faces import SURE_SCORE, Face, Looked

SIZES = ("far", "whole", "half", "close", "very close")
LIMITS = (0.055, 0.13, 0.27, 0.52)
"""The height of the largest face, brow to chin, beside the picture's, from which each is the next.

A head is an eighth of a body and a face two thirds of a head (common practice, no published
source): a body that fills the picture has a face of a twelfth, one seen to the waist of a fifth.
"""


NEAR = 0.13
"""From this height on a face is seen where it is not looked at closely too."""


def size_of(height: float) -> str:
    """Return how near a face of a height, as a share of the picture's, is taken."""
    return SIZES[sum(height >= limit for limit in LIMITS)]


def faces_of(looked: Looked, start: int, end: int) -> list[Fact]:
    """Return how many faces there are in one shot [start, end), from what some of its frames show.

    A fact goes half way to the frame where it is another; where a face is not sure, it is told as
    perhaps. Where it was not looked at closely nobody is seen, unless those are that were seen
    closely nearest by: they are too far to be seen there.
    """
    shown = _known({f: looked[f] for f in sorted(looked) if start <= f < end})
    frames = list(shown)
    if not frames:
        return []
    edges = [start, *((a + b + 1) // 2 for a, b in pairwise(frames)), end]
    seen = [(*ends, _seen(shown[f])) for f, ends in zip(frames, pairwise(edges), strict=True)]
    facts = []
    for (count, size, sure), group in groupby(seen, key=lambda s: s[2]):
        stretch = list(group)
        figures: dict[str, Figure] = {"size": size} if size else {}
        certainty = FactCertainty.SURE if sure else FactCertainty.PERHAPS
        facts.append(Fact(Sort.FACES, count, stretch[0][0], stretch[-1][1], certainty, figures))
    return facts


def _known(looked: Looked) -> dict[int, list[Face]]:
    """Return what is known of frames in their order, without those of which nothing is."""
    closely = {f: faces for f, faces in looked.items() if faces is not None}
    known = {}
    for frame, faces in looked.items():
        nearest = closely[min(closely, key=lambda f: abs(f - frame))] if closely else []
        if faces is not None or not nearest or max(f.height for f in nearest) >= NEAR:
            known[frame] = faces or []
    return known


def _seen(faces: list[Face]) -> tuple[int, str, bool]:
    """Return the number of faces, the size of the largest, and whether that is sure."""
    if not faces:
        return 0, "", True
    return len(faces), size_of(max(f.height for f in faces)), faces_sure(faces)


def faces_sure(faces: list[Face]) -> bool:
    """Tell whether each of some faces is sure."""
    return all(f.score >= SURE_SCORE for f in faces)
