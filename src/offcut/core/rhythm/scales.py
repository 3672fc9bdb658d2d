"""Scales that charts on screen and on paper share: ticks, dashes, places, strokes of joins."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np

from offcut.core.model.kinds import KINDS, spans
from offcut.core.model.seam import Kind
from offcut.core.rhythm.comparing import running_words
from offcut.core.rhythm.lengths import Floats, ShotLengths
from offcut.core.rhythm.whole_study import WholeStudy

STROKES: tuple[tuple[float, ...], ...] = (
    (5, 2), (1.2, 1.6), (7, 2, 1.4, 2), (11, 3), (3, 1.2), (7, 2, 1.4, 2, 1.4, 2),
)  # fmt: skip
"""The dashes of what is beside, one after the other: on, off, on, off, in widths of the line."""
_FEW_TICKS = 14
_TICKS: tuple[tuple[float, ...], ...] = ((1, 1.5, 2, 3, 4, 5, 7), (1, 2, 5), (1, 3), (1,))


def nice_ticks(low: float, high: float, most: int = _FEW_TICKS) -> list[float]:
    """Return round lengths in seconds along a logarithmic scale, as many as fit, at most ``most``.

    With a factor of twelve or less they are the finer ones.
    """
    first = math.floor(math.log10(max(1e-3, low)))
    for steps in _TICKS if high <= 12 * low else _TICKS[1:]:
        ticks = [s * 10.0**d for d in range(first, first + 9) for s in steps]
        inside = [t for t in ticks if low * 0.999 <= t <= high * 1.001]
        if len(inside) <= most:
            break
    return inside


def length_tick(value: float) -> str:
    """Return a length as it stands along a scale: 0.5, 2, 1:30."""
    return running_words(value) if value >= 60 else f"{value:g}"


def stretched(study: WholeStudy, other: ShotLengths, moments: Floats) -> Floats:
    """Return where moments of something beside lie on the study's own axis.

    It begins where what counts here begins; it ends where that ends too, unless true time is shown.
    """
    here, there = span_of(study.lengths), span_of(other)
    if here is None or there is None:
        return moments
    scale = 1.0
    if not study.manner.true_time:
        scale = (here[1] - here[0]) / max(1e-9, there[1] - there[0])
    return np.asarray(here[0] + (moments - there[0]) * scale, np.float64)


def span_of(lengths: ShotLengths) -> tuple[float, float] | None:
    """Return where the shots that count begin and end on their axis, None where none does."""
    places = lengths.places
    if not len(places):
        return None
    return float(lengths.begins[places[0]]), float(lengths.ends[places[-1]])


def join_strokes(lengths: ShotLengths, least: float) -> Floats:
    """Return gradual joins as pencil strokes, float64 (n, 4): x and y of both ends.

    A dissolve is two crossing lines over its span, a fade two Vs point to point with a gap, a wipe
    one slanted line, a whip a zigzag. x is in seconds on the axis, a span at least ``2 * least``
    wide; y goes from 0 at the foot to 1.
    """
    strokes: list[tuple[float, float, float, float]] = []
    for place in np.flatnonzero(lengths.mixed > 0).tolist():
        middle = float(lengths.begins[place])
        half = max(least, float(lengths.mixed[place]) / 2)
        a, b = middle - half, middle + half
        kind = lengths.shots[place].kind
        for line in KINDS[kind if kind is not None and spans(kind) else Kind.WIPE].strokes:
            points = [(a + (b - a) * along, up) for along, up in line]
            strokes += [(*one, *other) for one, other in pairwise(points)]
    return np.array(strokes, np.float64).reshape(-1, 4)
