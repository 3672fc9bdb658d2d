"""Light, movement and loudness of films: read where they are kept, else measured in a job."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.core.errands.looking_along import look_along
from offcut.core.model.source import Source
from offcut.core.rhythm.lanes import FilmSignals

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
            self._job = None  # what it still says is of the project before

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

    def try_again(self) -> None:
        """Look once more at films where that was stopped or failed."""
        self._given_up.clear()

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
            return look_along(
                source, film, stop=job.stop, progress=job.tell, first=job.partial.emit
            )

        name = Path(source.media.path).name

        def take(signals: FilmSignals) -> None:
            if self._job is job and not self._closed:
                self.films[source.id] = signals
                self.came.emit()

        def done(got: tuple[FilmSignals, str]) -> None:
            if self._job is not job:
                return
            self._keys[source.id] = key
            take(got[0])
            if got[1]:
                self._s.said.emit(got[1])

        def ended() -> None:
            if self._job is not job:
                return
            self._job = None
            if job.stop.is_set() or self._keys.get(source.id) != key:
                self._given_up.add(key)
            self._next()

        job = self._job = self._s.work(
            f"Looking at light and sound of {name}", work, done,
            of=[source.id], partial=take, ended=ended,
        )  # fmt: skip


def _key(source: Source) -> object:
    """Return what makes signals others: another film, framing, range or display."""
    media = source.media
    return (
        media.fingerprint, media.frames, source.framing, source.start, source.end,
        source.ticket.display,
    )  # fmt: skip
