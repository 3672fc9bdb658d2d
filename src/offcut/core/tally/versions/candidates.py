"""Candidates: for each shot of the new version, shots of the old one it may be, and where."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from offcut.core.tally.aligning import Lay, best_lays, fits_of

Floats = NDArray[np.float32]
Span = tuple[int, int]
_ASKED = 4
_STEP = 5
_NEAREST = 5
_ROWS = 512
_THREADS = 2
_WITHIN = 0.3
FARTHEST = 0.45
"""Stretches that lie farther apart than this have nothing in common."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A shot of the old version that one of the new may be: old frame = new frame + offset."""

    shot: int
    lay: Lay


def nearest_shots(
    new: Floats, new_spans: list[Span], old: Floats, old_spans: list[Span]
) -> NDArray[np.int64]:
    """Return for each new span the old ones most like it, best first, (n, up to 5); -1 for those
    that come nowhere near the best.

    A few frames of the one are held against every fifth frame of the other.
    """
    asked, owner = _frames_of(new_spans, lambda a, b: _spread(a, b, _ASKED))
    held, held_by = _frames_of(old_spans, _thinned)
    starts = np.flatnonzero(np.diff(held_by, prepend=-1))
    few = min(_NEAREST, len(old_spans))
    likeness = np.zeros((len(new_spans), len(old_spans)), np.float32)
    counts = np.bincount(owner, minlength=len(new_spans)).astype(np.float32)
    others = np.ascontiguousarray(old[held].T)

    def most_like(first: int) -> Floats:
        """Return how like each old span some frames are at their best."""
        most = np.maximum.reduceat(new[asked[first : first + _ROWS]] @ others, starts, axis=1)
        return np.asarray(most, np.float32)

    with ThreadPoolExecutor(_THREADS) as pool:
        for low in range(0, len(asked), _THREADS * _ROWS):  # no more than so many are held at once
            blocks = range(low, min(len(asked), low + _THREADS * _ROWS), _ROWS)
            for first, most in zip(blocks, pool.map(most_like, blocks), strict=True):
                whose = owner[first : first + _ROWS]
                begins = np.flatnonzero(np.diff(whose, prepend=-1))
                likeness[whose[begins]] += np.add.reduceat(most, begins, axis=0)
    likeness /= counts[:, None]
    best = np.argpartition(-likeness, few - 1, axis=1)[:, :few]
    order = np.take_along_axis(likeness, best, axis=1).argsort(axis=1)[:, ::-1]
    shots, alike = (
        np.take_along_axis(best, order, axis=1),
        np.take_along_axis(np.take_along_axis(likeness, best, axis=1), order, axis=1),
    )
    return np.where(alike >= alike[:, :1] - _WITHIN * np.abs(alike[:, :1]), shots, -1)


def _frames_of(
    spans: list[Span], chosen: Callable[[int, int], NDArray[np.int64]]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    frames = [chosen(a, b) for a, b in spans]
    owner = np.repeat(np.arange(len(spans)), [len(f) for f in frames])
    return np.concatenate(frames), owner


def _spread(start: int, end: int, count: int) -> NDArray[np.int64]:
    """Return frames spread over a span, not its very ends."""
    n = end - start
    places = (np.arange(count) + 0.5) / count * n if n >= count else np.arange(n)
    return start + places.astype(np.int64)


def _thinned(start: int, end: int) -> NDArray[np.int64]:
    return np.arange(start + min(_STEP // 2, end - start - 1), end, _STEP)


def candidates_of(
    new: Floats, new_spans: list[Span], old: Floats, old_spans: list[Span]
) -> list[list[Candidate]]:
    """Return for each new span where it may lie in the old version, best first."""
    near = nearest_shots(new, new_spans, old, old_spans)
    found: list[list[Candidate]] = []
    for (start, end), shots in zip(new_spans, near.tolist(), strict=True):
        here: list[Candidate] = []
        for shot in (s for s in shots if s >= 0):
            first, last = old_spans[shot]
            fits = fits_of(new[start:end], old[first:last])
            least = max(
                min(4, end - start, last - first), round(0.4 * min(end - start, last - first))
            )
            for lay in best_lays(fits, least=least):
                moved = first - start
                if lay.apart > FARTHEST:
                    continue
                here.append(
                    Candidate(
                        shot,
                        Lay(
                            lay.offset + moved, lay.apart, lay.moving, lay.frames,
                            lay.low + moved, lay.high + moved,
                        ),
                    )
                )  # fmt: skip
        here.sort(key=lambda c: c.lay.apart)
        found.append(here[:8])
    return found
