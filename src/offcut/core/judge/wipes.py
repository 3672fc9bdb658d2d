"""Wipes: blocks that change one after another, in the order of an edge that crosses the picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from offcut.core.judge.planes import Floats, Frames, Planes, nearest_distance
from offcut.core.judge.span import Span
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
    planes.forget_peaks()
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
    peak = planes.peaks(distance, firsts, width)
    moving = np.count_nonzero(peak >= 6 << 16, axis=1) >= 20  # half of the blocks change at all
    peak, firsts = peak[moving], firsts[moving]
    most = (peak >> 16).astype(np.float32)
    whole = planes.moved_over(distance, firsts, firsts + width).astype(np.float32)
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
    for each row: R² of the form that fits best, which of FORMS it is, and the times at which its
    edge enters and leaves the picture.
    """
    weights = np.clip(most - usual, 0.1, 30).astype(np.float64)
    timed = weights * when
    heavy, times = weights.sum(axis=1), timed.sum(axis=1)
    whole = np.maximum((timed * when).sum(axis=1) - times**2 / heavy, 1e-3)
    sums, squares, products = weights @ _ALONG, weights @ _ALONG**2, timed @ _ALONG
    spread = squares - sums**2 / heavy[:, None] + 1e-2
    going = products - sums * (times / heavy)[:, None]
    # the straight edge follows across and down together, each other form one thing alone
    both = weights @ (_ALONG[:, 0] * _ALONG[:, 1]) - sums[:, 0] * sums[:, 1] / heavy
    over = spread[:, 0] * spread[:, 1] - both**2
    slopes = np.stack(
        [
            spread[:, 1] * going[:, 0] - both * going[:, 1],
            spread[:, 0] * going[:, 1] - both * going[:, 0],
        ],
        axis=1,
    ) / over[:, None]  # fmt: skip
    fits = [(slopes * going[:, :2]).sum(axis=1), *(going**2 / spread).T[2:]]
    orders = np.clip(np.stack(fits, axis=1) / whole[:, None], 0, 1)
    orders[whole <= 8 * 10] = 0
    orders[:, 1:] -= _RARER
    form = orders.argmax(axis=1)
    rows = np.arange(len(form))
    order = orders[rows, form] + np.where(form > 0, _RARER, 0.0)
    other = np.maximum(form, 1) + 1
    slope = np.where(form > 0, going[rows, other] / spread[rows, other], 0.0)
    lines = np.zeros((len(form), _ALONG.shape[1]))
    lines[form == 0, :2] = slopes[form == 0]
    lines[rows, other] += slope
    base = (times - (lines * sums).sum(axis=1)) / heavy
    low, high = lines * _ALONG.min(axis=0), lines * _ALONG.max(axis=0)
    enter = base + np.minimum(low, high).sum(axis=1)
    leave = base + np.maximum(low, high).sum(axis=1)
    return order, form, enter, leave


_ACROSS, _DOWN = np.tile(np.arange(8), 5) / 7, np.repeat(np.arange(5), 8) / 4
_ALONG = np.stack(
    [
        _ACROSS,
        _DOWN,
        np.hypot((_ACROSS - 0.5) * 16 / 9, _DOWN - 0.5),
        np.arctan2((_ACROSS - 0.5) * 16 / 9, -(_DOWN - 0.5)) / (2 * np.pi) % 1,
        np.abs(_ACROSS - 0.5),
        np.abs(_DOWN - 0.5),
    ],
    axis=1,
)
"""What the moments of change may follow, for each block, (40, 6)."""
FORMS = ("edge", "iris", "clock", "doors", "doors")
_RARER = 0.08
"""By so much another form than the straight edge must fit better, being rarer."""
