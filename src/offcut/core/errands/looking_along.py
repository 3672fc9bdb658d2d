"""Looking along a film for its light, movement and loudness: what is kept, and what is missing."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence

from offcut.core.errors import MediaError
from offcut.core.measure.loudness import kept_loudness, measure_loudness
from offcut.core.measure.measurer import Measurer
from offcut.core.measure.ranges import measure_range, missing_ranges
from offcut.core.measure.registry import measurers as all_measurers
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.model.source import Source
from offcut.core.rhythm.lanes import FilmSignals, signals_of
from offcut.core.store.missing_films import film_there

Progress = Callable[[int, int], None]


def look_along(
    source: Source,
    opened: OpenedFilm | None = None,
    *,
    stop: threading.Event | None = None,
    progress: Progress | None = None,
    first: Callable[[FilmSignals], None] | None = None,
) -> tuple[FilmSignals, str]:
    """Return the signals of a film; what was not measured yet is, where the film is there.

    ``opened`` is the film where it is open already. ``first`` hears what is known before anything
    is measured, where that takes time. The second thing returned is a sentence where something
    went wrong, empty otherwise.
    """
    known = signals_of(source)
    crop = crop_of(source)
    gaps = missing_ranges(source.media, source.start, source.end, crop=crop)
    unheard = kept_loudness(source.media) is None
    if not gaps and not unheard:
        return known, ""
    if first is not None:
        first(known)
    film = opened
    if film is None:
        there = film_there(source.media)
        film = as_set(there.film, source) if there.film is not None else None
    if film is None:
        return known, ""
    try:
        if gaps:
            _measure(film, source, all_measurers(), stop, progress)
        if unheard and film.tracks and not (stop is not None and stop.is_set()):
            measure_loudness(film, stop=stop, progress=progress)
    except MediaError as error:
        return signals_of(source), str(error)
    return signals_of(source), ""


def measure_missing(
    source: Source,
    opened: OpenedFilm | None,
    measurers: Sequence[Measurer],
    *,
    ranges: Sequence[tuple[int, int]] | None = None,
    stop: threading.Event | None = None,
    progress: Progress | None = None,
) -> str:
    """Measure what some measurers have not seen of a film yet; return a sentence where that cannot
    be, empty otherwise. ``opened`` is the film where it is open already; ``ranges`` are the frames
    [start, end) that are wanted, None for all.
    """
    film = opened
    if film is None:
        there = film_there(source.media)
        if there.film is None:
            return there.problem
        film = as_set(there.film, source)
    try:
        _measure(film, source, measurers, stop, progress, ranges)
    except MediaError as error:
        return str(error)
    return ""


def _measure(
    film: OpenedFilm,
    source: Source,
    measurers: Sequence[Measurer],
    stop: threading.Event | None,
    progress: Progress | None,
    ranges: Sequence[tuple[int, int]] | None = None,
) -> None:
    """Measure what is missing of a film."""
    crop = crop_of(source)
    wanted = [(source.start, source.end)] if ranges is None else _together(ranges)
    whole, done = sum(b - a for a, b in wanted), 0
    for start, end in wanted:
        for run in measure_range(film, start, end, crop=crop, measurers=measurers, stop=stop):
            done += run.end - run.start
            if progress is not None:
                progress(min(done, whole), whole)
        if stop is not None and stop.is_set():
            return


_NEAR = 50
"""Stretches so near to each other are read in one go: finding a frame costs as much."""


def _together(ranges: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    made: list[tuple[int, int]] = []
    for start, end in sorted(ranges):
        if made and start <= made[-1][1] + _NEAR:
            made[-1] = made[-1][0], max(made[-1][1], end)
        else:
            made.append((start, end))
    return made
