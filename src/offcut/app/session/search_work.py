"""What a search does on its thread: open the film, find its framing, measure; or make a proxy."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

import av
import numpy as np
from numpy.typing import NDArray

from offcut.app.session.jobs import Job
from offcut.app.session.room import Room
from offcut.app.session.session import Session
from offcut.core.errands.seams import Finding
from offcut.core.errands.searching import opened_of, search
from offcut.core.judge.cadence import pulldown_words
from offcut.core.measure.measuring import OnThreads
from offcut.core.measure.proxy_pass import make_proxy
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.proxy import ProxyPieces, slow_because
from offcut.core.model.source import Media, Source
from offcut.core.model.ticket import ProxyUse

_NANOSECONDS = 3.4e-9
_STILL = 17e-9


@dataclass(frozen=True)
class ProxyMade:
    """There is more of the proxy now."""


@dataclass(frozen=True)
class SearchDone:
    """What a search came to; ``finding`` is None where only a proxy was made.

    ``proxy`` tells whether the film wants one, made after all seams that are waited for;
    ``pattern`` is a sentence about pictures that lie 2:3 in fields.
    """

    finding: Finding | None
    proxy: bool
    frames: int
    seconds: float
    pattern: str = ""


@dataclass(frozen=True)
class SearchAsked:
    """What a search is given: values, and nothing of the session.

    ``film`` is None where it is not open; with ``proxy_only`` nothing but the proxy is made;
    ``framing`` tells whether it may be looked for; ``gently`` that nobody waits for it: it stands
    still while ``someone_waits`` for pictures.
    """

    source: Source
    film: OpenedFilm | None
    proxy_only: bool
    framing: bool
    gently: bool
    room: Room
    someone_waits: Callable[[], bool]

    @classmethod
    def of(
        cls, session: Session, source_id: int, proxy_only: bool, *, framing: bool, gently: bool
    ) -> SearchAsked:
        """Return what a source's search is given now."""
        source = session.project.source(source_id)
        film = session.bench_of(source_id).film
        return cls(
            source,
            film,
            proxy_only,
            framing,
            gently,
            session.room,
            session.someone_waits if gently else _nobody,
        )


def proxy_wanted(source: Source, film: OpenedFilm | None) -> bool:
    """Tell whether a film gets a proxy by itself."""
    use = source.ticket.proxy
    if use is ProxyUse.WHEN_SLOW:
        return bool(slow_because(source.media, film.index if film is not None else None))
    return use is ProxyUse.ALWAYS


def seconds_a_frame(media: Media) -> float:
    """Return about how long a frame takes to measure, as measured on two cores."""
    still = media.run is not None
    return 0.0004 + media.width * media.height * (_STILL if still else _NANOSECONDS)


def search_film(asked: SearchAsked, job: Job) -> SearchDone:
    """Search a film on the thread of a job. Raises MediaError."""
    source = asked.source
    film = opened_of(source, asked.film)
    began = time.monotonic()
    if asked.proxy_only:
        pieces = ProxyPieces(source.media, asked.room.proxy_folder)
        make_proxy(film, pieces, stop=job.stop, progress=job.tell, gently=True)
        pieces.use(asked.room.proxies)
        job.partial.emit(ProxyMade())
        return SearchDone(None, False, source.media.frames, time.monotonic() - began)
    far = _HowFar(job, source.end - source.start, asked.someone_waits)
    with OnThreads(gently=asked.gently) as measuring:
        searched = search(
            source, film, frame=asked.framing, framed=job.partial.emit, measuring=measuring,
            stop=job.stop, progress=far.reached, found=job.partial.emit, limit=asked.room.signals,
            watches=[lambda: far], keep_pictures=asked.room.pictures,
        )  # fmt: skip
    finding = searched.finding
    lies = finding.pulldown if finding.complete else None
    pattern = pulldown_words(lies, source.media) if lies is not None else ""
    pieces = ProxyPieces(source.media, asked.room.proxy_folder)
    wanting = finding.complete and proxy_wanted(source, film)
    proxy = wanting and bool(pieces.gaps(0, source.media.frames))
    frames = source.end - source.start
    return SearchDone(finding, proxy, frames, time.monotonic() - began, pattern)


def _nobody() -> bool:
    return False


MOST_STILL = 2.0
"""Seconds that gentle work stands still at most before it takes a small step."""


def stand_still(someone_waits: Callable[[], bool], stop: threading.Event) -> None:
    """Wait while pictures are waited for: Python’s threads take turns, so a nice one still delays.

    It goes on after two seconds, for pictures that never come.
    """
    late = time.monotonic() + MOST_STILL
    while someone_waits() and time.monotonic() < late and not stop.wait(0.02):
        pass


class _HowFar:
    """Tells how far measuring is by every picture decoded: parts come in only at their end."""

    whole = False

    def __init__(self, job: Job, frames: int, someone_waits: Callable[[], bool]) -> None:
        self._job = job
        self._someone_waits = someone_waits
        self._frames = frames
        self._seen = self._told = 0
        self._lock = threading.Lock()

    def reached(self, done: int, _of: int) -> None:
        """Hear how many frames are done."""
        with self._lock:
            if done <= self._told and done < self._frames:
                return
            self._told = max(done, self._told)
        self._job.tell(min(self._told, self._frames), self._frames)

    def see(self, _number: int, _frame: av.VideoFrame, _luma: NDArray[np.uint8], /) -> None:
        """Hear of one more picture."""
        with self._lock:
            self._seen += 1
            seen = self._seen
        if seen % 16 == 0:
            self.reached(min(seen, self._frames - 1), self._frames)
        if seen % 4 == 0:
            stand_still(self._someone_waits, self._job.stop)

    def end(self) -> None:
        """A part is over; others may go on."""
