"""Facts: from a film or a project to what is in it; what was not measured yet is."""

from __future__ import annotations

import threading
from collections.abc import Callable, Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass

from offcut.core.errands.searching import opened_of
from offcut.core.errors import MediaError
from offcut.core.facts.fact import (
    CAMERA,
    COLOUR,
    FACES,
    FOCUS,
    LIGHT,
    LOUDNESS,
    PART,
    SORTS,
    SOUND,
    STEADINESS,
    Fact,
)
from offcut.core.facts.film_facts import facts_of
from offcut.core.measure import registry
from offcut.core.measure.faces import (
    Face,
    FaceWatcher,
    faces_in,
    frames_to_look_at,
    keep_faces,
    kept_faces,
    picture_for_faces,
)
from offcut.core.measure.loudness import kept_loudness, measure_loudness
from offcut.core.measure.measurer import Measurer
from offcut.core.measure.measuring import Measuring
from offcut.core.measure.ranges import measure_range
from offcut.core.measure.small_pictures import Crop, crop_of
from offcut.core.measure.speech import kept_speech, measure_speech
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source

Progress = Callable[[int, int], None]
_SEEN_BY: dict[str, tuple[Measurer, ...]] = {
    CAMERA: (registry.CAMERA,),
    STEADINESS: (registry.CAMERA,),
    LIGHT: (registry.LIGHT,),
    FOCUS: (registry.LIGHT,),
    COLOUR: (registry.LIGHT,),
    PART: (registry.GROUND,),
}
_HEARD = (SOUND, PART)


@dataclass(frozen=True)
class FilmFacts:
    """What is in a film. ``problems`` are sentences about what could not be measured of it."""

    facts: tuple[Fact, ...]
    problems: tuple[str, ...] = ()


def find_facts(
    source: Source,
    film: OpenedFilm | None = None,
    *,
    sorts: Collection[str] = SORTS,
    measuring: Measuring | None = None,
    stop: threading.Event | None = None,
    progress: Progress | None = None,
) -> FilmFacts:
    """Return what is in a film whose seams were found.

    ``film`` is the opened one where it is open; ``sorts`` what is asked for; ``measuring`` is
    where, None for every core of this machine. What cannot be measured is told, and the rest is
    there. Raises MediaError where the film is not there.
    """
    problems = []
    film = opened_of(source, film)
    try:
        _see(source, film, sorts, measuring, stop, progress)
        if any(s in sorts for s in _HEARD) and film.tracks and kept_speech(source.media) is None:
            measure_speech(film, stop=stop, progress=progress)
        if LOUDNESS in sorts and film.tracks and kept_loudness(source.media) is None:
            measure_loudness(film, stop=stop, progress=progress)
    except MediaError as error:
        problems.append(str(error))
    return FilmFacts(facts_of(source, sorts), tuple(problems))


def _see(
    source: Source,
    film: OpenedFilm,
    sorts: Collection[str],
    measuring: Measuring | None,
    stop: threading.Event | None,
    progress: Progress | None,
) -> None:
    """Measure what is missing in one pass, and look for faces on its way."""
    crop = crop_of(source)
    wanted = tuple(dict.fromkeys(m for sort in sorts for m in _SEEN_BY.get(sort, ())))
    found: dict[int, list[Face]] = {}
    left: list[int] = []
    if FACES in sorts:
        shots = [(shot.start, shot.end) for shot in shots_of(source)]
        known = kept_faces(source.media, crop)
        left = [f for f in frames_to_look_at(shots, float(source.media.rate)) if f not in known]
    looked_for = frozenset(left)
    watches = [lambda: FaceWatcher(looked_for, crop, found)] if left else []
    done, whole = 0, source.end - source.start
    for run in measure_range(
        film, source.start, source.end, crop=crop, measurers=wanted, measuring=measuring,
        stop=stop, watches=watches,
    ) if wanted else ():  # fmt: skip
        done += run.end - run.start
        if progress is not None:
            progress(min(done, whole), whole)
    _look_at(film, [f for f in left if f not in found], crop, found, stop)
    if found:
        keep_faces(source.media, found, crop)


def _look_at(
    film: OpenedFilm,
    frames: Sequence[int],
    crop: Crop,
    found: dict[int, list[Face]],
    stop: threading.Event | None,
) -> None:
    """Look for faces in frames that no pass came by."""
    if not frames:
        return
    reader = open_reader(film, Purpose.SMALL)
    try:
        for frame in frames:
            if stop is not None and stop.is_set():
                return
            with suppress(MediaError):  # damaged there: nobody was seen
                found[frame] = faces_in(picture_for_faces(reader.frame(frame), crop))
    finally:
        reader.close()
