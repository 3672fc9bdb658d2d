"""A learned judge as plain numbers: boosted decision trees evaluated with NumPy.

Made by bench/train.py; the method is gradient boosting (Friedman 2001, "Greedy function
approximation: a gradient boosting machine", from memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

_FILE = Path(__file__).parent / "judge.npz"


@dataclass(frozen=True)
class Trees:
    """A forest of T trees laid out in rows of N nodes.

    Attributes: ``feature`` int32 (T, N), ``threshold`` float32 (T, N): go left when the figure is
    not above it; ``left``, ``right`` int32 (T, N); ``value`` float32 (T, N), leaves point to
    themselves; ``base`` the log-odds before any tree; ``slope`` and ``offset`` calibrate it.
    """

    feature: NDArray[np.int32]
    threshold: NDArray[np.float32]
    left: NDArray[np.int32]
    right: NDArray[np.int32]
    value: NDArray[np.float32]
    base: float
    slope: float
    offset: float
    deep: int

    def odds(self, figures: NDArray[np.float32]) -> NDArray[np.float32]:
        """Return calibrated log-odds for rows of figures, shape (n, F) in, (n,) out."""
        rows = np.arange(len(figures))
        total = np.full(len(figures), self.base, np.float64)
        for tree in range(len(self.feature)):
            node = np.zeros(len(figures), np.int32)
            for _ in range(self.deep):
                high = figures[rows, self.feature[tree, node]] > self.threshold[tree, node]
                node = np.where(high, self.right[tree, node], self.left[tree, node])
            total += self.value[tree, node]
        return np.asarray(self.slope * total + self.offset, np.float32)


def probability(odds: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return probabilities for log-odds."""
    return np.asarray(1 / (1 + np.exp(-np.clip(odds, -40, 40))), np.float32)


@cache
def trees_named(name: str) -> Trees:
    """Return the trees for "cut" or "gradual", read from the package's file of numbers."""
    with np.load(_FILE, allow_pickle=False) as data:
        get = {key[len(name) + 1 :]: data[key] for key in data.files if key.startswith(f"{name}_")}
    base, slope, offset, deep = get.pop("constants").tolist()
    return Trees(**get, base=base, slope=slope, offset=offset, deep=int(deep))
