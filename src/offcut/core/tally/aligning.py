"""Aligning: at which offset one stretch of prints lies on another, and how surely."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
LONGEST = 600
"""So many frames of the shorter stretch are laid over the other; of a longer one its middle."""


@dataclass(frozen=True, eq=False)
class Fits:
    """How a stretch of ``n`` frames lies on another of ``m`` at each offset.

    At offset d frame i lies on frame i + d. Attributes: ``first`` the first offset; ``apart``
    float64 (k,) the mean squared distance of levelled prints at each, 0 the same to 2 nothing in
    common; ``moving`` float64 (k,) the same once what differs all the time is set aside (a logo, a
    grade), which tells the frame; ``frames`` int64 (k,) how many frames lie over each other.
    """

    first: int
    apart: NDArray[np.float64]
    moving: NDArray[np.float64]
    frames: NDArray[np.int64]

    def at(self, offset: int) -> int | None:
        """Return the place of an offset, None where the stretches do not meet there."""
        place = offset - self.first
        return place if 0 <= place < len(self.apart) else None


def fits_of(ones: Floats, others: Floats) -> Fits:
    """Lay one stretch of levelled prints (n, 96) over another (m, 96) at every offset."""
    skipped = max(0, (len(ones) - LONGEST) // 2)
    ones = ones[skipped : skipped + LONGEST]
    n, m = len(ones), len(others)
    width = n + m
    products = np.zeros((n, width), np.float32)
    products[:, :m] = ones[::-1] @ others.T
    # each diagonal becomes a column: row i is moved right by i
    sums = products.ravel()[: n * (width - 1)].reshape(n, width - 1).sum(axis=0, dtype=np.float64)
    offsets = np.arange(width - 1) - (n - 1)
    low = np.maximum(0, -offsets)
    high = np.minimum(n, m - offsets)
    frames = high - low
    square_ones, square_others = (
        _running((ones * ones).sum(axis=1)),
        _running((others * others).sum(axis=1)),
    )
    squares = (
        square_ones[high] - square_ones[low]
        + square_others[high + offsets] - square_others[low + offsets]
        - 2 * sums
    )  # fmt: skip
    apart = np.maximum(squares, 0) / frames
    moving = apart.copy()
    # what differs all the time is worked out only where it may matter
    asked = np.flatnonzero(apart <= _WORTH * np.partition(apart, min(8, len(apart) - 1))[:9].max())
    if len(asked) > _MOST:
        asked = asked[np.argpartition(apart[asked], _MOST)[:_MOST]]
    sum_ones, sum_others = _running(ones), _running(others)
    a, b, d = low[asked], high[asked], offsets[asked]
    gaps = sum_ones[b] - sum_ones[a] - (sum_others[b + d] - sum_others[a + d])
    steady = (gaps**2).sum(axis=1) / frames[asked]
    moving[asked] = np.maximum(squares[asked] - steady, 0) / np.maximum(1, frames[asked] - 1)
    return Fits(int(offsets[0]) - skipped, apart, moving, frames.astype(np.int64))


_WORTH = 4.0
_MOST = 160


def _running(values: Floats) -> NDArray[np.float64]:
    """Return running sums along the first axis, one longer than what is summed."""
    sums = np.zeros((len(values) + 1, *values.shape[1:]), np.float64)
    np.cumsum(values, axis=0, out=sums[1:])
    return sums


@dataclass(frozen=True, slots=True)
class Lay:
    """An offset at which a stretch lies on another well.

    ``apart`` and ``moving`` as in `Fits`; offsets from ``low`` to ``high`` fit as well as this one,
    so that where the picture stands still the frame cannot be told.
    """

    offset: int
    apart: float
    moving: float
    frames: int
    low: int
    high: int


def best_lays(fits: Fits, *, least: int, most: int = 3) -> list[Lay]:
    """Return the offsets that fit best, each far from the others; ``least`` frames must meet."""
    allowed = fits.frames >= least
    if not allowed.any():
        return []
    cost = np.where(allowed, fits.moving + 0.35 * fits.apart, np.inf)
    found: list[Lay] = []
    for _ in range(most):
        k = int(cost.argmin())
        if not np.isfinite(cost[k]):
            break
        line = 1.06 * cost[k] + 2e-5
        low = high = k
        while low > 0 and cost[low - 1] <= line:
            low -= 1
        while high + 1 < len(cost) and cost[high + 1] <= line:
            high += 1
        found.append(
            Lay(
                fits.first + k, float(fits.apart[k]), float(fits.moving[k]),
                int(fits.frames[k]), fits.first + low, fits.first + high,
            )
        )  # fmt: skip
        cost[max(0, low - 4) : high + 5] = np.inf
    return found
