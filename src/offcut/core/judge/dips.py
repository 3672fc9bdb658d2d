"""Dips: dissolves seen by contrast alone, where too much moves for pictures to tell.

While one picture turns into another that has nothing to do with it, the variance of the tones is
(1-q)² a + q² b + 2 q (1-q) c with a share q that runs evenly from 0 to 1: a parabola that sags.
(Alattar 1993, "Detecting and compressing dissolve regions in video sequences with a DVI multimedia
image compression algorithm", from memory.)
"""

from __future__ import annotations

import numpy as np

from offcut.core.judge.planes import Floats, Frames, Planes, nearest_distance
from offcut.core.judge.span import Span, best_places
from offcut.core.model.seam import Kind

_LENGTHS = (10, 13, 16, 20, 25, 31, 38, 46, 55, 64, 76, 90)
_SHARES = (0.15, 0.3, 0.4, 0.5, 0.6, 0.7, 0.85)
_SAG = 0.1
"""So much the variance sags in the middle, at least, as a share of what it is at the ends."""
_SAGGING = 0.97
"""Where it is not below this in the very middle nothing sags by so much."""
_UNLIKE, _LEAST = 11.0, 1e-6


def dips(planes: Planes) -> list[Span]:
    """Return the thinkable dissolves by contrast, the best length at each place."""
    n = planes.n
    if n < 16:
        return []
    variance = planes.stats[:, 1].astype(np.float64) ** 2 + 0.5
    best, long = np.full(n, -1.0), np.zeros(n, np.int64)
    for length in _LENGTHS:
        step = 1 if length < 16 else 2 if length < 50 else 4  # hardly matters to a long one
        half, low = length // 2, 2 + length // 2
        fits = np.arange(low + -(low + planes.start) % step, n - 2 - length + half, step)
        ends = variance[fits - half - 1] + variance[fits - half + length]
        fits = fits[variance[fits] < _SAGGING * ends / 2]
        near = int(nearest_distance(np.array(length + 1)))
        fits = fits[planes.at(planes.unlike, fits - half + length, near) > _UNLIKE]
        s, e = fits - half, fits - half + length
        fit = _sag_fit(variance, s, e) + 0.0006 * length
        better = fit > best[fits]
        best[fits[better]] = fit[better]
        long[fits[better]] = length
    reach = long // 3 + 3
    at = best_places(best, _LEAST, reach, reach)
    start, end = _closer(variance, at - long[at] // 2, at - long[at] // 2 + long[at])
    return [Span(s, e, Kind.DISSOLVE) for s, e in zip(start.tolist(), end.tolist(), strict=True)]


def _sag_fit(variance: Floats, s: Frames, e: Frames) -> Floats:
    """Return how well a parabola explains the variance over spans; -1 where it does not sag."""
    n = len(variance)
    before, after = variance[s - 1], variance[e]
    mean = (before + after) / 2
    rest, weights = [], []
    for share in _SHARES:
        t = np.rint(s - 1 + share * (e - s + 1)).astype(np.int64)
        q = (t - s + 1) / (e - s + 1)
        rest.append(variance[t] - (1 - q) ** 2 * before - q**2 * after)
        weights.append(2 * q * (1 - q))
    y, x = np.array(rest), np.array(weights)
    common = (x * y).sum(axis=0) / (x * x).sum(axis=0)
    error = np.sqrt(((y - common * x) ** 2).mean(axis=0)) / mean
    sag = (mean - common) / (2 * mean)
    # two pictures have no more in common than each with itself
    possible = np.abs(common) < 0.9 * np.sqrt(before * after)
    reach = np.minimum(8, (e - s) // 2)
    outside = np.maximum(
        np.abs(variance[np.maximum(s - 1 - reach, 0)] - before) / before,
        np.abs(variance[np.minimum(e + reach, n - 1)] - after) / after,
    )
    fit = np.minimum(sag, 0.4) - 3 * error - 0.35 * np.minimum(outside, 1)
    found: Floats = np.where((sag > _SAG) & possible, fit, -1.0)
    return found


def _closer(variance: Floats, start: Frames, end: Frames) -> tuple[Frames, Frames]:
    """Return the spans with their ends laid where the parabola fits best, a tenth either way."""
    n = len(variance)
    step = np.maximum(1, (end - start) // 14)
    best = _sag_fit(variance, start, end)
    found_start, found_end = start.copy(), end.copy()
    # both together a little apart or closer, then each for itself
    for i, j in ((-2, 2), (-1, 1), (1, -1), (2, -2), (-2, 0), (-1, 0), (1, 0), (2, 0)):
        s = np.clip(start + i * step, 1, n - 6)
        e = np.clip(end + j * step, s + 5, n - 1)
        better = (fit := _sag_fit(variance, s, e)) > best
        best[better] = fit[better]
        found_start[better], found_end[better] = s[better], e[better]
    for j in (-2, -1, 1, 2):
        e = np.clip(end + j * step, found_start + 5, n - 1)
        better = (fit := _sag_fit(variance, found_start, e)) > best
        best[better] = fit[better]
        found_end[better] = e[better]
    return found_start, found_end
