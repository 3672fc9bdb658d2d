"""Overlay: what is so all along between two versions: framing, grade, what is burnt in.

It is told by the frames that are most surely the same in both, and taken off before anything is
compared; so it is a fact about the whole and never a change.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.prints import ACROSS, CELLS, DOWN
from offcut.core.tally.reframing import Floats, Reframing, agreement, level, matrix_of, refined
from offcut.core.tally.sides import Side

_SAMPLES = 160
_LOOKED_AT = 24_000
_KNOTS = 24
_STEPS = 255 * 32
EFFECT = 10.0
"""Grey levels by which a part of the picture has to differ to be another picture."""
_STARTS = [
    Reframing(left, top, wide, high)
    for wide, high in ((1, 1), (0.9, 0.9), (0.8, 0.8), (1.12, 1.12), (1, 0.76), (0.76, 1), (1, 1.3))
    for left in ((1 - wide) / 2, *((0.0, 1 - wide) if wide == high and wide != 1 else ()))
    for top in ((1 - high) / 2, *((0.0, 1 - high) if wide == high and wide != 1 else ()))
]


@dataclass(frozen=True, eq=False)
class Overlay:
    """How the new version lies over the old one.

    Attributes: ``reframing`` where the new picture lies in the old one; ``weights`` float32 (96,)
    how much each cell of the new one counts, 0 where something stands that the old one has not;
    ``tone`` float32 (24,) the new luma at even steps of the old one's from 0 to 255; ``agreement``
    how far frames that are the same correlate under it, 0 to 1; ``pairs`` by how many it is told;
    ``blur`` what share of the difference to the cells beside it a cell may be wrong by, since
    prints are coarse.
    """

    reframing: Reframing
    weights: Floats
    tone: Floats
    agreement: float
    pairs: int
    blur: float = 0.0

    @cached_property
    def matrix(self) -> Floats:
        """What lays the old version's prints as the new one shows them, (96, 96)."""
        return matrix_of(self.reframing)[0]

    def old(self, luma: Floats) -> Floats:
        """Return the old version's prints as the new one would show them, levelled."""
        return level(self.toned(luma @ self.matrix), self.weights)

    def toned(self, luma: Floats) -> Floats:
        """Return luma of the old version in the new one's grade."""
        place = np.clip(luma * (_STEPS / 255), 0, _STEPS).astype(np.int32)
        return np.asarray(self._tones[place], np.float32)

    @cached_property
    def _tones(self) -> Floats:
        """The new luma at many even steps of the old one's, the middle of each."""
        steps = (np.arange(_STEPS + 1) + 0.5) * (255 / _STEPS)
        tones = np.interp(steps, np.linspace(0, 255, _KNOTS), self.tone)
        return np.asarray(tones, np.float32)

    def new(self, luma: Floats) -> Floats:
        """Return the new version's prints, levelled."""
        return level(luma, self.weights)

    def local_gaps(self, old: Floats, new: Floats) -> Floats:
        """Return how far a part of the picture shows something else in shots, (k,), over 1 where it
        does, by their mean prints (k, 96). A shot's own grade is set aside.
        """
        there = self.weights > 0.4
        gaps, detail = _gaps(self, old, new)
        beyond = gaps / (EFFECT + 3.0 * self.blur * detail)
        worst = np.sort(beyond[:, there], axis=1)[:, -3:]
        return np.asarray(worst.mean(axis=1), np.float32)

    @property
    def facts(self) -> tuple[str, ...]:
        """What it says of the whole, in words."""
        said = []
        if self.reframing.words:
            said.append(f"the picture is {self.reframing.words}")
        knots = np.linspace(0, 255, _KNOTS)[2:-2]
        if np.abs(self.tone[2:-2] - knots).mean() > 4:
            said.append("it is graded otherwise")
        inside = matrix_of(self.reframing)[1]
        covered = inside & (self.weights < 0.4)
        if covered.any():
            rows, columns = np.divmod(np.flatnonzero(covered), ACROSS)
            said.append(f"something is burnt in {_where(rows.mean(), columns.mean())}")
        return tuple(said)


def _where(row: float, column: float) -> str:
    up = "at the top" if row < 2.5 else "at the foot" if row > 4.5 else "in the middle"
    side = " left" if column < 3.5 else " right" if column > 7.5 else ""
    return up + side


def _sampled(side: Side, count: int) -> NDArray[np.int64]:
    """Return frames that show something, spread over the shots."""
    middles = [(a + b) // 2 - side.start for a, b in side.shots]
    wanted = np.array(middles if len(middles) >= count else [], np.int64)
    if not len(wanted):
        wanted = np.linspace(0, len(side.luma) - 1, count).astype(np.int64)
    contrast = side.luma[wanted].std(axis=1)
    lively = wanted[contrast > max(3.0, 0.3 * float(np.median(contrast)))]
    if len(lively) > count:
        lively = lively[np.linspace(0, len(lively) - 1, count).astype(np.int64)]
    return np.asarray(lively, np.int64)


def overlay_of(old: Side, new: Side) -> Overlay:
    """Return how a new version lies over the old one."""
    asked = _sampled(new, _SAMPLES)
    whole = Overlay(
        Reframing(), np.ones(CELLS, np.float32),
        np.linspace(0, 255, _KNOTS, dtype=np.float32), 0.0, 0,
    )  # fmt: skip
    if not len(asked):
        return whole
    step = max(2, len(old.luma) // _LOOKED_AT)
    ones, others = new.luma[asked], old.luma[::step]
    best, fit = whole.reframing, -1.0
    few = ones[:: max(1, len(ones) // 60)]
    thinned = others[:: max(1, len(others) // 6000)]
    for start in _STARTS:
        matched, _ = _nearest(few, thinned, start)
        now = agreement(few, matched, start)
        if now > fit + (0.004 if start is not _STARTS[0] else 0):
            best, fit = start, now
    weights = np.ones(CELLS, np.float32)
    for _ in range(3):
        matched, alike = _nearest(ones, others, best, weights)
        near = alike >= np.quantile(alike, 0.4)
        matrix, inside = matrix_of(best)
        covered = _covered(matched[near] @ matrix, ones[near], inside)
        weights = np.where(covered, 0, 1).astype(np.float32)
        if weights.sum() < CELLS / 3:
            weights = np.ones(CELLS, np.float32)
        best, fit = refined(ones, matched, best, weights=weights)
    best = Reframing() if best.plain else best
    matched, alike = _nearest(ones, others, best, weights)
    sure = alike > max(0.8, float(np.quantile(alike, 0.4)))
    if sure.sum() < 4:
        return whole
    return _finished(best, ones[sure], matched[sure])


def _nearest(
    ones: Floats, others: Floats, reframing: Reframing, cells: Floats | None = None
) -> tuple[Floats, Floats]:
    """Return for each print the one of the others most like it, as luma, and how like."""
    matrix, inside = matrix_of(reframing)
    weights = inside.astype(np.float32) * (1.0 if cells is None else cells)
    alike = level(ones, weights) @ level(others @ matrix, weights).T
    place = alike.argmax(axis=1)
    return others[place], alike[np.arange(len(ones)), place]


def _finished(reframing: Reframing, ones: Floats, others: Floats) -> Overlay:
    """Return the overlay with its grade and with what is burnt in left out."""
    matrix, inside = matrix_of(reframing)
    seen = others @ matrix
    weights = inside.astype(np.float32)
    tone = np.linspace(0, 255, _KNOTS, dtype=np.float32)
    for _ in range(2):
        tone = _tone(seen, ones, weights > 0.4)
        toned = np.interp(seen, np.linspace(0, 255, _KNOTS), tone).astype(np.float32)
        weights = np.where(inside & ~_covered(toned, ones, inside), 1, 0).astype(np.float32)
        if weights.sum() < CELLS / 4:
            weights = inside.astype(np.float32)
            break
    overlay = Overlay(reframing, weights, tone, 0.0, len(ones))
    fits = (overlay.new(ones) * overlay.old(others)).sum(axis=1)
    there = weights > 0.4
    gaps, detail = _gaps(overlay, others, ones)
    shares = np.quantile((gaps / (3.0 + detail))[:, there], 0.9, axis=1)
    return replace(overlay, agreement=float(np.median(fits)), blur=float(np.median(shares)))


_FOLLOWS = 0.7
"""A cell follows the old one's where their luma correlates so far from shot to shot."""


def _covered(old: Floats, new: Floats, inside: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Return which cells something stands over: they do not follow the old version's, (96,).

    A running clock keeps its cells as light all along, a logo stays as it is.
    """
    x, y = old - old.mean(axis=0), new - new.mean(axis=0)
    spread = np.sqrt((x * x).mean(axis=0) * (y * y).mean(axis=0))
    follows = (x * y).mean(axis=0) / np.maximum(spread, 1e-3)
    gain = (x * y).mean(axis=0) / np.maximum((x * x).mean(axis=0), 1e-3)
    usual = float(np.median(gain[inside]))
    return np.asarray((follows < _FOLLOWS) | (gain < 0.6 * usual), np.bool_)


def _gaps(overlay: Overlay, old: Floats, new: Floats) -> tuple[Floats, Floats]:
    """Return per cell by how many grey levels shots differ, and by how many the cell does from
    those beside it; (k, 96) each, of their mean prints (k, 96).
    """
    seen = overlay.toned(old @ overlay.matrix).astype(np.float64)
    there = overlay.weights > 0.4
    gain, lift = _robust_lines(seen[:, there], new[:, there].astype(np.float64))
    steady = gain[:, None] * seen + lift[:, None]
    grid = np.pad(steady.reshape(-1, DOWN, ACROSS), ((0, 0), (1, 1), (1, 1)), mode="edge")
    middle = grid[:, 1:-1, 1:-1]
    beside = (grid[:, :-2, 1:-1], grid[:, 2:, 1:-1], grid[:, 1:-1, :-2], grid[:, 1:-1, 2:])
    detail = np.maximum.reduce([np.abs(b - middle) for b in beside]).reshape(len(steady), -1)
    gaps = np.abs(new - steady)
    return gaps.astype(np.float32), detail.astype(np.float32)


_Doubles = NDArray[np.float64]


def _robust_lines(x: _Doubles, y: _Doubles) -> tuple[_Doubles, _Doubles]:
    """Return gains and lifts (k,) of rows of y over those of x, (k, cells), by the half of the
    points of each that fit best (trimmed least squares, Rousseeuw 1984, a few steps of it).
    """
    keep = np.ones(x.shape, np.bool_)
    flat = np.zeros(len(x), np.bool_)
    gain, lift = np.ones(len(x)), np.zeros(len(x))
    most = int(0.6 * (x.shape[1] - 1))
    for _ in range(4):
        count = keep.sum(axis=1)
        mean_x, mean_y = ((v * keep).sum(axis=1) / count for v in (x, y))
        from_x, from_y = (x - mean_x[:, None]) * keep, y - mean_y[:, None]
        spread = (from_x * from_x).sum(axis=1) / count
        flat |= spread < 1.0
        gain = (from_x * from_y).sum(axis=1) / count / np.maximum(spread, 1.0)
        lift = mean_y - gain * mean_x
        gaps = np.abs(y - gain[:, None] * x - lift[:, None])
        keep = gaps <= np.partition(gaps, most, axis=1)[:, most, None]
    gain[flat], lift[flat] = 1.0, np.median(y[flat] - x[flat], axis=1)
    return gain, lift


def _tone(seen: Floats, ones: Floats, cells: NDArray[np.bool_]) -> Floats:
    """Return the new luma at even steps of the old one's: medians, made to rise."""
    knots = np.linspace(0, 255, _KNOTS)
    x, y = seen[:, cells].ravel(), ones[:, cells].ravel()
    place = np.round(x / 255 * (_KNOTS - 1)).astype(np.int64)
    known, value = [], []
    for k in range(_KNOTS):
        here = place == k
        if here.sum() >= 20:
            known.append(float(np.median(x[here])))
            value.append(float(np.median(y[here])))
    if len(known) < 3:
        return knots.astype(np.float32)
    rising = np.maximum.accumulate(value)
    slope_low = (rising[1] - rising[0]) / max(1.0, known[1] - known[0])
    slope_high = (rising[-1] - rising[-2]) / max(1.0, known[-1] - known[-2])
    tone = np.interp(knots, known, rising)
    tone = np.where(knots < known[0], rising[0] + (knots - known[0]) * slope_low, tone)
    tone = np.where(knots > known[-1], rising[-1] + (knots - known[-1]) * slope_high, tone)
    return np.asarray(tone, np.float32)
