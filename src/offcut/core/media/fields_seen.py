"""Fields: whether pictures are woven of two moments, and which comes first, told from the picture.

Two fields of one moment weave into a smooth picture, those of two moments into a comb wherever
something moves. Each field of a frame is woven with the other one of the next frame as well: which
of the three weaves is smooth tells whether there are two moments in a frame, and which field is the
earlier. Pictures of 24 a second laid into 60 fields (2:3) answer alike. (Common practice, no
published source; a line combs that differs from both its neighbours in the same sense.)
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

Plane = NDArray[Any]
LINES = frozenset({480, 486, 512, 576, 608, 1080, 1088})
"""Heights that interlaced pictures come in: SD of both norms with their other lines, and 1080."""
_COLUMNS = 120
"""So many columns, spread over the picture, are looked at."""
_LEAST = 0.1
"""A weave is a comb from so many grey levels on, as a mean over the picture."""
_UNEVEN, _SAME = 0.6, 0.3
_VOTES, _SHARE = 4, 0.6
_PLAIN = 7
_TORN = 30.0
"""What combs more is a cut or a flash, and does not vote."""


def plausible(height: int, rate: float) -> bool:
    """Tell whether a film of a height and a rate may be interlaced at all."""
    return height in LINES and 23 < rate < 31


def comb(top: Plane, bottom: Plane) -> float:
    """Return how much two fields (h, w) of one height comb when they are woven, in grey levels."""
    wove = np.empty((2 * len(top), top.shape[1]), np.int16)
    wove[0::2], wove[1::2] = top, bottom
    step = np.diff(wove, axis=0)
    up, down = step[:-1], -step[1:]
    both = np.where((up > 0) == (down > 0), np.minimum(np.abs(up), np.abs(down)), 0)
    return float(np.maximum(both - 4, 0).mean())


def first_field(places: Iterable[Sequence[Plane]]) -> str | None:
    """Return "top" or "bottom" where pictures are woven, "" where each is of one moment.

    ``places`` are runs of consecutive luma planes (h, w), uint8. None where too little moves to
    tell. Each pair of pictures votes, so that a cut among them does not outweigh all others.
    """
    votes = dict.fromkeys(("top", "bottom", ""), 0)
    for run in places:
        rows = []
        for now, then in pairwise(run):
            high = now.shape[0] // 2 * 2
            each = max(1, now.shape[1] // _COLUMNS)
            a, b = now[:high, ::each], then[:high, ::each]
            rows.append((comb(a[0::2], a[1::2]), comb(b[0::2], a[1::2]), comb(a[0::2], b[1::2])))
        if rows:
            still = min(min(row) for row in rows)  # lines of the picture itself, moving or not
            for row in rows:
                vote = _vote(*(v - still for v in row))
                if vote is not None:
                    votes[vote] += 1
        if max(votes.values()) >= _PLAIN and sum(v > 0 for v in votes.values()) == 1:
            break  # all of one mind: no need to look at more
    first = max(("top", "bottom"), key=lambda v: votes[v])
    other = "bottom" if first == "top" else "top"
    if votes[first] >= max(_VOTES, 2 * votes[other], _SHARE * votes[""]):
        return first
    return "" if votes[""] >= _VOTES else None


def _vote(same: float, later: float, earlier: float) -> str | None:
    """Return what a pair of pictures says; of pictures of one moment both comb alike.

    ``later`` is the next frame's top field in this one's place, ``earlier`` its bottom field.
    """
    near, far = min(later, earlier), max(later, earlier)
    if not _LEAST <= far < _TORN:
        return None
    if near < _UNEVEN * far:
        return "top" if later < earlier else "bottom"
    return "" if same < _SAME * near else None
