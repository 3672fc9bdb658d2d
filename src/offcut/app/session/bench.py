"""A bench: what is in hand of one source."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.model.source import Source
from offcut.core.store.missing_films import FilmThere


@dataclass
class Bench:
    """What is in hand of one source; it stays while another film is looked at.

    Attributes: ``film`` the opened film as its ticket has it, None while it is not open; ``plain``
    that film as its file has it; ``missing`` what lies where
    it should be, None unless it was looked for in vain; ``opening`` True while it is being
    opened. ``playhead`` a frame of the source; ``selected`` ids of the selected seams, the one
    parked on first; ``stretch`` the frames [left, right) that are shown of it where it is laid
    along a scale, None for all; ``mark_in`` and ``mark_out`` the ends of the marked range,
    None where not set.
    ``trace`` change per frame from ``trace_start`` on, as far as measured; ``damaged``
    stretches [start, end) whose pictures could not be read, empty ones where pictures are missing
    before a frame.
    """

    source_id: int
    film: OpenedFilm | None = None
    plain: OpenedFilm | None = None
    missing: FilmThere | None = None
    opening: bool = False
    playhead: int = 0
    selected: tuple[int, ...] = ()
    stretch: tuple[float, float] | None = None
    mark_in: int | None = None
    mark_out: int | None = None
    trace: NDArray[np.float32] = field(default_factory=lambda: np.zeros(0, np.float32))
    trace_start: int = 0
    damaged: tuple[tuple[int, int], ...] = ()
    _told: object = None

    def open_as(self, source: Source) -> bool:
        """Take the film as a source's ticket has it; tell whether that is another than before."""
        told = (source.media, source.ticket.fields)
        if self.plain is None or (self.film is not None and told == self._told):
            return False
        before, self._told = self.film, told
        self.film = as_set(self.plain, source)
        return self.film is not before

    def let_go(self) -> None:
        """Let the film go; it is opened again when it is looked at."""
        self.film = self.plain = None

    def take_measured(
        self,
        trace: NDArray[np.float32],
        start: int,
        damaged: tuple[tuple[int, int], ...] | None = None,
    ) -> None:
        """Take the trace that was measured, and what of the film is damaged, None as before."""
        self.trace, self.trace_start = trace, start
        if damaged is not None:
            gaps = self.film.holes if self.film is not None else ()
            self.damaged = (*damaged, *((f, f) for f in gaps))

    def forget_measured(self) -> None:
        """Another film lies on the bench: what was measured of the one before is not of it."""
        self.trace = np.zeros(0, np.float32)
        self.damaged = ()
