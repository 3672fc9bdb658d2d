"""Mixes: dissolves, and whatever else turns one picture into another evenly.

A dissolve is a frame explained by a mix of its two ends with a weight that runs from 0 to 1. With
squared distances only: for t between a and b at share q, the distance of x_t to the mix is
(1-q) d(a,t)² + q d(t,b)² - q(1-q) d(a,b)²; summed over the span and set against d(a,b)² it is 0
for a perfect dissolve. (The identity is Stewart's theorem; the model of a dissolve as a linear mix
is common, e.g. Lienhart 1999, "Comparison of automatic shot boundary detection algorithms", from
memory.)
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from offcut.core.judge.planes import Floats, Frames, Planes, nearest_distance
from offcut.core.judge.span import Span, best_places
from offcut.core.measure.signals import HISTORY
from offcut.core.model.seam import Kind

LENGTHS = (6, 8, 10, 13, 16, 20, 25, 31, 38, 46, 55, 61, 74, 90, 108, 120)
_CROSSINGS = (8, 12, 17, 24, 33, 45)
_SHARES = (0.2, 0.35, 0.5, 0.65, 0.8)
_ALIKE = 4.5
"""Ends less unlike than this cannot reach the fit that is asked for."""


def mix_misfit(planes: Planes, b: Frames, length: int | Frames) -> tuple[Floats, Floats]:
    """Return d(a,b) and how badly a straight mix of a and b explains what lies between.

    a = b - length - 1 is the last clean frame before; ``length`` is one for all or one for each
    b, up to 121. The misfit is 0 for a perfect dissolve, about 1 where nothing is explained.
    """
    whole = np.asarray(length) + 1
    ends = planes.apart(b, whole)
    square = ends * ends + 1e-3
    misfit = np.zeros_like(ends)
    for share in _SHARES:
        into = np.maximum(1, np.minimum(np.rint(share * whole).astype(np.int64), whole - 1))
        q = (into / whole).astype(np.float32)
        to_a, to_b = planes.apart(b - whole + into, into), planes.apart(b, whole - into)
        rest = (1 - q) * to_a**2 + q * to_b**2 - q * (1 - q) * square
        misfit += np.maximum(rest, 0) / (q * (1 - q) * square)
    return ends, misfit / len(_SHARES)


def mixes(planes: Planes) -> list[Span]:
    """Return the thinkable dissolves, the best length at each place, no two overlapping much."""
    found = _best_lengths(planes, LENGTHS, _mix_fit, apart=4, unlike=_ALIKE)
    return [Span(s, e, Kind.DISSOLVE) for s, e in found]


def crossings(planes: Planes) -> list[Span]:
    """Return the thinkable wipes of any form: the later picture's share of the frame grows evenly.

    Of two pictures side by side in a frame the squared distances to both add up as of a mix, so the
    share is told alike; only the frame does not lie on the line between them.
    """
    found = _best_lengths(planes, _CROSSINGS, _crossing_fit, apart=9, unlike=11)
    return [Span(s, e, Kind.WIPE) for s, e in found]


def _best_lengths(
    planes: Planes,
    lengths: tuple[int, ...],
    fit_of: Callable[[Planes, Floats, Frames, int, Floats], tuple[Frames, Floats]],
    *,
    apart: float,
    unlike: float,
) -> list[tuple[int, int]]:
    """Return the spans that fit best of some lengths, whose ends differ by so much at least."""
    n = planes.n
    if n < 12:
        return []
    best = np.full(n, -1.0, np.float32)
    long = np.zeros(n, np.int64)
    single = planes.far[0]
    for length in lengths:
        step = 1 if length < 16 else 2 if length < 62 else 4  # hardly matters to a long one
        low = length + 1 - length // 2
        places = np.arange(low + -(low + planes.start) % step, n - length // 2 - 1, step)
        places = places[planes.apart(places + length // 2 + 1, length + 1) > apart]
        near = int(nearest_distance(np.array(length + 1)))
        places = places[planes.at(planes.unlike, places + length // 2 + 1, near) > unlike]
        beaten = np.maximum(best[places], _WORTHY)
        of, fit = fit_of(planes, single, places + length // 2 + 1, length, beaten)
        places = places[of]
        better = fit > best[places]
        best[places[better]] = fit[better]
        long[places[better]] = length
    return _peaks(planes, best, long)


_WORTHY = 0.08
"""What fits worse is no place for a mix."""
_ROUNDING = 1e-4
"""So much leeway before a place is left out as one that cannot fit better."""


def _calm_beside(planes: Planes, b: Frames, length: int) -> Floats:
    """Return how far pictures get in a few frames just before a span or just after it."""
    few = min(8, length)
    return np.maximum(planes.apart(b - length - 1, few), planes.apart(b + few, few))


def _highest(single: Floats, b: Frames, length: int) -> Floats:
    """Return about the greatest step inside spans that are over at ``b``."""
    steps = np.arange(0, length + 1, max(1, length // 8))
    found: Floats = single.take(np.minimum(len(single) - 1, b - steps[:, None])).max(axis=0)
    return found


def _crossing_fit(
    planes: Planes, single: Floats, b: Frames, length: int, beaten: Floats
) -> tuple[Frames, Floats]:
    """Return how well crossings of one length that are over from frames ``b`` on would fit.

    As in `_mix_fit`.
    """
    whole = length + 1
    ends = planes.apart(b, whole)
    fit = 0.7 + 0.0004 * length - 0.55 * _calm_beside(planes, b, length) / (ends + 1.0)
    of = np.flatnonzero(fit > beaten - _ROUNDING)
    b, ends, fit, beaten = b[of], ends[of], fit[of], beaten[of]
    fit -= 0.5 * np.maximum(0, _highest(single, b, length) / (ends + 1.0) - 3.5 / length)
    left = np.flatnonzero(fit > beaten - _ROUNDING)
    of, b, ends, fit = of[left], b[left], ends[left], fit[left]
    square = ends * ends + 1e-3
    error = np.zeros_like(ends)
    for share in _SHARES:
        into = max(1, min(round(share * whole), whole - 1))
        to_a, to_b = planes.apart(b - whole + into, into), planes.apart(b, whole - into)
        error += np.abs((to_a**2 - to_b**2 + square) / (2 * square) - into / whole)
    return of, fit - 2.5 * error / len(_SHARES)


def _mix_fit(
    planes: Planes, single: Floats, b: Frames, length: int, beaten: Floats
) -> tuple[Frames, Floats]:
    """Return how well dissolves of one length that are clean from frames ``b`` on would fit.

    Which of them, and their fit: those that cannot fit better than ``beaten``, however well the mix
    explains them, are left out as early as that is known.
    """
    ends = planes.apart(b, length + 1)
    near = int(nearest_distance(np.array(length + 1)))
    weight = np.clip((planes.at(planes.unlike, b, near) - 4) / 9, 0.05, 1)
    beaten = (beaten - 0.0004 * length) / weight - _ROUNDING
    against = 0.55 * _calm_beside(planes, b, length) / (ends + 1.0)
    most = np.minimum(ends / 14.0, 1)
    of = np.flatnonzero(most - against > beaten)
    b, ends, most, against, beaten = b[of], ends[of], most[of], against[of], beaten[of]
    burst = _highest(single, b, length) / (ends + 1.0)
    against += 0.5 * np.maximum(0, burst - 2.2 / length)
    left = np.flatnonzero(most - against > beaten)
    of, most, against = of[left], most[left], against[left]
    _, misfit = mix_misfit(planes, b[left], length)
    return of, ((1 - misfit) * most - against) * weight[of] + 0.0004 * length


def _peaks(planes: Planes, best: Floats, long: NDArray[np.int64]) -> list[tuple[int, int]]:
    """Return the spans of the places that fit best, no two overlapping much, ends laid anew."""
    reach = long // 2 + 4
    at = best_places(best, _WORTHY, reach, reach)
    start, end = ramps(planes, at - long[at] // 2, at - long[at] // 2 + long[at])
    found = dict.fromkeys(zip(start.tolist(), end.tolist(), strict=True))
    return [(s, e) for s, e in found if 0 < s < e < planes.n]


def mix_shares(planes: Planes, a: Frames, b: Frames, t: Frames) -> tuple[Floats, Floats]:
    """Return the share of frame b in each frame t, and how far t lies off the line from a to b.

    ``a`` and ``b`` have shape (m, 1), at most 128 apart, ``t`` (m, T) between them. The share is
    the length of x_t - x_a along x_b - x_a, from the three squared distances (law of cosines):
    what moves in a shot moves mostly across that line, so it hardly disturbs the share.
    """
    square = planes.between(a, b) ** 2 + 1e-3
    to_a, to_b = planes.between(a, t) ** 2, planes.between(t, b) ** 2
    share = (to_a - to_b + square) / (2 * square)
    off = np.sqrt(np.maximum(0, to_a - share * share * square))
    return share, off


def ramps(planes: Planes, start: Frames, end: Frames) -> tuple[Frames, Frames]:
    """Return the spans over which the share of the later picture runs straight from 0 to 1.

    A ramp is fitted by least squares to the shares seen from a few frames outside; where that
    fits badly, as with a cut close by, from hardly outside.
    """
    start, end = start.copy(), end.copy()
    lengths = end - start
    for length in np.unique(lengths).tolist():
        of = np.flatnonzero(lengths == length)
        rest = np.full(len(of), np.inf, np.float32)
        for outside in sorted({max(2, length // 6), min(10, max(6, length // 2))}):
            wide = min(outside, (HISTORY - 1 - length) // 2)
            s, e, error = _ramp_fits(planes, start[of], length, max(1, wide))
            better = error < 0.8 * rest
            start[of[better]], end[of[better]] = s[better], e[better]
            rest = np.minimum(rest, error)
    return start, end


def _ramp_fits(
    planes: Planes, start: Frames, length: int, outside: int
) -> tuple[Frames, Frames, Floats]:
    lines = _lines(length, outside)
    a = start - outside
    t = np.clip(a[:, None] + np.arange(length + 2 * outside), 0, planes.n - 1)
    shares, _ = mix_shares(planes, t[:, :1], t[:, -1:], t)
    shares = np.clip(shares, -0.5, 1.5)
    errors = lines.squares - 2 * (shares @ lines.heights)
    best = errors.argmin(axis=1)
    rest = errors[np.arange(len(best)), best] + (shares**2).sum(axis=1)
    found = np.sqrt(np.maximum(0, rest) / t.shape[1])
    return a + lines.firsts[best], a + lines.cleans[best], found


class _Lines(NamedTuple):
    """Every ramp tried in a window: first mixed and first clean frame, heights (T, R), squares."""

    firsts: Frames
    cleans: Frames
    heights: Floats
    squares: Floats


@cache
def _lines(length: int, outside: int) -> _Lines:
    whole = length + 2 * outside
    steps = np.arange(whole)
    firsts, cleans = (g.ravel() for g in np.meshgrid(steps[1:], steps[1:], indexing="ij"))
    fits = (cleans - firsts >= max(4, length // 4)) & (firsts <= whole // 2) & (cleans > whole // 2)
    step = 1 if length < 50 else 2
    fits &= (firsts % step == 0) & (cleans % step == 0)
    firsts, cleans = firsts[fits], cleans[fits]
    lines = np.clip((steps - firsts[:, None] + 1) / (cleans - firsts + 1)[:, None], 0, 1)
    heights = np.ascontiguousarray(lines.T, np.float32)
    return _Lines(firsts, cleans, heights, (heights**2).sum(axis=0))
