"""The open project: its history, its film, the playhead; the one place edits go through."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable
from itertools import takewhile
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Jobs
from offcut.app.session.project_files import ProjectFiles
from offcut.app.session.seam_search import Search
from offcut.core.errors import OffcutError
from offcut.core.measure.kept_signals import LIMIT as SIGNALS_LIMIT
from offcut.core.media.probe import OpenedFilm
from offcut.core.model.history import History
from offcut.core.model.project import Project
from offcut.core.model.seam import Seam
from offcut.core.model.shots import Shot, counted_seams, doubt_order, shot_at, shots_of
from offcut.core.model.slivers import suggested_limit
from offcut.core.model.source import Source
from offcut.core.model.verbs.replacing import seam_by_id
from offcut.core.timecode import base_of, frame_from_typed, timecode_from_frame


class Session(QObject):
    """What the window shows.

    Attributes: ``history`` the project and its undo; ``film`` the opened source, None while
    there is none; ``file`` where the project is saved; ``playhead`` a frame of the source;
    ``selected`` ids of the selected seams, the one parked on first; ``counted_ids`` of those that
    count; ``mark_in`` and ``mark_out`` the ends of the marked range, None where not set;
    ``search`` looks for seams, ``files`` opens and saves; ``cache_limit`` the most bytes of
    signals kept on disk; ``dragging`` tells (frame, start, end) of a seam while it is dragged,
    None at the end; ``sliver_limit`` frames under which a shot is a sliver, 0 for the film's own.
    """

    changed = Signal()
    film_changed = Signal()
    moved = Signal(int)
    selection_changed = Signal()
    marked_changed = Signal()
    dragging = Signal(object)
    said = Signal(str)
    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History(Project())
        self.jobs = Jobs(self)
        self.film: OpenedFilm | None = None
        self.file: Path | None = None
        self.playhead = 0
        self.selected: tuple[int, ...] = ()
        self.mark_in: int | None = None
        self.mark_out: int | None = None
        self.sliver_limit = 0
        self.cache_limit = SIGNALS_LIMIT
        self.search = Search(self)
        self.files = ProjectFiles(self)
        self._shots: tuple[Shot, ...] = ()
        self._doubts: tuple[Seam, ...] = ()
        self._open_doubts: tuple[Seam, ...] = ()
        self.counted_ids: frozenset[int] = frozenset()

    # what there is

    @property
    def project(self) -> Project:
        """The present value of the project."""
        return self.history.project

    @property
    def source(self) -> Source | None:
        """The source on the bench, None in an empty project."""
        return self.project.source if self.project.sources else None

    @property
    def shots(self) -> tuple[Shot, ...]:
        """The shots of the present value."""
        return self._shots

    @property
    def doubts(self) -> tuple[Seam, ...]:
        """The seams in order of doubt."""
        return self._doubts

    def words_of(self, frame: int) -> str:
        """Return the timecode of a frame of the source."""
        if self.source is None:
            return "00:00:00:00"
        media = self.source.media
        return timecode_from_frame(media.start + frame, media.rate, media.drop)

    @property
    def open_doubts(self) -> tuple[Seam, ...]:
        """The seams still to judge, in order of doubt; judged ones always come last."""
        return self._open_doubts

    @property
    def second(self) -> int:
        """Frames in a second of timecode."""
        return base_of(self.source.media.rate) if self.source else 25

    @property
    def sliver_frames(self) -> int:
        """The limit under which a shot is a sliver, in frames: what was set, or suggested."""
        if self.sliver_limit or self.source is None:
            return self.sliver_limit or self.second
        return suggested_limit(self.source, self.second)

    @property
    def marked(self) -> tuple[int, int] | None:
        """The marked range [in, out), None when nothing is marked; an end not set is the film's."""
        source = self.source
        if source is None or (self.mark_in is None and self.mark_out is None):
            return None
        first = source.start if self.mark_in is None else self.mark_in
        last = source.end if self.mark_out is None else self.mark_out
        return (first, last) if first < last else None

    def mark(self, first: int | None, last: int | None) -> None:
        """Set the ends of the marked range; an end that the other one passes is taken away."""
        if first is not None and last is not None and first >= last:
            first, last = (first, None) if first != self.mark_in else (None, last)
        self.mark_in, self.mark_out = first, last
        self.marked_changed.emit()

    def shot_here(self) -> Shot | None:
        """Return the shot under the playhead."""
        return shot_at(self._shots, self.playhead)

    def seam_here(self) -> Seam | None:
        """Return the seam the playhead is parked on: the selected one, or one at its frame."""
        if self.source is None:
            return None
        seams = self.source.seams
        first = bisect_left(seams, self.playhead, key=lambda s: s.frame)
        at = list(takewhile(lambda s: s.frame == self.playhead, seams[first : first + 8]))
        chosen = [s for s in at if s.id in self.selected]
        return next(iter(chosen or at), None)

    def next_stops(self) -> list[Seam]:
        """Return the seams a person is likely to go to next: before, after, the next doubtful."""
        counted = counted_seams(self.source) if self.source else ()
        at = bisect_left(counted, self.playhead, key=lambda s: s.frame)
        here = at < len(counted) and counted[at].frame == self.playhead
        stops = [*counted[at + here : at + here + 2], *counted[max(0, at - 1) : at]]
        open_ones = self.open_doubts
        parked = self.selected[0] if self.selected else None
        place = next((i for i, s in enumerate(open_ones) if s.id == parked), -1)
        return [*open_ones[place + 1 : place + 3], *stops]

    # edits

    def edit(
        self, verb: Callable[[Project], Project], words: str, frame: int | None = None
    ) -> bool:
        """Apply a verb as one undoable edit; False when it changed nothing."""
        try:
            after = verb(self.project)
        except OffcutError as error:
            self.failed.emit(str(error))
            return False
        if not self.history.edit(after, words, self.playhead if frame is None else frame):
            return False
        self.refresh()
        self.said.emit(words)
        return True

    def undo(self) -> None:
        """Take the last edit back, and go where it was."""
        step = self.history.undo()
        if step is None:
            self.said.emit("Nothing to undo")
            return
        self.refresh()
        self.go_to(step.frame)
        self.said.emit(f"Undone: {step.words}")

    def redo(self) -> None:
        """Do the edit last taken back again."""
        step = self.history.redo()
        if step is None:
            self.said.emit("Nothing to redo")
            return
        self.refresh()
        self.go_to(step.frame)
        self.said.emit(f"Redone: {step.words}")

    def refresh(self) -> None:
        """Work out anew what follows from the project, and tell."""
        source = self.source
        self._shots = shots_of(source) if source else ()
        self._doubts = doubt_order(source) if source else ()
        self._open_doubts = tuple(s for s in self._doubts if not s.judged)
        counted = counted_seams(source) if source else ()
        self.counted_ids = frozenset(s.id for s in counted)
        self.changed.emit()

    # the playhead

    def go_to(self, frame: int) -> None:
        """Move the playhead to a frame, kept inside the film."""
        if self.source is None:
            return
        to = max(0, min(self.source.media.frames - 1, frame))
        if to != self.playhead:
            self.playhead = to
            self.moved.emit(to)

    def frame_typed(self, text: str) -> int | None:
        """Return the frame a person typed; None, with a sentence, when it makes no sense."""
        if self.source is None:
            return None
        media = self.source.media
        try:
            frame = frame_from_typed(
                text, media.rate, drop=media.drop, start=media.start, here=self.playhead
            )
        except OffcutError as error:
            self.failed.emit(str(error))
            return None
        if not 0 <= frame < media.frames:
            self.failed.emit(f"{text} lies outside the film")
            return None
        return frame

    def select(self, seam_id: int | None) -> None:
        """Select a seam and park on it."""
        self.selected = () if seam_id is None else (seam_id,)
        if seam_id is not None and self.source is not None:
            self.go_to(seam_by_id(self.source, seam_id).frame)
        self.selection_changed.emit()

    def select_many(self, seam_ids: Iterable[int]) -> None:
        """Select several seams at once; the playhead stays where it is."""
        self.selected = tuple(dict.fromkeys(seam_ids))
        self.selection_changed.emit()

    @property
    def selected_seams(self) -> tuple[Seam, ...]:
        """The selected seams that there are, in the film's order."""
        if self.source is None or not self.selected:
            return ()
        chosen = set(self.selected)
        return tuple(s for s in self.source.seams if s.id in chosen)

    # films and projects

    def put_in(self, project: Project, film: OpenedFilm | None, file: Path | None) -> None:
        """Put another project on the bench."""
        self.search.forget()
        self.history = History(project)
        self.history.mark_saved()
        self.film, self.file = film, file
        self.playhead, self.selected = 0, ()
        self.mark_in = self.mark_out = None
        self.film_changed.emit()
        self.refresh()
        self.moved.emit(0)
