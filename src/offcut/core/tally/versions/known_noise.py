"""Known noise: what differs between two versions even where they are the same, counted less.

Another framing leaves errors where there is fine detail, a clock changes one corner, an encoder
blurs. All of that is told by frames that are surely the same: their differences are whitened
(Fukunaga 1990, "Introduction to Statistical Pattern Recognition", from memory), so that only what
is unusual tells one shot or one frame from another.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from offcut.core.tally.versions.candidates import Span, candidates_of

Floats = NDArray[np.float32]
_SHOTS = 90
_FRAMES = 16
_LEAST = 8
_SHRINK = 0.15
_LEAST_NOISE = 1e-7
_SURELY = 0.15
"""Frames that are the same lie no farther apart than this."""


def whitening_of(
    new: Floats, new_spans: list[Span], old: Floats, old_spans: list[Span]
) -> Floats | None:
    """Return (96, 96) by which prints of both sides are multiplied before they are compared, None
    where too few shots are the same to tell.

    Spans count from the first print of their side.
    """
    gaps = _gaps_of_same(new, new_spans, old, old_spans)
    if gaps is None:
        return None
    cells = gaps.shape[1]
    spread = (gaps.T @ gaps) / len(gaps)
    usual = max(_LEAST_NOISE, float(np.trace(spread)) / cells)
    # few pairs say little of 96 cells together: shrunk towards all alike (Ledoit and Wolf 2004)
    share = max(_SHRINK, min(0.9, cells / len(gaps)))
    spread = (1 - share) * spread + share * usual * np.eye(cells)
    values, vectors = np.linalg.eigh(spread.astype(np.float64))
    matrix = (vectors / np.sqrt(values)) @ vectors.T
    seen = new[:: max(1, len(new) // 4000)] @ matrix
    return np.asarray(matrix / np.sqrt((seen * seen).sum(axis=1).mean()), np.float32)


def _gaps_of_same(
    new: Floats, new_spans: list[Span], old: Floats, old_spans: list[Span]
) -> Floats | None:
    """Return the differences of frames that are surely the same, (k, 96)."""
    wanted = [s for s in new_spans if s[1] - s[0] >= _LEAST]
    wanted = (
        [wanted[k] for k in np.unique(np.linspace(0, len(wanted) - 1, _SHOTS).astype(int))]
        if wanted
        else []
    )
    if len(wanted) < 3:
        return None
    lays = [
        (span, min(here, key=lambda c: c.lay.apart).lay)
        for span, here in zip(wanted, candidates_of(new, wanted, old, old_spans), strict=True)
        if here
    ]
    # where the picture stands still the frame is not known, and then it does not matter
    line = min(_SURELY, 3 * float(np.quantile([x.apart for _, x in lays], 0.35))) if lays else 0.0
    parts = []
    for (start, end), lay in lays:
        a, b = max(start, -lay.offset), min(end, len(old) - lay.offset)
        if lay.apart <= line and lay.frames >= 0.9 * (end - start) and b - a >= _LEAST:
            frames = np.linspace(a, b - 1, min(_FRAMES, b - a)).astype(np.int64)
            parts.append(new[frames] - old[frames + lay.offset])
    if len(parts) < 3:
        return None
    return np.asarray(np.concatenate(parts), np.float32)
