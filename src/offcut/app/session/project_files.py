"""Films and projects: opening, saving, and what to do when one is not where it was."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.lists_and_cuts import ListsAndCuts
from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.core.errands.bringing_in import bring_in, same_film
from offcut.core.errors import MediaError, OffcutError
from offcut.core.lists.registry import reading_endings
from offcut.core.media.arrivals import arrived
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.source import Media
from offcut.core.model.verbs.sources import name_project, remove_source
from offcut.core.model.verbs.ticket import for_each
from offcut.core.store.library import keep_up, keep_up_file
from offcut.core.store.missing_films import (
    FilmThere,
    film_there,
    with_films_found,
    with_shape_of,
)
from offcut.core.store.project_file import SUFFIX, read_project, save_project, stamp_of
from offcut.core.store.project_lock import LockedError, ProjectLock
from offcut.core.store.recovery import LeftWork
from offcut.core.words import many

Then = Callable[[bool], object]


@dataclass(frozen=True)
class _Opened:
    """A project that was read, with what lies where its film in hand should be."""

    project: Project
    in_hand: int
    there: FilmThere
    found: dict[int, Path]
    waiting: tuple[int, ...] = ()


def _opened(
    project: Project, in_hand: int, near: Path | None, waiting: tuple[int, ...] = ()
) -> _Opened:
    """Look for the films of a project, and open the one in hand."""
    project, found = with_films_found(project, near)
    if not project.sources:
        return _Opened(project, 0, FilmThere(None), found)
    source = project.source(in_hand) if project.holds(in_hand) else project.sources[0]
    there = film_there(source.media)
    if there.film is not None:
        project = with_shape_of(project, source.id, there.film)
    return _Opened(project, source.id, there, found, waiting)


@dataclass(frozen=True)
class _Came:
    """Films that were opened, or sentences on why not; and in words what was left out."""

    got: list[tuple[OpenedFilm | None, str]]
    left_words: str


def film_name(media: Media) -> str:
    """Return what a film is called: its file's name without the ending, a run's without numbers."""
    if media.run is None:
        return Path(media.path).stem
    return media.run.head.rstrip("._- ") or Path(media.path).parent.name


class ProjectFiles(QObject):
    """Brings films and projects in, and saves.

    ``leaving`` tells, when a project came and what is open has edits since it was asked for, what
    is to be done once those may be left, and what where they may not; ``copied`` the sentence when
    a project is held by another window and a copy was opened;
    ``missing`` tells what lies where the film in hand should be, None once it is there;
    ``opened`` the path of what was opened or saved. ``lists`` reads cut lists.
    ``search_at_once`` tells whether films are searched as soon as they came,
    ``keep_library`` whether projects that are saved and opened are known in the library.
    """

    leaving = Signal(object, object)
    copied = Signal(str)
    missing = Signal(object)
    opened = Signal(str)

    def __init__(self, session: Session, search: SeamSearch) -> None:
        super().__init__(session)
        self._s = session
        self._search = search
        self.lists = ListsAndCuts(session)
        self._stamp: str | None = None
        self._lock: ProjectLock | None = None
        self._saving: Job | None = None
        self._opening: Job | None = None
        self._locking = threading.Lock()
        self._lock_to_come: ProjectLock | None = None
        self.search_at_once = self.keep_library = True
        session.film_wanted.connect(self._open_wanted)
        session.film_changed.connect(self._tell_missing)

    # opening

    def open_anything(self, paths: Iterable[str | Path]) -> None:
        """Open a project, read a list or bring films in, by what the files are called."""
        films: list[str | Path] = []
        for path in paths:
            if str(path).endswith(SUFFIX):
                self.open_project(path)
                return
            if self._s.source is not None and Path(path).suffix.lower() in reading_endings():
                self.lists.read_list(path)
            else:
                films.append(path)
        if films:
            self.open_films(films)

    def open_films(
        self, paths: Iterable[str | Path], *, stay: bool = False, given: bool = False
    ) -> None:
        """Bring films into the project, folders looked through, and search them as they came.

        With ``stay`` the film in hand stays in hand. ``given`` are films that no person brought in
        (the demo's own): that is nothing to undo.
        """
        wanted = [Path(p) for p in paths]

        def work(job: Job) -> _Came:
            came = arrived(wanted, job.stop)
            got: list[tuple[OpenedFilm | None, str]] = [(None, p) for p in came.problems]
            for done, path in enumerate(came.paths):
                if job.stop.is_set():
                    break
                try:
                    got.append((open_source(path), ""))
                except MediaError as error:
                    got.append((None, str(error)))
                job.tell(done + 1, len(came.paths))
            if not came.paths and not came.problems:
                got.append((None, f"{wanted[0]}: there is no film in it"))
            return _Came(got, came.left_words)

        alone = len(wanted) == 1 and wanted[0].suffix != ""  # asking a slow disk would be waiting
        words = "Opening the film" if alone else "Looking for films"
        self._s.work(words, work, lambda came: self._films_opened(came, stay, given), quick=alone)

    def _films_opened(self, came: _Came, stay: bool, given: bool) -> None:
        s, here = self._s, self._s.in_hand
        for film, problem in came.got:
            if film is None:
                s.lost.emit(problem)
        films = [film for film, _ in came.got if film is not None]
        fresh: dict[str, OpenedFilm] = {}
        for film in films:
            known = same_film(s.project, film.media)
            if known is None:
                fresh.setdefault(film.media.fingerprint, film)
                continue
            s.film_is_there(known.id, FilmThere(film))
            s.take_in_hand(known.id)
            s.said.emit(f"{Path(film.media.path).name} is in the project already")
        brought = self._bring_in(list(fresh.values()), given)
        if came.left_words:
            s.said.emit(came.left_words)
        several = len(brought) > 1 or any(f.media.run is not None for f in fresh.values())
        if stay:
            s.take_in_hand(here)
        elif several:
            s.choose(brought)
            s.view_wanted.emit("intake")
        if brought and self.search_at_once:
            if len(brought) == 1 and not stay:
                self._search.find(brought[0])
            else:
                self._search.find_all(brought)

    def _bring_in(self, films: list[OpenedFilm], given: bool) -> list[int]:
        """Bring films in, as one edit unless they are ``given``; return their ids.

        The first one gives a project its name.
        """
        s = self._s
        if not films:
            return []
        ids: list[int] = []
        rest = films
        if not s.project.sources and s.file is None and s.history.undoable is None:
            first, *rest = films
            project = bring_in(Project(), first)
            title = first.title or film_name(first.media).replace("-", " ")
            # others that were asked for with it belong to it too
            self._put_in(name_project(project, title), None, None, 0, None, begun=True)
            ids.append(s.in_hand)
        if rest:
            names = many(len(rest), "film") if len(rest) > 1 else Path(rest[0].media.path).name
            before = {x.id for x in s.project.sources}

            def all_in(project: Project) -> Project:
                for film in rest:
                    project = bring_in(project, film)
                return project

            words = f"Bring in {names}"
            if not (s.take_in(all_in) if given else s.edit_project(all_in, words)):
                return ids
            ids += [x.id for x in s.project.sources if x.id not in before]
        for source_id, film in zip(ids, films, strict=True):
            s.film_is_there(source_id, FilmThere(film))
            for note in film.notes:
                s.said.emit(note)
            self.opened.emit(film.media.path)
        s.take_in_hand(ids[0] if len(ids) > 1 else ids[-1])
        s.refresh()
        return ids

    def take_film_out(self, source_id: int) -> None:
        """Take a film out of the project, as one edit; its file is not touched."""
        name = Path(self._s.project.source(source_id).media.path).name
        self._s.edit_project(lambda p: remove_source(p, source_id), f"Take {name} out")

    def take_chosen_out(self) -> None:
        """Take the chosen films out of the project, as one edit."""
        ids = [x.id for x in self._s.chosen_sources]
        if len(ids) == 1:
            self.take_film_out(ids[0])
        elif ids:
            self._search.take_off(ids)
            words = f"Take {many(len(ids), 'film')} out"
            self._s.edit_project(lambda p: for_each(p, ids, remove_source), words)

    def new_project(self) -> None:
        """Begin with an empty project."""
        self._let_opening_go()
        self._put_in(Project(), None, None, 0, None)

    def open_project(self, path: str | Path) -> None:
        """Open a project file and its film; a copy of it when another window holds it.

        Of several the one that was asked for last is opened.
        """
        file = Path(path).absolute()
        keep = self.keep_library

        def work(job: Job) -> tuple[_Opened, str, ProjectLock | None, str]:
            stamp = stamp_of(file)
            saved = read_project(file)
            opened = _opened(saved.project, saved.in_hand, file, saved.waiting)
            if keep and not job.stop.is_set():
                keep_up(saved.project, file)
            return opened, stamp, *self._locked(file, job)

        def put_in(got: tuple[_Opened, str, ProjectLock | None, str]) -> None:
            opened, stamp, lock, held = got
            self._project_opened(opened, None if held else file, lock, stamp)
            if held:
                name = f"{opened.project.name} copy"
                self._s.take_in(lambda p: name_project(p, name))
                self._s.mark_unsaved()
                self.copied.emit(held)

        self._open("Opening the project", work, put_in)

    def bring_back(self, left: LeftWork) -> None:
        """Go on with work that was left; it counts as unsaved until it is saved."""
        file = left.file

        def work(job: Job) -> tuple[_Opened, ProjectLock | None]:
            opened = _opened(left.project, left.in_hand, file)
            there = file is not None and file.parent.is_dir()
            return opened, self._locked(file, job)[0] if there and file is not None else None

        def put_in(got: tuple[_Opened, ProjectLock | None]) -> None:
            opened, lock = got
            self._project_opened(opened, file if lock else None, lock, None)
            self._s.mark_unsaved()
            left.forget()

        self._open("Bringing work back", work, put_in)

    def _open(
        self, words: str, work: Callable[[Job], Any], put_in: Callable[[Any], object]
    ) -> None:
        """Read a project and put it in the place of the one that is open.

        Edits made since it was asked for are left only where a person says so.
        """
        s, left = self._s, self._s.project
        self._let_opening_go()

        def came(got: Any) -> None:
            if job is not self._opening:
                return  # another one was asked for since
            self._opening = None
            if job.stop.is_set():
                self._let_lock_go()
                s.said.emit("Stopped: the project that was open stays open")
            elif s.history.saved or s.project is left:
                go_on(got)
            else:
                self.leaving.emit(lambda: go_on(got), self._let_lock_go)

        def go_on(got: Any) -> None:
            put_in(got)
            self._let_lock_go()

        def failed(words: str) -> None:
            if job is self._opening:
                self._opening = None
                self._let_lock_go()
                s.lost.emit(words)

        job = s.work(words, work, came, whatever=True, failed=failed, quick=True)
        self._opening = job

    def _let_opening_go(self) -> None:
        """Give up what is being opened: something else was asked for."""
        if self._opening is not None:
            self._opening.stop.set()
            self._opening = None

    def _locked(self, file: Path, job: Job) -> tuple[ProjectLock | None, str]:
        """Return the lock of a project, or in words why it is held. Called on a job's thread."""
        with self._locking:
            if job.stop.is_set():
                return None, ""
            for own in (self._lock, self._lock_to_come):
                if own is not None and own.file == file:
                    return own, ""
            try:
                lock = ProjectLock(file)
            except LockedError as held:
                since = f", since {held.since.astimezone():%H:%M}" if held.since else ""
                return None, f"{held}{since}"
            if self._lock_to_come is not None:
                self._lock_to_come.release()
            self._lock_to_come = lock
            return lock, ""

    def _let_lock_go(self) -> None:
        """Let go a lock that was taken for a project that did not come."""
        with self._locking:
            if self._lock_to_come not in (None, self._lock):
                assert self._lock_to_come is not None
                self._lock_to_come.release()
            self._lock_to_come = None

    def _project_opened(
        self, opened: _Opened, file: Path | None, lock: ProjectLock | None, stamp: str | None
    ) -> None:
        s, project, there = self._s, opened.project, opened.there
        self._put_in(project, file, lock, opened.in_hand, stamp)
        if opened.found:
            s.mark_unsaved()
        if not project.sources:
            return
        s.film_is_there(s.in_hand, there)
        self.opened.emit(str(file) if file else project.source(s.in_hand).media.path)
        if there.film is None:
            s.failed.emit(there.problem)
            self._search.show_kept(s.in_hand)
            return
        words = f"{len(s.shots)} shots in {file.name if file else project.name}"
        where = opened.found.get(s.in_hand)
        s.said.emit(f"{words}; its film was found in {where.parent}" if where else words)
        self._search.find(s.in_hand, keep=project.source(s.in_hand).searched)
        rest = [i for i in opened.waiting if i != s.in_hand and s.project.holds(i)]
        self._search.find_all(rest)

    def _put_in(
        self,
        project: Project,
        file: Path | None,
        lock: ProjectLock | None,
        in_hand: int,
        stamp: str | None,
        *,
        begun: bool = False,
    ) -> None:
        with self._locking:
            if self._lock is not None and self._lock is not lock:
                self._lock.release()
            self._lock, self._stamp = lock, stamp
        self._s.put_in(project, file, in_hand, begun=begun)

    def know_again(self) -> None:
        """Take the project into the library as it is saved: more is known of its shots."""
        file = self._s.file
        if self.keep_library and file is not None:
            self._s.work(
                "Taking the project into the library",
                lambda _job: keep_up_file(file), whatever=True, quick=True,
            )  # fmt: skip

    def close(self) -> None:
        """Let others have the project; what is still to be searched goes on next time."""
        s, waiting = self._s, self._search.unfinished_ids
        if s.file is not None and s.history.saved and waiting and self._lock is not None:
            with contextlib.suppress(OffcutError):
                save_project(
                    s.project, s.file, over=self._stamp, in_hand=s.in_hand, waiting=waiting
                )
        self._let_opening_go()
        self._let_lock_go()
        if self._lock is not None:
            self._lock.release()
            self._lock = None

    # a film that is looked at

    def _open_wanted(self, source_id: int) -> None:
        """Open a film of the project that is looked at and not open."""
        s = self._s
        media = s.project.source(source_id).media
        known = s.bench_of(source_id).missing is not None
        s.film_opening(source_id)
        s.work(
            "Opening the film", lambda _job: film_there(media),
            lambda there: self._wanted_opened(source_id, there, known), of=[source_id], quick=True,
        )  # fmt: skip

    def _wanted_opened(self, source_id: int, there: FilmThere, known: bool) -> None:
        s = self._s
        if there.film is not None:
            film = there.film
            s.take_in(lambda p: with_shape_of(p, source_id, film))
        s.film_is_there(source_id, there)
        s.refresh()
        source = s.project.source(source_id)
        if there.film is None:
            if not known:
                s.failed.emit(there.problem)
            self._search.show_kept(source_id)
        elif not source.searched or not len(s.bench_of(source_id).trace):
            self._search.find(source_id, keep=source.searched)

    def _tell_missing(self) -> None:
        self.missing.emit(self._s.bench.missing if self._s.source is not None else None)

    # saving

    def save(self, path: str | Path | None = None, then: Then | None = None) -> None:
        """Save the project in the background; ``then`` hears whether it is saved.

        A second saving waits for the first.
        """
        s = self._s
        file = Path(path) if path else s.file
        if file is None:
            return
        if self._saving is not None:
            self._saving.ended.connect(lambda: self.save(path, then))
            return
        if file.suffix != SUFFIX:
            file = file.with_name(file.name + SUFFIX)
        file = file.absolute()
        same = file == s.file
        lock = self._lock if same else None
        over = self._stamp if same else None
        project, step, in_hand = s.project, s.history.undoable, s.in_hand
        waiting = self._search.unfinished_ids
        history, keep = s.history, self.keep_library

        def work(_job: Job) -> tuple[ProjectLock, str]:
            held = lock or ProjectLock(file)
            try:
                save_project(project, file, over=over, in_hand=in_hand, waiting=waiting)
                if keep:
                    keep_up(project, file)
                return held, stamp_of(file)
            except BaseException:
                if held is not lock:
                    held.release()
                raise

        def saved(got: tuple[ProjectLock, str]) -> None:
            if s.history is not history:
                if got[0] is not lock:
                    got[0].release()
                return  # another project was opened meanwhile
            if self._lock is not None and self._lock is not got[0]:
                self._lock.release()
            self._lock, self._stamp = got
            s.mark_saved(step, file)
            s.said.emit(f"Saved to {file.name}")
            self.opened.emit(str(file))

        def failed(words: str) -> None:
            hint = "; save it under another name with Ctrl+Shift+S" if same else ""
            s.lost.emit(f"{words}{hint}")

        def ended() -> None:
            self._saving = None
            if then is not None:
                then(s.history is history and s.history.saved)

        self._saving = s.work(
            "Saving", work, saved, whatever=True, failed=failed, ended=ended, quick=True
        )
