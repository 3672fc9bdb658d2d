"""The open project: its history, its film, the playhead; the one place edits go through."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable
from itertools import takewhile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QTimer, Signal

from offcut.app.jobs import Job, Jobs
from offcut.core.detect.find import Finding
from offcut.core.detect.judge import AROUND, best_seam
from offcut.core.errors import OffcutError
from offcut.core.media.probe import OpenedFilm, open_source
from offcut.core.model.history import History
from offcut.core.model.mending import suggested_limit, take_one
from offcut.core.model.project import Project, Seam, Source
from offcut.core.model.shots import Shot, counted_seams, doubt_order, shot_at, shots_of
from offcut.core.model.verbs import (
    name_project,
    project_with_media,
    seam_by_id,
    take_found,
)
from offcut.core.store.project_file import SUFFIX, open_project, save_project, stamp_of
from offcut.core.store.recovery import LeftWork
from offcut.core.store.signal_cache import find_seams
from offcut.core.timecode import base_of, frame_from_typed, timecode_from_frame


class Session(QObject):
    """What the window shows.

    Attributes: ``history`` the project and its undo; ``film`` the opened source, None while
    there is none; ``file`` where the project is saved; ``playhead`` a frame of the source;
    ``selected`` ids of the selected seams, the one parked on first; ``counted_ids`` of those that
    count; ``mark_in`` and ``mark_out``
    the ends of the marked range, None where not set; ``trace`` change per frame, as far as
    measured; ``dragging`` tells (frame, start, end) of a seam while it is dragged, None at the end;
    ``sliver_limit`` frames under which a shot is a sliver, 0 for the film's own.
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
        self.trace: NDArray[np.float32] = np.zeros(0, np.float32)
        self.trace_start = 0
        self.finding: Job | None = None
        self._stamp: str | None = None
        self._shots: tuple[Shot, ...] = ()
        self._doubts: tuple[Seam, ...] = ()
        self._open_doubts: tuple[Seam, ...] = ()
        self.counted_ids: frozenset[int] = frozenset()
        self._later: Finding | None = None
        self._later_keep = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(250)
        self._soon.timeout.connect(self._take_later)

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
        self._refresh()
        self.said.emit(words)
        return True

    def undo(self) -> None:
        """Take the last edit back, and go where it was."""
        step = self.history.undo()
        if step is None:
            self.said.emit("Nothing to undo")
            return
        self._refresh()
        self.go_to(step.frame)
        self.said.emit(f"Undone: {step.words}")

    def redo(self) -> None:
        """Do the edit last taken back again."""
        step = self.history.redo()
        if step is None:
            self.said.emit("Nothing to redo")
            return
        self._refresh()
        self.go_to(step.frame)
        self.said.emit(f"Redone: {step.words}")

    def _refresh(self) -> None:
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
        chosen = set(self.selected)
        return tuple(s for s in self.source.seams if s.id in chosen) if self.source else ()

    # films and projects

    def open_anything(self, path: str | Path) -> None:
        """Open a project or bring a film in, by what the file is called."""
        if str(path).endswith(SUFFIX):
            self.open_project(path)
        else:
            self.open_film(path)

    def open_film(self, path: str | Path) -> None:
        """Start a new project with a film and begin finding at once."""
        job = self.jobs.start("Opening the film", lambda _job: open_source(path))
        job.done.connect(self._film_opened)
        job.failed.connect(self.failed)

    def _film_opened(self, film: OpenedFilm) -> None:
        project = project_with_media(Project(), film.media)
        project = name_project(project, Path(film.media.path).stem.replace("-", " "))
        if film.title:
            project = name_project(project, film.title)
        self._put_in(project, film, None)
        for note in film.notes:
            self.said.emit(note)
        self.find()

    def open_project(self, path: str | Path) -> None:
        """Open a project file and its film."""

        def work(_job: Job) -> tuple[Project, OpenedFilm | None, str]:
            return _with_film(open_project(path))

        job = self.jobs.start("Opening the project", work)
        job.done.connect(lambda got: self._project_opened(got[0], got[1], got[2], Path(path)))
        job.failed.connect(self.failed)

    def bring_back(self, left: LeftWork) -> None:
        """Go on with work that was left; it counts as unsaved until it is saved."""
        job = self.jobs.start("Bringing work back", lambda _job: _with_film(left.project))

        def opened(got: tuple[Project, OpenedFilm | None, str]) -> None:
            self._project_opened(*got, left.file)
            self.history.mark_unsaved()
            self.changed.emit()
            left.forget()

        job.done.connect(opened)
        job.failed.connect(self.failed)

    def _project_opened(
        self, project: Project, film: OpenedFilm | None, problem: str, path: Path | None
    ) -> None:
        self._put_in(project, film, path)
        if problem:
            self.failed.emit(problem)
        elif film is not None:
            self.said.emit(f"{len(self.shots)} shots in {path.name if path else project.name}")
            self.find(keep=project.source.searched)

    def _put_in(self, project: Project, film: OpenedFilm | None, file: Path | None) -> None:
        self.stop_finding()
        self.history = History(project)
        self.history.mark_saved()
        self.film, self.file = film, file
        self._stamp = stamp_of(file) if file else None
        self.playhead, self.selected = 0, ()
        self.mark_in = self.mark_out = None
        self._later = None
        self.trace = np.zeros(0, np.float32)
        self.film_changed.emit()
        self._refresh()
        self.moved.emit(0)

    def save(self, path: str | Path | None = None) -> bool:
        """Save the project; False, with a sentence, when it could not be."""
        file = Path(path) if path else self.file
        if file is None:
            return False
        if file.suffix != SUFFIX:
            file = file.with_name(file.name + SUFFIX)
        same = self.file is not None and file.absolute() == self.file
        try:
            save_project(self.project, file, over=self._stamp if same else None)
        except OffcutError as error:
            hint = "; save it under another name with Ctrl+Shift+S" if same else ""
            self.failed.emit(f"{error}{hint}")
            return False
        self.file = file.absolute()
        self._stamp = stamp_of(self.file)
        self.history.mark_saved()
        self.changed.emit()
        self.said.emit(f"Saved to {file.name}")
        return True

    # finding

    def stop_finding(self) -> None:
        """Stop the search; what it found so far stays."""
        if self.finding is not None:
            self.finding.stop.set()

    def find(self, *, keep: bool = False) -> None:
        """Find the seams of the range in the background.

        With ``keep`` only the trace is measured; the seams stay as they were saved.
        """
        film, source = self.film, self.source
        if film is None or source is None:
            return
        self.stop_finding()
        start, end = source.start, source.end

        def work(job: Job) -> Finding:
            return find_seams(
                film, start, end, stop=job.stop, progress=job.tell, found=job.partial.emit
            )

        job = self.jobs.start("Finding seams", work)
        self.finding = job
        job.partial.connect(lambda found: self._take_soon(job, found, keep))
        job.done.connect(lambda found: self._found(job, found, keep))
        job.failed.connect(lambda words: None if job.stop.is_set() else self.failed.emit(words))
        job.ended.connect(lambda: self._find_ended(job))

    def _find_ended(self, job: Job) -> None:
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
        if not keep:
            self.history.replace(
                take_found(
                    self.project, found.seams, found.start, found.reached, done=found.complete
                )
            )
        self._refresh()

    def _found(self, job: Job, found: Finding, keep: bool) -> None:
        self._later = None
        self._take(job, found, keep)
        if keep or self.finding is not job:
            return
        held = int(found.signals.held.sum())
        words = f"{len(self.shots)} shots found"
        if not found.complete:
            words = f"Stopped at {self.words_of(found.reached)}: {words} so far"
        if held:
            words += f"; {held} damaged pictures could not be read"
        self.said.emit(words)

    # looking for one

    def find_one(self, start: int, end: int) -> None:
        """Look for one seam in frames [start, end), more readily than usual, and keep it."""
        film = self.film
        if film is None:
            return

        def work(job: Job) -> Seam | None:
            low, high = max(0, start - AROUND), min(film.media.frames, end + AROUND)
            found = find_seams(film, low, high, stop=job.stop, progress=job.tell)
            return best_seam(found.signals, start, end) if found.complete else None

        job = self.jobs.start("Looking for one seam", work)
        job.done.connect(lambda seam: self._one_found(seam, start, end))
        job.failed.connect(self.failed)

    def _one_found(self, seam: Seam | None, start: int, end: int) -> None:
        if seam is None:
            where = f"{self.words_of(start)} and {self.words_of(end)}"
            self.said.emit(f"Nothing changes between {where}: place a seam by hand with +")
            return
        words = f"Find a {seam.kind.value} at {self.words_of(seam.frame)}"
        self.edit(lambda p: take_one(p, seam), words, seam.frame)
        self.go_to(seam.frame)
        here = self.seam_here()
        self.select(here.id if here else None)


def _with_film(project: Project) -> tuple[Project, OpenedFilm | None, str]:
    """Return a project with its film, or with a sentence why it has none."""
    if not project.sources:
        return project, None, ""
    media = project.source.media
    try:
        film = open_source(media.path)
    except OffcutError as error:
        return project, None, str(error)
    if film.media.frames != media.frames:
        words = f"has {film.media.frames} frames, the project was made from one with {media.frames}"
        return project, None, f"{film.media.path}: {words}"
    return project, film, ""
