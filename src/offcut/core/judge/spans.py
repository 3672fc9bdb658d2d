"""Spans: every place where a seam that takes its time is thinkable, by any of its ways."""

from __future__ import annotations

from offcut.core.judge.bursts import moves, stops
from offcut.core.judge.dips import dips
from offcut.core.judge.fades import fades
from offcut.core.judge.mixes import crossings, mixes
from offcut.core.judge.planes import Planes
from offcut.core.judge.span import Span
from offcut.core.judge.wipes import wipes


def thinkable_spans(planes: Planes) -> list[Span]:
    """Return all thinkable seams with a span; where several kinds overlap, all of them.

    Mixes and wipes are looked for as if nothing flashed.
    """
    calm = planes.calm()
    found = [*fades(planes), *wipes(calm), *mixes(calm), *moves(planes), *stops(planes)]
    found += crossings(calm)
    known = {(s.start, s.end, s.kind) for s in found}
    return [*found, *(s for s in dips(calm) if (s.start, s.end, s.kind) not in known)]
