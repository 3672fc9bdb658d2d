"""Held against: whatever a person names, a film, a project or a list, made two sides of a tally."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from offcut.core.errands.looking_along import measure_missing
from offcut.core.errands.study import is_film, searched_film
from offcut.core.errors import OffcutError
from offcut.core.lists.incoming import ReadList
from offcut.core.measure.prints import kept_fine_prints
from offcut.core.measure.registry import FINE, PRINTS
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source
from offcut.core.model.verbs.sources import copy_source
from offcut.core.rhythm.length_files import list_at_its_rate
from offcut.core.store.project_file import SUFFIX, read_project
from offcut.core.tally.sides import Side, side_of
from offcut.core.tally.taking import Taking
from offcut.core.tally.versions.by_list import lists_compared, places_compared
from offcut.core.tally.versions.carrying import Carried, carried_over
from offcut.core.tally.versions.changes import Comparison, Span
from offcut.core.tally.versions.closer import Closer, FineOf
from offcut.core.tally.versions.compare import compared
from offcut.core.timecode import Rate, timecode_from_frame

Progress = Callable[[int, int], None]


@dataclass(frozen=True)
class OneSide:
    """One of two things held against each other: a film in its project, or a list.

    ``note`` is a sentence about how it was read, empty for none.
    """

    path: Path
    project: Project | None = None
    source: Source | None = None
    listed: ReadList | None = None
    note: str = ""

    @property
    def rate(self) -> Rate:
        """Frames per second."""
        if self.source is not None:
            return self.source.media.rate
        assert self.listed is not None
        return self.listed.rate

    def words(self, frame: int) -> str:
        """Return the timecode of a frame as it is told of here: of the film, or of the list."""
        if self.source is not None:
            media = self.source.media
            return timecode_from_frame(media.start + frame, media.rate, media.drop)
        assert self.listed is not None
        first = min((e.record_in for e in self.listed.events), default=0)
        return timecode_from_frame(first + frame, self.listed.rate, self.listed.drop)


def held(
    path: str | Path,
    *,
    film: str = "",
    likely: Rate | None = None,
    stop: threading.Event | None = None,
    progress: Progress | None = None,
) -> OneSide:
    """Return what lies at a path, made ready; a film is searched, unless that was kept.

    ``film`` names one of a project, ``likely`` is the rate of a film a list may belong to. Raises
    OffcutError with a sentence naming the file.
    """
    file = Path(path)
    if file.suffix.lower() == SUFFIX:
        saved = read_project(file)
        return OneSide(file, saved.project, _film_of(saved.project, file, film, saved.in_hand))
    if is_film(file):
        project = searched_film(file, stop, progress)
        return OneSide(file, project, project.sources[0])
    listed, note = list_at_its_rate(file, None, likely)
    return OneSide(file, listed=listed, note=f"{file}: {note}" if note else "")


def _film_of(project: Project, file: Path, film: str, in_hand: int) -> Source:
    if not project.sources:
        raise OffcutError(f"{file}: the project has no film")
    named = [s for s in project.sources if Path(s.media.path).name == film]
    if film and not named:
        raise OffcutError(f"{file}: there is no film {film} in it")
    if named:
        return named[0]
    return next((s for s in project.sources if s.id == in_hand), project.sources[0])


def versions_compared(
    old: OneSide,
    new: OneSide,
    *,
    stop: threading.Event | None = None,
    progress: Progress | None = None,
) -> Comparison:
    """Return what became of each shot. Raises OffcutError where the two have nothing in common."""
    if old.source is not None and new.source is not None:
        comparison = films_compared(old.source, new.source, stop=stop, progress=progress)
    elif old.listed is not None and new.listed is not None:
        comparison = lists_compared(old.listed, new.listed)
    else:
        comparison = places_compared(*_laid_together(old, new))
    if not comparison.tied:
        raise OffcutError(f"{new.path}: has no shot in common with {old.path}; they are two films")
    return comparison


def films_compared(
    old: Source,
    new: Source,
    opened: Sequence[OpenedFilm | None] = (None, None),
    *,
    stop: threading.Event | None = None,
    progress: Progress | None = None,
    first: Callable[[Comparison], None] | None = None,
) -> Comparison:
    """Return what became of each shot of a film; what was not measured yet of either is.

    Where one is framed otherwise, what seems to have changed is looked at closer; ``first`` hears
    what is known before that, where it takes time. Raises OffcutError where a film is gone and its
    signals are not kept.
    """
    sides: list[Side] = []
    for source, film in zip((old, new), opened, strict=True):
        side, missing = side_of(source)
        if missing:
            trouble = measure_missing(source, film, (PRINTS,), stop=stop, progress=progress)
            side, missing = side_of(source)
            if missing and not (stop is not None and stop.is_set()):
                raise OffcutError(trouble or f"{source.media.path}: could not be measured")
        sides.append(side)

    def finely(olds: Sequence[Span], news: Sequence[Span]) -> Closer | None:
        spans = (olds, news)
        if first is not None and any(
            _fine(source)(a, b) is None
            for source, some in zip((old, new), spans, strict=True)
            for a, b in some
        ):
            first(compared(sides[0], sides[1]))
        for source, film, some in zip((old, new), opened, spans, strict=True):
            measure_missing(source, film, (FINE,), ranges=some, stop=stop, progress=progress)
        stopped = stop is not None and stop.is_set()
        return None if stopped else Closer(_fine(old), _fine(new))

    return compared(sides[0], sides[1], finely)


def _fine(source: Source) -> FineOf:
    """Return what reads a film's fine prints."""

    def fine(start: int, end: int) -> NDArray[np.uint8] | None:
        prints, known = kept_fine_prints(source.media, start, end, crop_of(source))
        return prints if known.all() else None

    return fine


def carried(old: OneSide, new: OneSide, comparison: Comparison) -> tuple[Carried, int]:
    """Return a project that holds both films, what was decided about the old one carried over to
    the new one; and the new one's id there. Raises OffcutError where either is a list.
    """
    if old.project is None or old.source is None or new.project is None or new.source is None:
        which = old if old.source is None else new
        raise OffcutError(f"{which.path}: is a list; decisions are carried over between films")
    project, new_id = old.project, new.source.id
    if new.path != old.path:
        new_id = project.next_id
        project = copy_source(project, new.project, new.source.id)
    return carried_over(project, old.source.id, new_id, comparison), new_id


def _laid_together(old: OneSide, new: OneSide) -> tuple[list[Span], list[Span]]:
    """Return the shots of a film and of a list laid on it, the old ones first."""
    source = old.source or new.source
    listed = old.listed or new.listed
    assert source is not None
    assert listed is not None
    taking = Taking(listed)
    offset = taking.laid(source).offset
    frames = [j.frame - offset for j in taking.joins.joins]
    inside = [f for f in frames if source.start < f < source.end]
    if not inside:
        raise OffcutError(f"{listed.path}: no join of it falls on {source.media.path}")
    bounds = [source.start, *inside, source.end]
    by_list = [(a, b) for a, b in pairwise(bounds) if b > a]
    of_film = [(s.start, s.end) for s in shots_of(source)]
    return (of_film, by_list) if old.source is not None else (by_list, of_film)
