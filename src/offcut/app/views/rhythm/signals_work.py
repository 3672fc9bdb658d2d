"""Light, movement and loudness of films: read where they are kept, else measured in a job."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.core.errors import MediaError
from offcut.core.measure.loudness import kept_loudness, measure_loudness
from offcut.core.measure.ranges import measure_range, missing_ranges
from offcut.core.measure.registry import TONES
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.model.source import Source
from offcut.core.rhythm.lanes import FilmSignals, signals_of
from offcut.core.store.missing_films import film_there

MOST_FILMS = 6
"""The signals of so many films are held at once."""


class SignalsWork(QObject):
    """Gives the signals of films that are studied. ``came`` tells that there are more.

    Attributes: ``films`` signals by the ids of their sources.
    """

    came = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._s = session
        self.films: dict[int, FilmSignals] = {}
        self._keys: dict[int, object] = {}
        self._given_up: set[object] = set()
        self._job: Job | None = None
        self._wanted: list[Source] = []
        self._closed = False
        session.project_changed.connect(self._forget)

    def _forget(self) -> None:
        self.films.clear()
        self._keys.clear()
        self._given_up.clear()
        self._wanted = []
        if self._job is not None:
            self._job.stop.set()

    def close(self) -> None:
        """Look at nothing any more."""
        self._closed = True
        if self._job is not None:
            self._job.stop.set()

    def want(self, sources: Sequence[Source]) -> None:
        """Say which films are studied; those that are not known are looked at, one by one."""
        self._wanted = [s for s in sources if s.searched][:MOST_FILMS]
        for gone in set(self.films) - {s.id for s in self._wanted}:
            if len(self.films) > MOST_FILMS or not self._s.project.holds(gone):
                self.films.pop(gone)
                self._keys.pop(gone, None)
        self._next()

    @property
    def busy(self) -> bool:
        """True while a film is looked at."""
        return self._job is not None

    def _next(self) -> None:
        if self._closed or self._job is not None:
            return
        for source in self._wanted:
            key = _key(source)
            if self._keys.get(source.id) != key and key not in self._given_up:
                self._look(source, key)
                return

    def _look(self, source: Source, key: object) -> None:
        film = self._s.films.get(source.id)

        def work(job: Job) -> tuple[FilmSignals, str]:
            known = signals_of(source)
            crop = crop_of(source.framing, source.media)
            gaps = missing_ranges(
                source.media, source.start, source.end, crop=crop, measurers=(TONES,)
            )
            quiet = kept_loudness(source.media) is None
            if not gaps and not quiet:
                return known, ""
            job.partial.emit(known)
            opened = film
            if opened is None:
                there = film_there(source.media)
                opened = as_set(there.film, source) if there.film is not None else None
            if opened is None:
                return known, ""
            if gaps:
                _measure_tones(opened, source, job)
            trouble = ""
            if quiet and opened.tracks and not job.stop.is_set():
                try:
                    measure_loudness(opened, stop=job.stop, progress=job.tell)
                except MediaError as error:
                    trouble = str(error)  # the pictures are there all the same
            return signals_of(source), trouble

        name = Path(source.media.path).name
        job = self._job = self._s.jobs.start(f"Looking at light and sound of {name}", work)

        def take(signals: FilmSignals) -> None:
            if self._s.project.holds(source.id) and not self._closed:
                self.films[source.id] = signals
                self.came.emit()

        def done(got: tuple[FilmSignals, str]) -> None:
            self._keys[source.id] = key
            take(got[0])
            if got[1]:
                self._s.said.emit(got[1])

        def ended() -> None:
            self._job = None
            if job.stop.is_set() or self._keys.get(source.id) != key:
                self._given_up.add(key)
            self._next()

        job.partial.connect(take)
        job.done.connect(done)
        job.failed.connect(self._s.failed)
        job.ended.connect(ended)


def _measure_tones(film: OpenedFilm, source: Source, job: Job) -> None:
    """Measure the light and colours that are missing of a film."""
    whole, done = source.end - source.start, 0
    crop = crop_of(source.framing, source.media)
    for run in measure_range(
        film, source.start, source.end, crop=crop, measurers=(TONES,), stop=job.stop
    ):
        done += run.end - run.start
        job.tell(min(done, whole), whole)


def _key(source: Source) -> object:
    """Return what makes signals others: another film, framing, range or display."""
    media = source.media
    return (
        media.fingerprint, media.frames, source.framing, source.start, source.end,
        source.ticket.display,
    )  # fmt: skip
