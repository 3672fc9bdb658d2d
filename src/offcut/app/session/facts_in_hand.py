"""What is in films: of the one in hand looked for once it is asked for, of others what is known."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.core.errands.facts import FilmFacts, find_facts
from offcut.core.facts.fact import Fact
from offcut.core.facts.in_shot import NOTHING, InShot, InShots, in_shot, in_shots
from offcut.core.measure.measuring import OnThreads
from offcut.core.model.shots import Shot, other_cards
from offcut.core.model.source import Source

LOOKING = "Looking what is in the film"
KNOWN = "Reading what is known of shots"
_LATER = 400
"""Milliseconds after the last edit until facts are cut at the seams anew."""
_MOST_FILMS = 40
"""So many films' facts are held, the ones asked for last."""
Key = tuple[object, ...]


class FactsInHand(QObject):
    """The facts of films, cut at the seams that count, and which of them are chosen.

    Nothing is looked for until `want` says so; what was found before is read where it is asked for.
    Attributes: ``chosen`` facts of the film in hand. Signals: ``came`` when there are other facts
    of the film in hand; ``known_changed`` of any film; ``chosen_changed``; ``looked_through`` the
    first time that a film of this project was looked at.
    """

    came = Signal()
    known_changed = Signal()
    chosen_changed = Signal()
    looked_through = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session
        self._wanted: set[str] = set()
        self._facts: tuple[Fact, ...] = ()
        self._inside: InShots = {}
        self._key: Key = ()
        self._asked: Key = ()
        self._job: Job | None = None
        self._known: dict[int, tuple[Source, InShots]] = {}
        self._reading: Job | None = None
        self._to_read: dict[int, Source] = {}
        self._queue: list[int] = []
        self._looked: set[int] = set()
        self._through: Job | None = None
        self.chosen: tuple[Fact, ...] = ()
        self._later = soon(self, _LATER, self._look)
        self._soon_read = soon(self, 0, self._read)
        for told in (session.changed, session.film_changed, session.project_changed):
            told.connect(self._changed)
        session.project_changed.connect(self._forget)

    # the film in hand

    @property
    def facts(self) -> tuple[Fact, ...]:
        """What is known to be in the film in hand; of another film nothing."""
        source = self._s.source
        if source is None or (source.id, source.media.fingerprint) != self._key[:2]:
            return ()
        return self._facts

    @property
    def looking(self) -> bool:
        """True while a film is looked at."""
        return self._job is not None or self._through is not None

    def of_shot(self, shot: Shot) -> InShot:
        """Return what is in a shot of the film in hand, as far as it is known."""
        if self.facts:
            return in_shot(self._inside, shot)
        source = self._s.source
        return in_shot(self.of(source), shot) if source is not None else NOTHING

    def want(self, who: str, wanted: bool) -> None:
        """Look for facts from now on for somebody, or no more; it stops once nobody wants them."""
        if wanted:
            self._wanted.add(who)
            self._look()
            return
        self._wanted.discard(who)
        if not self._wanted and self._job is not None:
            self._job.stop.set()

    def choose(self, facts: Iterable[Fact]) -> None:
        """Choose facts of the film in hand."""
        chosen = tuple(sorted(set(facts), key=lambda f: (f.start, f.end, f.sort)))
        if chosen != self.chosen:
            self.chosen = chosen
            self.chosen_changed.emit()

    def grade_anew(self) -> None:
        """Tell everything anew: the limits of grades are others."""
        self._asked = ()
        self._known.clear()
        self.known_changed.emit()
        self._look()

    def _key_now(self) -> Key:
        source = self._s.source
        if source is None:
            return ()
        return (source.id, source.media.fingerprint, tuple(x.start for x in self._s.shots))

    def _changed(self) -> None:
        if self.chosen and self._key_now()[:2] != self._key[:2]:
            self.choose(())
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

        before = self._inside

        def work(job: Job) -> tuple[FilmFacts, InShots] | None:
            with OnThreads(gently=True) as where:
                found = find_facts(source, film, measuring=where, stop=job.stop, progress=job.tell)
            if job.stop.is_set():
                return None
            return found, in_shots(source, found.facts, before)

        self._job = job = self._s.work(
            LOOKING, work, lambda found: self._take(found, source, key), of=(source.id,),
            failed=lambda words: self._failed(words, key), ended=lambda: self._ended(job),
        )  # fmt: skip

    def _ended(self, job: Job) -> None:
        if self._job is job:
            self._job = None

    def _failed(self, words: str, key: Key) -> None:
        self._stopped(key)
        self._s.lost.emit(words)

    def _stopped(self, key: Key) -> None:
        """Let it be asked for again, where nobody did since."""
        if self._asked == key:
            self._asked = ()

    def _take(self, found: tuple[FilmFacts, InShots] | None, source: Source, key: Key) -> None:
        if found is None:
            self._stopped(key)
            return
        film, self._inside = found
        self._facts = film.facts
        for words in film.problems:
            self._s.lost.emit(words)
        self._key = key
        self.chosen = self._still_chosen()
        self._known[source.id] = source, self._inside
        self.came.emit()
        self.chosen_changed.emit()
        self._tell_known(source.id)

    def _still_chosen(self) -> tuple[Fact, ...]:
        """Return what of the facts now lies where the same was chosen before a seam was judged."""
        by_kind: dict[tuple[object, object], list[Fact]] = {}
        for fact in self.chosen:
            by_kind.setdefault((fact.sort, fact.value), []).append(fact)
        return tuple(
            f
            for f in self._facts
            if any(
                was.start <= f.start and f.end <= was.end
                for was in by_kind.get((f.sort, f.value), ())
            )
        )

    def _tell_known(self, source_id: int) -> None:
        self.known_changed.emit()
        if source_id not in self._looked:
            self._looked.add(source_id)
            self.looked_through.emit()

    # other films

    def look_through(self, sources: Iterable[Source]) -> None:
        """Look what is in films, one after another; those without seams yet are passed over."""
        asked = [s.id for s in sources if s.searched and s.id not in self._queue]
        if not asked:
            self._s.said.emit("Find the seams of these films first")
            return
        self._queue += asked
        if self._through is None:
            self._look_on()

    def _look_on(self) -> None:
        """Look through the next film that was asked for."""
        self._through = None
        while self._queue and not self._s.project.holds(self._queue[0]):
            self._queue.pop(0)
        if not self._queue:
            return
        source = self._s.project.source(self._queue.pop(0))
        film = self._s.films.get(source.id)
        name = Path(source.media.path).name

        def work(job: Job) -> tuple[FilmFacts, InShots] | None:
            with OnThreads(gently=True) as where:
                found = find_facts(source, film, measuring=where, stop=job.stop, progress=job.tell)
            return None if job.stop.is_set() else (found, in_shots(source, found.facts))

        def take(found: tuple[FilmFacts, InShots] | None) -> None:
            if found is None:
                self._queue.clear()
                return
            for words in found[0].problems:
                self._s.lost.emit(words)
            self._known[source.id] = source, found[1]
            self._s.said.emit(f"Looked what is in {name}")
            self._tell_known(source.id)

        self._through = self._s.work(
            f"Looking what is in {name}", work, take, of=(source.id,), ended=self._look_on
        )

    def of(self, source: Source) -> InShots:
        """Return what is known to be in the shots of a film; what is kept on disk comes later."""
        known = self._known.get(source.id)
        if known is not None and known[0] is not source:
            if other_cards(known[0], source) is not None:
                known = self._known[source.id] = source, known[1]
            elif known[0].media.fingerprint != source.media.fingerprint:
                known = None
        if known is None or known[0] is not source:
            self._to_read[source.id] = source
            if self._reading is None:
                self._soon_read.start()  # not here: what asks may be painting
        return known[1] if known is not None else {}

    def in_shot(self, source: Source | None, shot: Shot | None) -> InShot:
        """Return what is known to be in a shot of any film of the project."""
        if source is None or shot is None:
            return NOTHING
        if source.id == self._s.in_hand and self.facts:
            return in_shot(self._inside, shot)
        return in_shot(self.of(source), shot)

    def _read(self) -> None:
        wanted, self._to_read = tuple(self._to_read.values()), {}
        before = {i: known[1] for i, known in self._known.items()}

        def work(_job: Job) -> list[tuple[Source, InShots]]:
            return [(s, in_shots(s, None, before.get(s.id)) if s.searched else {}) for s in wanted]

        self._reading = self._s.work(KNOWN, work, self._take_known, ended=self._read_on, quick=True)

    def _take_known(self, known: list[tuple[Source, InShots]]) -> None:
        changed = False
        for source, found in known:
            before = self._known.pop(source.id, None)
            changed = changed or before is None or before[1] != found
            self._known[source.id] = source, found
        while len(self._known) > _MOST_FILMS:
            self._known.pop(next(iter(self._known)))
        if changed:
            self.known_changed.emit()

    def _read_on(self) -> None:
        self._reading = None
        if self._to_read:
            self._read()

    def _forget(self) -> None:
        self._queue.clear()
        self._looked.clear()
        self._known.clear()
        self._to_read.clear()
