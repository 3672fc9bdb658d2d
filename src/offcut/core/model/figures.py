"""The figures of many seams as arrays, so that a setting can be turned while a person watches."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.project import Certainty, Origin, Seam, Standing


@dataclass(frozen=True, eq=False)
class Figures:
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


_told: list[tuple[Sequence[Seam], Figures]] = []


def figures_of(seams: tuple[Seam, ...]) -> Figures:
    """Return the figures of seams; those of the last few tuples are remembered, by identity."""
    for known, figures in tuple(_told):
        if known is seams:
            return figures
    many = len(seams)

    def flags(made: list[bool]) -> NDArray[np.bool_]:
        return np.array(made, np.bool_)

    figures = Figures(
        frames=np.fromiter((s.frame for s in seams), np.int64, many),
        scores=np.fromiter((s.score for s in seams), np.float64, many),
        kept=flags([s.standing is Standing.KEPT for s in seams]),
        struck=flags([s.standing is Standing.STRUCK for s in seams]),
        placed=flags([s.origin is Origin.PLACED for s in seams]),
        listed=flags([s.origin is Origin.LISTED for s in seams]),
        doubtful=flags([s.certainty is Certainty.DOUBTFUL for s in seams]),
    )
    _told.insert(0, (seams, figures))
    del _told[3:]
    return figures
