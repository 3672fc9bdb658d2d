"""Places: which of some things are out of order among the others."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def out_of_order(start: NDArray[np.int64], frames: Sequence[int]) -> set[int]:
    """Return which of some places are out of order: those the heaviest rising chain leaves out."""
    count = len(start)
    weight = np.zeros(count)
    before = np.full(count, -1)
    for i in range(count):
        ahead = np.flatnonzero(start[:i] <= start[i])
        if len(ahead):
            k = int(ahead[weight[ahead].argmax()])
            weight[i], before[i] = weight[k], k
        weight[i] += frames[i]
    keep: set[int] = set()
    i = int(weight.argmax()) if count else -1
    while i >= 0:
        keep.add(i)
        i = int(before[i])
    return set(range(count)) - keep
