"""Bursts: seams of a few restless frames, joins made by movement and camera stops."""

from __future__ import annotations

import numpy as np

from offcut.core.judge.planes import Floats, Planes, nearest_distance
from offcut.core.judge.span import Span, best_places
from offcut.core.model.seam import Kind

_MOVES = (3, 4, 5, 6, 8, 10, 13, 17)
_BESIDE = 5
_RISE = 3.5
"""Grey levels by which flash frames are lighter than what lies on either side."""
_LONGEST_STOP = 10


def moves(planes: Planes) -> list[Span]:
    """Return the thinkable joins made by movement: a burst of change between unlike pictures."""
    n = planes.n
    if n < 16:
        return []
    change = planes.unlike[:, 0]
    sums = np.concatenate([[0.0], np.cumsum(change, dtype=np.float64)])
    best, long = np.full(n, -1.0), np.zeros(n, np.int64)
    for length in _MOVES:
        low, many = _BESIDE + 1, n - length - 2 * _BESIDE - 2
        if many <= 0:
            break
        sides = [
            sums[low + k : low + k + many] for k in (-_BESIDE, 0, length + 1, length + 1 + _BESIDE)
        ]
        inside = (sides[2] - sides[1]) / (length + 1)
        outside = np.maximum(sides[1] - sides[0], sides[3] - sides[2]) / _BESIDE
        s = np.flatnonzero((inside > 5.5) & (inside > 1.5 * outside))
        inside, outside, s = inside[s], outside[s], s + low
        near = int(nearest_distance(np.array(length + 1)))
        unlike = planes.at(planes.unlike, s + length, near) > 8
        inside, outside, s = inside[unlike], outside[unlike], s[unlike]
        edges = np.minimum(change[s], change[s + length])
        fit = (inside - outside) / (inside + 4) + 0.1 * edges / (inside + 1) + 0.012 * length
        fits = s + length // 2
        better = fit > best[fits]
        best[fits[better]] = fit[better]
        long[fits[better]] = length
    reach = np.maximum(2, long // 3)
    at = best_places(best, 0.25, reach, reach + 1)
    start = at - long[at] // 2
    ends = start + long[at]
    return [Span(s, e, Kind.WHIP) for s, e in zip(start.tolist(), ends.tolist(), strict=True)]


_RESTLESS = 0.2
"""Share of the way from what is usual outside to what is usual inside, from which on a frame is
of a burst."""


def tightened(planes: Planes, span: Span) -> Span:
    """Return a join made by movement without the calm frames at its ends."""
    change = planes.unlike[:, 0]
    start, end = span.start, min(span.end, planes.n - 1)
    inside = float(np.median(change[start : end + 1]))
    sides = change[max(0, start - 6) : start], change[end + 1 : end + 7]
    outside = max((float(np.median(side)) for side in sides if len(side)), default=0.0)
    least = outside + _RESTLESS * (inside - outside)
    while end - start > _MOVES[0] and change[start] < least:
        start += 1
    while end - start > _MOVES[0] and change[end] < least:
        end -= 1
    return Span(start, end, span.kind)


def stops(planes: Planes) -> list[Span]:
    """Return the thinkable camera stops: a few frames that burn out between unlike pictures."""
    return [Span(start, end, Kind.CUT) for start, end in flash_runs(planes.hat())]


def flash_runs(hat: Floats) -> list[tuple[int, int]]:
    """Return the runs [start, end) of frames whose light stands out, by `evidence.hat_of`."""
    n = len(hat)
    light = np.flatnonzero(hat > _RISE)
    runs = []
    for run in np.split(light, np.flatnonzero(np.diff(light) > 2) + 1) if len(light) else ():
        start, end = int(run[0]), int(run[-1]) + 1
        if end - start > _LONGEST_STOP or start < 2 or end > n - 2:
            continue
        rise = float(hat[start:end].max())
        # where it rises slowly the first frames stand less high
        while start > 2 and hat[start - 1] > max(1.0, 0.08 * rise) and end - start < _LONGEST_STOP:
            start -= 1
        while end < n - 2 and hat[end] > max(1.0, 0.08 * rise) and end - start < _LONGEST_STOP:
            end += 1
        runs.append((start, end))
    return runs
