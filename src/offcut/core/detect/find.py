"""Find: from a film to its signals, and from signals to its possible seams."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from offcut.core.detect.judge import Settled, seams_found
from offcut.core.detect.measure import measure
from offcut.core.detect.signals import HISTORY, Signals, signals_joined
from offcut.core.detect.small import Crop, pictures_of
from offcut.core.media.probe import OpenedFilm
from offcut.core.model.project import Seam


@dataclass(frozen=True)
class Finding:
    """What is known after so many frames: the signals so far and the seams they speak for.

    Attributes: ``seams`` all possible ones in [start, ``reached``); ``complete`` False while
    the search goes on or was stopped.
    """

    signals: Signals
    seams: tuple[Seam, ...]
    start: int
    reached: int
    complete: bool

    @property
    def damaged(self) -> tuple[tuple[int, int], ...]:
        """Stretches [start, end) of frames whose pictures could not be read."""
        held = np.concatenate([[False], self.signals.held, [False]])
        turns = np.flatnonzero(held[1:] != held[:-1]) + self.signals.start
        return tuple(zip(turns[::2].tolist(), turns[1::2].tolist(), strict=True))


def signals_of(
    film: OpenedFilm,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    threads: int = 2,
    stop: threading.Event | None = None,
) -> Iterator[Signals]:
    """Yield the signals of frames [start, end) run by run.

    Reading begins a little earlier, so that inside a range they are those of the whole film.
    """
    early = max(0, start - HISTORY)
    runs = pictures_of(
        film.media.path, film.index, early, end, crop=crop, threads=threads, stop=stop
    )
    yield from measure(runs, start)


def finding_of(
    parts: list[Signals], start: int, end: int, settled: Settled | None = None
) -> Finding:
    """Judge the signals measured so far; ``settled`` keeps what need not be judged again."""
    signals = signals_joined(parts)
    seams = seams_found(signals, start, end, settled)
    return Finding(signals, seams, start, signals.end, signals.end >= end)
