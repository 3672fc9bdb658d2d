"""Searching: finding the seams of the film off the interface thread, and one at a time."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QTimer

from offcut.app.session.jobs import Job
from offcut.core.find import Finding, find_seams
from offcut.core.judge.judge import AROUND, best_seam
from offcut.core.measure.kept_signals import kept_trace
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.seam import Seam
from offcut.core.model.verbs.searching import take_found, take_one
from offcut.core.words import many

if TYPE_CHECKING:
    from offcut.app.session.session import Session


class Search(QObject):
    """Looks for seams and hands them to the session.

    Attributes: ``finding`` the job under way, None when there is none; ``trace`` change per
    frame from ``trace_start`` on, as far as measured; ``damaged`` stretches [start, end) whose
    pictures could not be read, empty ones where pictures are missing before a frame.
    """

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session
        self.finding: Job | None = None
        self.trace: NDArray[np.float32] = np.zeros(0, np.float32)
        self.trace_start = 0
        self.damaged: tuple[tuple[int, int], ...] = ()
        self._later: Finding | None = None
        self._later_keep = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(250)
        self._soon.timeout.connect(self._take_later)

    def forget(self) -> None:
        """Another film comes: stop, and forget what was measured."""
        self.stop()
        self._later = None
        self.trace = np.zeros(0, np.float32)
        self.damaged = ()

    def stop(self) -> None:
        """Stop the search; what it found so far stays."""
        if self.finding is not None:
            self.finding.stop.set()

    def find(self, *, keep: bool = False) -> None:
        """Find the seams of the range in the background.

        With ``keep`` only the trace is measured; the seams stay as they were saved.
        """
        film, source = self._s.film, self._s.source
        if film is None or source is None:
            return
        self.stop()
        start, end = source.start, source.end
        limit = self._s.cache_limit
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

        job = self._s.jobs.start("Finding seams", work)
        self.finding = job
        job.partial.connect(lambda found: self._take_soon(job, found, keep))
        job.done.connect(lambda found: self._found(job, found, keep))
        job.failed.connect(lambda words: self._failed(job, words))
        job.ended.connect(lambda: self._ended(job))

    def show_kept(self) -> None:
        """Show the trace that is kept of a film that is gone."""
        source = self._s.source
        if source is None or self._s.film is not None:
            return
        media, start, end = source.media, source.start, source.end
        crop = crop_of(source.framing, media)

        def work(_job: Job) -> NDArray[np.float32]:
            return kept_trace(media, start, end, crop)

        def take(trace: NDArray[np.float32]) -> None:
            now = self._s.source
            if self._s.film is None and now is not None and now.media is media:
                self.trace, self.trace_start = trace, start
                self._s.refresh()

        job = self._s.jobs.start("Reading what was measured", work)
        job.done.connect(take)

    def _failed(self, job: Job, words: str) -> None:
        if not job.stop.is_set():
            self._s.failed.emit(words)

    def _ended(self, job: Job) -> None:
        if self.finding is job:
            self.finding = None

    def _take_soon(self, job: Job, found: Finding, keep: bool) -> None:
        """Show what was found so far, four times a second at most."""
        if self.finding is not job:
            return
        first = self._later is None and not self._soon.isActive()
        self._later = found
        self._later_keep = keep
        if first:
            self._take_later()
        elif not self._soon.isActive():
            self._soon.start()

    def _take_later(self) -> None:
        found, self._later = self._later, None
        if found is not None and self.finding is not None:
            self._take(self.finding, found, self._later_keep)
            self._soon.start()

    def _take(self, job: Job, found: Finding, keep: bool) -> None:
        if self.finding is not job:
            return
        self.trace, self.trace_start = found.signals.trace, found.signals.start
        film = self._s.film
        gaps = film.holes if film is not None else ()
        self.damaged = tuple(sorted([*found.damaged, *((f, f) for f in gaps)]))
        if not keep:
            self._s.history.replace(
                take_found(
                    self._s.project, found.seams, found.start, found.reached, done=found.complete
                )
            )
        self._s.refresh()

    def _found(self, job: Job, found: Finding, keep: bool) -> None:
        self._later = None
        self._take(job, found, keep)
        if keep or self.finding is not job:
            return
        words = f"{len(self._s.shots)} shots found"
        if not found.complete:
            words = f"Stopped at {self._s.words_of(found.reached)}: {words} so far"
        if found.damaged:
            words += f"; {_pictures(found)} could not be read, hatched on the ribbon"
        self._s.said.emit(words)

    # looking for one

    def find_one(self, start: int, end: int) -> None:
        """Look for one seam in frames [start, end), more readily than usual, and keep it."""
        film, source = self._s.film, self._s.source
        if film is None or source is None:
            return
        crop = crop_of(source.framing, source.media)

        def work(job: Job) -> Seam | None:
            low, high = max(0, start - AROUND), min(film.media.frames, end + AROUND)
            found = find_seams(film, low, high, crop=crop, stop=job.stop, progress=job.tell)
            return best_seam(found.signals, start, end) if found.complete else None

        job = self._s.jobs.start("Looking for one seam", work)
        job.done.connect(lambda seam: self._one_found(seam, start, end))
        job.failed.connect(self._s.failed)

    def _one_found(self, seam: Seam | None, start: int, end: int) -> None:
        if seam is None:
            where = f"{self._s.words_of(start)} and {self._s.words_of(end)}"
            self._s.said.emit(f"Nothing changes between {where}: place a seam by hand with +")
            return
        words = f"Find a {seam.kind.value} at {self._s.words_of(seam.frame)}"
        self._s.edit(lambda p, s: take_one(p, s, seam), words, seam.frame)
        self._s.go_to(seam.frame)
        here = self._s.seam_here()
        self._s.select(here.id if here else None)


def _pictures(found: Finding) -> str:
    count = sum(end - start for start, end in found.damaged)
    return many(count, "damaged picture")
