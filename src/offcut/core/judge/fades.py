"""Fades: contrast that runs to nothing and comes back, or light that goes straight there and back.

The second is what is left to see of a fade where something stays: letters, a clock, a blurred
surround that only darkens.
"""

from __future__ import annotations

from itertools import pairwise
from statistics import median

import cv2
import numpy as np

from offcut.core.judge.planes import Floats, Planes
from offcut.core.judge.span import Span
from offcut.core.model.seam import Kind


def fades(planes: Planes) -> list[Span]:
    """Return the thinkable fades: contrast that runs to nothing and comes back."""
    found = dict.fromkeys(_fades_by(planes.stats[:, 1]))
    found |= dict.fromkeys(_fades_by(planes.stats[:, 4]))
    return list(found | dict.fromkeys(_fades_by_light(planes.stats[:, 0])))


def _fades_by(contrast: Floats) -> list[Span]:
    """Return the fades that one measure of contrast shows."""
    n = len(contrast)
    around = cv2.dilate(np.ascontiguousarray(contrast)[None], np.ones((1, 121), np.uint8))[0]
    dark = np.clip(0.22 * around, 0.8, 7.0)
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


_STEADY = 0.3
"""Grey levels a frame: what changes less is no ramp of light."""
_LEAST, _LONGEST, _HELD = 6.0, 75, 40
"""A ramp changes so many grey levels at least, in so many frames at most, and the far end is held
for so many."""


def _fades_by_light(light: Floats) -> list[Span]:
    """Return the fades at which the light runs straight to an extreme and straight back."""
    if len(light) < 12:
        return []
    # without the single frames that flash
    before, after = np.append(light[0], light[:-1]), np.append(light[1:], light[-1])
    low, high = np.minimum(before, after), np.maximum(before, after)
    calm = np.minimum(np.maximum(light, low), high)
    step = np.diff(calm, prepend=calm[0])
    way = np.where(np.abs(step) < _STEADY, 0, np.sign(step)).astype(np.int8)
    for short in (1, 2):  # a ramp may stand still for a frame or two
        alike = (way[: -short - 1] == way[short + 1 :]) & (way[: -short - 1] != 0)
        for k in range(1, short + 1):
            inner = way[k : k - short - 1 or None]
            inner[alike & (inner == 0)] = way[: -short - 1][alike & (inner == 0)]
    edges = np.flatnonzero(np.diff(way)) + 1
    bounds = np.concatenate([[0], edges, [len(way)]])
    steps = np.abs(step).tolist()
    ramps: list[tuple[int, int, int]] = []  # first changed frame, first after it, way
    for first, after in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        sign = int(way[first])
        if sign == 0 or not 2 <= after - first <= _LONGEST:
            continue
        if abs(float(calm[after - 1] - calm[first - 1])) >= _LEAST:
            ramps.append((*_straight(steps, first, after), sign))
    return [
        Span(first, back - 1, Kind.FADE)
        for (first, out, way_there), (again, back, way_back) in pairwise(ramps)
        if way_there != way_back and again - out <= _HELD and back - 1 - first >= 4
        if first > 0 and back < len(light)
    ]


def _straight(steps: list[float], first: int, after: int) -> tuple[int, int]:
    """Return the part of a ramp that changes about as much from frame to frame as its middle."""
    usual = 0.35 * median(steps[first:after])
    while after - first > 2 and steps[first] < usual:
        first += 1
    while after - first > 2 and steps[after - 1] < usual:
        after -= 1
    return first, after


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
