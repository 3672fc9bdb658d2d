"""Signals: the small numbers per frame that measuring leaves and judging reads."""

from __future__ import annotations

from dataclasses import dataclass, fields
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

METHOD = 6
"""Version of the measuring; signals of another one are measured again."""

NEAR = (1, 2, 4)
"""Distances compared on the small pictures; all others are on pictures half their size."""
DISTANCES = (1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64)
EDGE_DISTANCES = (1, 2, 4, 8, 16, 32, 64)
"""Distances over which edges are held against each other."""
CLOSE = 64
"""Tiny pictures are compared with each of so many before them ..."""
FARTHER = tuple(range(CLOSE + 4, 129, 4))
"""... and with those farther back."""
HISTORY = FARTHER[-1]
"""How many frames before a frame its signals look at."""


@dataclass(frozen=True)
class Signals:
    """One row for each frame t of [start, start + n); all compare t with frames before it.

    Attributes, with D = len(DISTANCES):
    ``unlike`` float16 (n, D): how little frame t is like frame t - DISTANCES[d] once every
    block may move and exposure is set aside, in grey levels of the normalised picture;
    ``unlike_most`` float16 (n, D): the same over the worst-fitting quarter of the blocks;
    ``unmatched`` float16 (n, D): the share of blocks that fit nowhere;
    ``raw`` float16 (n,): distance 1 on plain luma, exposure and all;
    ``colour`` float16 (n, D): how far apart the colour histograms are, 0 to 2;
    ``wide`` float16 (n,): distance 1 after the best shift of the whole picture;
    ``far`` float16 (n, 64): root-mean-square distance of the tiny colour pictures of t and
    t - 1 ... t - 64, in grey levels; ``farther`` float16 (n, 16): of t and t - FARTHER[i];
    ``moved``, ``moved_six``, ``moved_far`` uint8 (n, 40): per block, unlikeness to the frame one,
    six and 24 before;
    ``edges`` float16 (n, 2 E), E = len(EDGE_DISTANCES): the edges of t and of t - EDGE_DISTANCES[e]
    that both have, 1 all and 0 as by chance; of the one with fewer edges at 2 e, of the other at
    2 e + 1;
    ``stats`` float16 (n, 5): mean and deviation of luma and its detail, all inside where black
    bars would be, colourfulness, and the deviation of luma without what stands out, as letters do;
    ``woven`` float16 (n, 2): of interlaced pictures, how far the earlier field is from the later
    one and from the later one of the frame before, in grey levels; 0 of others;
    ``held`` bool (n,): the picture is damaged and the one before stands in.
    """

    start: int
    unlike: NDArray[np.float16]
    unlike_most: NDArray[np.float16]
    unmatched: NDArray[np.float16]
    raw: NDArray[np.float16]
    colour: NDArray[np.float16]
    wide: NDArray[np.float16]
    far: NDArray[np.float16]
    farther: NDArray[np.float16]
    moved: NDArray[np.uint8]
    moved_six: NDArray[np.uint8]
    moved_far: NDArray[np.uint8]
    edges: NDArray[np.float16]
    stats: NDArray[np.float16]
    woven: NDArray[np.float16]
    held: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.unlike)

    @property
    def end(self) -> int:
        """The frame after the last."""
        return self.start + len(self)

    @property
    def trace(self) -> NDArray[np.float32]:
        """The change from the frame before, 0 to about 60, for the curve under the ribbon."""
        return np.asarray(self.unlike[:, 0], np.float32)


ARRAYS = tuple(f.name for f in fields(Signals) if f.name != "start")


def signals_joined(parts: list[Signals]) -> Signals:
    """Put signals of adjoining ranges together, in order; ValueError where they do not adjoin."""
    for before, after in pairwise(parts):
        if before.end != after.start:
            raise ValueError(f"signals end at {before.end} and go on at {after.start}")
    return Signals(
        parts[0].start,
        *(np.concatenate([getattr(p, name) for p in parts]) for name in ARRAYS),
    )
