"""Searching: the one way from a film to the seams of its source, whoever asks for them.

Opened, brought in, framed where nobody said how, searched, and taken into a project.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from offcut.core.errands.bringing_in import (
    bring_in,
    framing_wanted,
    look_for_framing,
    stops_wanted,
    with_framing,
)
from offcut.core.errands.seams import Finding, find_seams
from offcut.core.errors import MediaError
from offcut.core.measure.small_pictures import banded, crop_of
from offcut.core.media.live_picture import FoundFraming
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.run import Run
from offcut.core.model.source import Source
from offcut.core.model.verbs.searching import take_found
from offcut.core.store.missing_films import film_there
from offcut.core.store.pictures_on_the_way import PicturesOnTheWay


@dataclass(frozen=True)
class Searched:
    """What a search came to.

    Attributes: ``source`` as it was searched, with the framing that was taken; ``film`` as its
    ticket has it; ``framing`` what was found around the picture, None where nobody looked.
    """

    source: Source
    film: OpenedFilm
    finding: Finding
    framing: FoundFraming | None = None


def brought_in(
    path: str | Path, project: Project | None = None, like: Run | None = None
) -> tuple[Project, OpenedFilm]:
    """Open a film and return a project that has it as its last source, and the film.

    ``like`` is how the holes of a run are treated. Raises MediaError.
    """
    film = open_source(path, like)
    return bring_in(project or Project(name=film.media.path), film), film


def opened_of(source: Source, film: OpenedFilm | None = None) -> OpenedFilm:
    """Return the film of a source as its ticket has it, opened where ``film`` is None.

    Raises MediaError where it is not there, or another one is.
    """
    if film is None:
        there = film_there(source.media)
        if there.film is None:
            raise MediaError(there.problem)
        film = there.film
    return as_set(film, source)


def search(
    source: Source,
    film: OpenedFilm | None = None,
    *,
    frame: bool = True,
    framed: Callable[[FoundFraming], None] | None = None,
    stop: threading.Event | None = None,
    keep_pictures: int = 0,
    **how: Any,
) -> Searched:
    """Search the range of a source for its seams.

    ``film`` is the opened film where it is open. With ``frame`` the live picture is looked for
    where nobody said which it is, and ``framed`` hears of it; what is sure is taken. With
    ``keep_pictures``, bytes of all films, small pictures are kept on the way. ``how`` is what
    `find_seams` takes besides. Raises MediaError.
    """
    film = opened_of(source, film)
    framing = None
    if frame and framing_wanted(source):
        found = look_for_framing(film, source, stop)
        if stop is None or not stop.is_set():
            framing = found
            source = _alone(source, found)
            if framed is not None:
                framed(found)
    crop = crop_of(source)
    # where a few lines do, pictures are quickly there when they are asked for
    wanted = keep_pictures and banded(film, crop) is None
    finding = find_seams(
        film, source.start, source.end, crop=crop, stops=stops_wanted(source), stop=stop,
        pictures=PicturesOnTheWay(source.media, keep_pictures) if wanted else None, **how,
    )  # fmt: skip
    return Searched(source, film, finding, framing)


def _alone(source: Source, found: FoundFraming) -> Source:
    project = Project(sources=(source,), next_id=source.id + 1)
    return with_framing(project, source.id, found).source(source.id)


def taken(project: Project, searched: Searched) -> Project:
    """Return a project with what a search of one of its films found: its framing and its seams."""
    source_id, finding = searched.source.id, searched.finding
    if searched.framing is not None:
        project = with_framing(project, source_id, searched.framing)
    return take_found(
        project, source_id, finding.seams, finding.start, finding.reached, done=finding.complete
    )
