"""Conversion: a version whose rate was changed by repeating or leaving out pictures.

23.976 run at 24 or at 25 keeps every picture and needs nothing. Where the time was kept instead,
the old version is laid out as the new one shows it, and what is found is told in its own frames.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from offcut.core.tally.sides import Side
from offcut.core.tally.versions.candidates import candidates_of
from offcut.core.tally.versions.changes import Change, What
from offcut.core.tally.versions.overlay import Overlay

_SHOTS = 24
_LEAST = 24
_CLEAR, _MOST_OF = 1.15, 0.7


@dataclass(frozen=True, eq=False)
class Conversion:
    """A film laid out at another rate: ``side`` as it is then, ``at`` int64 (n,) which frame of the
    film each frame of it shows.
    """

    side: Side
    at: NDArray[np.int64]
    film: Side

    def told(self, change: Change) -> Change:
        """Return a change with the old version's own frames."""
        if change.old is None:
            return change
        bounds = dict(zip(self.side.bounds.tolist(), self.film.bounds.tolist(), strict=True))
        start, end = (bounds.get(f, self._frame(f)) for f in change.old)
        # a frame or two at either end is what the conversion leaves
        head, tail = (n if abs(n) > 2 else 0 for n in (change.head, change.tail))
        ends = change.what in (What.SHORTER, What.LONGER) and change.speed == 1
        what = What.SAME if ends and not head and not tail else change.what
        return replace(change, what=what, old=(start, end), head=head, tail=tail)

    def _frame(self, frame: int) -> int:
        place = min(len(self.at), max(0, frame - self.side.start))
        return int(self.at[place]) if place < len(self.at) else self.film.end


def laid_out(side: Side, like: Side) -> Conversion:
    """Return a film as a conversion to another's rate shows it, its time kept."""
    speed = float(side.rate / like.rate)
    count = max(1, round(len(side.luma) / speed))
    place = np.floor((np.arange(count) + 0.5) * speed).astype(np.int64)
    place = np.minimum(place, len(side.luma) - 1)

    def moved(frames: NDArray[np.int64]) -> NDArray[np.int64]:
        return np.searchsorted(place, frames - side.start).astype(np.int64) + side.start

    bounds = moved(side.bounds)
    bounds[-1] = side.start + count
    paced = Side(side.luma[place], side.start, bounds, side.loose + 1, moved(side.faint), like.rate)
    return Conversion(paced, place + side.start, side)


def conversion_of(old: Side, new: Side, overlay: Overlay) -> Conversion | None:
    """Return the old version as the new one has it where its rate was converted, else None."""
    if old.rate == new.rate or not 0.2 < old.rate / new.rate < 5:
        return None
    spans = [(a - new.start, b - new.start) for a, b in new.shots if b - a >= _LEAST]
    spans = spans[:: max(1, len(spans) // _SHOTS)]
    if not spans:
        return None
    paced = laid_out(old, new)
    news = overlay.new(new.luma)
    fits = []
    for side in (old, paced.side):
        shots = [(a - side.start, b - side.start) for a, b in side.shots if b > a]
        here = candidates_of(news, spans, overlay.old(side.luma), shots)
        fits.append([min((c.lay.apart for c in h), default=2.0) for h in here])
    plain, kept = np.array(fits)
    # where nothing moves both fit as well and say nothing
    clear = np.maximum(plain, kept) > _CLEAR * np.minimum(plain, kept)
    if clear.sum() < 2:
        return None
    return paced if float((kept < plain)[clear].mean()) > _MOST_OF else None
