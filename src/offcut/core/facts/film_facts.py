"""All that is known to be in a film, from what was measured of it and kept."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator

from offcut.core.facts.camera_moves import camera_of
from offcut.core.facts.camera_path import kept_path
from offcut.core.facts.colouring import colour_of
from offcut.core.facts.face_sizes import faces_of
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
    FactCertainty,
)
from offcut.core.facts.focus import focus_of
from offcut.core.facts.heard import sound_of
from offcut.core.facts.lighting import light_of
from offcut.core.facts.parts import only_tone, parts_of
from offcut.core.facts.steadiness import steadiness_of
from offcut.core.measure.faces import kept_faces
from offcut.core.measure.ground import Grounds, kept_ground
from offcut.core.measure.light import Lights, kept_light
from offcut.core.measure.loudness import SILENT, kept_integrated, kept_loudness
from offcut.core.measure.small_pictures import crop_of
from offcut.core.measure.speech import kept_speech
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source


def facts_of(source: Source, sorts: Collection[str] = SORTS) -> tuple[Fact, ...]:
    """Return what is in a film, in order of frames, as far as it was measured.

    Facts are cut at the seams that count, but for those of the sound.
    """
    bounds = [(shot.start, shot.end) for shot in shots_of(source)]
    facts: list[Fact] = []
    for sort, told in _SEEN.items():
        if any(s in sorts for s in sort):
            facts += [f for f in told(source, bounds) if f.sort in sorts]
    order = {sort: place for place, sort in enumerate(SORTS)}
    return tuple(sorted(facts, key=lambda f: (f.start, order[f.sort], f.end)))


_Bounds = list[tuple[int, int]]


def _by_camera(source: Source, bounds: _Bounds) -> Iterator[Fact]:
    path, rate = kept_path(source), float(source.media.rate)
    for a, b in bounds:
        shot = path.within(a, b)
        yield from (f.moved(a) for f in (*camera_of(shot, rate), *steadiness_of(shot, rate)))


def _by_light(source: Source, bounds: _Bounds) -> Iterator[Fact]:
    lights, rate = kept_light(source.media, 0, source.media.frames, crop_of(source)), _rate(source)
    for a, b in bounds:
        shot = Lights(lights.rows[a:b], lights.known[a:b])
        found = (*light_of(shot, rate), *focus_of(shot, rate), *colour_of(shot))
        yield from (f.moved(a) for f in found)


def _by_ground(source: Source, bounds: _Bounds) -> Iterator[Fact]:
    media, rate = source.media, _rate(source)
    grounds = kept_ground(media, 0, media.frames, crop_of(source))
    heard = kept_speech(media)
    tone = None if heard is None else only_tone(heard[1], heard[2])
    for a, b in bounds:
        found = parts_of(
            Grounds(grounds.rows[a:b], grounds.known[a:b]),
            rate,
            None if tone is None else tone[a:b],
        )
        yield from (f.moved(a) for f in found)


def _by_faces(source: Source, bounds: _Bounds) -> Iterator[Fact]:
    looked = kept_faces(source.media, crop_of(source))
    for a, b in bounds:
        yield from faces_of(looked, a, b)


def _by_sound(source: Source, _: _Bounds) -> Iterator[Fact]:
    heard = kept_speech(source.media)
    if heard is not None:
        low, high = source.start, source.end
        found = sound_of(heard[0][low:high], heard[1][low:high], _rate(source))
        yield from (f.moved(low) for f in found)


def _by_loudness(source: Source, _: _Bounds) -> Iterator[Fact]:
    """Yield how loud the whole film is; of a film without sound nothing."""
    integrated, momentary = kept_integrated(source.media), kept_loudness(source.media)
    if integrated is None or momentary is None:
        return
    loudest = float(momentary.max())
    value = round(integrated, 1) if integrated > SILENT else SILENT
    figures: dict[str, float | str] = {"loudest": round(loudest, 1)}
    yield Fact(LOUDNESS, value, source.start, source.end, FactCertainty.SURE, figures)


def _rate(source: Source) -> float:
    return float(source.media.rate)


_SEEN: dict[tuple[str, ...], Callable[[Source, _Bounds], Iterator[Fact]]] = {
    (CAMERA, STEADINESS): _by_camera,
    (LIGHT, FOCUS, COLOUR): _by_light,
    (PART,): _by_ground,
    (FACES,): _by_faces,
    (SOUND,): _by_sound,
    (LOUDNESS,): _by_loudness,
}
