"""Searching: finding the seams of films off the interface thread, and one at a time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QTimer

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.core.find import Finding, find_seams
from offcut.core.judge.judge import AROUND, best_seam
from offcut.core.measure.ranges import kept_trace
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.project import Project
from offcut.core.model.seam import Seam
from offcut.core.model.verbs.searching import take_found, take_one
from offcut.core.words import many


@dataclass
class _Search:
    """One search: the source it is for; with ``keep`` only the trace is measured."""

    source_id: int
    keep: bool
    job: Job | None = None
    later: Finding | None = None


class SeamSearch(QObject):
    """Looks for seams and hands them to the source they were asked for, whatever is in hand then.

    Every core works on one film at a time; other films wait their turn, the one in hand first.
    """

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session
        self._now: _Search | None = None
        self._waiting: list[_Search] = []
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(250)
        self._soon.timeout.connect(self._take_later)
        session.project_changed.connect(self.forget)

    @property
    def finding(self) -> Job | None:
        """The search under way, None when there is none."""
        return self._now.job if self._now is not None else None

    @property
    def waiting(self) -> int:
        """How many films wait to be searched."""
        return len(self._waiting)

    def forget(self) -> None:
        """Another project comes: stop, and drop what waits."""
        self._waiting.clear()
        if self._now is not None and self._now.job is not None:
            self._now.job.stop.set()
        self._now = None

    def stop(self) -> None:
        """Stop the search under way and those that wait; what was found so far stays."""
        self._waiting.clear()
        if self._now is not None and self._now.job is not None:
            self._now.job.stop.set()

    def find(self, source_id: int | None = None, *, keep: bool = False) -> None:
        """Find the seams of a source's range in the background; of the one in hand for None.

        With ``keep`` only the trace is measured; the seams stay as they were saved.
        """
        wanted = self._s.in_hand if source_id is None else source_id
        if not self._s.project.holds(wanted):
            return
        self._waiting = [w for w in self._waiting if w.source_id != wanted]
        self._waiting.append(_Search(wanted, keep))
        if self._now is not None and self._now.source_id == wanted and self._now.job is not None:
            self._now.job.stop.set()  # it begins anew, with what holds now
            self._now = None
        self._begin()

    def _begin(self) -> None:
        """Begin the next search, unless one is under way."""
        if self._now is not None or not self._waiting:
            return
        self._waiting.sort(key=lambda w: w.source_id != self._s.in_hand)
        search = self._waiting.pop(0)
        film = self._s.bench_of(search.source_id).film
        if film is None or not self._s.project.holds(search.source_id):
            self._begin()
            return
        source = self._s.project.source(search.source_id)
        start, end, limit = source.start, source.end, self._s.cache_limit
        crop = crop_of(source.framing, source.media)

        def work(job: Job) -> Finding:
            return find_seams(
                film,
                start,
                end,
                crop=crop,
                stop=job.stop,
                progress=job.tell,
                found=job.partial.emit,
                limit=limit,
            )

        self._now = search
        job = search.job = self._s.jobs.start("Finding seams", work)
        job.partial.connect(lambda found: self._take_soon(search, found))
        job.done.connect(lambda found: self._found(search, found))
        job.failed.connect(lambda words: self._failed(search, words))
        job.ended.connect(lambda: self._ended(search))

    def show_kept(self, source_id: int) -> None:
        """Show the trace that is kept of a film that is gone."""
        source = self._s.project.source(source_id)
        media, start, end = source.media, source.start, source.end
        crop = crop_of(source.framing, media)
        job = self._s.jobs.start(
            "Reading what was measured", lambda _job: kept_trace(media, start, end, crop)
        )
        job.done.connect(lambda trace: self._kept_read(source_id, trace, start))

    def _kept_read(self, source_id: int, trace: NDArray[np.float32], start: int) -> None:
        if self._s.project.holds(source_id) and self._s.bench_of(source_id).film is None:
            self._s.measured(source_id, trace, start)
            self._s.refresh()

    def _failed(self, search: _Search, words: str) -> None:
        if search.job is not None and not search.job.stop.is_set():
            self._s.failed.emit(words)

    def _ended(self, search: _Search) -> None:
        if self._now is search:
            self._now = None
        self._begin()

    def _take_soon(self, search: _Search, found: Finding) -> None:
        """Show what was found so far, four times a second at most."""
        if self._now is not search:
            return
        first = search.later is None and not self._soon.isActive()
        search.later = found
        if first:
            self._take_later()
        elif not self._soon.isActive():
            self._soon.start()

    def _take_later(self) -> None:
        search = self._now
        if search is not None and search.later is not None:
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

            self._s.take_in(taken)
        self._s.refresh()

    def _found(self, search: _Search, found: Finding) -> None:
        search.later = None
        self._take(search, found)
        if search.keep or self._now is not search or search.source_id != self._s.in_hand:
            return
        words = f"{len(self._s.shots)} shots found"
        if not found.complete:
            words = f"Stopped at {self._s.words_of(found.reached)}: {words} so far"
        if found.damaged:
            words += f"; {_pictures(found)} could not be read, hatched on the ribbon"
        self._s.said.emit(words)

    # looking for one

    def find_one(self, start: int, end: int) -> None:
        """Look for one seam in frames [start, end) of the film in hand, more readily than usual.

        It is kept.
        """
        film, source = self._s.film, self._s.source
        if film is None or source is None:
            return
        crop = crop_of(source.framing, source.media)

        def work(job: Job) -> Seam | None:
            low, high = max(0, start - AROUND), min(film.media.frames, end + AROUND)
            found = find_seams(film, low, high, crop=crop, stop=job.stop, progress=job.tell)
            return best_seam(found.signals, start, end) if found.complete else None

        job = self._s.jobs.start("Looking for one seam", work)
        job.done.connect(lambda seam: self._one_found(source.id, seam, start, end))
        job.failed.connect(self._s.failed)

    def _one_found(self, source_id: int, seam: Seam | None, start: int, end: int) -> None:
        if not self._s.project.holds(source_id):
            return
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
