"""Many seams as arrays, so that a setting can be turned while a person watches."""

from __future__ import annotations

from dataclasses import dataclass, fields
from operator import is_not

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.seam import Certainty, Origin, Seam, Standing


@dataclass(frozen=True, eq=False)
class SeamArrays:
    """One entry for each seam, in their order.

    Attributes: ``frames`` int64; ``scores`` float64, 0 to 100; all others bool: ``kept``,
    ``struck``, ``placed`` and ``listed`` (by whom it came), ``doubtful`` (its certainty).
    """

    frames: NDArray[np.int64]
    scores: NDArray[np.float64]
    kept: NDArray[np.bool_]
    struck: NDArray[np.bool_]
    placed: NDArray[np.bool_]
    listed: NDArray[np.bool_]
    doubtful: NDArray[np.bool_]

    @property
    def judged(self) -> NDArray[np.bool_]:
        """Where a person decided or placed it."""
        return self.kept | self.struck | self.placed


_told: list[tuple[tuple[Seam, ...], SeamArrays]] = []
_FEW = 400


def arrays_of(seams: tuple[Seam, ...]) -> SeamArrays:
    """Return the arrays of seams; those of the last few tuples are remembered, by identity.

    An edit changes few of thousands of seams, so only what differs from a remembered tuple of
    the same length is read anew.
    """
    for known, arrays in tuple(_told):
        if known is seams:
            return arrays
    arrays = next(filter(None, (_mended(*told, seams) for told in tuple(_told))), None) or _read(
        seams
    )
    _told.insert(0, (seams, arrays))
    del _told[3:]
    return arrays


def _mended(
    known: tuple[Seam, ...], arrays: SeamArrays, seams: tuple[Seam, ...]
) -> SeamArrays | None:
    """Return the arrays of seams that differ in few places from known ones, else None."""
    many = len(seams)
    if len(known) != many:
        return None
    places = np.flatnonzero(np.fromiter(map(is_not, known, seams), np.bool_, many))
    if len(places) > _FEW:
        return None
    part = _read(tuple(seams[place] for place in places.tolist()))
    mended = {f.name: getattr(arrays, f.name).copy() for f in fields(SeamArrays)}
    for name, array in mended.items():
        array[places] = getattr(part, name)
    return SeamArrays(**mended)


def _read(seams: tuple[Seam, ...]) -> SeamArrays:
    many = len(seams)
    kept, struck = Standing.KEPT, Standing.STRUCK
    placed, listed, doubtful = Origin.PLACED, Origin.LISTED, Certainty.DOUBTFUL
    return SeamArrays(
        frames=np.fromiter((s.frame for s in seams), np.int64, many),
        scores=np.fromiter((s.score for s in seams), np.float64, many),
        kept=np.array([s.standing is kept for s in seams], np.bool_),
        struck=np.array([s.standing is struck for s in seams], np.bool_),
        placed=np.array([s.origin is placed for s in seams], np.bool_),
        listed=np.array([s.origin is listed for s in seams], np.bool_),
        doubtful=np.array([s.certainty is doubtful for s in seams], np.bool_),
    )
