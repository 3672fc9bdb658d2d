"""Facts: from a film or a project to what is in it; what was not measured yet is."""

from __future__ import annotations

import threading
from collections.abc import Callable, Collection, Iterable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from av import VideoFrame

from offcut.core.errands.searching import opened_of
from offcut.core.errors import MediaError
from offcut.core.facts.fact import SORTS, Fact, Sort
from offcut.core.facts.film_facts import facts_of
from offcut.core.measure import registry
from offcut.core.measure.faces import (
    Face,
    faces_in,
    frames_for_faces,
    frames_to_look_closely,
    keep_faces,
    kept_faces,
    near_faces,
    picture_for_faces,
)
from offcut.core.measure.lettering import (
    Lettered,
    frames_for_lettering,
    keep_lettering,
    kept_lettering,
    lettered,
)
from offcut.core.measure.looked_at import Watcher
from offcut.core.measure.loudness import kept_loudness, measure_loudness
from offcut.core.measure.measurer import Measurer
from offcut.core.measure.measuring import Measuring
from offcut.core.measure.ranges import measure_range
from offcut.core.measure.small_pictures import Crop, crop_of
from offcut.core.measure.speech import kept_speech, measure_speech
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media, Source

Progress = Callable[[int, int], None]
_SEEN_BY: dict[Sort, tuple[Measurer, ...]] = {
    Sort.CAMERA: (registry.CAMERA,),
    Sort.STEADINESS: (registry.CAMERA,),
    Sort.LIGHT: (registry.LIGHT,),
    Sort.FOCUS: (registry.LIGHT,),
    Sort.COLOUR: (registry.LIGHT,),
    Sort.PART: (registry.GROUND, registry.CAMERA),
}
_BY_LETTERS = frozenset((Sort.TEXT, Sort.FOCUS, Sort.COLOUR))
_HEARD = (Sort.SOUND, Sort.PART)


@dataclass(frozen=True)
class FilmFacts:
    """What is in a film. ``problems`` are sentences about what could not be measured of it."""

    facts: tuple[Fact, ...]
    problems: tuple[str, ...] = ()


def find_facts(
    source: Source,
    film: OpenedFilm | None = None,
    *,
    sorts: Collection[Sort] = SORTS,
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
        if Sort.LOUDNESS in sorts and film.tracks and kept_loudness(source.media) is None:
            measure_loudness(film, stop=stop, progress=progress)
    except MediaError as error:
        problems.append(str(error))
    whole = not problems and (stop is None or not stop.is_set())
    return FilmFacts(facts_of(source, sorts, keep=whole), tuple(problems))


_Seen = TypeVar("_Seen")


class _Look(Generic[_Seen]):
    """One way to look at a few frames: which are left, and what was seen on them."""

    def __init__(
        self,
        wanted: Iterable[int],
        known: Collection[int],
        look: Callable[[int, VideoFrame], _Seen],
    ) -> None:
        self.left = frozenset(f for f in wanted if f not in known)
        self.found: dict[int, _Seen] = {}
        self._look = look

    def watcher(self) -> Watcher[_Seen]:
        return Watcher(self.left, self._look, self.found)

    def at(self, frame: int, picture: VideoFrame) -> None:
        if frame in self.left and frame not in self.found:
            self.found[frame] = self._look(frame, picture)

    @property
    def missing(self) -> frozenset[int]:
        return self.left - self.found.keys()


def _see(
    source: Source,
    film: OpenedFilm,
    sorts: Collection[Sort],
    measuring: Measuring | None,
    stop: threading.Event | None,
    progress: Progress | None,
) -> None:
    """Measure what is missing in one pass, and look for faces and letters on its way."""
    crop, media = crop_of(source), source.media
    wanted = tuple(dict.fromkeys(m for sort in sorts for m in _SEEN_BY.get(sort, ())))
    shots, rate = [(shot.start, shot.end) for shot in shots_of(source)], float(media.rate)
    faces = _look_for_faces(media, crop, shots if Sort.FACES in sorts else ())
    letters = _Look[Lettered](
        frames_for_lettering(shots, rate) if _BY_LETTERS.intersection(sorts) else (),
        kept_lettering(media, crop) if _BY_LETTERS.intersection(sorts) else (),
        lambda _, frame: lettered(frame, crop),
    )
    looks: tuple[_Look[Any], ...] = (faces, letters)
    done, whole = 0, source.end - source.start
    for run in measure_range(
        film, source.start, source.end, crop=crop, measurers=wanted, measuring=measuring,
        stop=stop, watches=[look.watcher for look in looks if look.left],
    ) if wanted else ():  # fmt: skip
        done += run.end - run.start
        if progress is not None:
            progress(min(done, whole), whole)
    _look_at(film, looks, stop)
    keep_faces(media, faces.found, crop)
    keep_lettering(media, letters.found, crop)


def _look_for_faces(
    media: Media, crop: Crop, shots: Collection[tuple[int, int]]
) -> _Look[list[Face] | None]:
    closely = frames_to_look_closely(shots, float(media.rate))
    kept = kept_faces(media, crop) if shots else {}

    def look(number: int, frame: VideoFrame) -> list[Face] | None:
        picture = picture_for_faces(frame, crop)
        return faces_in(picture) if number in closely else near_faces(picture)

    known = [f for f, seen in kept.items() if seen is not None or f not in closely]
    return _Look(frames_for_faces(shots, float(media.rate)), known, look)


def _look_at(film: OpenedFilm, looks: Iterable[_Look[Any]], stop: threading.Event | None) -> None:
    """Look at frames that no pass came by."""
    missing = sorted(frozenset[int]().union(*(look.missing for look in looks)))
    if not missing:
        return
    reader = open_reader(film, Purpose.SMALL)
    try:
        for frame in missing:
            if stop is not None and stop.is_set():
                return
            with suppress(MediaError):  # damaged there: nothing was seen
                picture = reader.frame(frame)
                for look in looks:
                    look.at(frame, picture)
    finally:
        reader.close()
