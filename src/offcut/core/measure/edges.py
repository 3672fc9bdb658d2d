"""Edges: lines and corners of small pictures, which stay where they are when the light changes.

Of two pictures those edges count that the one with fewer of them has: in a picture that burns out
some are left, and all of them are the other's. (After Zabih, Miller and Mai 1995, "A feature-based
algorithm for detecting and classifying scene breaks", who count edges that come and go, from
memory. Here each has a sign, and what chance alone would bring together is taken off, as in
Cohen 1960, "A coefficient of agreement for nominal scales".)
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

_ROWS, _COLUMNS = slice(7, 33), slice(9, 55)
"""The part that is looked at, inside any usual black bars and a scan's gate."""
_PIXELS = 26 * 46
_PART = -(-_PIXELS // 8)
PACKED = 4 * _PART
"""Bytes of a picture's edges: light ones, dark ones, and both grown by what they may move."""
_FLOOR = 40
"""81 times the grey levels by which an edge stands out of what is about it, at least."""
_SHARE = 0.7
"""Share of the pixels that stand out too little to be edges."""
_GROWN = np.ones((5, 5), np.uint8)
_FEW = 8.0
"""So many edges are as good as none."""


def edges_of(luma: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return the edges of small pictures (n, 40, 64), packed bits of shape (n, PACKED).

    Where a pixel and those next to it are lighter or darker than what lies about them. All in whole
    numbers: how a film is divided makes no difference.
    """
    n, high, wide = luma.shape
    # in one tall picture; the windows reach no farther than the rows that are left out
    tall = np.ascontiguousarray(luma).reshape(n * high, wide)
    near = cv2.boxFilter(tall, cv2.CV_32F, (3, 3), normalize=False)
    about = cv2.boxFilter(tall, cv2.CV_32F, (9, 9), normalize=False)
    out = np.asarray(cv2.addWeighted(near, 9, about, -1, 0, dtype=cv2.CV_16S), np.int16)
    out = out.reshape(n, high, wide)
    inner = np.abs(out[:, _ROWS, _COLUMNS]).reshape(n, -1)[:, ::2]  # every other one is enough
    rank = int(_SHARE * inner.shape[1])
    least = np.maximum(_FLOOR, np.partition(inner, rank, axis=1)[:, rank])[:, None, None]
    parts = []
    for sign in (out > least, out < -least):
        marks = sign.view(np.uint8).reshape(n * high, wide)
        parts += [marks, cv2.dilate(marks, _GROWN)]
    packed = [
        np.packbits(p.reshape(n, high, wide)[:, _ROWS, _COLUMNS].reshape(n, -1), axis=1)
        for p in (parts[0], parts[2], parts[1], parts[3])
    ]
    return np.concatenate(packed, axis=1)


def edges_kept(now: NDArray[np.uint8], then: NDArray[np.uint8]) -> NDArray[np.float16]:
    """Return how many edges two pictures share, float16 (n, 2): 1 all of them, 0 as by chance.

    Both are (n, PACKED) of `edges_of`. First of the edges of the picture that has fewer of them,
    then of the other.
    """
    ours, theirs = (p.reshape(len(p), 4, _PART) for p in (now, then))
    shares, counts = [], []
    for one, other in ((ours, theirs), (theirs, ours)):
        marks = np.bitwise_count(one[:, :2]).sum(axis=2, dtype=np.float32)
        grown = np.bitwise_count(other[:, 2:]).sum(axis=2, dtype=np.float32)
        hits = np.bitwise_count(one[:, :2] & other[:, 2:]).sum(axis=(1, 2), dtype=np.float32)
        chance = (marks * grown).sum(axis=1) / _PIXELS
        count = marks.sum(axis=1)
        shares.append((hits - chance) / (count - chance + _FEW))
        counts.append(count)
    fewer = counts[0] < counts[1]
    found = np.where(fewer, shares[0], shares[1]), np.where(fewer, shares[1], shares[0])
    return np.stack(found, axis=1).astype(np.float16)
