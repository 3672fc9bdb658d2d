"""Searching: finding the seams of films off the interface thread, one after another in a queue."""

from __future__ import annotations

import time
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.search_work import (
    ProxyMade,
    SearchAsked,
    SearchDone,
    search_film,
    seconds_a_frame,
)
from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.core.errands.bringing_in import with_framing
from offcut.core.errands.seams import Finding, find_seams
from offcut.core.errors import OffcutError
from offcut.core.judge.judge import AROUND, best_seam
from offcut.core.measure.ranges import kept_trace
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.live_picture import FoundFraming
from offcut.core.media.proxy import ProxyPieces
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Seam
from offcut.core.model.shots import is_counted
from offcut.core.model.source import Media
from offcut.core.model.verbs.searching import take_found, take_one
from offcut.core.words import long_words, many


@dataclass
class _Search:
    """One piece of work: the source it is for.

    With ``keep`` only the trace is measured; with ``proxy_only`` nothing but the proxy is made.
    Nobody waits for either: what a person does in the meantime goes before.
    """

    source_id: int
    keep: bool = False
    proxy_only: bool = False
    job: Job | None = None
    later: Finding | None = None
    done: int = 0
    whole: int = 0
    began: float = field(default_factory=time.monotonic)

    @property
    def words(self) -> str:
        """What is done, in words."""
        if self.proxy_only:
            return "Making a proxy"
        return "Looking at the film again" if self.keep else "Finding seams"

    @property
    def gently(self) -> bool:
        """True where nobody waits for it."""
        return self.keep or self.proxy_only


@dataclass
class _Round:
    """What the queue did since it was empty: for the word at its end."""

    began: float = 0.0
    films: set[int] = field(default_factory=set)


class SeamSearch(QObject):
    """Looks for seams and hands them to the source they were asked for, whatever is in hand then.

    Every core works on one film at a time; other films wait their turn, and proxies until all
    seams are found. ``changed`` tells that the queue is another; ``progressed`` how far the film of
    that id is; ``finished`` says in a sentence what was done once nothing waits any more;
    ``measured`` that a film was measured, and left small pictures.

    Attributes: ``troubles`` why films could not be searched, by their ids; ``held`` True while
    nothing is begun.
    """

    changed = Signal()
    progressed = Signal(int)
    finished = Signal(str)
    measured = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session
        self._now: _Search | None = None
        self._waiting: list[_Search] = []
        self._round = _Round()
        self._speed = 0.0
        self.held = False
        self.troubles: dict[int, str] = {}
        self._soon = soon(self, 250, self._take_later)
        session.project_changed.connect(self.forget)
        session.film_changed.connect(self._take_later)
        self.changed.connect(lambda: session.set_searching(self.finds_seams))

    # the queue

    @property
    def finding(self) -> Job | None:
        """The search under way, None when there is none."""
        return self._now.job if self._now is not None else None

    @property
    def finds_seams(self) -> bool:
        """True while seams are found that a person waits for."""
        return self._now is not None and not self._now.gently

    @property
    def finding_id(self) -> int:
        """The source that is searched now, 0 for none."""
        return self._now.source_id if self._now is not None else 0

    @property
    def under_way_words(self) -> str:
        """What is done now."""
        return self._now.words[0].lower() + self._now.words[1:] if self._now is not None else ""

    @property
    def share(self) -> float:
        """How far the search under way is, 0 to 1."""
        now = self._now
        return now.done / now.whole if now is not None and now.whole else 0.0

    @property
    def waiting(self) -> int:
        """How many films wait to be searched."""
        return len(self._waiting)

    @property
    def waiting_ids(self) -> tuple[int, ...]:
        """The sources that wait, in order."""
        return tuple(w.source_id for w in self._waiting)

    @property
    def unfinished_ids(self) -> tuple[int, ...]:
        """The sources whose seams are still to be found, the one under way first."""
        now = [self._now] if self._now is not None and not self._now.keep else []
        both = [w for w in (*now, *self._waiting) if not w.keep and not w.proxy_only]
        return tuple(dict.fromkeys(w.source_id for w in both))

    def move(self, source_id: int, way: int) -> None:
        """Move a waiting film a place up (-1) or down (1) in the queue."""
        ids = list(self.waiting_ids)
        if source_id in ids:
            at = ids.index(source_id)
            to = max(0, min(len(ids) - 1, at + way))
            self._waiting.insert(to, self._waiting.pop(at))
            self.changed.emit()

    def take_off(self, source_ids: Iterable[int]) -> None:
        """Take films off the queue; one that is searched now is stopped, what was found stays."""
        gone = set(source_ids)
        self._waiting = [w for w in self._waiting if w.source_id not in gone]
        if self._now is not None and self._now.source_id in gone and self._now.job is not None:
            self._now.job.stop.set()
        self.changed.emit()

    def hold(self) -> None:
        """Stop for now: what was measured stays, and going on takes it up there."""
        self.held = True
        now = self._now
        if now is not None and now.job is not None:
            self._waiting.insert(0, _Search(now.source_id, now.keep, now.proxy_only))
            now.job.stop.set()
        self.changed.emit()

    def go_on(self) -> None:
        """Go on after a hold."""
        self.held = False
        self._begin()
        self.changed.emit()

    def seconds_left(self) -> tuple[float, float]:
        """Return how long the search under way still takes, and all that waits with it."""
        now = self._now
        own = 0.0
        if now is not None and now.whole:
            gone = time.monotonic() - now.began
            own = gone / max(1, now.done) * (now.whole - now.done) if now.done else 0.0
        rest = sum(self.cost(w.source_id, w.proxy_only) for w in self._waiting)
        return own, own + rest

    def cost(self, source_id: int, proxy: bool = False) -> float:
        """Return about how many seconds a film takes, by what others took."""
        if not self._s.project.holds(source_id):
            return 0.0
        source = self._s.project.source(source_id)
        usual = seconds_a_frame(source.media)
        return usual * (self._speed or 1.0) * (source.end - source.start) * (1.6 if proxy else 1.0)

    def has_proxy(self, media: Media) -> bool:
        """Tell whether a proxy of a film was begun."""
        return ProxyPieces(media, self._s.room.proxy_folder).folder.is_dir()

    def forget(self) -> None:
        """Another project comes: stop, and drop what waits."""
        self._waiting.clear()
        if self._now is not None and self._now.job is not None:
            self._now.job.stop.set()
        self._now = None
        self.held = False
        self.troubles.clear()
        self._round = _Round()
        self.changed.emit()

    def stop(self) -> None:
        """Stop the search under way and those that wait; what was found so far stays."""
        self._waiting.clear()
        self.held = False
        if self._now is not None and self._now.job is not None:
            self._now.job.stop.set()
        self.changed.emit()

    def find(self, source_id: int | None = None, *, keep: bool = False) -> None:
        """Find the seams of a source's range in the background; of the one in hand for None.

        With ``keep`` only the trace is measured; the seams stay as they were saved. The film in
        hand is the next one.
        """
        wanted = self._s.in_hand if source_id is None else source_id
        self._put(_Search(wanted, keep))

    def find_all(self, source_ids: Iterable[int]) -> None:
        """Find the seams of several films, in order."""
        for source_id in source_ids:
            self._put(_Search(source_id), last=True)

    def make_proxies(self, source_ids: Iterable[int]) -> None:
        """Make the proxies of several films."""
        for source_id in source_ids:
            self._put(_Search(source_id, proxy_only=True), last=True)

    def _put(self, search: _Search, *, last: bool = False) -> None:
        wanted = search.source_id
        if not self._s.project.holds(wanted):
            return
        if not self.busy:
            self._round = _Round(time.monotonic())
        same = [
            w for w in self._waiting if w.source_id == wanted and w.proxy_only == search.proxy_only
        ]
        self._waiting = [w for w in self._waiting if w not in same]
        first = wanted == self._s.in_hand and not last and not search.proxy_only
        seams = sum(not w.proxy_only for w in self._waiting)  # proxies are made after all of them
        at = 0 if first else len(self._waiting) if search.proxy_only else seams
        self._waiting.insert(at, search)
        if not search.gently:
            self.troubles.pop(wanted, None)
        self._let_seams_come_first()
        now = self._now
        anew = now is not None and now.source_id == wanted and not search.proxy_only
        if anew and now is not None and now.job is not None:
            now.job.stop.set()  # it begins anew, with what holds now
            self._now = None
        self._begin()
        self.changed.emit()

    def _let_seams_come_first(self) -> None:
        """Put the proxy that is made now back behind the seams that are to be found."""
        now = self._now
        if now is None or not now.proxy_only or now.job is None or now.job.stop.is_set():
            return
        if not self.held and any(not w.proxy_only for w in self._waiting):
            now.job.stop.set()
            self._waiting.append(_Search(now.source_id, proxy_only=True))

    @property
    def busy(self) -> bool:
        """True while something is under way or waits."""
        return self._now is not None or bool(self._waiting)

    def _begin(self) -> None:
        """Begin the next search, unless one is under way."""
        if self._now is not None or self.held:
            return
        while self._waiting and not self._s.project.holds(self._waiting[0].source_id):
            self._waiting.pop(0)
        if all(w.gently for w in self._waiting):
            self._end_round()
        if not self._waiting:
            return
        search = self._waiting.pop(0)
        if search.keep and self._s.bench_of(search.source_id).film is None:
            self._begin()
            return
        asked = SearchAsked.of(
            self._s, search.source_id, search.proxy_only,
            framing=not search.keep, gently=search.gently,
        )  # fmt: skip
        self._now = search
        search.began = time.monotonic()
        search.job = self._s.work(
            search.words, lambda job: search_film(asked, job),
            lambda found: self._found(search, found), of=[search.source_id],
            partial=lambda found: self._came(search, found),
            progressed=lambda done, whole: self._told(search, done, whole),
            failed=lambda words: self._failed(search, words),
            ended=lambda: self._ended(search),
        )  # fmt: skip
        if not search.gently:
            self._round.films.add(search.source_id)

    def _told(self, search: _Search, done: int, whole: int) -> None:
        search.done, search.whole = done, whole
        if self._now is search:
            self.progressed.emit(search.source_id)

    def _end_round(self) -> None:
        films, self._round.films = self._round.films, set()
        self._tell_troubles(films)
        held = [s for s in self._s.project.sources if s.id in films and s.searched]
        if len(held) < 2:
            return
        counted = [s for source in held for s in source.seams if is_counted(s, source)]
        doubtful = sum(s.certainty is Certainty.DOUBTFUL and not s.judged for s in counted)
        seconds = time.monotonic() - self._round.began
        words = (
            f"{many(len(held), 'film')}, {many(len(counted), 'seam')}, {doubtful} doubtful, "
            f"{long_words(seconds)}"
        )
        self._s.said.emit(words)
        self.finished.emit(words)

    def show_kept(self, source_id: int) -> None:
        """Show the trace that is kept of a film that is gone."""
        source = self._s.project.source(source_id)
        media, start, end = source.media, source.start, source.end
        crop = crop_of(source)
        self._s.work(
            "Reading what was measured", lambda _job: kept_trace(media, start, end, crop),
            lambda trace: self._kept_read(source_id, trace, start), of=[source_id], quick=True,
        )  # fmt: skip

    def _kept_read(self, source_id: int, trace: NDArray[np.float32], start: int) -> None:
        if self._s.bench_of(source_id).film is None:
            self._s.measured(source_id, trace, start)
            self._s.refresh()

    def _failed(self, search: _Search, words: str) -> None:
        if search.job is None or search.job.stop.is_set():
            return
        if search.gently:
            self._s.lost.emit(words)
            return
        self._has_trouble(search, words)

    def _has_trouble(self, search: _Search, words: str) -> None:
        """Remember why a film could not be searched: it is told once all of the queue are done."""
        self.troubles[search.source_id] = words

    def _tell_troubles(self, films: Iterable[int]) -> None:
        """Tell of all films of a round that could not be searched, and why."""
        held = [i for i in films if i in self.troubles and self._s.project.holds(i)]
        if not held:
            return
        why = "; ".join(self.troubles[i] for i in held[:5])
        more = f"; and {len(held) - 5} more" if len(held) > 5 else ""
        if len(held) == 1:
            self._s.lost.emit(f"{why}. Its seams are not found; Ctrl+R looks for them again")
            return
        words = f"{len(held)} films were not searched: {why}{more}"
        self._s.lost.emit(f"{words}. Their labels in Intake say why; Ctrl+R looks again")

    def _ended(self, search: _Search) -> None:
        if self._now is search:
            self._now = None
        self._begin()
        self.changed.emit()

    def _came(self, search: _Search, found: object) -> None:
        """Take in what a search tells on its way."""
        if self._now is not search or not self._s.project.holds(search.source_id):
            return
        if isinstance(found, FoundFraming):
            self._s.take_in(lambda p: with_framing(p, search.source_id, found))
            self._s.refresh()
            self._tell_framing(search.source_id, found)
        elif isinstance(found, ProxyMade):
            self._s.proxy_changed.emit(search.source_id)
        elif isinstance(found, Finding):
            self._take_soon(search, found)

    def _tell_framing(self, source_id: int, found: FoundFraming) -> None:
        """Say what was found around the picture, and how surely."""
        if not found.framing:
            return
        name = Path(self._s.project.source(source_id).media.path).name
        words = f"{name}: {found.words} found in {found.pictures} pictures, {found.certainty.value}"
        sure = found.certainty is Certainty.SURE
        self._s.said.emit(f"{words}; {'left out' if sure else 'look at it under Framing'}")

    def _take_soon(self, search: _Search, found: Finding) -> None:
        """Show what was found so far, four times a second at most."""
        if self._now is not search:
            return
        first = search.later is None and not self._soon.isActive()
        search.later = found
        if search.source_id != self._s.in_hand:
            return  # nobody looks at it: it is taken at its end, or once it is in hand
        if first:
            self._take_later()
        elif not self._soon.isActive():
            self._soon.start()

    def _take_later(self) -> None:
        search = self._now
        if search is None or search.source_id != self._s.in_hand:
            return
        if search.later is not None:
            found, search.later = search.later, None
            self._take(search, found)
            self._soon.start()

    def _take(self, search: _Search, found: Finding) -> None:
        source_id = search.source_id
        if self._now is not search or not self._s.project.holds(source_id):
            return
        self._s.measured(source_id, found.signals.trace, found.signals.start, found.damaged)
        if not search.keep:

            def taken(project: Project) -> Project:
                return take_found(
                    project, source_id, found.seams, found.start, found.reached,
                    done=found.complete,
                )  # fmt: skip

            try:
                self._s.history.replace(taken)
                self.troubles.pop(source_id, None)
            except OffcutError as error:
                name = Path(self._s.project.source(source_id).media.path).name
                self._has_trouble(search, f"{name}: {error}")
        self._s.refresh()

    def _found(self, search: _Search, got: SearchDone) -> None:
        search.later = None
        if got.proxy and self._now is search and not search.keep:
            self._put(_Search(search.source_id, proxy_only=True))
        found = got.finding
        if found is None:
            return
        if got.seconds > 0.5 and not search.gently and self._s.project.holds(search.source_id):
            usual = seconds_a_frame(self._s.project.source(search.source_id).media) * got.frames
            self._speed = got.seconds / usual if usual else 0.0
        self.measured.emit(search.source_id)
        self._take(search, found)
        if search.keep or self._now is not search or search.source_id != self._s.in_hand:
            return
        if search.source_id in self.troubles:
            return
        words = f"{len(self._s.shots)} shots found"
        if not found.complete:
            words = f"Stopped at {self._s.words_of(found.reached)}: {words} so far"
        if found.damaged:
            words += f"; {_pictures(found)} could not be read, hatched on the ribbon"
        if got.pattern:
            words += f"; {got.pattern}"
        self._s.said.emit(words)

    # looking for one

    def find_one(self, start: int, end: int) -> None:
        """Look for one seam in frames [start, end) of the film in hand, more readily than usual.

        It is kept.
        """
        film, source = self._s.film, self._s.source
        if film is None or source is None:
            return
        crop = crop_of(source)

        def work(job: Job) -> Seam | None:
            low, high = max(0, start - AROUND), min(film.media.frames, end + AROUND)
            found = find_seams(film, low, high, crop=crop, stop=job.stop, progress=job.tell)
            return best_seam(found.signals, start, end) if found.complete else None

        self._s.work(
            "Looking for one seam", work,
            lambda seam: self._one_found(source.id, seam, start, end), of=[source.id], quick=True,
        )  # fmt: skip

    def _one_found(self, source_id: int, seam: Seam | None, start: int, end: int) -> None:
        self._s.take_in_hand(source_id)
        if seam is None:
            where = f"{self._s.words_of(start)} and {self._s.words_of(end)}"
            self._s.said.emit(f"Nothing changes between {where}: place a seam by hand with +")
            return
        words = f"Find a {seam.kind.value} at {self._s.words_of(seam.frame)}"
        self._s.edit(lambda p, s: take_one(p, s, seam), words, seam.frame)
        self._s.go_to_seam(source_id, seam.frame)


def _pictures(found: Finding) -> str:
    count = sum(end - start for start, end in found.damaged)
    return many(count, "damaged picture")
