"""Films and projects: opening, saving, and what to do when one is not where it was."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.core.errors import OffcutError
from offcut.core.lists.registry import read_list
from offcut.core.media.probe import OpenedFilm, open_source
from offcut.core.model.cuts import Cuts, misfit
from offcut.core.model.project import Project
from offcut.core.model.source import Media
from offcut.core.model.verbs.cuts import with_cuts_merged, with_cuts_replaced
from offcut.core.model.verbs.sources import add_source, name_project
from offcut.core.store.cuts_file import read_cuts, write_cuts
from offcut.core.store.missing_films import (
    FilmThere,
    Search,
    find_films,
    missing_films,
    moved,
    opened_with_film,
    project_with_films,
)
from offcut.core.store.project_file import SUFFIX, open_project, save_project, stamp_of
from offcut.core.store.project_lock import LockedError, ProjectLock
from offcut.core.store.recovery import LeftWork
from offcut.core.words import many

if TYPE_CHECKING:
    from offcut.app.session.session import Session

LISTS = (".edl", ".otio", ".csv", ".txt")
"""What is read as a cut list once a film is there."""

Opened = tuple[Project, FilmThere, dict[int, Path]]


class ProjectFiles(QObject):
    """Brings films and projects in, and saves.

    ``copied`` tells the sentence when a project is held by another window and a copy was opened;
    ``missing`` tells what lies where the film should be, None once the film is there;
    ``listed`` a cut list that was read.
    """

    copied = Signal(str)
    missing = Signal(object)
    listed = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session
        self._stamp: str | None = None
        self._hold: ProjectLock | None = None

    # opening

    def open_anything(self, path: str | Path) -> None:
        """Open a project or bring a film in, by what the file is called."""
        if str(path).endswith(SUFFIX):
            self.open_project(path)
        elif self._s.source is not None and Path(path).suffix.lower() in LISTS:
            self.read_list(path)
        else:
            self.open_film(path)

    def open_film(self, path: str | Path) -> None:
        """Start a new project with a film and begin finding at once."""
        job = self._s.jobs.start("Opening the film", lambda _job: open_source(path))
        job.done.connect(self._film_opened)
        job.failed.connect(self._s.failed)

    def _film_opened(self, film: OpenedFilm) -> None:
        project = add_source(Project(), film.media)
        project = name_project(project, Path(film.media.path).stem.replace("-", " "))
        if film.title:
            project = name_project(project, film.title)
        self._put_in(project, film, None, None)
        for note in film.notes:
            self._s.said.emit(note)
        self._s.search.find()

    def open_project(self, path: str | Path) -> None:
        """Open a project file and its film; a copy of it when another window holds it."""
        file = Path(path).absolute()

        def work(_job: Job) -> tuple[Opened, str, ProjectLock | None, str]:
            stamp = stamp_of(file)
            opened = opened_with_film(open_project(file), file)
            if self._hold is not None and self._hold.file == file:
                return opened, stamp, self._hold, ""
            try:
                return opened, stamp, ProjectLock(file), ""
            except LockedError as held:
                since = f", since {held.since.astimezone():%H:%M}" if held.since else ""
                return opened, stamp, None, f"{held}{since}"

        def put_in(got: tuple[Opened, str, ProjectLock | None, str]) -> None:
            opened, stamp, hold, held = got
            self._project_opened(opened, None if held else file, hold, stamp)
            if held:
                name = f"{opened[0].name} copy"
                self._s.history.replace(name_project(self._s.project, name))
                self._s.history.mark_unsaved()
                self._s.refresh()
                self.copied.emit(held)

        job = self._s.jobs.start("Opening the project", work)
        job.done.connect(put_in)
        job.failed.connect(self._s.failed)

    def bring_back(self, left: LeftWork) -> None:
        """Go on with work that was left; it counts as unsaved until it is saved."""
        file = left.file

        def work(_job: Job) -> tuple[Opened, ProjectLock | None]:
            hold = None
            if file is not None and file.parent.is_dir():
                try:
                    hold = ProjectLock(file)
                except LockedError:
                    return opened_with_film(left.project, file), None
            return opened_with_film(left.project, file), hold

        def put_in(got: tuple[Opened, ProjectLock | None]) -> None:
            opened, hold = got
            self._project_opened(opened, file if hold else None, hold, None)
            self._s.history.mark_unsaved()
            self._s.refresh()
            left.forget()

        job = self._s.jobs.start("Bringing work back", work)
        job.done.connect(put_in)
        job.failed.connect(self._s.failed)

    def _project_opened(
        self, opened: Opened, file: Path | None, hold: ProjectLock | None, stamp: str | None
    ) -> None:
        project, there, found = opened
        self._put_in(project, there.film, file, hold)
        self._stamp = stamp
        if found:
            self._s.history.mark_unsaved()
            self._s.refresh()
        if there.film is not None:
            name = file.name if file else project.name
            words = f"{len(self._s.shots)} shots in {name}"
            where = found.get(project.current)
            self._s.said.emit(f"{words}; its film was found in {where.parent}" if where else words)
            self._s.search.find(keep=project.source.searched)
        elif there.problem:
            self._s.failed.emit(there.problem)
            self.missing.emit(there)
            self._s.search.show_kept()

    def _put_in(
        self, project: Project, film: OpenedFilm | None, file: Path | None, hold: ProjectLock | None
    ) -> None:
        if self._hold is not None and self._hold is not hold:
            self._hold.release()
        self._hold = hold
        self._stamp = None
        self.missing.emit(None)
        self._s.put_in(project, film, file)

    def close(self) -> None:
        """Let others have the project."""
        if self._hold is not None:
            self._hold.release()
            self._hold = None

    # saving

    def save(self, path: str | Path | None = None) -> bool:
        """Save the project; False, with a sentence, when it could not be."""
        s = self._s
        file = Path(path) if path else s.file
        if file is None:
            return False
        if file.suffix != SUFFIX:
            file = file.with_name(file.name + SUFFIX)
        file = file.absolute()
        same = file == s.file
        hold = self._hold
        try:
            if not same or hold is None:
                hold = ProjectLock(file)
            save_project(s.project, file, over=self._stamp if same else None)
        except OffcutError as error:
            if hold is not None and hold is not self._hold:
                hold.release()
            hint = "; save it under another name with Ctrl+Shift+S" if same else ""
            s.failed.emit(f"{error}{hint}")
            return False
        if self._hold is not None and self._hold is not hold:
            self._hold.release()
        self._hold = hold
        s.file = file
        self._stamp = stamp_of(file)
        s.history.mark_saved()
        s.refresh()
        s.said.emit(f"Saved to {file.name}")
        return True

    # films that are not where they were

    def look_for_films(self, folder: str | Path) -> None:
        """Look for every missing film in a folder and below, by content."""
        wanted: dict[int, Media] = missing_films(self._s.project)
        if self._s.film is None and self._s.source is not None:
            wanted[self._s.project.current] = self._s.source.media

        def work(job: Job) -> tuple[Search, FilmThere]:
            search = find_films(wanted, [Path(folder)], stop=job.stop, progress=job.tell)
            place = self._s.project.current
            there = FilmThere(None)
            if place in search.found:
                there = FilmThere(open_source(search.found[place]))
            elif place in search.namesakes:
                there = FilmThere(None, "", open_source(search.namesakes[place]))
            return search, there

        job = self._s.jobs.start("Looking for films", work)
        job.done.connect(lambda got: self._looked(got[0], got[1], Path(folder)))
        job.failed.connect(self._s.failed)

    def _looked(self, search: Search, there: FilmThere, folder: Path) -> None:
        s = self._s
        if search.found:
            project = project_with_films(
                s.project,
                {p: moved(s.project.sources[p].media, f) for p, f in search.found.items()},
            )
            self._take_films(project, there.film or s.film)
            count = len(search.found)
            s.said.emit(f"{many(count, 'film')} found in {folder}")
        if there.other is not None and s.source is not None:
            self.missing.emit(there)
        elif not search.found:
            s.failed.emit(f"No missing film lies in {folder} ({search.looked_at} films looked at)")

    def use_other(self, film: OpenedFilm) -> None:
        """Take another film in place of the missing one; its seams are kept where they are."""
        s = self._s
        place = s.project.current
        self._take_films(project_with_films(s.project, {place: film.media}), film)
        s.said.emit(f"{Path(film.media.path).name} is the film now")

    def _take_films(self, project: Project, film: OpenedFilm | None) -> None:
        s = self._s
        s.history.replace(project)
        s.history.mark_unsaved()
        if film is not s.film:
            s.film = film
            s.film_changed.emit()
            self.missing.emit(None)
            if film is not None:
                s.search.find(keep=project.source.searched)
        s.refresh()

    # lists that come with a film

    def read_list(self, path: str | Path) -> None:
        """Read a cut list; ``listed`` tells it."""
        source = self._s.source
        if source is None:
            self._s.failed.emit("Open the film first, then the list that came with it")
            return
        media = source.media
        job = self._s.jobs.start(
            "Reading the list", lambda _job: read_list(path, media.rate, media.drop)
        )
        job.done.connect(self.listed)
        job.failed.connect(self._s.failed)

    # the cuts alone

    def write_cuts(self, path: str | Path) -> None:
        """Write the cuts alone for a colleague."""
        source = self._s.source
        if source is None:
            return
        job = self._s.jobs.start("Writing the cuts", lambda _job: write_cuts(source, path))
        job.done.connect(
            lambda file: self._s.said.emit(f"The cuts alone were written to {file.name}")
        )
        job.failed.connect(self._s.failed)

    def take_cuts(self, path: str | Path, *, merge: bool) -> None:
        """Take a colleague's cuts in, merged with ours or in place of them, as one edit."""
        job = self._s.jobs.start("Reading the cuts", lambda _job: read_cuts(path))
        job.done.connect(lambda cuts: self._cuts_read(cuts, Path(path), merge))
        job.failed.connect(self._s.failed)

    def _cuts_read(self, cuts: Cuts, file: Path, merge: bool) -> None:
        s = self._s
        if s.source is None:
            return
        why = misfit(cuts, s.source.media)
        if why:
            s.failed.emit(f"{file}: {why}; nothing was changed")
            return
        if not merge:
            if not s.edit(lambda p, s: with_cuts_replaced(p, s, cuts), f"Replace by {file.name}"):
                s.said.emit(f"{file.name} says what is here already")
            return
        merged = with_cuts_merged(s.project, cuts)
        if not s.edit(lambda _p: merged.project, f"Merge {file.name}"):
            s.said.emit(f"{file.name} brings nothing new")
            return
        words = f"{file.name} merged: {many(merged.taken, 'decision')} taken over"
        if merged.ours:
            where = ", ".join(s.words_of(f) for f in merged.ours[:3])
            more = ", ..." if len(merged.ours) > 3 else ""
            words += f"; ours stayed where both had decided: {where}{more}"
        s.said.emit(words)
