"""Pace: at which frame of an original a shot begins, and how fast it runs through it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
USUAL = tuple(
    Fraction(s)
    for s in (
        "1", "2", "1/2", "4", "1/4", "25/24", "24/25", "5/4", "4/5", "3/2", "2/3", "3", "1/3",
        "-1", "30/24", "3/4", "4/3", "8/5", "5/8", "2/5", "5/2", "-2", "-1/2",
    )
)  # fmt: skip
"""Speeds that editors set, tried first."""
SLOWEST, FASTEST = 0.25, 4.0


@dataclass(frozen=True, slots=True)
class Pace:
    """A shot's frame i shows the original's frame ``first`` + ``speed`` * i, rounded down.

    ``apart`` and ``moving`` as in `offcut.core.tally.aligning.Fits`; ``still`` how many frames
    it could begin earlier or later and fit as well.
    """

    first: float
    speed: Fraction
    apart: float
    moving: float
    still: int = 0

    @property
    def cost(self) -> float:
        """How badly it fits."""
        return self.moving + 0.35 * self.apart


@cache
def _any_speeds() -> tuple[Fraction, ...]:
    """Return speeds two in a hundred apart, forwards."""
    count = round(np.log(FASTEST / SLOWEST) / np.log(1.02))
    return tuple(
        Fraction(SLOWEST * (FASTEST / SLOWEST) ** (k / count)).limit_denominator(200)
        for k in range(count + 1)
    )


_CLEARLY = 0.75
_POOR = 0.02
_SAMPLED = 48
_APART, _UNLIKE = 6.0, 1.5


def pace_of(shot: Floats, original: Floats, *, thorough: bool) -> Pace | None:
    """Return how a shot's levelled prints (k, cells) run through an original's (n, cells).

    Another speed than its own has to fit clearly better; any speed at all is tried where it is
    ``thorough`` and none of the usual ones fits well.
    """
    asked = np.unique(np.linspace(0, len(shot) - 1, min(len(shot), _SAMPLED)).astype(np.int64))
    through = _Through(shot[asked], original, asked)
    best = through.best_of(USUAL[:1])
    usual = through.best_of(USUAL[1:])
    if usual is not None and (best is None or usual.cost < _CLEARLY * best.cost):
        best = usual
    if thorough and (best is None or best.apart > _POOR):
        other = through.best_of(_any_speeds())
        if other is not None and (best is None or other.cost < _CLEARLY * best.cost):
            best = other
    return best


def likely_paces(shot: Floats, original: Floats, count: int = 4) -> list[Pace]:
    """Return paces that are unlike each other at which a shot may run through an original, the
    likeliest first; the best one at its own speed is among them.
    """
    asked = np.unique(np.linspace(0, len(shot) - 1, min(len(shot), _SAMPLED)).astype(np.int64))
    through = _Through(shot[asked], original, asked)
    own = through.rough(USUAL[:1])[:1]
    middle = float(asked[len(asked) // 2])
    made: list[Pace] = []
    for cost, first, speed in (*own, *sorted(through.rough(USUAL), key=lambda r: r[0])):
        there = first + middle * float(speed)
        if all(
            abs(there - p.first - middle * float(p.speed)) > _APART
            or not 1 / _UNLIKE < float(speed / p.speed) < _UNLIKE
            for p in made
        ):
            made.append(Pace(first, speed, cost, cost))
    return made[:count]


def fit_at(shot: Floats, original: Floats, pace: Pace) -> Pace | None:
    """Return a pace with how it fits a shot's levelled prints (k, cells) to an original's, None
    where the original has no such frames.
    """
    asked = np.unique(np.linspace(0, len(shot) - 1, min(len(shot), _SAMPLED)).astype(np.int64))
    through = _Through(shot[asked], original, asked)
    fit = through.fit_at(pace.first, pace.speed)
    return replace(pace, apart=fit[0], moving=fit[1]) if fit is not None else None


class _Through:
    """Some frames of a shot held against all of an original.

    Attributes: ``shot`` (k, cells) and ``asked`` (k,) which of its frames they are; ``table``
    (k, n) how far each is from every frame of the original.
    """

    def __init__(self, shot: Floats, original: Floats, asked: NDArray[np.int64]) -> None:
        self.shot, self.original, self.asked = shot, original, asked
        squares = (shot * shot).sum(axis=1)[:, None] + (original * original).sum(axis=1)
        self.table = squares - 2 * shot @ original.T

    def best_of(self, speeds: tuple[Fraction, ...]) -> Pace | None:
        """Return the best of some speeds, each at every place the original has room for."""
        rough = self.rough(speeds)
        paces = [
            self._settled(first, speed)
            for cost, first, speed in rough[:4]
            if cost < 3 * rough[0][0] + 0.01
        ]
        return min((p for p in paces if p is not None), key=lambda p: p.cost, default=None)

    def rough(self, speeds: tuple[Fraction, ...]) -> list[tuple[float, float, Fraction]]:
        """Return where each of some speeds fits best: how far apart, from which frame, and at which
        speed; the best first.
        """
        k, n = self.table.shape
        rough: list[tuple[float, float, Fraction]] = []
        for speed in speeds:
            steps = np.floor(self.asked * float(speed) + 1e-6).astype(np.int64)
            low, high = -int(steps.min()), n - int(steps.max())
            if high <= low:
                continue
            firsts = np.arange(low, high)
            mean = self.table[np.arange(k)[:, None], firsts + steps[:, None]].mean(axis=0)
            for place in np.argsort(mean)[:2].tolist():
                rough.append((float(mean[place]), float(firsts[place]), speed))
        return sorted(rough, key=lambda r: r[0])

    def _settled(self, first: float, speed: Fraction) -> Pace | None:
        """Return the pace near a place, to the frame: the one at which what moves fits best."""
        parts = (0.0,) if speed.denominator == 1 else (0.0, 0.25, 0.5, 0.75)
        found: list[tuple[float, float, float, float]] = []
        for by in range(-4, 5):
            for part in parts:
                at = first + by + part
                fit = self.fit_at(at, speed)
                if fit is not None:
                    found.append((fit[1] + 0.35 * fit[0], at, *fit))
        if not found:
            return None
        cost, at, apart, moving = min(found)
        alike = {int(np.floor(a + 1e-6)) for c, a, *_ in found if c <= 1.06 * cost + 2e-5}
        return Pace(at, speed, apart, moving, len(alike) - 1)

    def fit_at(self, first: float, speed: Fraction) -> tuple[float, float] | None:
        """Return how far apart they are, and how far in what moves; None where it does not fit."""
        at = np.floor(first + self.asked * float(speed) + 1e-6).astype(np.int64)
        there = (at >= 0) & (at < len(self.original))
        if there.sum() < max(2, 0.9 * len(self.asked)):
            return None
        gaps = self.shot[there] - self.original[at[there]]
        squares = float((gaps * gaps).sum())
        steady = float((gaps.sum(axis=0) ** 2).sum()) / len(gaps)
        return squares / len(gaps), max(0.0, squares - steady) / max(1, len(gaps) - 1)
