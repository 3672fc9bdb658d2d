"""Texts: whether letters stand in a shot, and where; by what a few of its frames show."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import groupby, pairwise

from offcut.core.facts.fact import Fact, FactCertainty, Figure, Sort
from offcut.core.measure.lettering import COLOURS, Lettered, Text

VALUE = "text"
_PERHAPS, _LIKELY = 0.85, 0.95
"""Scores from which one line in one frame is told as perhaps, and as likely."""
_SAME = 0.5
"""Two lines are the same where they share so much of the smaller one."""


def texts_of(looked: Mapping[int, Lettered], start: int, end: int) -> list[Fact]:
    """Return where letters stand in one shot [start, end), from what some of its frames show.

    A fact goes half way to the frame that shows none; it is sure where the same line stands in two
    frames that were looked at one after the other.
    """
    frames = sorted(f for f in looked if start <= f < end)
    edges = [start, *((a + b + 1) // 2 for a, b in pairwise(frames)), end]
    seen = [(looked[f].texts, *ends) for f, ends in zip(frames, pairwise(edges), strict=False)]
    seen = [([t for t in texts if t.score >= _PERHAPS], a, b) for texts, a, b in seen]
    facts = []
    for has, group in groupby(seen, key=lambda s: bool(s[0])):
        stretch = list(group)
        if not has:
            continue
        stands = any(_stands(one[0], other[0]) for one, other in pairwise(stretch))
        best = max((t for texts, _, _ in stretch for t in texts), key=lambda t: t.score)
        certainty = (
            FactCertainty.SURE if stands
            else FactCertainty.LIKELY if best.score >= _LIKELY
            else FactCertainty.PERHAPS
        )  # fmt: skip
        texts = max((s[0] for s in stretch), key=len)
        figures: dict[str, Figure] = {"where": where_of(texts), "lines": float(len(texts))}
        facts.append(Fact(Sort.TEXT, VALUE, stretch[0][1], stretch[-1][2], certainty, figures))
    return facts


def where_of(texts: list[Text]) -> str:
    """Return where lines stand: at the head, the foot, in the middle, or all over."""
    places = {"head" if t.y < 0.3 else "foot" if t.y > 0.7 else "middle" for t in texts}
    return places.pop() if len(places) == 1 else "all over"


def _stands(before: list[Text], after: list[Text]) -> bool:
    return any(_shared(a, b) > _SAME for a in before for b in after)


def _shared(a: Text, b: Text) -> float:
    """Return the share of the smaller of two lines that lies in the other."""
    across = min(a.x + a.width / 2, b.x + b.width / 2) - max(a.x - a.width / 2, b.x - b.width / 2)
    down = min(a.y + a.height / 2, b.y + b.height / 2) - max(a.y - a.height / 2, b.y - b.height / 2)
    least = min(a.width * a.height, b.width * b.height)
    return max(0.0, across) * max(0.0, down) / max(least, 1e-9)


def five_colours(looked: Mapping[int, Lettered], start: int, end: int) -> tuple[str, ...]:
    """Return the colours that hold most of the middle one of a shot's frames that were looked at.

    Each as #rrggbb, the one that holds most first; empty where nobody looked.
    """
    frames = sorted(f for f in looked if start <= f < end)
    if not frames:
        return ()
    colours = looked[frames[len(frames) // 2]].colours
    shown = [c for c in colours[:COLOURS] if c[3] > 0]
    return tuple("#" + "".join(f"{round(float(v)):02x}" for v in c[:3]) for c in shown)
