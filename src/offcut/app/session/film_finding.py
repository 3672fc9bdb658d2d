"""Films that are not where they were: looked for by their content, or another one taken."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject

from offcut.app.session.jobs import Job
from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.store.missing_films import (
    FilmSearch,
    FilmThere,
    find_films,
    missing_films,
    moved,
    project_with_films,
)
from offcut.core.words import many


class FilmFinding(QObject):
    """Finds the films of a project that moved."""

    def __init__(self, session: Session, search: SeamSearch) -> None:
        super().__init__(session)
        self._s = session
        self._search = search

    def look_for_films(self, folder: str | Path) -> None:
        """Look for every missing film in a folder and below, by content."""
        s = self._s
        project, in_hand = s.project, s.in_hand
        gone = s.source.media if s.source is not None and s.film is None else None

        def work(job: Job) -> tuple[FilmSearch, FilmThere]:
            wanted = missing_films(project)
            if gone is not None:
                wanted[in_hand] = gone
            search = find_films(wanted, [Path(folder)], stop=job.stop, progress=job.tell)
            there = FilmThere(None)
            if in_hand in search.found:
                there = FilmThere(open_source(search.found[in_hand]))
            elif in_hand in search.namesakes:
                there = FilmThere(None, "", open_source(search.namesakes[in_hand]))
            return search, there

        def looked(got: tuple[FilmSearch, FilmThere]) -> None:
            search, there = got
            now = {x.id: x.media.fingerprint for x in s.project.sources}
            same = {x.id for x in project.sources if now.get(x.id) == x.media.fingerprint}
            found = {i: f for i, f in search.found.items() if i in same}
            self._looked(replace(search, found=found), there, Path(folder), in_hand)

        s.work("Looking for films", work, looked)

    def _looked(self, search: FilmSearch, there: FilmThere, folder: Path, in_hand: int) -> None:
        s, found = self._s, search.found
        if found:
            films = {i: moved(s.project.source(i).media, f) for i, f in found.items()}
            s.take_in(lambda p: project_with_films(p, films))
            for source_id in found:
                s.bench_of(source_id).missing = None
            if there.film is not None:
                self._film_found(in_hand, there)
            s.mark_unsaved()
            s.said.emit(f"{many(len(found), 'film')} found in {folder}")
        if there.other is not None and s.in_hand == in_hand:
            s.film_is_there(in_hand, there)
        elif not found:
            s.failed.emit(f"No missing film lies in {folder} ({search.looked_at} films looked at)")

    def use_other(self, film: OpenedFilm) -> None:
        """Take another film in place of the missing one; its seams are kept where they are."""
        s, source_id = self._s, self._s.in_hand
        squeeze = s.project.source(source_id).ticket.squeeze
        media = replace(film.media, pixel_shape=film.media.pixel_shape * squeeze)
        s.take_in(lambda p: project_with_films(p, {source_id: media}))
        self._film_found(source_id, FilmThere(film))
        s.mark_unsaved()
        s.said.emit(f"{Path(film.media.path).name} is the film now")

    def _film_found(self, source_id: int, there: FilmThere) -> None:
        s = self._s
        s.bench_of(source_id).forget_measured()
        s.film_is_there(source_id, there)
        self._search.find(source_id, keep=s.project.source(source_id).searched)
