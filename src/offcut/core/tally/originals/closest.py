"""The closest look: frame and framing of a likely original settled by the pictures themselves.

Prints tell which file a shot was made from, and nearly where. Where the film shows a part of the
original's picture, a slow pan a few frames off looks like another framing; pictures of 128 by 72
tell them apart. Only the likeliest file of a shot is read for this.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.tally.originals.pace import USUAL, Pace
from offcut.core.tally.reframing import Reframing

WIDE, HIGH = 128, 72
Greys = NDArray[np.float32]
_SHOWN = 12
_LONGEST, _LONGEST_THERE = 120, 260
_REACH = 12
_TURNS, _FEW = 6, 3
_BETTER, _AS_WELL, _CLEARLY, _MAYBE = 0.985, 1.02, 0.8, 3.0
_FASTER = 1.7
_GOOD, _OTHER, _HOPELESS = 0.004, 0.4, 1.0
"""Pictures of the same shot are nearer than the first of these, of another farther than the second;
from farther than the third no way leads to it."""
_TRIED = 34
_EARLIER = (1, -1, 2, -2, 4, -4, 8, -8)


@dataclass(frozen=True, slots=True)
class Settled:
    """A pace and a framing, and how badly pictures agree under them, None where none were read."""

    pace: Pace
    framing: Reframing
    cost: float | None = None


class Reading(Protocol):
    """Reads pictures of the film and of the originals, as luma float32 (n, 72, 128) 0 to 255; None
    where they cannot be read.
    """

    def film(self, frames: Sequence[int]) -> Greys | None: ...

    def clip(self, place: int, frames: Sequence[int]) -> Greys | None: ...


@dataclass(frozen=True, slots=True)
class _Fit:
    apart: float
    moving: float
    framing: Reframing

    @property
    def cost(self) -> float:
        return self.moving + 0.35 * self.apart


def settled(
    reading: Reading, span: tuple[int, int], place: int, pace: Pace, framing: Reframing
) -> Settled:
    """Return the pace near another, and the framing, under which a shot's pictures agree best with
    an original's.

    ``span`` are the shot's frames as the film is read by, ``place`` the original's. Where the
    pictures cannot be read, what was known is returned.
    """
    held = _Both.of(reading, span, place, pace, framing.flopped)
    if held is None:
        return Settled(pace, framing)
    start = held.fit(pace.first, pace.speed, framing)
    if start is None:
        return Settled(pace, framing)
    if start.apart > _HOPELESS:
        return Settled(pace, framing, start.cost)
    first, speed = pace.first, pace.speed
    first, best, still = _walked(held, first, speed, start)
    middle = float(held.asked[len(held.asked) // 2])
    others = USUAL if (still or best.apart > _GOOD) and best.apart < _OTHER else ()
    for other in others:
        if not 1 / _FASTER <= float(other / speed) <= _FASTER or other == speed:
            continue
        tried = round(first + middle * float(speed - other))
        fit = held.fit(tried, other, best.framing, turns=_FEW)
        if fit is None or fit.cost > _MAYBE * best.cost:
            continue
        at, fit, alike = _walked(held, tried, other, fit)
        if fit.cost < _CLEARLY * best.cost:
            first, speed, best, still = at, other, fit, alike
    plain = held.fit(first, speed, Reframing(flopped=framing.flopped), turns=0)
    if plain is not None and plain.cost < _AS_WELL * best.cost + 1e-5:
        best = plain
    moved = replace(pace, first=first, speed=speed, moving=best.moving, still=still)
    return Settled(moved, best.framing, best.cost)


def _walked(held: _Both, first: float, speed: Fraction, fit: _Fit) -> tuple[float, _Fit, int]:
    """Return the frame near another at which a shot fits best, how it does, and at how many others
    it does as well.
    """
    best, at, known = fit, 0, {0: fit}
    better = True
    while better and len(known) < _TRIED:
        better = False
        for by in _EARLIER:
            now = at + by
            if now in known or abs(now) > _REACH:
                continue
            found = held.fit(first + now, speed, best.framing, turns=_FEW)
            if found is None:
                continue
            known[now] = found
            if found.cost < _BETTER * best.cost:
                best, at, better = found, now, True
                break
    still = sum(f.cost <= 1.06 * best.cost + 2e-5 for f in known.values()) - 1
    return first + at, best, still


@dataclass(frozen=True, eq=False)
class _Both:
    """Some pictures of a shot (k, 72, 128), which of its frames they are, and the original's."""

    shot: Greys
    asked: NDArray[np.int64]
    original: dict[int, Greys]

    @classmethod
    def of(
        cls, reading: Reading, span: tuple[int, int], place: int, pace: Pace, flopped: bool
    ) -> _Both | None:
        speed = abs(float(pace.speed))
        long = min(span[1] - span[0], _LONGEST, max(8, int(_LONGEST_THERE / max(0.25, speed))))
        begin = (span[1] - span[0] - long) // 2
        asked = np.unique(begin + np.linspace(0, long - 1, min(long, _SHOWN)).astype(np.int64))
        middle = pace.first + float(pace.speed) * float(asked[len(asked) // 2])
        half = speed * long / 2 * _FASTER + _REACH + 2
        there = range(int(middle - half), int(middle + half) + 1)
        shot = reading.film([span[0] + int(a) for a in asked])
        wanted = [f for f in there if f >= 0]
        pictures = reading.clip(place, wanted)
        if shot is None or pictures is None or len(shot) != len(asked):
            return None
        if flopped:
            pictures = pictures[:, :, ::-1]
        original = dict(zip(wanted, np.ascontiguousarray(pictures), strict=False))
        return cls(shot, asked, original)

    def fit(
        self, first: float, speed: Fraction, framing: Reframing, *, turns: int = _TURNS
    ) -> _Fit | None:
        """Return how the shot fits at a pace, under the framing near another that suits it best
        (Lucas and Kanade 1981); None where the original has no such frames.
        """
        at = np.floor(first + self.asked * float(speed) + 1e-6)
        there = np.array([int(f) in self.original for f in at])
        if there.sum() < max(2, 0.9 * len(at)):
            return None
        ones = self.shot[there]
        others = [self.original[int(f)] for f in at[there]]
        best = _Laid.of(ones, others, framing)
        for _ in range(turns):
            step = best.step()
            if step is None:
                break
            now = _Laid.of(ones, others, step)
            if now.fit.apart >= best.fit.apart:
                break
            small = now.fit.apart > 0.995 * best.fit.apart
            best = now
            if small:
                break
        return best.fit


_X = (np.arange(WIDE, dtype=np.float32) + 0.5) / WIDE
_Y = (np.arange(HIGH, dtype=np.float32) + 0.5) / HIGH


@dataclass(frozen=True, eq=False)
class _Laid:
    """Pictures of an original under a framing, against a shot's (k, 72, 128): how they ``fit``,
    what is ``left`` over, the pictures ``seen`` and ``level``, and how ``long`` they were before.
    """

    fit: _Fit
    left: Greys
    seen: Greys
    level: Greys
    long: Greys
    rows: slice
    columns: slice

    @classmethod
    def of(cls, ones: Greys, others: Sequence[Greys], at: Reframing) -> _Laid:
        x, y = ((at.left + at.wide * _X) * WIDE - 0.5, (at.top + at.high * _Y) * HIGH - 0.5)
        map_x, map_y = np.meshgrid(x.astype(np.float32), y.astype(np.float32))
        seen = np.stack([
            cv2.remap(o, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            for o in others
        ]).astype(np.float32)  # fmt: skip
        rows, columns = _inside(y, HIGH), _inside(x, WIDE)
        level, long = _levelled(seen[:, rows, columns])
        left = _levelled(ones[:, rows, columns])[0] - level
        squares = float((left * left).sum())
        steady = float((left.sum(axis=0) ** 2).sum()) / len(left)
        lost = 1 + 0.5 * (1 - level[0].size / (WIDE * HIGH))
        moving = max(0.0, squares - steady) / max(1, len(left) - 1)
        fit = _Fit(lost * squares / len(left), lost * moving, at)
        return cls(fit, left, seen, level, long, rows, columns)

    def step(self) -> Reframing | None:
        """Return the framing a Gauss-Newton step away, None where nothing tells."""
        at = self.fit.framing
        by_x, by_y = (np.gradient(self.seen, axis=k)[:, self.rows, self.columns] for k in (2, 1))
        by_x *= WIDE / at.wide
        by_y *= HIGH / at.high
        x, y = (_X[self.columns] - 0.5)[None, None, :], (_Y[self.rows] - 0.5)[None, :, None]
        slopes = []
        for slope in (by_x, by_y, by_x * x, by_y * y):
            even = slope - slope.mean(axis=(1, 2), keepdims=True)
            along = (even * self.level).sum(axis=(1, 2), keepdims=True)
            slopes.append(((even - along * self.level) / self.long).ravel())
        jacobian = np.stack(slopes)
        square = (jacobian @ jacobian.T).astype(np.float64)
        scale = float(np.trace(square)) / 4
        if scale <= 0:
            return None
        pull = (jacobian @ self.left.ravel()).astype(np.float64)
        found = np.linalg.solve(square + 1e-4 * scale * np.eye(4), pull)
        left, top, wide, high = np.clip(found, -0.03, 0.03).tolist()
        return replace(
            at, left=at.left + left - wide / 2, top=at.top + top - high / 2,
            wide=at.wide + wide, high=at.high + high,
        )  # fmt: skip


def _inside(places: NDArray[np.floating], size: int) -> slice:
    """Return which of rising places lie within a picture so long, all where hardly any does."""
    there = np.flatnonzero((places > -1) & (places < size))
    return slice(int(there[0]), int(there[-1]) + 1) if len(there) > size // 4 else slice(None)


def _levelled(pictures: Greys) -> tuple[Greys, Greys]:
    """Return pictures with mean 0 and length 1, and how long they were, (k, 1, 1)."""
    even = pictures - pictures.mean(axis=(1, 2), keepdims=True)
    long = np.sqrt((even * even).sum(axis=(1, 2), keepdims=True) + 2.25 * even[0].size)
    return even / long, long
