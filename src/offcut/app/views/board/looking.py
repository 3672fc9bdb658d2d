"""Looking through the shots of the project in the background, and what is suggested from it."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.search_work import stand_still
from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.views.board.board_shots import BoardShots
from offcut.core.board.looking import (
    Compared,
    FramePictures,
    Suggestion,
    UsedTwice,
    find_places,
    look_through,
    still_open,
)
from offcut.core.board.rows import rows_of
from offcut.core.facts.looks import ShotLook
from offcut.core.model.project import ShotRef

MOST = 20_000
"""So many shots are held against each other at most."""


class Looking(QObject):
    """Looks at shots once the Board is open; ``changed`` tells that suggestions are others.

    Attributes: ``suggestions`` those not taken nor waved away; ``twice`` shots used twice.
    """

    changed = Signal()

    def __init__(self, session: Session, shots: BoardShots) -> None:
        super().__init__()
        self._s = session
        self._shots = shots
        self._job: Job | None = None
        self._places_of: object = None
        self._found: tuple[Suggestion, ...] = ()
        self._twice: tuple[UsedTwice, ...] = ()
        self.suggestions: tuple[Suggestion, ...] = ()
        self.twice: tuple[UsedTwice, ...] = ()
        self._compared = Compared()
        self.done = False
        self._closed = False
        self._soon = soon(self, 400, self._look)
        session.changed.connect(self.refresh)
        session.project_changed.connect(self._forget)

    def _forget(self) -> None:
        self._found, self._twice, self._places_of = (), (), None
        self._compared = Compared()
        if self._job is not None:
            self._job.stop.set()
        self.refresh()

    def close(self) -> None:
        """ShotLook no more."""
        self._closed = True
        self._soon.stop()

    def refresh(self) -> None:
        """Tell what is still worth suggesting, and look at what is new."""
        if not self._shots.alive():
            return
        project = self._s.project
        rows = rows_of(project)
        open_ones = still_open(self._found, project, rows)
        there = {r.ref for r in rows} if self._twice else set()
        twice = tuple(t for t in self._twice if t.first in there and t.second in there)
        if (open_ones, twice) != (self.suggestions, self.twice):
            self.suggestions, self.twice = open_ones, twice
            self.changed.emit()
        if not self._closed and self._job is None and not self._soon.isActive():
            self._soon.start()

    def _look(self) -> None:
        """ShotLook at shots not looked at yet; then at which look like one place."""
        if self._closed or self._job is not None or not self._shots.alive():
            return
        if not all(s.searched for s in self._s.project.sources):
            return  # their shots are still to be found
        new = self._shots.unlooked()
        rows = rows_of(self._s.project)
        if len(rows) > MOST:  # of very many, those of the film in hand
            rows = rows_of(self._s.project, self._s.in_hand)
            new = [r for r in new if r.source is not None and r.source.id == self._s.in_hand]
        spans = tuple((r.ref, r.shot.start, r.shot.end) for r in rows if r.shot is not None)
        if spans == self._places_of or len(rows) < 2:
            self.done = True
            return
        self.done = False
        session, films, compared = self._s, self._s.films, self._compared
        known = {ref: look for ref, (_span, look) in self._shots.looks.items()}

        def work(job: Job) -> tuple[tuple[Suggestion, ...], tuple[UsedTwice, ...]]:
            # what a person looks at comes first
            pictures = FramePictures(films, lambda: stand_still(session.pictures_lack, job.stop))
            try:
                spans = {r.ref: (r.shot.start, r.shot.end) for r in new if r.shot and r.ref}
                batch: list[tuple[ShotRef, tuple[int, int], ShotLook]] = []
                for ref, look in look_through(new, pictures, job.tell, job.stop):
                    known[ref] = look
                    batch.append((ref, spans[ref], look))
                    if len(batch) == 100:
                        job.partial.emit(batch)
                        batch = []
                job.partial.emit(batch)
                return find_places(rows, known, pictures, job.tell, job.stop, compared)
            finally:
                pictures.close()

        def found(got: tuple[tuple[Suggestion, ...], tuple[UsedTwice, ...]]) -> None:
            if not job.stop.is_set():
                self._found, self._twice = got
                self._places_of = spans

        def ended() -> None:
            self._job = None
            stopped = job.stop.is_set()
            self.done = not stopped
            if not stopped:
                self.refresh()
            self.changed.emit()

        job = self._job = self._s.work(
            "Looking at shots", work, found, partial=self._shots.take_looks, ended=ended
        )
