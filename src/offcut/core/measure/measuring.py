"""Where films are measured: on the thread that asks, or on threads beside it.

All give the same signals to the byte, of damaged films too: where a film is divided follows from
its index alone (`plan`). Another way (`processes`) is whatever does what `Measuring` says.
"""

from __future__ import annotations

import queue
import threading
from collections import deque
from collections.abc import Callable, Generator, Iterator, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, Protocol

from offcut.core.measure.crew import cores, crew
from offcut.core.measure.film_pass import (
    FilmPass,
    Measured,
    Prepared,
    Watch,
    compared,
    from_start,
    reaching,
)
from offcut.core.measure.kept_signals import Range
from offcut.core.measure.measurer import Measurer
from offcut.core.measure.plan import parts_between, reading_from
from offcut.core.measure.small_pictures import Crop
from offcut.core.media.opened import OpenedFilm

JUDGES = 2
"""Threads that judge at most: each holds a window of the film as numbers, and more get in each
other’s way."""


@dataclass(frozen=True)
class ToMeasure:
    """What is to be measured: frames [start, end) of a film inside a framing, by which measurers.

    Attributes: ``stop`` ends it early once set; ``watches`` make what sees the pictures on the way,
    where they are decoded in this process: elsewhere they stay, and whoever wants them decodes what
    is looked at.
    """

    film: OpenedFilm
    start: int
    end: int
    measurers: Sequence[Measurer]
    crop: Crop | None = None
    stop: threading.Event | None = None
    watches: Sequence[Watch] = ()

    def passing(self) -> FilmPass:
        """Return a pass over the film that measures it in this process."""
        return FilmPass(self.film, self.measurers, self.crop, stop=self.stop, watches=self.watches)


class Measuring(Protocol):
    """Something that measures.

    Attributes: ``each`` what the windows of a film are judged by, used as `map`.
    """

    @property
    def each(self) -> Callable[..., Any]: ...

    def measured(self, wanted: ToMeasure) -> Generator[Measured]:
        """Yield the signals of what is wanted run by run, in order. Raises MediaError.

        They are those of the whole film: reading begins earlier. Ends early once it is stopped.
        """

    def close(self) -> None:
        """Let go of what it works on."""


class OnThisThread:
    """Measures on the thread that asks, and on no other."""

    each: Callable[..., Any] = map

    def measured(self, wanted: ToMeasure) -> Generator[Measured]:
        """Yield signals as `Measuring` has it."""
        with wanted.passing() as along:
            index = along.film.index
            begin = reading_from(index, wanted.start, along.history)
            yield from along.measured(parts_between(index, begin, wanted.end), wanted.start)

    def close(self) -> None:
        """There is nothing to let go of."""


class OnThreads:
    """Measures on threads, each with a decoder of its own: one on one core wastes nothing on
    handing pictures between threads. The thread that asks only puts things in order.
    """

    def __init__(self, threads: int = 0, *, gently: bool = False) -> None:
        """``threads`` 0 for every core; ``gently`` where nobody waits for it."""
        self._threads = threads or cores()
        self._gently = gently
        self._crews: dict[str, ThreadPoolExecutor] = {}

    def __enter__(self) -> OnThreads:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """End the threads; what they work on is waited for."""
        while self._crews:
            self._crews.popitem()[1].shutdown()

    def _crew(self, name: str, threads: int) -> ThreadPoolExecutor:
        if name not in self._crews:
            self._crews[name] = crew(threads, gently=self._gently)
        return self._crews[name]

    @property
    def each(self) -> Callable[..., Any]:
        """What windows are judged by: threads of their own, which wait for no part."""
        return self._crew("judge", min(self._threads, JUDGES)).map

    def measured(self, wanted: ToMeasure) -> Generator[Measured]:
        """Yield signals as `Measuring` has it."""
        workers = self._crew("measure", self._threads)
        with wanted.passing() as along:
            begin = reading_from(along.film.index, wanted.start, along.history)
            parts = parts_between(along.film.index, begin, wanted.end)
            if len(parts) > 1:
                prepared = _side_by_side(along, parts, workers, self._threads)
            else:
                prepared = _one_decoder(along, begin, wanted.end, workers, self._threads)
            try:
                yield from _compared(
                    prepared, along.measurers, workers, self._threads, wanted.start
                )
            finally:
                prepared.close()


def measuring_on(threads: int = 0) -> OnThisThread | OnThreads:
    """Return what measures on so many threads of this machine; 0 for every core."""
    threads = threads or cores()
    return OnThisThread() if threads == 1 else OnThreads(threads)


@contextmanager
def measuring_or_here(measuring: Measuring | None) -> Iterator[Measuring]:
    """Lend what was handed in, or every core of this machine where nothing was."""
    if measuring is not None:
        yield measuring
        return
    here = measuring_on()
    try:
        yield here
    finally:
        here.close()


def _side_by_side(
    along: FilmPass, parts: Sequence[Range], workers: Executor, threads: int
) -> Generator[Prepared]:
    """Yield runs prepared, in order, from several decoders."""
    abandoned = threading.Event()

    def work(first: int, last: int) -> list[Prepared]:
        done = []
        for run in along.runs(first, last):
            if abandoned.is_set():
                break
            done.append(along.prepared(run))
        return done

    waiting: deque[Future[list[Prepared]]] = deque()
    left = iter(parts)
    try:
        for bound in left:
            waiting.append(workers.submit(work, *bound))
            if len(waiting) > threads + 1:
                break
        while waiting:
            runs = waiting.popleft().result()
            following = next(left, None)
            if following is not None and not along.stop.is_set():
                waiting.append(workers.submit(work, *following))
            yield from runs
            if along.stop.is_set():
                return
    finally:
        abandoned.set()
        for job in waiting:
            job.cancel()


def _one_decoder(
    along: FilmPass, start: int, end: int, workers: Executor, threads: int
) -> Generator[Prepared]:
    """Yield runs prepared, in order, of a film that cannot be divided; FFmpeg shares it out."""
    made: queue.Queue[Future[Prepared] | BaseException | None] = queue.Queue(2 * threads)
    abandoned = threading.Event()

    def put(thing: Future[Prepared] | BaseException | None) -> None:
        while not abandoned.is_set():
            try:
                made.put(thing, timeout=0.2)
                return
            except queue.Full:
                continue

    def decode() -> None:
        try:
            for run in along.runs(start, end, 0):
                if abandoned.is_set():
                    return
                put(workers.submit(along.prepared, run))
            put(None)
        except BaseException as error:  # told to whoever waits for the runs
            put(error)

    decoder = threading.Thread(target=decode, name="offcut-measure-decode", daemon=True)
    # started by one of the workers, so that it is as gentle as they are: threads inherit that
    workers.submit(decoder.start).result()
    try:
        while True:
            thing = made.get()
            if thing is None:
                return
            if isinstance(thing, BaseException):
                raise thing
            yield thing.result()
    finally:
        abandoned.set()
        decoder.join()


def _compared(
    prepared: Iterator[Prepared],
    measurers: Sequence[Measurer],
    workers: Executor,
    threads: int,
    start: int,
) -> Iterator[Measured]:
    """Yield the signals of runs, compared side by side, in order."""
    waiting: deque[Future[Measured]] = deque()
    before: list[Prepared] = []
    for now in prepared:
        waiting.append(workers.submit(compared, measurers, tuple(before), now))
        before = reaching(measurers, [*before, now])
        while waiting and (waiting[0].done() or len(waiting) > 2 * threads):
            yield from from_start(waiting.popleft().result(), start)
    while waiting:
        yield from from_start(waiting.popleft().result(), start)
