"""Spans: where a gradual seam is thinkable, from first mixed to first clean frame.

A dissolve is a frame explained by a mix of its two ends with a weight that runs from 0 to 1. With
squared distances only: for t between a and b at share q, the distance of x_t to the mix is
(1-q) d(a,t)² + q d(t,b)² - q(1-q) d(a,b)²; summed over the span and set against d(a,b)² it is 0
for a perfect dissolve. (The identity is Stewart's theorem; the model of a dissolve as a linear mix
is common, e.g. Lienhart 1999, "Comparison of automatic shot boundary detection algorithms", from
memory.) A fade is contrast running to nothing and back; a wipe is blocks changing sides one after
another in order.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from offcut.core.judge.evidence import Floats, Frames, Planes
from offcut.core.measure.signals import DISTANCES
from offcut.core.model.seam import Kind

LENGTHS = (6, 8, 10, 13, 16, 20, 25, 31, 38, 46, 55, 61)
_SHARES = (0.2, 0.35, 0.5, 0.65, 0.8)
_WIPE_WIDTHS = ((10, 1), (14, 1), (20, 1), (20, 6), (28, 6), (38, 6), (50, 6), (62, 6))
LONGEST = 62
_ALIKE = 4.5
"""Ends less unlike than this cannot reach the fit that is asked for."""


@dataclass(frozen=True)
class Span:
    """A thinkable gradual seam: first mixed frame, first clean frame, and kind."""

    start: int
    end: int
    kind: Kind

    @property
    def middle(self) -> float:
        """Halfway between its first mixed and its first clean frame."""
        return (self.start + self.end) / 2


def thinkable_spans(planes: Planes) -> list[Span]:
    """Return all thinkable gradual seams; where a fade and a mix overlap, both."""
    return [*fades(planes), *wipes(planes), *mixes(planes)]


def nearest_distance(distance: Frames) -> Frames:
    """Return for each distance the least of DISTANCES that is not below it, or the last."""
    steps = np.asarray(DISTANCES)
    found: Frames = steps[np.minimum(np.searchsorted(steps, distance), len(steps) - 1)]
    return found


def mix_misfit(planes: Planes, b: Frames, length: int | Frames) -> tuple[Floats, Floats]:
    """Return d(a,b) and how badly a straight mix of a and b explains what lies between.

    a = b - length - 1 is the last clean frame before; ``length`` is one for all or one for each
    b, up to 62. The misfit is 0 for a perfect dissolve, about 1 where nothing is explained.
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
    n = planes.n
    if n < 12:
        return []
    frames = np.arange(n)
    best = np.full(n, -1.0, np.float32)
    long = np.zeros(n, np.int64)
    single = planes.apart(frames, 1)
    for length in LENGTHS:
        b = frames + length // 2 + 1
        places = np.flatnonzero((b < n) & (b - length - 2 >= 0))
        if length >= 16:  # a frame to either side hardly matters to a long one
            places = places[(places + planes.start) % 2 == 0]
        places = places[planes.apart(b[places], length + 1) > 4]
        near = int(nearest_distance(np.array(length + 1)))
        places = places[planes.at(planes.unlike, b[places], near) > _ALIKE]
        fit = _mix_fit(planes, single, b[places], length)
        better = fit > best[places]
        best[places[better]] = fit[better]
        long[places[better]] = length
    return _peaks(planes, best, long)


def _mix_fit(planes: Planes, single: Floats, b: Frames, length: int) -> Floats:
    """Return how well dissolves of one length that are clean from frames ``b`` on would fit."""
    n = planes.n
    ends, misfit = mix_misfit(planes, b, length)
    before = planes.apart(b - length - 1, min(8, length))
    after = planes.apart(b + min(8, length), min(8, length))
    steady = np.maximum(before, after) / (ends + 1.0)
    highest = np.zeros_like(ends)
    for k in range(0, length + 1, max(1, length // 8)):
        np.maximum(highest, single[np.minimum(n - 1, b - k)], out=highest)
    burst = highest / (ends + 1.0)
    fit = (
        (1 - misfit) * np.minimum(ends / 14.0, 1)
        - 0.55 * steady
        - 0.5 * np.maximum(0, burst - 2.2 / length)
    )
    near = int(nearest_distance(np.array(length + 1)))
    unlike = planes.at(planes.unlike, b, near)
    found: Floats = fit * np.clip((unlike - 4) / 9, 0.05, 1) + 0.0004 * length
    return found


def _peaks(planes: Planes, best: Floats, long: NDArray[np.int64]) -> list[Span]:
    taken = np.zeros(planes.n, np.bool_)
    places: list[int] = []
    worthy = np.flatnonzero(best >= 0.08)
    for place in worthy[np.argsort(-best[worthy], kind="stable")].tolist():
        if not taken[place]:
            reach = int(long[place]) // 2 + 4
            taken[max(0, place - reach) : place + reach] = True
            places.append(place)
    at = np.array(places, np.int64)
    start, end = ramps(planes, at - long[at] // 2, at - long[at] // 2 + long[at])
    start, end = ramps(planes, start, end)
    found = dict.fromkeys(zip(start.tolist(), end.tolist(), strict=True))
    return [Span(s, e, Kind.DISSOLVE) for s, e in found if 0 < s < e < planes.n]


def mix_shares(planes: Planes, a: Frames, b: Frames, t: Frames) -> tuple[Floats, Floats]:
    """Return the share of frame b in each frame t, and how far t lies off the line from a to b.

    ``a`` and ``b`` have shape (m, 1), at most 64 apart, ``t`` (m, T) between them. The share is
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
            wide = min(outside, (63 - length) // 2)
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
    firsts, cleans = firsts[fits], cleans[fits]
    lines = np.clip((steps - firsts[:, None] + 1) / (cleans - firsts + 1)[:, None], 0, 1)
    heights = np.ascontiguousarray(lines.T, np.float32)
    return _Lines(firsts, cleans, heights, (heights**2).sum(axis=0))


def fades(planes: Planes) -> list[Span]:
    """Return the thinkable fades: contrast that runs to nothing and comes back."""
    contrast = planes.stats[:, 1]
    n = planes.n
    around = np.lib.stride_tricks.sliding_window_view(np.pad(contrast, 60, mode="edge"), 121)
    dark = np.clip(0.22 * around.max(axis=1), 0.8, 7.0)
    low = np.flatnonzero(contrast <= dark)
    low = low[(low > 0) & (low < n - 1)]
    spans: list[Span] = []
    for run in np.split(low, np.flatnonzero(np.diff(low) > 1) + 1) if len(low) else ():
        first, last = int(run[0]), int(run[-1])
        least = float(contrast[first : last + 1].min())
        start, before = _knee(contrast, first, -1)
        end, after = _knee(contrast, last, 1)
        start += 1
        if min(before, after) < 3.0 * least + 3 or len(run) > 150 or start <= 0 or end >= n - 1:
            continue
        if (first - start) + (end - last - 1) >= 3:
            spans.append(Span(start, end, Kind.FADE))
    return spans


def _knee(contrast: Floats, dark: int, way: int) -> tuple[int, float]:
    """Return the first clean frame outwards from a dark one, and the contrast there.

    Contrast rises along one straight line from the dark until the picture is clean, and goes its
    own way from there: of two straight pieces that meet, the pair that fits best.
    """
    n = len(contrast)
    top = dark
    while 0 < top + way < n - 1 and abs(top - dark) < 60:
        ahead = contrast[top + way :: way][:3]
        if float(ahead.max()) <= float(contrast[top]) + 0.35:
            break
        top += way
    rise = abs(top - dark)
    if rise < 3:
        return top, float(contrast[top])
    line = contrast[dark::way][: rise + 9].astype(np.float64)
    steps = np.arange(len(line), dtype=np.float64)
    best, knee = np.inf, rise
    for at in range(2, rise + 1):
        into = line[: at + 1] - (line[0] + (line[at] - line[0]) * steps[: at + 1] / at)
        after = line[at:]
        slope, rest = 0.0, after - line[at]
        if len(after) > 2:
            out = steps[: len(after)]
            slope = min(0.5 * (line[at] - line[0]) / at, float(out @ rest) / float(out @ out))
            rest = rest - slope * out
        error = float(into @ into) + float(rest @ rest)
        if error < best:
            best, knee = error, at
    return dark + way * knee, float(contrast[dark + way * knee])


def wipes(planes: Planes) -> list[Span]:
    """Return the thinkable wipes: blocks that change one after another along a line."""
    found: list[tuple[float, int, int]] = []
    for width, distance in _WIPE_WIDTHS:
        if planes.n <= width + 2:
            continue
        step = max(2, width // 5)  # laid at fixed places of the film, wherever the stretch begins
        ends = np.arange(width + -(width + planes.start) % step, planes.n - 1, step)
        near = int(nearest_distance(np.array(width)))
        ends = ends[planes.at(planes.unlike, ends, near) > 9]
        if not len(ends):
            continue
        firsts = ends - width + 1
        begin, order, sharp, enter, leave = _edges_crossing(planes, distance, firsts, width)
        late = 0 if distance == 1 else 3
        for i in np.flatnonzero(order > 0.5).tolist():
            first = int(begin[i])
            start = round(first + float(enter[i])) - late
            end = round(first + float(leave[i])) - late + 1
            if 5 <= end - start <= LONGEST and start > 0 and end < planes.n:
                found.append((float(order[i]) * min(2.0, float(sharp[i])), start, end))
    return _best_wipes(planes, found)


def _best_wipes(planes: Planes, found: list[tuple[float, int, int]]) -> list[Span]:
    spans: list[Span] = []
    crowded = np.zeros(2 * planes.n + 1, np.bool_)
    for _, start, end in sorted(found, reverse=True):
        twice = start + end
        if not crowded[twice]:
            crowded[max(0, twice - 12) : twice + 13] = True
            spans.append(Span(start, end, Kind.WIPE))
        if len(spans) > planes.n // 25:
            break
    return spans


def _edges_crossing(
    planes: Planes, distance: int, firsts: Frames, width: int
) -> tuple[NDArray[np.int64], Floats, Floats, Floats, Floats]:
    """Fit a moving edge to the block changes of windows of one width, first frames given.

    Returns those of them that change sharply enough for a wipe, their R², sharpness, and when the
    edge enters and leaves.
    """
    peak = planes.peaks(distance, width)[firsts]
    moving = np.count_nonzero(peak >= 6 << 16, axis=1) >= 20  # half of the blocks change at all
    peak, firsts = peak[moving], firsts[moving]
    most = (peak >> 16).astype(np.float32)
    sums = planes.moved_sums(distance)
    whole = (sums[firsts + width] - sums[firsts]).astype(np.float32)
    usual = (whole - most) / np.float32(width - 1)
    sharp = sharpness(most, usual)
    clear = np.flatnonzero(sharp > 1.4)
    when = (0xFFFF - (peak[clear] & 0xFFFF)) - firsts[clear, None]
    order, enter, leave = edge_fits(when.astype(np.float32), most[clear], usual[clear])
    return firsts[clear], order, sharp[clear], enter, leave


def sharpness(most: Floats, usual: Floats) -> Floats:
    """Return the median block's greatest change over its usual one, for rows of 40 blocks."""
    found: Floats = np.partition(most / (usual + 2.0), 20, axis=1)[:, 20]
    return found


def edge_fits(when: Floats, most: Floats, usual: Floats) -> tuple[Floats, Floats, Floats]:
    """Fit a straight edge moving at one speed to the moments at which blocks change, (m, 40).

    ``most`` is a block's change at that moment and ``usual`` its mean change otherwise. Returns
    for each row: R², and the times at which the edge enters and leaves the picture.
    """
    weights = np.clip(most - usual, 0.1, 30)
    timed = weights * when
    square = (weights @ _SQUARES).reshape(-1, 3, 3).astype(np.float64) + 1e-2 * np.eye(3)
    right = (timed @ _PLACES).astype(np.float64)
    fitted = np.linalg.solve(square, right[..., None])[..., 0].astype(np.float32) @ _PLACES.T
    mean = timed.sum(axis=1) / weights.sum(axis=1)
    whole = (weights * (when - mean[:, None]) ** 2).sum(axis=1)
    rest = (weights * (when - fitted) ** 2).sum(axis=1)
    order = np.where(whole > 8 * 10, np.maximum(0, 1 - rest / (whole + 1e-3)), 0.0)
    return order, fitted.min(axis=1), fitted.max(axis=1)


_PLACES = np.stack(
    [np.ones(40), np.tile(np.arange(8), 5) / 7, np.repeat(np.arange(5), 8) / 4], axis=1
).astype(np.float32)
_SQUARES = (_PLACES[:, :, None] * _PLACES[:, None, :]).reshape(40, 9)
