"""What is in the film in hand: looked for in the background once it is asked for."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.core.errands.facts import FilmFacts, find_facts
from offcut.core.facts.fact import Fact
from offcut.core.measure.measuring import OnThreads

LOOKING = "Looking what is in the film"
_LATER = 400
"""Milliseconds after the last edit until facts are cut at the seams anew."""
Key = tuple[object, ...]


class FactsInHand(QObject):
    """The facts of the film in hand, cut at the seams that count.

    Nothing is looked for until `want` says so. Signals: ``came`` when there are other facts.
    """

    came = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session
        self._wanted = False
        self._facts: tuple[Fact, ...] = ()
        self._key: Key = ()
        self._asked: Key = ()
        self._job: Job | None = None
        self._later = soon(self, _LATER, self._look)
        for told in (session.changed, session.film_changed, session.project_changed):
            told.connect(self._changed)

    @property
    def facts(self) -> tuple[Fact, ...]:
        """What is known to be in the film in hand; of another film nothing."""
        source = self._s.source
        if source is None or (source.id, source.media.fingerprint) != self._key[:2]:
            return ()
        return self._facts

    def want(self, wanted: bool) -> None:
        """Look for facts from now on, or stop."""
        self._wanted = wanted
        if wanted:
            self._look()
        elif self._job is not None:
            self._job.stop.set()

    def _key_now(self) -> Key:
        source = self._s.source
        if source is None:
            return ()
        return (source.id, source.media.fingerprint, tuple(x.start for x in self._s.shots))

    def _changed(self) -> None:
        if self._wanted and self._key_now() != self._asked:
            self._later.start()

    def _look(self) -> None:
        source, key = self._s.source, self._key_now()
        if not self._wanted or source is None or not source.searched or key == self._asked:
            return
        if self._job is not None:
            self._job.stop.set()
        self._asked = key
        film = self._s.film

        def work(job: Job) -> FilmFacts | None:
            with OnThreads(gently=True) as where:
                found = find_facts(source, film, measuring=where, stop=job.stop, progress=job.tell)
            return None if job.stop.is_set() else found

        self._job = self._s.work(
            LOOKING, work, lambda found: self._take(found, key), of=(source.id,),
            failed=lambda words: self._failed(words, key),
        )  # fmt: skip

    def _failed(self, words: str, key: Key) -> None:
        self._stopped(key)
        self._s.lost.emit(words)

    def _stopped(self, key: Key) -> None:
        """Let it be asked for again, where nobody did since."""
        if self._asked == key:
            self._asked = ()

    def _take(self, found: FilmFacts | None, key: Key) -> None:
        if found is None:
            self._stopped(key)
            return
        for words in found.problems:
            self._s.lost.emit(words)
        self._facts, self._key = found.facts, key
        self.came.emit()
