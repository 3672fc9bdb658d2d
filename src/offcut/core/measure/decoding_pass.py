"""One decoding pass over a stretch of film, on every core, that fans out to measurers.

The film is divided at keyframes and decoders work on the parts side by side, each on one thread:
a decoder on one core wastes nothing on handing pictures between threads. What a frame is
compared with may lie in the part before, so comparing is a step of its own, done on every core
as well, as soon as both are there. The thread that asks only puts things in order.
"""

from __future__ import annotations

import os
import queue
import threading
from collections import deque
from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Protocol

import av
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.measurer import Arrays, Measurer
from offcut.core.measure.small_pictures import (
    PIECE,
    Banded,
    Crop,
    SmallPictures,
    banded,
    runs_of,
)
from offcut.core.media.index import FrameIndex
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader

Watch = Callable[[], "Watcher"]
"""Makes what sees the pictures of one part of a pass; called on the thread that decodes it."""


class Watcher(Protocol):
    """Sees every picture of a part as it is decoded, in order and on one thread.

    Attributes: ``whole`` whether it wants the picture with every line; else those that are measured
    may be all there are.
    """

    whole: bool

    def see(self, number: int, frame: av.VideoFrame, luma: NDArray[np.uint8], /) -> None:
        """See a frame, and its small luma (40, 64). What it costs slows the pass down."""

    def end(self) -> None:
        """Hear that no more come, at the end or after a stop."""


_SHARES = 24
LEAST_PART, PART, LONGEST = 40, 300, 2000
"""A part has about so many frames, by the length of the film, and none has more than the last; else
one decoder reads."""


def cores() -> int:
    """Return how many cores this process may use."""
    return len(os.sched_getaffinity(0))


def crew(threads: int, *, gently: bool = False) -> ThreadPoolExecutor:
    """Return threads to measure on; ``gently`` where whatever a person waits for goes before."""
    return ThreadPoolExecutor(
        threads,
        thread_name_prefix="offcut-measure",
        initializer=give_way_to_others if gently else None,
    )


_GENTLY = 10
"""The niceness of threads that do what nobody waits for: they get a tenth of a core that
another thread wants."""


def give_way_to_others() -> None:
    """Let this thread, and those it starts, work where nothing else wants to. It is for good."""
    with suppress(OSError, AttributeError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _GENTLY)


@dataclass(frozen=True)
class Measured:
    """The signals of frames [start, end), by the names of the measurers."""

    start: int
    end: int
    signals: Mapping[str, Arrays]


@dataclass(frozen=True)
class _Prepared:
    """A run as each measurer prepared it."""

    start: int
    frames: int
    by_name: dict[str, Any]


def measured(
    film: OpenedFilm,
    start: int,
    end: int,
    measurers: Sequence[Measurer],
    *,
    crop: Crop | None = None,
    threads: int = 0,
    stop: threading.Event | None = None,
    pool: Executor | None = None,
    watches: Sequence[Watch] = (),
) -> Generator[Measured]:
    """Yield the signals of frames [start, end) run by run, in order.

    Reading begins a little earlier, so that inside a range they are those of the whole film, and
    they do not depend on ``threads`` (0 for every core, 1 for none beside this one) either.
    ``pool`` are threads to work on; ``watches`` make what sees the pictures on the way. Stops early
    once ``stop`` is set. Raises MediaError.
    """
    stop = stop or threading.Event()
    threads = threads or cores()
    early = max(0, start - max(m.history for m in measurers))
    looks = {m.name: m.look for m in measurers if m.look is not None}
    with ExitStack() as leaving:
        crop = crop or Crop()
        bands = banded(film, crop)
        readers = leaving.enter_context(_Readers(film, crop, bands))
        part = _Part(readers, crop, bands, stop, measurers, looks, watches)
        bounds = _parts(film.index, early, end)
        if threads == 1:
            yield from _in_line(part, bounds, start)
            return
        workers = pool or leaving.enter_context(crew(threads))
        if len(bounds) > 1:
            prepared = _side_by_side(part, bounds, workers, threads)
        else:
            prepared = _one_decoder(part, early, end, workers, threads)
        try:
            yield from _compared(prepared, measurers, workers, threads, start)
        finally:
            prepared.close()


class _Readers:
    """The readers of a film that parts take in turn: one that is open is quicker than a new one.

    One that is still held when this is closed is closed where it is given back, on the thread that
    reads with it.
    """

    def __init__(self, film: OpenedFilm, crop: Crop, bands: Banded | None) -> None:
        self._film = film
        self._bands = None if bands is None else bands.bands
        # of a field every line is asked for
        self._purpose = Purpose.MEASURE if crop.parity is None else Purpose.SMALL
        self._idle: list[Reader] = []
        self._lock = threading.Lock()
        self._closed = False

    def __enter__(self) -> _Readers:
        return self

    def __exit__(self, *_: object) -> None:
        with self._lock:
            self._closed = True
            for reader in self._idle:
                reader.close()

    @contextmanager
    def one(self, threads: int, *, whole: bool) -> Iterator[Reader]:
        """Lend a reader whose decoder uses ``threads``, of ``whole`` pictures or the lines that
        are measured; those of a pass are all alike.
        """
        with self._lock:
            reader = self._idle.pop() if self._idle else None
        bands = None if whole or threads != 1 else self._bands
        reader = reader or open_reader(self._film, self._purpose, threads=threads, bands=bands)
        try:
            yield reader
        finally:
            with self._lock:
                if self._closed:
                    reader.close()
                else:
                    self._idle.append(reader)


@dataclass(frozen=True)
class _Part:
    """What is the same for every part of a pass."""

    readers: _Readers
    crop: Crop
    banded: Banded | None
    stop: threading.Event
    measurers: Sequence[Measurer]
    looks: dict[str, Any]
    watches: Sequence[Watch]

    def runs(self, start: int, end: int, threads: int) -> Iterator[SmallPictures]:
        watchers = [watch() for watch in self.watches]
        whole = bool(self.looks) or any(watcher.whole for watcher in watchers)
        try:
            with self.readers.one(threads, whole=whole) as reader:
                yield from runs_of(
                    reader, start, end, self.crop, stop=self.stop, piece=PIECE, looks=self.looks,
                    banded=self.banded, seen=[watcher.see for watcher in watchers],
                )  # fmt: skip
        finally:
            for watcher in watchers:
                watcher.end()

    def prepared(self, run: SmallPictures) -> _Prepared:
        return _Prepared(run.start, len(run), {m.name: m.prepare(run) for m in self.measurers})


def _in_line(part: _Part, bounds: list[tuple[int, int]], start: int) -> Iterator[Measured]:
    before: list[_Prepared] = []
    for first, last in bounds:
        for run in part.runs(first, last, 1):
            now = part.prepared(run)
            compared = _compare(part.measurers, before, now)
            yield from _from_start(compared, start)
            before = _reaching(part.measurers, [*before, now])


def _side_by_side(
    part: _Part, bounds: list[tuple[int, int]], workers: Executor, threads: int
) -> Generator[_Prepared]:
    """Yield runs prepared, in order, from several decoders."""
    abandoned = threading.Event()

    def work(first: int, last: int) -> list[_Prepared]:
        done = []
        for run in part.runs(first, last, 1):
            if abandoned.is_set():
                break
            done.append(part.prepared(run))
        return done

    waiting: deque[Future[list[_Prepared]]] = deque()
    left = iter(bounds)
    try:
        for bound in left:
            waiting.append(workers.submit(work, *bound))
            if len(waiting) > threads + 1:
                break
        while waiting:
            runs = waiting.popleft().result()
            following = next(left, None)
            if following is not None and not part.stop.is_set():
                waiting.append(workers.submit(work, *following))
            yield from runs
            if part.stop.is_set():
                return
    finally:
        abandoned.set()
        for job in waiting:
            job.cancel()


def _one_decoder(
    part: _Part, start: int, end: int, workers: Executor, threads: int
) -> Generator[_Prepared]:
    """Yield runs prepared, in order, of a film that cannot be divided; FFmpeg shares it out."""
    made: queue.Queue[Future[_Prepared] | BaseException | None] = queue.Queue(2 * threads)
    abandoned = threading.Event()

    def put(thing: Future[_Prepared] | BaseException | None) -> None:
        while not abandoned.is_set():
            try:
                made.put(thing, timeout=0.2)
                return
            except queue.Full:
                continue

    def decode() -> None:
        try:
            for run in part.runs(start, end, 0):
                if abandoned.is_set():
                    return
                put(workers.submit(part.prepared, run))
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
    prepared: Iterator[_Prepared],
    measurers: Sequence[Measurer],
    workers: Executor,
    threads: int,
    start: int,
) -> Iterator[Measured]:
    """Yield the signals of runs, compared side by side, in order."""
    waiting: deque[Future[Measured]] = deque()
    before: list[_Prepared] = []
    for now in prepared:
        waiting.append(workers.submit(_compare, measurers, tuple(before), now))
        before = _reaching(measurers, [*before, now])
        while waiting and (waiting[0].done() or len(waiting) > 2 * threads):
            yield from _from_start(waiting.popleft().result(), start)
    while waiting:
        yield from _from_start(waiting.popleft().result(), start)


def _reaching(measurers: Sequence[Measurer], runs: list[_Prepared]) -> list[_Prepared]:
    """Return the last runs that hold as many frames as any measurer looks back."""
    wanted = max(m.history for m in measurers)
    frames = 0
    for place in range(len(runs) - 1, -1, -1):
        frames += runs[place].frames
        if frames >= wanted:
            return runs[place:]
    return runs


def _compare(
    measurers: Sequence[Measurer], before: Sequence[_Prepared], now: _Prepared
) -> Measured:
    signals = {
        m.name: m.compare([b.by_name[m.name] for b in before], now.by_name[m.name])
        for m in measurers
    }
    return Measured(now.start, now.start + now.frames, signals)


def _from_start(found: Measured, start: int) -> Iterator[Measured]:
    """Yield what was measured from ``start`` on; what lies before only served as past."""
    skip = start - found.start
    if skip <= 0:
        yield found
    elif found.end > start:
        signals = {
            name: {key: array[skip:] for key, array in arrays.items()}
            for name, arrays in found.signals.items()
        }
        yield Measured(start, found.end, signals)


def _parts(index: FrameIndex, start: int, end: int) -> list[tuple[int, int]]:
    """Divide [start, end) at keyframes into parts; one part where keyframes are too far apart.

    Where the film is divided follows from its index alone: each part is decoded from its keyframe
    on, so a damaged one gives the same, whatever the number of cores. Of a short film parts are
    shorter, so that no decoder is left with most of it.
    """
    if index.by_count or len(index.keys) < 2:
        return [(start, end)]
    bounds, part = [0], max(LEAST_PART, min(PART, len(index) // _SHARES))
    for key in index.keys.tolist():
        if key - bounds[-1] >= part and key < len(index) - 60:
            bounds.append(key)
    bounds = [start, *(b for b in bounds if start < b < end), end]
    parts = list(pairwise(bounds))
    if max(last - first for first, last in parts) > LONGEST:
        return [(start, end)]
    return parts
