"""A pass over stretches of film: pictures decoded in order, made small, and measured.

What a frame is compared with may lie in the part before, so comparing is a step of its own. How
parts are shared out over threads or processes is no matter of this: see `measuring`.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, Protocol

import av
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import Range
from offcut.core.measure.measurer import Arrays, Measurer
from offcut.core.measure.registry import left_out_if_it_fails
from offcut.core.measure.small_pictures import (
    RUN,
    Banded,
    Crop,
    SmallPictures,
    banded,
    runs_of,
)
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


@dataclass(frozen=True)
class Measured:
    """The signals of frames [start, end), by the names of the measurers."""

    start: int
    end: int
    signals: Mapping[str, Arrays]


@dataclass(frozen=True)
class Prepared:
    """A run as each measurer prepared it."""

    start: int
    frames: int
    by_name: dict[str, Any]


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

    def close(self) -> None:
        """Close those that nobody reads with now."""
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


class FilmPass:
    """What is the same for every part of a pass over one film. A context: at its end readers close.

    Attributes: ``history`` how many frames before a frame its measurers look at.
    """

    def __init__(
        self,
        film: OpenedFilm,
        measurers: Sequence[Measurer],
        crop: Crop | None = None,
        *,
        stop: threading.Event | None = None,
        watches: Sequence[Watch] = (),
    ) -> None:
        """``watches`` make what sees the pictures of each part; after ``stop`` no more come."""
        self.film = film
        self.measurers = tuple(measurers)
        self.history = max(m.history for m in measurers)
        self.stop = stop or threading.Event()
        self._crop = crop or Crop()
        self._watches = watches
        self._looks = {m.name: m.look for m in measurers if m.look is not None}
        self._banded = banded(film, self._crop)
        self._readers = _Readers(film, self._crop, self._banded)

    def __enter__(self) -> FilmPass:
        return self

    def __exit__(self, *_: object) -> None:
        self._readers.close()

    def runs(self, start: int, end: int, threads: int = 1) -> Iterator[SmallPictures]:
        """Yield the small pictures of a part, decoded on ``threads``, 0 for as many as there are.

        Raises MediaError.
        """
        watchers = [watch() for watch in self._watches]
        whole = bool(self._looks) or any(watcher.whole for watcher in watchers)
        try:
            with self._readers.one(threads, whole=whole) as reader:
                yield from runs_of(
                    reader, start, end, self._crop, stop=self.stop, piece=RUN, looks=self._looks,
                    banded=self._banded, seen=[watcher.see for watcher in watchers],
                )  # fmt: skip
        finally:
            for watcher in watchers:
                watcher.end()

    def prepared(self, run: SmallPictures) -> Prepared:
        """Return a run as each measurer prepares it."""
        by_name: dict[str, Any] = {}
        for m in self.measurers:
            with left_out_if_it_fails(m):
                by_name[m.name] = m.prepare(run)
        return Prepared(run.start, len(run), by_name)

    def measured(self, parts: Sequence[Range], start: int) -> Iterator[Measured]:
        """Yield the signals of adjoining parts from a frame on, in order, all on this thread."""
        before: list[Prepared] = []
        for first, last in parts:
            for run in self.runs(first, last):
                now = self.prepared(run)
                yield from from_start(compared(self.measurers, before, now), start)
                before = reaching(self.measurers, [*before, now])


def reaching(measurers: Sequence[Measurer], runs: list[Prepared]) -> list[Prepared]:
    """Return the last runs that hold as many frames as any measurer looks back."""
    wanted = max(m.history for m in measurers)
    frames = 0
    for place in range(len(runs) - 1, -1, -1):
        frames += runs[place].frames
        if frames >= wanted:
            return runs[place:]
    return runs


def compared(measurers: Sequence[Measurer], before: Sequence[Prepared], now: Prepared) -> Measured:
    """Return the signals of a run; of another package’s measurer that fails there are none."""
    signals: dict[str, Arrays] = {}
    for m in measurers:
        if not all(m.name in run.by_name for run in (*before, now)):
            continue
        with left_out_if_it_fails(m):
            arrays = m.compare([b.by_name[m.name] for b in before], now.by_name[m.name])
            if any(len(arrays[name]) != now.frames for name in m.arrays):
                raise ValueError("there is not one row for each frame")
            signals[m.name] = arrays
    return Measured(now.start, now.start + now.frames, signals)


def from_start(found: Measured, start: int) -> Iterator[Measured]:
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
