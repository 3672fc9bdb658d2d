"""Camera moves: pans, tilts, zooms, rolls and whips of a shot, and where the camera stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from offcut.core.facts.camera_path import PAN, ROLL, TILT, ZOOM, CameraPath, Floats
from offcut.core.facts.fact import Fact, FactCertainty, Figure, Sort, stretches
from offcut.core.facts.smoothing import mean_of, median_of

_WORDS = {
    PAN: ("pan left", "pan right"),
    TILT: ("tilt down", "tilt up"),
    ZOOM: ("zoom out", "zoom in"),
    ROLL: ("roll left", "roll right"),
}
STILL, TRAVEL, WHIP = "still", "travel", "whip"
_FELT = np.array([1.0, 1.0, 0.31, 0.31])
"""By how much a zoom or roll moves the picture in the mean: a point lies 0.31 widths from the
middle of a picture 16 by 9."""
_SLOWEST = 0.012
"""Slower than so many widths a second nothing is called a move."""
_LEAST = np.array([0.03, 0.03, 0.012, 0.010])
"""A move goes at least so far, in widths as they are felt."""
_BEGUN = 0.16
"""A move begins and ends where it has this share of its pace."""
_FURTHER = 0.15
"""So much of its length a move goes on at most where it is too slow to be told from none."""
_FAST, _CALM = 0.3, 0.15
"""A move so many widths a second fast ends by the paces of single frames, as does one whose paces
are within this share of the smoothed ones: only a hand's are not."""
_WHIPPED, _BEGUN_FAST = 0.8, 0.35
WHIPS = 1.2
"""A pan or tilt of so many widths a second is a whip."""
_SMOOTHED, _SHORTEST = 0.28, 0.2
"""Seconds that paces are smoothed over, and that a move lasts at least."""
_BRIDGED = 0.4
_STANDS = 0.4
"""A camera that stands still does so for so many seconds."""
_DRIFTS = 0.03
_LAYERED = 0.22
"""From this share of the picture that goes the same way at another pace, the camera travels."""


@dataclass(frozen=True)
class _Move:
    kind: int
    start: int
    end: int
    far: float
    """How far it goes as felt, with its sign."""
    pace: float
    """As felt, in widths a second, with its sign."""


def camera_of(path: CameraPath, rate: float) -> list[Fact]:
    """Return the moves of one shot, frames from its first on; nothing where nothing is known."""
    n = len(path)
    known = path.known
    if n < 3 or known.sum() < max(3, 0.2 * n):
        return []
    steps = _bridged(path.steps, known, max(1, round(_BRIDGED * rate)))
    felt = steps * _FELT * rate
    paces = _paces(felt, rate)
    sharp = mean_of(median_of(felt, 3), 3)
    moves = _told_apart(
        [
            m
            for kind in _WORDS
            for m in _moves(kind, paces[:, kind], sharp[:, kind], steps[:, kind], rate)
        ]
    )
    made = [_fact(m, path, steps, rate) for m in moves]
    return sorted([*made, *_still(path, steps, paces, moves, rate)], key=lambda f: f.start)


def _bridged(steps: Floats, known: NDArray[np.bool_], most: int) -> Floats:
    """Return steps where short stretches that are not known are filled from both sides."""
    made = steps.copy()
    made[~known] = 0
    at = np.arange(len(steps))
    for a, b in stretches(known):
        if not known[a] and b - a <= most and known.any():
            for column in range(4):
                made[a:b, column] = np.interp(at[a:b], at[known], steps[known, column])
    return made


def _paces(felt: Floats, rate: float) -> Floats:
    """Return paces smoothed: single frames that jump first, then evenly over a quarter second."""
    return mean_of(median_of(felt, 3), max(3, round(_SMOOTHED * rate)))


def _moves(kind: int, pace: Floats, sharp: Floats, steps: Floats, rate: float) -> list[_Move]:
    """Return where one kind of move goes one way, far and fast enough.

    ``pace`` is what it is found by; ``sharp``, which is smoothed less, what a fast one ends by.
    """
    found = []
    sign = np.where(np.abs(pace) < _SLOWEST, 0, np.sign(pace)).astype(np.int64)
    for a, b in stretches(sign):
        if not sign[a]:
            continue
        typical = float(np.percentile(np.abs(pace[a:b]), 75))
        over = np.flatnonzero(np.abs(pace[a:b]) >= max(_SLOWEST, _BEGUN * typical))
        first, last = a + int(over[0]), a + int(over[-1]) + 1
        rough = float(np.median(np.abs(sharp[first:last] - pace[first:last])))
        tight = typical >= _FAST or rough < _CALM * typical
        if tight:
            first, last = _tight(sharp, first, last, _BEGUN_FAST if typical >= _WHIPPED else _BEGUN)
        if typical < _WHIPPED:
            smoothed = 3 if tight else max(3, round(_SMOOTHED * rate))
            first, last = _to_the_foot(sharp if tight else pace, first, last, smoothed)
        far = float(steps[first:last].sum() * _FELT[kind])
        if abs(far) >= _LEAST[kind] and last - first >= _SHORTEST * rate:
            inner = np.sort(np.abs(pace[first:last]))[(last - first) // 4 :]
            found.append(_Move(kind, first, last, far, float(np.sign(far) * inner.mean())))
    return found


def _tight(sharp: Floats, first: int, last: int, begun: float) -> tuple[int, int]:
    """Return the ends of a move by paces of single frames: smoothing has drawn them out."""
    fast = np.abs(sharp[first:last])
    over = np.flatnonzero(fast >= begun * float(np.percentile(fast, 80)))
    return first + int(over[0]), first + int(over[-1]) + 1


def _to_the_foot(pace: Floats, first: int, last: int, smoothed: int) -> tuple[int, int]:
    """Return the ends of a move where its pace would be nothing, if it goes on as it begins.

    From `_BEGUN` of its pace to three times that a straight line is laid; what smoothing over so
    many frames makes of a sudden beginning is left out of it.
    """
    fast = np.abs(pace[first:last])
    over = np.flatnonzero(fast >= 3 * _BEGUN * float(np.percentile(fast, 75)))
    made = []
    for slow in (int(over[0]), last - first - 1 - int(over[-1])):
        further = (slow - 2 * _BEGUN * smoothed) / 2
        made.append(round(min(max(0.0, further), _FURTHER * (last - first))))
    return max(0, first - made[0]), min(len(pace), last + made[1])


def _told_apart(moves: list[_Move]) -> list[_Move]:
    """Return moves of which no two overlap: what is felt most stays, others keep what is left."""
    kept: list[_Move] = []
    for move in sorted(moves, key=lambda m: -abs(m.far)):
        a, b = move.start, move.end
        for other in kept:
            if other.start <= a < other.end:
                a = other.end
            if other.start < b <= other.end:
                b = other.start
            if a < other.start and other.end < b:  # it goes on either side: the longer one stays
                a, b = (a, other.start) if other.start - a >= b - other.end else (other.end, b)
        if b - a >= max(6, 0.4 * (move.end - move.start)):
            kept.append(replace(move, start=a, end=b))
    return sorted(kept, key=lambda m: m.start)


def _fact(move: _Move, path: CameraPath, steps: Floats, rate: float) -> Fact:
    """Return a move as a fact, with its speed."""
    a, b = move.start, move.end
    value = _WORDS[move.kind][move.far > 0]
    figures: dict[str, Figure] = {"speed": _speed(move, steps, rate)}
    share = float(path.share[a:b].mean())
    if move.kind in (PAN, TILT) and abs(move.pace) >= WHIPS:
        figures["way"], value = value, WHIP
    elif float(path.beside[a:b].mean()) >= _LAYERED:
        figures["way"], value = value, TRAVEL
    strong = abs(move.far) / _LEAST[move.kind]
    sure = share > 0.55 and strong > 1.6
    likely = share > 0.4 and strong > 1.2
    certainty = (
        FactCertainty.SURE if sure else FactCertainty.LIKELY if likely else FactCertainty.PERHAPS
    )
    if value == TRAVEL and certainty is FactCertainty.SURE:
        certainty = FactCertainty.LIKELY
    return Fact(Sort.CAMERA, value, a, b, certainty, figures)


def _speed(move: _Move, steps: Floats, rate: float) -> float:
    """Return the mean speed in picture widths a second; of a zoom the factor, of a roll degrees."""
    a, b = move.start, move.end
    mean = float(steps[a:b, move.kind].sum()) / (b - a) * rate
    if move.kind == ZOOM:
        return round(float(np.exp(mean)), 4)
    return round(abs(float(np.degrees(mean)) if move.kind == ROLL else mean), 4)


def _still(
    path: CameraPath, steps: Floats, paces: Floats, moves: list[_Move], rate: float
) -> list[Fact]:
    """Return where the camera stands, between moves."""
    edges = [0, *(f for m in moves for f in (m.start, m.end)), len(path)]
    facts = []
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        if b - a < min(len(path), max(3, _STANDS * rate)):
            continue
        share = path.share[a:b]
        told = float((share >= 0.3).mean())
        net = float(np.abs((steps[a:b] * _FELT).sum(axis=0)).max())
        fast = float(np.abs(paces[a:b]).max(axis=1).mean())
        if told < 0.5 or net > _DRIFTS + 0.02 * (b - a) / rate or fast > 0.08:
            continue
        sure = told > 0.9 and float(share.mean()) > 0.55 and fast < 0.02
        certainty = FactCertainty.SURE if sure else FactCertainty.LIKELY
        facts.append(Fact(Sort.CAMERA, STILL, a, b, certainty, _NO_SPEED))
    return facts


_NO_SPEED: Mapping[str, float | str] = {"speed": 0.0}
