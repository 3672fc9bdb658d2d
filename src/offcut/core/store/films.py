"""The film of a project: is it there, is it the one, and where has it gone."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from offcut.core.errors import MediaError
from offcut.core.media.probe import OpenedFilm, fingerprint, open_source
from offcut.core.model.project import SMALLEST, WHOLE, Media, Project
from offcut.core.timecode import length_words

MOST_FILES = 50_000
DEEPEST = 8
_KNOWN = (
    "3gp asf avi dv flv gxf h264 hevc m2ts m2v m4v mj2 mjpeg mkv mov mp4 mpeg mpg mts mxf nut ogv "
    "ts vob webm wmv y4m"
)
SUFFIXES = frozenset(f".{name}" for name in _KNOWN.split())


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
        film = open_source(path)
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
class Search:
    """What a search in folders came to: ``found`` films by source, ``namesakes`` of the others.

    A namesake has the right name and another content.
    """

    found: Mapping[int, Path] = field(default_factory=dict)
    namesakes: Mapping[int, Path] = field(default_factory=dict)
    looked_at: int = 0


def missing_films(project: Project) -> dict[int, Media]:
    """Return the sources whose file is not where the project says, by their place."""
    return {i: s.media for i, s in enumerate(project.sources) if not os.path.isfile(s.media.path)}


def find_films(
    wanted: Mapping[int, Media],
    folders: Iterable[Path],
    *,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> Search:
    """Look in folders and below for films by fingerprint, those of the right name first.

    Hidden folders are left out, as is what lies more than eight folders deep or past 50,000
    files. Never raises: what cannot be read is passed over.
    """
    left = dict(wanted)
    names = {Path(m.path).name for m in wanted.values()}
    files = list(_files_below(folders, stop))
    likely = [f for f in files if f.name in names]
    rest = [f for f in files if f.name not in names and f.suffix.lower() in SUFFIXES]
    found: dict[int, Path] = {}
    namesakes: dict[int, Path] = {}
    looked = 0
    for file in (*likely, *rest):
        if not left or (stop is not None and stop.is_set()):
            break
        looked += 1
        if progress is not None:
            progress(looked, len(likely) + len(rest))
        try:
            seen = fingerprint(file)
        except OSError:
            continue
        for place, media in list(left.items()):
            if media.fingerprint == seen:
                found[place] = file
                del left[place]
            elif Path(media.path).name == file.name:
                namesakes.setdefault(place, file)
    return Search(found, {p: f for p, f in namesakes.items() if p in left}, looked)


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
    sources = list(project.sources)
    for place, media in films.items():
        source = sources[place]
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
        sources[place] = replace(
            source, media=media, start=start, end=end, markers=markers, framing=framing
        )
    return replace(project, sources=tuple(sources))


def moved(media: Media, path: Path) -> Media:
    """Return the facts of the very same film lying elsewhere."""
    return replace(media, path=str(path.resolve()))


def opened_with_film(
    project: Project, near: Path | None
) -> tuple[Project, FilmThere, dict[int, Path]]:
    """Return a project with the film on its bench, looked for beside the project if need be.

    All missing films are looked for at once; the third value tells which were found, and where.
    """
    if not project.sources:
        return project, FilmThere(None), {}
    found: dict[int, Path] = {}
    gone = missing_films(project)
    if gone and near is not None:
        found = dict(find_films(gone, [near.absolute().parent]).found)
        project = project_with_films(
            project, {p: moved(project.sources[p].media, f) for p, f in found.items()}
        )
    there = film_there(project.source.media)
    return _upright(project, there.film), there, found


def _upright(project: Project, film: OpenedFilm | None) -> Project:
    """Return a project that was made before turned films were shown upright with their shape."""
    media = project.source.media
    if film is None or film.media.rotation == media.rotation:
        return project
    now = film.media
    shape = replace(
        media,
        width=now.width,
        height=now.height,
        pixel_shape=now.pixel_shape,
        rotation=now.rotation,
    )
    return project_with_films(project, {project.current: shape})
