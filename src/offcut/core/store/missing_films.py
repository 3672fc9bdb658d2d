"""Films that are not where the project says: told, looked for by content, and replaced."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from offcut.core.errors import MediaError
from offcut.core.media.arrivals import MOVIES
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.media.same_film import fingerprint
from offcut.core.media.stills import fingerprint_of_run
from offcut.core.model.project import Project
from offcut.core.model.source import SMALLEST, WHOLE, Media, Source
from offcut.core.timecode import length_words

MOST_FILES = 50_000
DEEPEST = 8


@dataclass(frozen=True)
class FilmThere:
    """What lies where a project says its film is.

    Attributes: ``film`` the very film, opened; ``problem`` a sentence when it is not there;
    ``other`` a film of the same name that is not the one, opened.
    """

    film: OpenedFilm | None
    problem: str = ""
    other: OpenedFilm | None = None


def film_there(media: Media) -> FilmThere:
    """Look at the place where a source's film should lie."""
    path = Path(media.path)
    try:
        film = open_source(path, media.run)
    except MediaError as error:
        return FilmThere(None, str(error))
    if film.media.fingerprint == media.fingerprint and film.media.frames == media.frames:
        return FilmThere(film)
    return FilmThere(None, f"{path}: {difference(media, film.media)}", film)


def difference(wanted: Media, there: Media) -> str:
    """Return in words how another film differs from the one a project was made from."""
    if wanted.frames != there.frames:
        by = there.frames - wanted.frames
        more = "more" if by > 0 else "fewer"
        why = (
            "the same file, counted otherwise"
            if wanted.fingerprint == there.fingerprint
            else "another version, or cut short"
            if wanted.rate == there.rate
            else "another rate"
        )
        return (
            f"has {there.frames} frames, {abs(by)} {more} than the film this project was made "
            f"from ({length_words(abs(by), wanted.rate)}): {why}"
        )
    if wanted.rate != there.rate:
        return "runs at another rate than the film this project was made from"
    if (wanted.width, wanted.height) != (there.width, there.height):
        return (
            f"is {there.width}x{there.height}, not {wanted.width}x{wanted.height}, "
            "with as many frames: a copy at another size"
        )
    return "has as many frames, but is not the very file this project was made from"


@dataclass(frozen=True)
class FilmSearch:
    """What a search in folders came to: ``found`` films by their source's id, and
    ``namesakes`` of the others.

    A namesake has the right name and another content.
    """

    found: Mapping[int, Path] = field(default_factory=dict)
    namesakes: Mapping[int, Path] = field(default_factory=dict)
    looked_at: int = 0


def missing_films(project: Project) -> dict[int, Media]:
    """Return the sources whose file is not where the project says, by their id."""
    return {s.id: s.media for s in project.sources if not first_file(s.media).is_file()}


def first_file(media: Media) -> Path:
    """Return the file of a film; of a run its first picture."""
    path = Path(media.path)
    return path if media.run is None else path.with_name(media.run.name_of(media.run.first))


def find_films(
    wanted: Mapping[int, Media],
    folders: Iterable[Path],
    *,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> FilmSearch:
    """Look in folders and below for films by fingerprint, those of the right name first.

    Hidden folders are left out, as is what lies more than eight folders deep or past 50,000
    files. Never raises: what cannot be read is passed over.
    """
    left = dict(wanted)
    names = {first_file(m).name for m in wanted.values()}
    files = list(_files_below(folders, stop))
    likely = [f for f in files if f.name in names]
    rest = [f for f in files if f.name not in names and f.suffix.lower() in MOVIES]
    found: dict[int, Path] = {}
    namesakes: dict[int, Path] = {}
    looked = 0
    for file in (*likely, *rest):
        if not left or (stop is not None and stop.is_set()):
            break
        looked += 1
        if progress is not None:
            progress(looked, len(likely) + len(rest))
        plain = ""
        for source_id, media in list(left.items()):
            named = first_file(media).name == file.name
            if media.run is not None and not named:
                continue
            try:
                if media.run is None:
                    plain = plain or fingerprint(file)
                    seen, place = plain, file
                else:
                    seen = fingerprint_of_run(file.parent, media.run)
                    place = file.with_name(media.run.pattern)
            except OSError:
                continue
            if media.fingerprint == seen:
                found[source_id] = place
                del left[source_id]
            elif named:
                namesakes.setdefault(source_id, place)
    return FilmSearch(found, {p: f for p, f in namesakes.items() if p in left}, looked)


def _files_below(folders: Iterable[Path], stop: threading.Event | None) -> Iterator[Path]:
    many = 0
    for top in folders:
        depth = len(top.parts)
        for here, inner, names in os.walk(top):
            inner[:] = sorted(n for n in inner if not n.startswith("."))
            if len(Path(here).parts) - depth >= DEEPEST:
                inner.clear()
            for name in sorted(names):
                many += 1
                if many > MOST_FILES or (stop is not None and stop.is_set()):
                    return
                yield Path(here, name)


def project_with_films(project: Project, films: Mapping[int, Media]) -> Project:
    """Return a project whose sources lie elsewhere; what is decided about them stays.

    Where the other film is shorter, ranges and markers end where it ends; seams beyond its end
    stay in the project and count again with a longer one.
    """
    return replace(
        project,
        sources=tuple(_with_film(s, films[s.id]) if s.id in films else s for s in project.sources),
    )


def _with_film(source: Source, found: Media) -> Source:
    media = _as_ticket(source, found)
    end = min(source.end, media.frames)
    if source.end == source.media.frames:
        end = media.frames
    start = source.start if source.start < end else 0
    markers = tuple(
        replace(
            m,
            start=min(m.start, media.frames - 1),
            end=max(min(m.end, media.frames), min(m.start, media.frames - 1) + 1),
        )
        for m in source.markers
    )
    framing = source.framing if min(source.framing.size(media)) >= SMALLEST else WHOLE
    return replace(source, media=media, start=start, end=end, markers=markers, framing=framing)


def _as_ticket(source: Source, media: Media) -> Media:
    """Return the facts of a film with what was set by hand of the one before it."""
    ticket = source.ticket
    if ticket.own_rate is not None:
        media = replace(media, rate=source.media.rate, drop=source.media.drop)
    if ticket.own_start is not None:
        media = replace(media, start=source.media.start, drop=source.media.drop)
    if media.run is not None and source.media.run is not None:
        media = replace(media, run=replace(media.run, rate_told=source.media.run.rate_told))
    return media


def moved(media: Media, path: Path) -> Media:
    """Return the facts of the very same film lying elsewhere."""
    return replace(media, path=str(path.resolve()))


def with_films_found(project: Project, near: Path | None) -> tuple[Project, dict[int, Path]]:
    """Return a project whose missing films were looked for beside it, all at once.

    ``near`` is the project's file. The second value tells which were found, and where.
    """
    gone = missing_films(project)
    if not gone or near is None:
        return project, {}
    found = dict(find_films(gone, [near.absolute().parent]).found)
    films = {i: moved(project.source(i).media, file) for i, file in found.items()}
    return project_with_films(project, films), found


def with_shape_of(project: Project, source_id: int, film: OpenedFilm) -> Project:
    """Return a project that was made before turned films were shown upright with their shape."""
    media, now = project.source(source_id).media, film.media
    if now.rotation == media.rotation:
        return project
    shape = replace(
        media,
        width=now.width,
        height=now.height,
        pixel_shape=now.pixel_shape * project.source(source_id).ticket.squeeze,
        rotation=now.rotation,
    )
    return project_with_films(project, {source_id: shape})
