"""Ranges of film measured: what is missing is measured, what is kept is read.

Nothing here needs a window, and with one thread no threads either: so measuring can be split
over processes or machines, and taken up after a stop.
"""

from __future__ import annotations

import threading
from collections.abc import Generator, Iterator, Sequence
from concurrent.futures import Executor
from contextlib import closing
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.decoding_pass import Measured, Watch, measured
from offcut.core.measure.kept_signals import LIMIT, PIECE, KeptSignals, Range, gaps_between
from offcut.core.measure.measurer import Arrays, Measurer
from offcut.core.measure.registry import CHANGE, MEASURERS
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
    measurers: Sequence[Measurer] = MEASURERS,
) -> list[Range]:
    """Return the stretches of frames [start, end) that any of the measurers has not measured."""
    kept = KeptSignals(media, crop)
    return _union(
        [gap for m in measurers for gap in _gaps(kept, m, start, end)],
    )


def measure_range(
    film: OpenedFilm,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    measurers: Sequence[Measurer] = MEASURERS,
    threads: int = 0,
    stop: threading.Event | None = None,
    pool: Executor | None = None,
    watches: Sequence[Watch] = (),
) -> Generator[Measured]:
    """Measure what of frames [start, end) is not kept yet, keep it, and yield it run by run.

    Each gap is measured alone, in one decoding pass, by those measurers that miss it; what the
    others kept stays as it is. ``watches`` as in `measured`. Raises MediaError.
    """
    kept = KeptSignals(film.media, crop)
    missing = {m.name: _gaps(kept, m, start, end) for m in measurers}
    for low, high in _union([gap for gaps in missing.values() for gap in gaps]):
        wanting = [m for m in measurers if any(a < high and b > low for a, b in missing[m.name])]
        writer = _Writer(film.media, kept, wanting)
        try:
            for run in measured(
                film, low, high, wanting, crop=crop, threads=threads, stop=stop, pool=pool,
                watches=watches,
            ):  # fmt: skip
                writer.take(run)
                yield run
        finally:
            writer.finish()


class _Writer:
    """Keeps what is measured in pieces, for each measurer; where some is kept, the new holds."""

    def __init__(self, media: Media, kept: KeptSignals, measurers: Sequence[Measurer]) -> None:
        self._media = media
        self._kept = kept
        self._measurers = measurers
        self._waiting: list[Measured] = []

    def take(self, run: Measured) -> None:
        self._waiting.append(run)
        if run.end - self._waiting[0].start >= PIECE:
            self.finish()

    def finish(self) -> None:
        if not self._waiting:
            return
        waiting, self._waiting = self._waiting, []
        check_same(self._media)  # what is measured of another film is never kept
        start = waiting[0].start
        for measurer in self._measurers:
            parts = [run.signals[measurer.name] for run in waiting]
            self._kept.keep(measurer, start, parts)


def change_signals(
    film: OpenedFilm,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    threads: int = 0,
    stop: threading.Event | None = None,
    pool: Executor | None = None,
    limit: int = LIMIT,
    watches: Sequence[Watch] = (),
) -> Iterator[Signals]:
    """Yield the signals of change of frames [start, end) in order, and measure what is missing.

    Every measurer sees what is decoded on the way. ``limit`` is the most bytes of signals kept.
    ``watches`` as in `measured`. Others may search the same film meanwhile, and keep what is still
    to come here: what is kept is looked up anew at every gap.
    """
    kept = KeptSignals(film.media, crop)
    kept.use(limit)
    at = start
    stuck = False
    while at < end and not (stop is not None and stop.is_set() and at > start):
        until, before = end, at
        for low, high, arrays in kept.pieces(CHANGE, at, end):
            if low > at:
                until = low
                break
            yield signals_from(low, arrays)
            at = high
        if at >= until or (stop is not None and stop.is_set() and at > start):
            continue
        asked: dict[str, Any] = {
            "crop": crop, "threads": threads, "stop": stop, "pool": pool, "watches": watches,
        }  # fmt: skip
        runs = (
            measured(film, at, until, [CHANGE], **asked)
            if stuck
            else measure_range(film, at, until, **asked)
        )
        with closing(runs) as measuring:
            for run in measuring:
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


def _gaps(kept: KeptSignals, measurer: Measurer, start: int, end: int) -> list[Range]:
    return gaps_between(kept.ranges(measurer, start, end), start, end)


def _union(ranges: Sequence[Range]) -> list[Range]:
    """Return ranges put together where they touch or overlap, in order."""
    joined: list[Range] = []
    for low, high in sorted(ranges):
        if joined and low <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(joined[-1][1], high))
        else:
            joined.append((low, high))
    return joined
