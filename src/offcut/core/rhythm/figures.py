"""Figures: what can be said of lengths of shots, by the textbook.

A figure that would mean nothing is None: of too few shots, or where all are equally long.
"""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import signal, special, stats

from offcut.core.model.kinds import spans
from offcut.core.model.seam import Kind
from offcut.core.rhythm.lengths import Floats, ShotLengths
from offcut.core.rhythm.usual import LIMIT

LAGS = 20
FEW_THIRDS, FEW_LINE, FEW_FIT, FEW_ECHO, FEW_SPECTRUM = 6, 6, 8, 20, 128
"""So many shots are needed for pace, line, fit, echo and spectrum to mean something. The first
four are our own choice: fewer shots give figures that one more shot would turn round. Of the
last, a slope over fewer than six octaves of a spectrum is mostly chance."""
_SHAPIRO_MOST = 5000
_CONFIDENCE = 0.95
_Z = float(stats.norm.ppf(0.5 + _CONFIDENCE / 2))


@dataclass(frozen=True, slots=True)
class FittedLine:
    """A line through lengths over time: ``slope`` in seconds of length a minute of film.

    [``low``, ``high``] holds it with 95 % confidence; ``p`` is how likely chance alone gives one
    as steep.
    """

    slope: float
    low: float
    high: float
    p: float


@dataclass(frozen=True, slots=True)
class LogNormal:
    """How well a log-normal distribution fits: a test of the logarithms for being normal.

    ``p`` is how likely lengths that are log-normal look no more like it than these.
    """

    test: str
    statistic: float
    p: float


@dataclass(frozen=True, eq=False)
class Echo:
    """Whether a length follows its like; arrays are float64 (k,), from lag 1.

    ``bounds`` hold 95 of 100 autocorrelations of lengths in no order (Bartlett), and
    ``partial_bound`` those of partial ones; ``holds`` is how many lags from 1 on lie above.
    """

    values: Floats
    bounds: Floats
    partial: Floats
    partial_bound: float
    holds: int


@dataclass(frozen=True, slots=True)
class Spectrum:
    """The slope of the lengths' spectrum: 0 is no order, -1 is one over f; with 95 % confidence."""

    slope: float
    low: float
    high: float


@dataclass(frozen=True, eq=False)
class Figures:
    """All figures of some lengths; seconds where nothing else is said.

    ``joins`` is the share of each kind among the joins, ``mixed`` the share of time in which
    two shots are seen at once, ``under`` the share of shots under ``limit``; ``first_third`` and
    ``last_third`` are mean lengths of the shots whose middles lie there.
    """

    shots: int
    seconds: float
    limit: float
    mean: float | None = None
    median: float | None = None
    shortest: float | None = None
    longest: float | None = None
    q1: float | None = None
    q3: float | None = None
    sd: float | None = None
    cv: float | None = None
    skewness: float | None = None
    cuts_per_minute: float | None = None
    under: float | None = None
    joins: tuple[tuple[Kind, float], ...] = ()
    mixed: float | None = None
    first_third: float | None = None
    last_third: float | None = None
    line: FittedLine | None = None
    log_mean: float | None = None
    log_sd: float | None = None
    fit: LogNormal | None = None
    echo: Echo | None = None
    spectrum: Spectrum | None = None

    @property
    def pace(self) -> float | None:
        """By how much shots are held longer in the last third than in the first."""
        if self.first_third is None or self.last_third is None:
            return None
        return self.last_third - self.first_third

    @property
    def gradual(self) -> float | None:
        """The share of joins that are no cuts, None without joins."""
        if not self.joins:
            return None
        return sum(share for kind, share in self.joins if spans(kind))


def figures_of(lengths: ShotLengths, limit: float = LIMIT) -> Figures:
    """Return the figures of the shots that count."""
    held = lengths.held
    n = len(held)
    if n == 0:
        return Figures(0, 0.0, limit)
    running = math.fsum(held)
    mean = running / n
    varied = float(held.max()) > float(held.min())
    q1, median, q3 = (float(q) for q in np.quantile(held, (0.25, 0.5, 0.75)))  # type 7
    sd = deviation(held, mean) if n > 1 else None
    logs = np.log(held) if float(held.min()) > 0 else None
    log_mean = math.fsum(logs) / n if logs is not None else None
    first, last = _thirds(lengths)
    return Figures(
        shots=n,
        seconds=running,
        limit=limit,
        mean=mean,
        median=median,
        shortest=float(held.min()),
        longest=float(held.max()),
        q1=q1,
        q3=q3,
        sd=sd,
        cv=sd / mean if sd is not None and mean > 0 else None,
        skewness=float(stats.skew(held)) if n > 2 and varied else None,
        cuts_per_minute=(n - 1) / running * 60 if running > 0 else None,
        under=float((held < limit).mean()),
        joins=_joins(lengths),
        mixed=_mixed(lengths, running),
        first_third=first,
        last_third=last,
        line=_line(lengths, varied),
        log_mean=log_mean,
        log_sd=deviation(logs, log_mean) if logs is not None and n > 1 else None,
        fit=_fit(logs) if logs is not None and n >= FEW_FIT and varied else None,
        echo=echo_of(held),
        spectrum=_spectrum(held) if n >= FEW_SPECTRUM and varied else None,
    )


def deviation(values: Floats, mean: float | None) -> float:
    """Return the standard deviation with n - 1, of at least two values about their mean."""
    middle = math.fsum(values) / len(values) if mean is None else mean
    if float(values.max()) == float(values.min()):
        return 0.0
    return math.sqrt(math.fsum((values - middle) ** 2) / (len(values) - 1))


def _joins(lengths: ShotLengths) -> tuple[tuple[Kind, float], ...]:
    """Return the share of each kind among the joins between shots that count, cuts first."""
    kinds = [lengths.shots[place].kind for place in lengths.places[1:].tolist()]
    known = Counter(k for k in kinds if k is not None)
    whole = sum(known.values())
    return tuple((kind, known[kind] / whole) for kind in Kind if known[kind])


def _mixed(lengths: ShotLengths, running: float) -> float | None:
    if running <= 0:
        return None
    return min(1.0, math.fsum(lengths.mixed[lengths.places[1:]]) / running)


def _thirds(lengths: ShotLengths) -> tuple[float | None, float | None]:
    """Return the mean lengths of the first and the last third of the time."""
    held, middles = lengths.held, lengths.middles
    if len(held) < FEW_THIRDS:
        return None, None
    start = float(lengths.begins[lengths.places[0]])
    third = (float(lengths.ends[lengths.places[-1]]) - start) / 3
    first, last = held[middles < start + third], held[middles >= start + 2 * third]
    if not len(first) or not len(last):
        return None, None
    return math.fsum(first) / len(first), math.fsum(last) / len(last)


def _line(lengths: ShotLengths, varied: bool) -> FittedLine | None:
    """Fit lengths over time by least squares (scipy.stats.linregress)."""
    held = lengths.held
    if len(held) < FEW_LINE or not varied:
        return None
    fitted = stats.linregress(lengths.middles / 60, held)
    reach = float(stats.t.ppf(0.5 + _CONFIDENCE / 2, len(held) - 2)) * float(fitted.stderr)
    slope = float(fitted.slope)
    return FittedLine(slope, slope - reach, slope + reach, float(fitted.pvalue))


def _fit(logs: Floats) -> LogNormal:
    """Test logarithms for being normal: Shapiro and Wilk; of very many, D'Agostino and Pearson."""
    if len(logs) <= _SHAPIRO_MOST:
        found = stats.shapiro(logs)
        return LogNormal("Shapiro–Wilk", float(found.statistic), float(found.pvalue))
    found = stats.normaltest(logs)
    return LogNormal("D’Agostino–Pearson", float(found.statistic), float(found.pvalue))


def echo_of(values: Floats, lags: int = 0) -> Echo | None:
    """Return how lengths follow each other, for ``lags`` lags (0: as many as make sense).

    None for fewer than three, and where all are equal.
    """
    n = len(values)
    if n < 3 or float(values.max()) == float(values.min()):
        return None
    most = min(n - 1, lags or LAGS)
    acf = autocorrelation(values, most)
    before = np.concatenate([[0.0], np.cumsum(acf**2)[:-1]])
    bounds = _Z * np.sqrt((1 + 2 * before) / n)
    above = acf > bounds
    holds = most if above.all() else int(np.argmin(above))
    return Echo(acf, bounds, partial_of(acf), _Z / math.sqrt(n), holds)


def autocorrelation(values: Floats, lags: int) -> Floats:
    """Return the autocorrelations from lag 1, normalised by the whole variance (Box, Jenkins)."""
    apart = values - math.fsum(values) / len(values)
    whole = math.fsum(apart**2)
    return np.array([float(apart[k:] @ apart[:-k]) / whole for k in range(1, lags + 1)])


def partial_of(acf: Floats) -> Floats:
    """Return partial autocorrelations from autocorrelations, both from lag 1.

    Yule and Walker's equations, solved lag by lag (J. Durbin, The fitting of time-series models,
    1960, from memory). From where they have no solution on they are NaN.
    """
    partial = np.full(len(acf), np.nan)
    weights = np.zeros(0)
    for k, r in enumerate(acf):
        left = 1.0 - float(weights @ acf[:k])
        if left <= 1e-12:
            break
        partial[k] = (r - float(weights @ acf[:k][::-1])) / left
        weights = np.append(weights - partial[k] * weights[::-1], partial[k])
    return partial


def _spectrum(values: Floats) -> Spectrum:
    """Fit a line through the logarithm of power over that of frequency.

    The periodogram's power at one frequency is its true value times a chance of the exponential
    kind. So frequencies are pooled in twelve stretches, evenly wide in the logarithm; of a pool of
    k the logarithm of the mean lies digamma(k) - ln k off, which is set right, with a variance of
    trigamma(k), by which it is weighted (after Robinson 1995, Annals of Statistics 23, from
    memory).
    """
    frequency, power = signal.periodogram(values, detrend="linear")
    frequency, power = frequency[1:], np.maximum(power[1:], 1e-300)
    if len(values) % 2 == 0:
        frequency, power = frequency[:-1], power[:-1]  # the last one has another chance
    pools = np.digitize(frequency, np.geomspace(frequency[0], frequency[-1] * 1.0001, 13))
    x, y, weight = [], [], []
    for pool in np.unique(pools):
        inside = pools == pool
        many = int(inside.sum())
        x.append(float(np.log(frequency[inside]).mean()))
        off = float(special.digamma(many)) - math.log(many)
        y.append(math.log(float(power[inside].mean())) - off)
        weight.append(1 / float(special.polygamma(1, many)))
    return _weighted_slope(np.array(x), np.array(y), np.array(weight))


def _weighted_slope(x: Floats, y: Floats, weight: Floats) -> Spectrum:
    """Return the slope by weighted least squares with its 95 % interval."""
    weight = weight / weight.sum()
    far = x - (weight * x).sum()
    spread = float((weight * far**2).sum())
    slope = float((weight * far * (y - (weight * y).sum())).sum()) / spread
    left = y - (weight * y).sum() - slope * far
    freedom = max(1, len(x) - 2)
    error = math.sqrt(float((weight * left**2).sum()) / freedom / spread)
    reach = float(stats.t.ppf(0.5 + _CONFIDENCE / 2, freedom)) * error
    return Spectrum(slope, slope - reach, slope + reach)


def share_longer_than(lengths: ShotLengths, place: int) -> float | None:
    """Return the share of counted shots that one shot is held longer than, None for a lone one."""
    held: NDArray[np.float64] = lengths.held
    if len(held) < 2:
        return None
    others = len(held) - (1 if lengths.counted[place] else 0)
    return float((held < lengths.seconds[place]).sum()) / max(1, others)
