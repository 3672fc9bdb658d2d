"""Curves: pace, pulse, spread, and lengths against what the pictures show."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage, stats

from offcut.core.rhythm.figures import FEW_FIT, Figures
from offcut.core.rhythm.lengths import Floats, ShotLengths

_POINTS = 1200
_WIDE = math.sqrt(8 * math.log(2))
"""How many deviations a Gaussian is wide at half its height."""


def pace_of(lengths: ShotLengths, smoothing: int) -> tuple[Floats, Floats]:
    """Return where the shots that count have their middles, and their lengths smoothed.

    Smoothed over shots by a Gaussian that is ``smoothing`` shots wide at half its height; 1 or
    less leaves lengths as they are. Both float64 (m,), seconds.
    """
    held = lengths.held
    if smoothing <= 1 or len(held) < 2:
        return lengths.middles, held
    smooth = ndimage.gaussian_filter1d(held, smoothing / _WIDE, mode="nearest", truncate=3.0)
    return lengths.middles, np.asarray(smooth, np.float64)


def thinned(x: Floats, y: Floats, first: float, last: float, most: int) -> tuple[Floats, Floats]:
    """Return of a curve what is seen between two places, at most about ``most`` points.

    Where there are more, the lowest and the highest of each bundle stand for it.
    """
    begin = max(0, int(np.searchsorted(x, first)) - 1)
    end = min(len(x), int(np.searchsorted(x, last, "right")) + 1)
    x, y = x[begin:end], y[begin:end]
    step = -(-2 * len(x) // max(1, most))
    if len(x) <= most or step < 3:
        return x, y
    starts = np.arange(0, len(x), step)
    low, high = np.minimum.reduceat(y, starts), np.maximum.reduceat(y, starts)
    rising = y[np.minimum(starts + step - 1, len(y) - 1)] >= y[starts]
    pairs = np.stack([np.where(rising, low, high), np.where(rising, high, low)], axis=1)
    wide = (x[np.minimum(starts + step - 1, len(x) - 1)] - x[starts])[:, None]
    return (x[starts][:, None] + wide * (0.25, 0.75)).ravel(), pairs.ravel()


@dataclass(frozen=True, eq=False)
class Pulse:
    """Cuts a minute in a sliding window: ``moments`` and ``per_minute`` float64 (k,).

    ``window`` in seconds.
    """

    moments: Floats
    per_minute: Floats
    window: float


def usual_window(running: float) -> float:
    """Return how wide a sliding window is for so long a film: a minute, less for a short one."""
    return next((w for w in (60.0, 30.0, 10.0) if running >= 4 * w), 5.0)


def pulse_of(lengths: ShotLengths, window: float = 0.0) -> Pulse:
    """Return the pulse of the shots that count; ``window`` 0 takes the usual one.

    At the ends, where the window reaches beyond the film, it counts what lies inside, over the
    time that lies inside.
    """
    places = lengths.places
    if len(places) < 2:
        return Pulse(np.zeros(0), np.zeros(0), window)
    start, end = float(lengths.begins[places[0]]), float(lengths.ends[places[-1]])
    wide = window or usual_window(end - start)
    joins = lengths.begins[places[1:]]
    moments = np.linspace(start, end, _POINTS)
    first = np.maximum(start, moments - wide / 2)
    last = np.minimum(end, moments + wide / 2)
    many = np.searchsorted(joins, last, "right") - np.searchsorted(joins, first, "left")
    return Pulse(moments, many / np.maximum(1e-9, last - first) * 60, wide)


@dataclass(frozen=True, eq=False)
class Spread:
    """How lengths are spread: ``counts`` int (k,) of shots between ``edges`` float64 (k + 1,).

    ``curve`` is what the fitted log-normal has there, at ``points``, as counts; both float64 (c,),
    empty where nothing was fitted. ``log`` True where the edges are even in the logarithm.
    """

    edges: Floats
    counts: Floats
    points: Floats
    curve: Floats
    log: bool


def spread_of(lengths: ShotLengths, figures: Figures, *, log: bool = True) -> Spread:
    """Return a histogram of the lengths that count, and the fitted curve over it.

    Its columns are as wide as Freedman and Diaconis (1981, from memory) say: twice the quartiles'
    distance over the cube root of the number; at least five, at most forty.
    """
    held = lengths.held
    none = np.zeros(0)
    if not len(held) or float(held.min()) <= 0:
        return Spread(none, none, none, none, log)
    values = np.log(held) if log else held
    low, high = float(values.min()), float(values.max())
    if high <= low:
        low, high = low - 0.5 if log else low * 0.5, high + 0.5 if log else high * 1.5
    q1, q3 = np.quantile(values, (0.25, 0.75))
    wide = 2 * float(q3 - q1) / len(held) ** (1 / 3)
    count = round((high - low) / wide) if wide > 0 else 5
    edges = np.linspace(low, high, max(5, min(40, count)) + 1)
    counts, _ = np.histogram(values, edges)
    points = curve = none
    if figures.log_sd and figures.log_mean is not None and len(held) >= FEW_FIT:
        reach = (high - low) * 0.06
        places = np.linspace(low - reach if log else max(1e-6, low - reach), high + reach, 240)
        column = float(edges[1] - edges[0]) * len(held)
        if log:
            curve = stats.norm.pdf(places, figures.log_mean, figures.log_sd) * column
        else:
            scale = math.exp(figures.log_mean)
            curve = stats.lognorm.pdf(places, figures.log_sd, scale=scale) * column
        points = np.exp(places) if log else places
    return Spread(
        np.exp(edges) if log else edges, counts.astype(np.float64), points, np.asarray(curve), log
    )


@dataclass(frozen=True, slots=True)
class Kinship:
    """Whether lengths go with something else: Spearman's rank correlation and its p, of ``n``."""

    rho: float
    p: float
    n: int


def kinship_of(lengths: Floats, others: Floats) -> Kinship | None:
    """Return the rank correlation of two rows of numbers, both (n,); NaN ones are left out.

    None for fewer than eight, and where either is all equal.
    """
    known = np.isfinite(lengths) & np.isfinite(others)
    a, b = lengths[known], others[known]
    if len(a) < FEW_FIT or float(np.ptp(a)) == 0 or float(np.ptp(b)) == 0:
        return None
    found = stats.spearmanr(a, b)
    return Kinship(float(found.statistic), float(found.pvalue), len(a))
