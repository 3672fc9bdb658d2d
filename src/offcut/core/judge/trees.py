"""A learned judge as plain numbers: boosted decision trees evaluated with NumPy.

Made by bench/train.py, which writes down the names of the figures they were trained on: they are
asked with the same ones, or not at all. The method is gradient boosting (Friedman 2001, "Greedy
function approximation: a gradient boosting machine", from memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import JudgeError

_FILE = Path(__file__).parent / "judge.npz"


@dataclass(frozen=True)
class Trees:
    """A forest of T trees, each of at most 16 leaves and N inner nodes.

    Attributes: ``feature`` int32 (T, N), ``threshold`` float32 (T, N): a node sends a row right
    when the figure is above it; ``gone`` uint16 (T, N): one bit for every leaf, from the left,
    that is out of reach then; ``value`` float64 (T, 16) of the leaves; ``base`` the log-odds
    before any tree; ``slope`` and ``offset`` calibrate it; ``names`` the figures, in the order
    of their columns.
    """

    names: tuple[str, ...]

    feature: NDArray[np.int32]
    threshold: NDArray[np.float32]
    gone: NDArray[np.uint16]
    value: NDArray[np.float64]
    base: float
    slope: float
    offset: float

    def odds(
        self, figures: NDArray[np.floating[Any]], names: tuple[str, ...]
    ) -> NDArray[np.float32]:
        """Return calibrated log-odds for rows of figures, shape (n, F) in, (n,) out.

        Raises JudgeError where the figures are not those the trees were trained on.

        Every node is asked, row by row of figures in one go; the leaf a row ends in is the
        leftmost that no node has put out of reach (Lucchese et al. 2015, "QuickScorer", from
        memory).
        """
        if names != self.names:
            raise JudgeError(
                f"{_FILE}: was trained on other figures ({_differ(self.names, names)})"
            )
        columns = np.ascontiguousarray(figures.T, np.float32)
        total = np.full(len(figures), self.base, np.float64)
        together = max(1, min(32, _AT_ONCE // max(1, len(figures))))
        for first in range(0, len(self.feature), together):
            some = slice(first, first + together)
            high = columns[self.feature[some]] > self.threshold[some][:, :, None]
            gone = np.bitwise_or.reduce(high * self.gone[some][:, :, None], axis=1)
            for tree in range(len(gone)):
                total += self.value[first + tree].take(_FIRST_CLEAR.take(gone[tree]))
        return np.asarray(self.slope * total + self.offset, np.float32)


_AT_ONCE = 2048
"""Rows times trees that are asked together: what they need stays in the processor's cache."""


def _first_clear() -> NDArray[np.uint8]:
    numbers = np.arange(1 << 16)
    found = np.zeros(1 << 16, np.uint8)
    for bit in range(15, -1, -1):
        found[(numbers >> bit) & 1 == 0] = bit
    return found


_FIRST_CLEAR = _first_clear()


def probability(odds: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return probabilities for log-odds."""
    return np.asarray(1 / (1 + np.exp(-np.clip(odds, -40, 40))), np.float32)


def _differ(trained: tuple[str, ...], asked: tuple[str, ...]) -> str:
    """Return in words how the names of figures differ."""
    gone, new = sorted({*trained} - {*asked}), sorted({*asked} - {*trained})
    parts = [f"without {', '.join(gone)}" if gone else "", f"new: {', '.join(new)}" if new else ""]
    return "; ".join(p for p in parts if p) or "in another order"


@cache
def trees_named(name: str) -> Trees:
    """Return the trees for "cut" or "gradual", read from the package's file of numbers.

    Raises JudgeError where the file does not hold what it must.
    """
    try:
        with np.load(_FILE, allow_pickle=False) as data:
            head = f"{name}_"
            get = {key[len(head) :]: data[key] for key in data.files if key.startswith(head)}
        base, slope, offset = get.pop("constants").tolist()
        names = tuple(str(n) for n in get.pop("names"))
        trees = Trees(names=names, **get, base=base, slope=slope, offset=offset)
    except (OSError, KeyError, TypeError, ValueError) as error:
        raise JudgeError(f"{_FILE}: the judge's numbers cannot be read ({error})") from error
    if int(trees.feature.max(initial=0)) >= len(names):
        raise JudgeError(f"{_FILE}: asks for more figures than it names")
    return trees
