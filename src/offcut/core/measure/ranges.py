"""Ranges of film: what is missing is measured, kept in a store, and read from there after.

Three things that know nothing of each other: what is missing (`plan`), what measures it
(`Measuring`), and what keeps it (`Store`). So measuring can be split over processes or machines,
and taken up after a stop.
"""

from __future__ import annotations

import threading
from collections.abc import Generator, Iterator, Sequence
from contextlib import closing

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.film_pass import Measured, Watch
from offcut.core.measure.kept_signals import KEPT_PIECE, LIMIT, KeptSignals, Range, Store
from offcut.core.measure.measurer import Arrays, Measurer
from offcut.core.measure.measuring import Measuring, ToMeasure, measuring_or_here
from offcut.core.measure.plan import gaps_of
from offcut.core.measure.registry import CHANGE
from offcut.core.measure.registry import measurers as all_measurers
from offcut.core.measure.signals import ARRAYS, Signals
from offcut.core.measure.small_pictures import Crop
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.same_film import check_same
from offcut.core.model.source import Media


def missing_ranges(
    media: Media,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    measurers: Sequence[Measurer] | None = None,
    store: Store | None = None,
) -> list[Range]:
    """Return the stretches of frames [start, end) that any of the measurers has not measured.

    ``measurers`` None for all that see each film.
    """
    wanted = all_measurers() if measurers is None else measurers
    gaps = gaps_of(store or KeptSignals(media, crop), wanted, start, end)
    return [(gap.start, gap.end) for gap in gaps]


def measure_range(
    film: OpenedFilm,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    measurers: Sequence[Measurer] | None = None,
    measuring: Measuring | None = None,
    store: Store | None = None,
    stop: threading.Event | None = None,
    watches: Sequence[Watch] = (),
) -> Generator[Measured]:
    """Measure what of frames [start, end) is not kept yet, keep it, and yield it run by run.

    Each gap is measured alone, in one decoding pass, by those measurers that miss it; what the
    others kept stays as it is. ``measurers`` None for all that see each
    film; ``measuring`` is where, None for every core of this machine;
    ``store`` keeps it, None for the cache folder; ``watches`` as `Measuring` has them. Raises
    MediaError.
    """
    store = store or KeptSignals(film.media, crop)
    wanted = all_measurers() if measurers is None else measurers
    with measuring_or_here(measuring) as where:
        for gap in gaps_of(store, wanted, start, end):
            writer = _Writer(film.media, store, gap.measurers)
            runs = where.measured(
                ToMeasure(film, gap.start, gap.end, gap.measurers, crop, stop, watches)
            )
            try:
                with closing(runs) as measuring_it:
                    for run in measuring_it:
                        writer.take(run)
                        yield run
            finally:
                writer.finish()


class _Writer:
    """Keeps what is measured in pieces, for each measurer; where some is kept, the new holds."""

    def __init__(self, media: Media, store: Store, measurers: Sequence[Measurer]) -> None:
        self._media = media
        self._store = store
        self._measurers = measurers
        self._waiting: list[Measured] = []

    def take(self, run: Measured) -> None:
        self._waiting.append(run)
        if run.end - self._waiting[0].start >= KEPT_PIECE:
            self.finish()

    def finish(self) -> None:
        if not self._waiting:
            return
        waiting, self._waiting = self._waiting, []
        check_same(self._media)  # what is measured of another film is never kept
        start = waiting[0].start
        for measurer in self._measurers:
            parts = [run.signals[measurer.name] for run in waiting if measurer.name in run.signals]
            if len(parts) == len(waiting):
                self._store.keep(measurer, start, parts)


def change_signals(
    film: OpenedFilm,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    measuring: Measuring | None = None,
    store: Store | None = None,
    stop: threading.Event | None = None,
    limit: int = LIMIT,
    watches: Sequence[Watch] = (),
) -> Iterator[Signals]:
    """Yield the signals of change of frames [start, end) in order, and measure what is missing.

    Every measurer sees what is decoded on the way. ``limit`` is the most bytes of signals kept; the
    others as in `measure_range`. Others may search the same film meanwhile, and keep what is still
    to come here: what is kept is looked up anew at every gap.
    """
    store = store or KeptSignals(film.media, crop)
    store.use(limit)
    at = start
    stuck = False
    with measuring_or_here(measuring) as where:
        while at < end and not (stop is not None and stop.is_set() and at > start):
            until, before = end, at
            for low, high, arrays in store.pieces(CHANGE, at, end):
                if low > at:
                    until = low
                    break
                yield signals_from(low, arrays)
                at = high
            if at >= until or (stop is not None and stop.is_set() and at > start):
                continue
            runs = (
                where.measured(ToMeasure(film, at, until, [CHANGE], crop, stop, watches))
                if stuck
                else measure_range(
                    film, at, until, crop=crop, measuring=where, store=store, stop=stop,
                    watches=watches,
                )
            )  # fmt: skip
            with closing(runs) as coming:
                for run in coming:
                    if CHANGE.name not in run.signals:
                        continue
                    if run.start > at:
                        break  # somebody else kept what lies before
                    yield signals_from(run.start, run.signals[CHANGE.name])
                    at = run.end
            if at > before:
                stuck = False
            elif stuck or (stop is not None and stop.is_set()):
                return  # nothing more of it can be measured
            else:
                stuck = True  # what is kept, and cannot be read nor deleted, is measured beside it


def signals_from(start: int, arrays: Arrays) -> Signals:
    """Return the signals of change that the measurer's arrays hold."""
    return Signals(start, *(arrays[name] for name in ARRAYS))


def kept_trace(media: Media, start: int, end: int, crop: Crop | None = None) -> NDArray[np.float32]:
    """Return the trace of frames [start, end) as far as it is kept without a gap.

    Also where the film is gone.
    """
    parts: list[NDArray[np.float32]] = []
    at = start
    for low, high, arrays in KeptSignals(media, crop).pieces(CHANGE, start, end):
        if low > at:
            break
        parts.append(signals_from(low, arrays).trace)
        at = high
    return np.concatenate(parts) if parts else np.zeros(0, np.float32)
