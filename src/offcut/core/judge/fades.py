"""Fades: contrast that runs to nothing and comes back."""

from __future__ import annotations

import numpy as np

from offcut.core.judge.evidence import Floats, Planes
from offcut.core.judge.span import Span
from offcut.core.model.seam import Kind


def fades(planes: Planes) -> list[Span]:
    """Return the thinkable fades: contrast that runs to nothing and comes back."""
    found = dict.fromkeys(_fades_by(planes.stats[:, 1]))
    return list(found | dict.fromkeys(_fades_by(planes.stats[:, 4])))


def _fades_by(contrast: Floats) -> list[Span]:
    """Return the fades that one measure of contrast shows."""
    n = len(contrast)
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
