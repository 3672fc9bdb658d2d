"""Wipes: blocks that change one after another, in the order of an edge that crosses the picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from offcut.core.judge.evidence import Floats, Frames, Planes
from offcut.core.judge.span import Span, nearest_distance
from offcut.core.model.seam import Kind

_WIPE_WIDTHS = ((10, 1), (14, 1), (20, 1), (20, 6), (28, 6), (38, 6), (50, 6), (62, 6))
_LONGEST = 62


def wipes(planes: Planes) -> list[Span]:
    """Return the thinkable wipes: blocks that change one after another along a line."""
    found: list[tuple[float, int, int]] = []
    for width, distance in _WIPE_WIDTHS:
        if planes.n <= width + 2:
            continue
        step = max(2, width // 5)  # laid at fixed places of the film, wherever the stretch begins
        ends = np.arange(width + -(width + planes.start) % step, planes.n - 1, step)
        near = int(nearest_distance(np.array(width)))
        ends = ends[planes.at(planes.unlike, ends, near) > 9]
        if not len(ends):
            continue
        firsts = ends - width + 1
        begin, order, sharp, enter, leave = _edges_crossing(planes, distance, firsts, width)
        late = 0 if distance == 1 else 3
        for i in np.flatnonzero(order > 0.5).tolist():
            first = int(begin[i])
            start = round(first + float(enter[i])) - late
            end = round(first + float(leave[i])) - late + 1
            if 5 <= end - start <= _LONGEST and start > 0 and end < planes.n:
                found.append((float(order[i]) * min(2.0, float(sharp[i])), start, end))
    return _best_wipes(planes, found)


def _best_wipes(planes: Planes, found: list[tuple[float, int, int]]) -> list[Span]:
    spans: list[Span] = []
    crowded = np.zeros(2 * planes.n + 1, np.bool_)
    for _, start, end in sorted(found, reverse=True):
        twice = start + end
        if not crowded[twice]:
            crowded[max(0, twice - 12) : twice + 13] = True
            spans.append(Span(start, end, Kind.WIPE))
        if len(spans) > planes.n // 25:
            break
    return spans


def _edges_crossing(
    planes: Planes, distance: int, firsts: Frames, width: int
) -> tuple[NDArray[np.int64], Floats, Floats, Floats, Floats]:
    """Fit a moving edge to the block changes of windows of one width, first frames given.

    Returns those of them that change sharply enough for a wipe, their R², sharpness, and when the
    edge enters and leaves.
    """
    peak = planes.peaks(distance, width)[firsts]
    moving = np.count_nonzero(peak >= 6 << 16, axis=1) >= 20  # half of the blocks change at all
    peak, firsts = peak[moving], firsts[moving]
    most = (peak >> 16).astype(np.float32)
    sums = planes.moved_sums(distance)
    whole = (sums[firsts + width] - sums[firsts]).astype(np.float32)
    usual = (whole - most) / np.float32(width - 1)
    sharp = sharpness(most, usual)
    clear = np.flatnonzero(sharp > 1.4)
    when = (0xFFFF - (peak[clear] & 0xFFFF)) - firsts[clear, None]
    order, _, enter, leave = edge_fits(when.astype(np.float32), most[clear], usual[clear])
    return firsts[clear], order, sharp[clear], enter, leave


def sharpness(most: Floats, usual: Floats) -> Floats:
    """Return the median block's greatest change over its usual one, for rows of 40 blocks."""
    found: Floats = np.partition(most / (usual + 2.0), 20, axis=1)[:, 20]
    return found


def edge_fits(
    when: Floats, most: Floats, usual: Floats
) -> tuple[Floats, NDArray[np.int64], Floats, Floats]:
    """Fit edges of every form, moving at one speed, to the moments at which blocks change, (m, 40).

    ``most`` is a block's change at that moment and ``usual`` its mean change otherwise. Returns
    for each row: R² of the form that fits best, which of FORMS it is, and the times at which its edge
    enters and leaves the picture.
    """
    weights = np.clip(most - usual, 0.1, 30)
    timed = weights * when
    mean = timed.sum(axis=1) / weights.sum(axis=1)
    whole = (weights * (when - mean[:, None]) ** 2).sum(axis=1)
    best = np.full(len(when), -np.inf)
    form = np.zeros(len(when), np.int64)
    enter, leave = np.zeros(len(when)), np.zeros(len(when))
    for number, places in enumerate(_PLACES):
        many = places.shape[1]
        squares = (places[:, :, None] * places[:, None, :]).reshape(40, -1)
        square = (weights @ squares).reshape(-1, many, many).astype(np.float64) + 1e-2 * np.eye(
            many
        )
        right = (timed @ places).astype(np.float64)
        told = np.linalg.solve(square, right[..., None])[..., 0].astype(np.float32)
        fitted = told @ places.T
        rest = (weights * (when - fitted) ** 2).sum(axis=1)
        order = np.where(whole > 8 * 10, np.maximum(0, 1 - rest / (whole + 1e-3)), 0.0)
        better = order > best + (_RARER if number else 0.0)
        best, form = np.where(better, order, best), np.where(better, number, form)
        enter = np.where(better, fitted.min(axis=1), enter)
        leave = np.where(better, fitted.max(axis=1), leave)
    return best, form, enter, leave


_ACROSS, _DOWN = np.tile(np.arange(8), 5) / 7, np.repeat(np.arange(5), 8) / 4
_AWAY = np.hypot((_ACROSS - 0.5) * 16 / 9, _DOWN - 0.5)
_ROUND = np.arctan2((_ACROSS - 0.5) * 16 / 9, -(_DOWN - 0.5)) / (2 * np.pi) % 1
_PLACES = tuple(
    np.stack([np.ones(40), *along], axis=1).astype(np.float32)
    for along in (
        (_ACROSS, _DOWN), (_AWAY,), (_ROUND,), (np.abs(_ACROSS - 0.5),), (np.abs(_DOWN - 0.5),)
    )
)  # fmt: skip
FORMS = ("edge", "iris", "clock", "doors", "doors")
_RARER = 0.08
"""By so much another form than the straight edge must fit better, being rarer."""
