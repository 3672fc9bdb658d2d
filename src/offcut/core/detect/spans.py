"""Spans: where a gradual seam is thinkable, and the figures that speak for it.

A dissolve is a frame explained by a mix of its two ends with a weight that runs from 0 to 1. With
squared distances only: for t between a and b at share q, the distance of x_t to the mix is
(1-q) d(a,t)² + q d(t,b)² - q(1-q) d(a,b)²; summed over the span and set against d(a,b)² it is 0
for a perfect dissolve. (The identity is Stewart's theorem; the model of a dissolve as a linear mix
is common, e.g. Lienhart 1999, "Comparison of automatic shot boundary detection algorithms", from
memory.) A fade is contrast running to nothing and back; a wipe is blocks changing sides one after
another in order.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from offcut.core.detect.evidence import Floats, Frames, Planes
from offcut.core.detect.signals import DISTANCES
from offcut.core.model.project import Kind

LENGTHS = (6, 8, 10, 13, 16, 20, 25, 31, 38, 46, 55, 61)
_SHARES = (0.2, 0.35, 0.5, 0.65, 0.8)


@dataclass(frozen=True)
class Span:
    """A thinkable gradual seam: first mixed frame, first clean frame, kind, and its figures."""

    start: int
    end: int
    kind: Kind
    figures: tuple[float, ...]


def mix_misfit(planes: Planes, b: Frames, length: int | Frames) -> tuple[Floats, Floats]:
    """Return d(a,b) and how badly a straight mix of a and b explains what lies between.

    a = b - length - 1 is the last clean frame before; ``length`` is one for all or one for each
    b, up to 62. The misfit is 0 for a perfect dissolve, about 1 where nothing is explained.
    """
    whole = np.asarray(length) + 1
    ends = planes.apart(b, whole)
    square = ends * ends + 1e-3
    misfit = np.zeros_like(ends)
    for share in _SHARES:
        into = np.clip(np.round(share * whole), 1, whole - 1).astype(np.int64)
        q = (into / whole).astype(np.float32)
        to_a, to_b = planes.apart(b - whole + into, into), planes.apart(b, whole - into)
        rest = (1 - q) * to_a**2 + q * to_b**2 - q * (1 - q) * square
        misfit += np.maximum(rest, 0) / (q * (1 - q) * square)
    return ends, misfit / len(_SHARES)


def _nearest(distance: int) -> int:
    return next((d for d in DISTANCES if d >= distance), DISTANCES[-1])


def mixes(planes: Planes) -> list[Span]:
    """Return the thinkable dissolves, the best length at each place, no two overlapping much."""
    n = planes.n
    if n < 12:
        return []
    frames = np.arange(n)
    best = np.full(n, -1.0, np.float32)
    long = np.zeros(n, np.int64)
    for length in LENGTHS:
        b = frames + length // 2 + 1
        inside = (b < n) & (b - length - 2 >= 0)
        ends, misfit = mix_misfit(planes, b, length)
        before = planes.apart(b - length - 1, min(8, length))
        after = planes.apart(b + min(8, length), min(8, length))
        steady = np.maximum(before, after) / (ends + 1.0)
        steps = np.stack(
            [planes.apart(b - k, 1) for k in range(0, length + 1, max(1, length // 8))]
        )
        burst = steps.max(axis=0) / (ends + 1.0)
        fit = (
            (1 - misfit) * np.clip(ends / 14.0, 0, 1)
            - 0.55 * steady
            - 0.5 * np.maximum(0, burst - 2.2 / length)
        )
        unlike = planes.at(planes.unlike, b, _nearest(length + 1))
        fit *= np.clip((unlike - 4) / 9, 0.05, 1)
        fit = np.where(inside & (ends > 4), fit + 0.0004 * length, -1)
        better = fit > best
        best = np.where(better, fit, best)
        long = np.where(better, length, long)
    return _peaks(planes, best, long)


def _peaks(planes: Planes, best: Floats, long: NDArray[np.int64]) -> list[Span]:
    order = np.argsort(-best, kind="stable")
    taken = np.zeros(planes.n, np.bool_)
    spans: list[Span] = []
    for place in order.tolist():
        if best[place] < 0.08:
            break
        if taken[place]:
            continue
        length = int(long[place])
        start = place - length // 2
        start, end = refined(planes, start, start + length)
        taken[max(0, place - length // 2 - 4) : place + length // 2 + 4] = True
        if 0 < start < end < planes.n:
            spans.append(
                Span(start, end, Kind.DISSOLVE, figures(planes, start, end, Kind.DISSOLVE))
            )
    return spans


def refined(planes: Planes, start: int, end: int) -> tuple[int, int]:
    """Return the span whose straight mix fits best, a few frames longer or shorter either way."""
    reach = max(2, (end - start) // 4)
    starts = np.arange(max(1, start - reach), start + reach + 1)
    ends = np.arange(max(start + 3, end - reach), min(planes.n - 1, end + reach) + 1)
    s, e = (grid.ravel() for grid in np.meshgrid(starts, ends, indexing="ij"))
    fits = (e - s >= 4) & (e - s <= 62)
    s, e = s[fits], e[fits]
    if not len(s):
        return start, end
    apart, misfit = mix_misfit(planes, e, e - s)
    best = int(np.argmax(apart * (1 - 1.5 * misfit) - 0.12 * (e - s)))
    return int(s[best]), int(e[best])


def figures(planes: Planes, start: int, end: int, kind: Kind) -> tuple[float, ...]:
    """Return the figures for a gradual seam of a kind over frames [start, end)."""
    length = min(end - start, 62)
    b = np.array([min(end, planes.n - 1)])
    ends, misfit = (float(v[0]) for v in mix_misfit(planes, b, length))
    inside = np.arange(start, end + 1)
    steps = planes.apart(inside, 1)
    step_unlike = planes.at(planes.unlike, inside, 1)
    reach = min(10, length)
    near = _nearest(length + 1)
    margins = [float(planes.apart(np.array([f]), reach)[0]) for f in (start - 1, end + reach)]
    outside = np.concatenate([np.arange(start - 8, start), np.arange(end + 1, end + 9)])
    quiet = planes.at(planes.unlike, outside, 1)
    light = planes.of(planes.stats, inside)
    edge_light = planes.of(planes.stats, np.array([start - 1, end]))
    middle = planes.of(planes.stats, np.array([(start + end) // 2]))[0]
    across_far = planes.at(planes.unlike, b + 2, near)
    order, burst = wipe_order(planes, start, end)
    half = length // 2
    total = float(steps.sum())
    return (
        float(length),
        ends,
        misfit,
        float(steps.max()) / (ends + 1),
        total / (ends + 1),
        margins[0] / (ends + 1),
        margins[1] / (ends + 1),
        max(margins),
        float(planes.at(planes.unlike, b, near)[0]),
        float(across_far[0]),
        float(planes.at(planes.unmatched, b, near)[0]),
        float(planes.at(planes.colour, b, near)[0]),
        float(step_unlike.max()),
        float(np.median(step_unlike)),
        float(np.median(quiet)),
        float(quiet.max()),
        float(step_unlike.max()) / (float(np.median(step_unlike)) + 1),
        float(middle[1]) / (float(edge_light[:, 1].min()) + 1),
        float(light[:, 1].min()) / (float(edge_light[:, 1].min()) + 1),
        float(light[:, 1].min()),
        float(middle[2]) / (float(edge_light[:, 2].mean()) + 0.5),
        float(abs(edge_light[0, 0] - edge_light[1, 0])),
        float(edge_light[:, 1].min()),
        float(planes.of(planes.wide, inside).max()),
        float(np.median(planes.of(planes.wide, inside))),
        float(planes.apart(b + half, min(64, 2 * length))[0]) / (ends + 1),
        order,
        burst,
        float(kind is Kind.FADE),
        float(kind is Kind.WIPE),
    )


def wipe_order(planes: Planes, start: int, end: int) -> tuple[float, float]:
    """Return how well the time at which each block changes follows its place, and how sharply.

    The first is the share of variance (R²) that a straight edge moving at one speed explains,
    0 to 1; the second the median change of a block at its moment over its change otherwise.
    """
    found = [(0.0, 0.0)]
    for distance in (1, 6):
        window = planes.moved[distance][max(0, start - 2) : end + 2 + distance]
        if len(window) >= 6:
            order, sharp, _, _ = _edge_fits(window.T[None].astype(np.float32))
            found.append((float(order[0]), float(sharp[0])))
    return max(found)


def _edge_fits(windows: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Fit a straight edge moving at one speed to windows of block changes, (m, 40, W).

    Returns for each: R², sharpness, and the times in the window at which the edge enters and
    leaves the picture.
    """
    when = windows.argmax(axis=2).astype(np.float32)
    most = windows.max(axis=2)
    usual = np.median(windows, axis=2)
    sharp = np.median(most / (usual + 2.0), axis=1)
    weights = np.clip(most - usual, 0.1, 30)
    square = np.einsum("mk,ki,kj->mij", weights, _PLACES, _PLACES) + 1e-2 * np.eye(3)
    right = np.einsum("mk,ki->mi", weights * when, _PLACES)
    fitted = np.linalg.solve(square, right[..., None])[..., 0] @ _PLACES.T
    mean = (weights * when).sum(axis=1) / weights.sum(axis=1)
    whole = (weights * (when - mean[:, None]) ** 2).sum(axis=1)
    rest = (weights * (when - fitted) ** 2).sum(axis=1)
    order = np.where(whole > 8 * 10, np.maximum(0, 1 - rest / (whole + 1e-3)), 0.0)
    return order, sharp, fitted.min(axis=1), fitted.max(axis=1)


_PLACES = np.stack(
    [np.ones(40), np.tile(np.arange(8), 5) / 7, np.repeat(np.arange(5), 8) / 4], axis=1
).astype(np.float32)


def fades(planes: Planes) -> list[Span]:
    """Return the thinkable fades: contrast that runs to nothing and comes back."""
    contrast = planes.stats[:, 1]
    n = planes.n
    dark = np.clip(0.22 * maximum(contrast, 60), 0.8, 7.0)
    spans: list[Span] = []
    at = 1
    while at < n - 1:
        if contrast[at] > dark[at]:
            at += 1
            continue
        first = at
        while at < n and contrast[at] <= dark[at]:
            at += 1
        start, before = _ramp(contrast, first, -1)
        end, after = _ramp(contrast, at - 1, 1)
        low = float(contrast[first:at].min())
        flat = at - first
        if min(before, after) < 3.0 * low + 3 or flat > 150 or start <= 0 or end >= n - 1:
            continue
        if (first - start) + (end - at) < 3:
            continue
        spans.append(Span(start, end, Kind.FADE, figures(planes, start, end, Kind.FADE)))
    return spans


def maximum(signal: Floats, reach: int) -> Floats:
    """Return the greatest value within ``reach`` frames either side of each."""
    padded = np.pad(signal, reach, mode="edge")
    rows = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)
    found: Floats = rows.max(axis=1)
    return found


def _ramp(contrast: Floats, at: int, way: int) -> tuple[int, float]:
    """Walk outwards while contrast rises; return the first clean place and the contrast there."""
    n = len(contrast)
    place, highest, still = at, float(contrast[at]), 0
    top = at
    while 0 < place < n - 1 and abs(place - at) < 60:
        place += way
        value = float(contrast[place])
        if value > highest + max(0.35, 0.012 * highest):
            highest, top, still = value, place, 0
        else:
            still += 1
            if still > 2:
                break
    return (top + 1 if way < 0 else top), highest


def wipes(planes: Planes) -> list[Span]:
    """Return the thinkable wipes: blocks that change one after another along a line."""
    found: list[tuple[float, int, int]] = []
    for width, distance in ((10, 1), (14, 1), (20, 1), (20, 6), (28, 6), (38, 6), (50, 6), (62, 6)):
        if planes.n <= width + 2:
            continue
        ends = np.arange(width, planes.n - 1, max(2, width // 6))
        ends = ends[planes.at(planes.unlike, ends, _nearest(width)) > 9]
        if not len(ends):
            continue
        rows = np.lib.stride_tricks.sliding_window_view(planes.moved[distance], width, axis=0)
        order, sharp, enter, leave = _edge_fits(rows[ends - width + 1].astype(np.float32))
        late = 0 if distance == 1 else 3
        for i in np.flatnonzero((order > 0.5) & (sharp > 1.4)).tolist():
            first = int(ends[i]) - width + 1
            start = round(first + float(enter[i])) - late
            end = round(first + float(leave[i])) - late + 1
            if 5 <= end - start <= 62 and start > 0 and end < planes.n:
                found.append((float(order[i]) * min(2.0, float(sharp[i])), start, end))
    return _best_wipes(planes, found)


def _best_wipes(planes: Planes, found: list[tuple[float, int, int]]) -> list[Span]:
    spans: list[Span] = []
    for _, start, end in sorted(found, reverse=True):
        middle = (start + end) / 2
        if all(abs((s.start + s.end) / 2 - middle) > 6 for s in spans):
            spans.append(Span(start, end, Kind.WIPE, figures(planes, start, end, Kind.WIPE)))
        if len(spans) > planes.n // 25:
            break
    return spans
