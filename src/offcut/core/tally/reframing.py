"""Reframing: where a picture lies in another that shows the same, told from their prints.

A version may be cropped, put between bars or scaled; an original may be framed tighter in the film.
Prints are laid over each other by a scale and a shift either way, and cells that never agree, a
logo, a running clock, a bar, are left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.prints import ACROSS, CELLS, DOWN

Floats = NDArray[np.float32]
FLOOR = 1.5
"""Grey levels of contrast under which a picture counts as flat: noise is not blown up."""


@dataclass(frozen=True, slots=True)
class Reframing:
    """Where the picture of one film lies in that of another.

    A point of the one, 0 to 1 from the left and from the top, lies in the other at
    ``left + wide * x`` and ``top + high * y``. ``flopped`` says that left and right are changed.
    """

    left: float = 0.0
    top: float = 0.0
    wide: float = 1.0
    high: float = 1.0
    flopped: bool = False

    @property
    def plain(self) -> bool:
        """True where both show the same part of the picture."""
        moved = max(abs(self.left), abs(self.top), abs(self.wide - 1), abs(self.high - 1))
        return moved < 0.012 and not self.flopped

    @property
    def words(self) -> str:
        """What it is in words, empty for none."""
        said = ["flopped"] if self.flopped else []
        nearer = 2 / (self.wide + self.high) - 1
        if abs(nearer) >= 0.012:
            said.append(f"framed {abs(nearer):.0%} {'tighter' if nearer > 0 else 'wider'}")
        elif not self.plain and not said:
            said.append("framed otherwise")
        return ", ".join(said)


def matrix_of(reframing: Reframing) -> tuple[Floats, NDArray[np.bool_]]:
    """Return (96, 96) that lays prints of the other film as the one shows them, and which cells
    lie inside: ``other @ matrix``.
    """
    across, in_x = _weights(ACROSS, reframing.left, reframing.wide)
    if reframing.flopped:
        across = across[::-1]
    down, in_y = _weights(DOWN, reframing.top, reframing.high)
    return (
        np.kron(down, across).astype(np.float32),
        np.logical_and.outer(in_y, in_x).ravel(),
    )


def _weights(cells: int, start: float, size: float) -> tuple[Floats, NDArray[np.bool_]]:
    """Return the shares of the other's cells (rows) in each of the one's (columns)."""
    centres = (start + size * (np.arange(cells) + 0.5) / cells) * cells - 0.5
    inside = (centres > -0.75) & (centres < cells - 0.25)
    held = np.clip(centres, 0, cells - 1)
    low = np.minimum(held.astype(np.int64), cells - 2)
    t = held - low
    # cubic convolution (Keys 1981, a = -1/2), the outermost cells held on beyond the edge
    shares = (
        (-t + 2 * t**2 - t**3) / 2,
        (2 - 5 * t**2 + 3 * t**3) / 2,
        (t + 4 * t**2 - 3 * t**3) / 2,
        (-(t**2) + t**3) / 2,
    )
    weights = np.zeros((cells, cells), np.float32)
    here = np.arange(cells)
    for k, share in enumerate(shares):
        np.add.at(weights, (np.clip(low + k - 1, 0, cells - 1), here), share)
    return weights, inside


def level(luma: Floats, weights: Floats | None = None) -> Floats:
    """Return prints with mean 0 and length 1, float32 (n, 96), whatever their exposure.

    ``weights`` (96,) 0 to 1 say how much each cell counts. The product of two is how far they
    correlate, -1 to 1. What is flat comes out shorter than 1.
    """
    share = np.full(CELLS, 1 / CELLS, np.float32) if weights is None else weights / weights.sum()
    flat = luma - (luma @ share)[:, None]
    flat = flat * np.sqrt(share)
    spread = (flat * flat).sum(axis=1, keepdims=True)
    return np.asarray(flat / np.sqrt(spread + FLOOR**2), np.float32)


def refined(
    ones: Floats,
    others: Floats,
    begin: Reframing,
    *,
    weights: Floats | None = None,
    tight: float = 0.3,
) -> tuple[Reframing, float]:
    """Return the reframing near another under which pairs of prints agree best, and how far they
    do: the mean of the better two thirds of the correlations.

    Both are luma, (k, 96); ``weights`` (96,) say how much each cell of the ones counts. A search
    by halving steps: it is told by few numbers and is smooth.
    """
    best, fit = begin, agreement(ones, others, begin, weights)
    step = 0.04
    while step > 0.002:
        moved = False
        for change in _STEPS:
            tried = Reframing(
                best.left + change[0] * step - change[2] * step / 2,
                best.top + change[1] * step - change[3] * step / 2,
                best.wide + change[2] * step,
                best.high + change[3] * step,
                best.flopped,
            )
            if abs(tried.wide - begin.wide) > tight or abs(tried.high - begin.high) > tight:
                continue
            now = agreement(ones, others, tried, weights)
            if now > fit + 1e-6:
                best, fit, moved = tried, now, True
        if not moved:
            step /= 2
    return best, fit


_STEPS = [
    (1, 0, 0, 0), (-1, 0, 0, 0), (0, 1, 0, 0), (0, -1, 0, 0),
    (0, 0, 1, 1), (0, 0, -1, -1), (0, 0, 1, 0), (0, 0, -1, 0), (0, 0, 0, 1), (0, 0, 0, -1),
]  # fmt: skip


def agreement(
    ones: Floats, others: Floats, reframing: Reframing, weights: Floats | None = None
) -> float:
    """Return how far pairs of prints correlate under a reframing; the worst third is left out.

    What the other does not show counts against it a little, so that nothing is pushed out.
    """
    matrix, inside = matrix_of(reframing)
    if inside.sum() < CELLS // 3:
        return -1.0
    weights = inside.astype(np.float32) * (1.0 if weights is None else weights)
    lost = 0.0015 * float((~inside).sum())
    fits = (level(ones, weights) * level(others @ matrix, weights)).sum(axis=1)
    fits.sort()
    return float(fits[len(fits) // 3 :].mean()) - lost
