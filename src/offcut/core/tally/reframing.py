"""Reframing: where a picture lies in another that shows the same, told from their prints.

A version may be cropped, put between bars or scaled; an original may be framed tighter in the film.
Prints are laid over each other by a scale and a shift either way, and cells that never agree, a
logo, a running clock, a bar, are left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.prints import ACROSS, DOWN, FINE_ACROSS, FINE_DOWN

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


PLAIN = Reframing()


Grid = tuple[int, int]
COARSE: Grid = (ACROSS, DOWN)
FINE: Grid = (FINE_ACROSS, FINE_DOWN)


def matrix_of(reframing: Reframing, grid: Grid = COARSE) -> tuple[Floats, NDArray[np.bool_]]:
    """Return (cells, cells) that lays prints of the other film as the one shows them, and which
    cells lie inside: ``other @ matrix``. ``grid`` is how many cells a print has either way.
    """
    across, in_x = _weights(grid[0], reframing.left, reframing.wide)
    if reframing.flopped:
        across = across[::-1]
    down, in_y = _weights(grid[1], reframing.top, reframing.high)
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
    weights = np.zeros((cells + 3, cells), np.float32)
    here = np.arange(cells)
    for k, share in enumerate(shares):
        weights[low + k, here] = share  # one row further down than the cells
    weights[1] += weights[0]
    weights[cells] += weights[cells + 1] + weights[cells + 2]
    weights = weights[1 : cells + 1]
    return weights, inside


def laid_over(others: Floats, reframing: Reframing) -> tuple[Floats, NDArray[np.bool_]]:
    """Return prints of the other film as the one shows them, (n, cells), and which lie inside.

    The grid is told by how many cells there are; one way is done after the other, which is quick.
    """
    grid = COARSE if others.shape[1] == ACROSS * DOWN else FINE
    across, in_x = _weights(grid[0], reframing.left, reframing.wide)
    down, in_y = _weights(grid[1], reframing.top, reframing.high)
    if reframing.flopped:
        across = across[::-1]
    rows = others.reshape(-1, grid[1], grid[0]) @ across
    laid = down.T @ rows
    return laid.reshape(len(others), -1), np.logical_and.outer(in_y, in_x).ravel()


def level(luma: Floats, weights: Floats | None = None) -> Floats:
    """Return prints with mean 0 and length 1, float32 (n, cells), whatever their exposure.

    ``weights`` (cells,) 0 to 1 say how much each cell counts. The product of two is how far they
    correlate, -1 to 1. What is flat comes out shorter than 1.
    """
    cells = luma.shape[1]
    share = np.full(cells, 1 / cells, np.float32) if weights is None else weights / weights.sum()
    flat = luma - (luma @ share)[:, None]
    flat = flat * np.sqrt(share)
    spread = (flat * flat).sum(axis=1, keepdims=True)
    return np.asarray(flat / np.sqrt(spread + FLOOR**2), np.float32)


_TURNS = 12
_NUDGE = 0.01


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

    Both are luma, (k, cells); ``weights`` (cells,) say how much each cell of the ones counts.
    By damped Gauss-Newton steps on what is left over (Lucas and Kanade 1981; Marquardt 1963).
    """
    best, fit = begin, agreement(ones, others, begin, weights)
    damping = 1e-3
    for _ in range(_TURNS):
        step = _step(ones, others, best, weights, damping)
        if step is None:
            break
        tried = Reframing(
            best.left + step[0], best.top + step[1], best.wide + step[2], best.high + step[3],
            best.flopped,
        )  # fmt: skip
        within = abs(tried.wide - begin.wide) <= tight and abs(tried.high - begin.high) <= tight
        now = agreement(ones, others, tried, weights) if within else -1.0
        if now > fit:
            small = now < fit + 1e-6
            best, fit = tried, now
            damping = max(1e-5, damping / 4)
            if small:
                break
        else:
            damping *= 8
            if damping > 10:
                break
    return best, fit


def _step(
    ones: Floats, others: Floats, at: Reframing, weights: Floats | None, damping: float
) -> tuple[float, float, float, float] | None:
    """Return by how much left, top, wide and high are to change, None where nothing tells."""
    laid, inside = laid_over(others, at)
    share = inside.astype(np.float32) * (1.0 if weights is None else weights)
    if share.sum() < 4:
        return None
    here = level(laid, share)
    left_over = level(ones, share) - here
    each = (left_over * left_over).sum(axis=1)
    good = each <= np.quantile(each, 0.67)
    slopes = []
    for nudge in ((1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, 0, 1)):
        tried = Reframing(
            at.left + _NUDGE * nudge[0] - _NUDGE / 2 * nudge[2],
            at.top + _NUDGE * nudge[1] - _NUDGE / 2 * nudge[3],
            at.wide + _NUDGE * nudge[2],
            at.high + _NUDGE * nudge[3],
            at.flopped,
        )
        moved = level(laid_over(others[good], tried)[0], share)
        slopes.append(((moved - here[good]) / _NUDGE).ravel())
    jacobian = np.stack(slopes, axis=1).astype(np.float64)
    square = jacobian.T @ jacobian
    scale = np.trace(square) / 4
    if scale <= 0:
        return None
    pull = jacobian.T @ left_over[good].ravel()
    found = np.linalg.solve(square + damping * scale * np.eye(4), pull)
    left, top, wide, high = np.clip(found, -0.05, 0.05).tolist()
    return left - wide / 2, top - high / 2, wide, high


def agreement(
    ones: Floats, others: Floats, reframing: Reframing, weights: Floats | None = None
) -> float:
    """Return how far pairs of prints correlate under a reframing; the worst third is left out.

    What the other does not show counts against it a little, so that nothing is pushed out.
    """
    laid, inside = laid_over(others, reframing)
    if inside.sum() < len(inside) // 3:
        return -1.0
    weights = inside.astype(np.float32) * (1.0 if weights is None else weights)
    lost = 0.15 * float((~inside).mean())
    fits = (level(ones, weights) * level(laid, weights)).sum(axis=1)
    fits.sort()
    return float(fits[len(fits) // 3 :].mean()) - lost
