"""Study: whatever a person names, a project, a film or a list, made lengths of shots."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from offcut.core.errands.searching import brought_in, search, taken
from offcut.core.errors import OffcutError
from offcut.core.media.arrivals import arrived, looks_like_film
from offcut.core.model.project import Project
from offcut.core.model.source import Source
from offcut.core.rhythm.length_files import read_lengths
from offcut.core.rhythm.lengths import (
    ShotLengths,
    lengths_of_film,
    lengths_of_films,
    lengths_of_order,
    lengths_of_scene,
)
from offcut.core.store.project_file import SUFFIX, read_project
from offcut.core.timecode import Rate


@dataclass(frozen=True)
class Part:
    """What of a project is studied: one film (by its file's name), a scene or an order by name.

    ``every`` takes all films; ``aside`` counts what was set aside.
    """

    film: str = ""
    scene: str = ""
    order: str = ""
    every: bool = False
    aside: bool = False


@dataclass(frozen=True)
class Studied:
    """Lengths of shots with the project their pictures can be had from, None for a list."""

    lengths: ShotLengths
    project: Project | None = None


def studied(
    path: str | Path,
    part: Part | None = None,
    *,
    rate: Rate | None = None,
    likely: Rate | None = None,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> tuple[Studied, ...]:
    """Return the lengths of what lies at a path; of a reference set there may be several.

    ``rate`` and ``likely`` are those of a list, as in `read_lengths`. A film is searched for its
    seams, unless that was kept. Raises OffcutError with a sentence naming the file.
    """
    file = Path(path)
    asked = part or Part()
    if file.suffix.lower() == SUFFIX:
        saved = read_project(file)
        lengths = lengths_in(saved.project, asked, file, saved.in_hand)
        return (Studied(lengths, saved.project),)
    if is_film(file):
        return (_of_film(file, asked, stop, progress),)
    return tuple(Studied(lengths) for lengths in read_lengths(file, rate, likely))


def is_film(file: Path) -> bool:
    """Tell whether a path is taken for a film: a movie, a folder, a still of a run, or nothing."""
    whole = _whole(file)
    return file.is_dir() or not file.exists() or looks_like_film(whole) or whole != file


def _whole(file: Path) -> Path:
    """Return the run that a still belongs to; another file itself."""
    found = arrived([file]).paths
    return Path(found[0]) if found else file


def lengths_in(project: Project, part: Part, file: Path, in_hand: int = 0) -> ShotLengths:
    """Return the lengths of a part of a project. Raises OffcutError for what it has not."""
    if not project.sources:
        raise OffcutError(f"{file}: the project has no film")
    if sum(bool(w) for w in (part.film, part.scene, part.order, part.every)) > 1:
        raise OffcutError("choose one film, one scene, one running order, or all films")
    if part.scene:
        scene = next((s for s in project.scenes if s.name == part.scene), None)
        if scene is None:
            known = ", ".join(s.name for s in project.scenes) or "none"
            raise OffcutError(f"{file}: there is no scene “{part.scene}”; there are: {known}")
        return lengths_of_scene(project, scene.id, aside=part.aside)
    if part.order:
        order = next((o for o in project.orders if o.name == part.order), None)
        if order is None:
            known = ", ".join(o.name for o in project.orders) or "none"
            raise OffcutError(
                f"{file}: there is no running order “{part.order}”; there are: {known}"
            )
        return lengths_of_order(project, order)
    if part.every and len(project.sources) > 1:
        return lengths_of_films(project.sources, project.name, aside=part.aside)
    source = _film_of(project, part, file, in_hand)
    lengths = lengths_of_film(source, aside=part.aside)
    if not source.searched and len(lengths) < 2:
        return replace(lengths, note="its seams were not looked for yet, so it is one shot")
    return lengths


def _film_of(project: Project, part: Part, file: Path, in_hand: int) -> Source:
    if part.film:
        for source in project.sources:
            if Path(source.media.path).name == part.film:
                return source
        raise OffcutError(f"{file}: there is no film {part.film} in it")
    return next((s for s in project.sources if s.id == in_hand), project.sources[0])


def _of_film(
    file: Path,
    part: Part,
    stop: threading.Event | None,
    progress: Callable[[int, int], None] | None,
) -> Studied:
    if part.scene or part.order or part.film:
        raise OffcutError(f"{file}: a film has no films, scenes or running orders in it")
    project = searched_film(file, stop, progress)
    return Studied(lengths_of_film(project.sources[0]), project)


def searched_film(
    file: Path,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> Project:
    """Return a project of one film, searched for its seams unless that was kept.

    Raises OffcutError where there is none, or several.
    """
    came = arrived([file])
    if not came.paths:
        raise OffcutError(f"{file}: there is no film in it")
    if len(came.paths) > 1:
        raise OffcutError(f"{file}: holds {len(came.paths)} films; name one of them")
    project, film = brought_in(came.paths[0])
    searched = search(project.sources[0], film, stop=stop, progress=progress)
    if stop is not None and stop.is_set():
        raise OffcutError(f"{file}: stopped before all of it was looked at")
    return taken(project, searched)
