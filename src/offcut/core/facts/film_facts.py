"""All that is known to be in a film, from what was measured of it and kept."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import zip_longest
from typing import TypeVar

import numpy as np

from offcut.core.facts.best_stills import stills_of
from offcut.core.facts.camera_moves import camera_of
from offcut.core.facts.camera_path import goes_in, kept_path
from offcut.core.facts.colouring import colour_of
from offcut.core.facts.face_sizes import faces_of
from offcut.core.facts.fact import SORTS, Fact, FactCertainty, Figure, Sort
from offcut.core.facts.focus import focus_of
from offcut.core.facts.grades import grades_in_force
from offcut.core.facts.heard import sound_of
from offcut.core.facts.kept_facts import Bounds, KeptFacts, named
from offcut.core.facts.leaders import leader_in
from offcut.core.facts.lighting import light_of
from offcut.core.facts.parts import only_tone, parts_of
from offcut.core.facts.steadiness import steadiness_of
from offcut.core.facts.texts import five_colours, texts_of
from offcut.core.measure.faces import FACES, kept_faces
from offcut.core.measure.ground import Grounds, kept_ground
from offcut.core.measure.lettering import LETTERING, Lettered, kept_lettering
from offcut.core.measure.light import Lights, kept_light
from offcut.core.measure.loudness import LOUDNESS, SILENT, kept_integrated, kept_loudness
from offcut.core.measure.registry import CAMERA, GROUND, LIGHT
from offcut.core.measure.small_pictures import crop_of
from offcut.core.measure.speech import SPEECH, kept_speech
from offcut.core.model.shots import clean_span, shots_of
from offcut.core.model.source import Source

_Seen = TypeVar("_Seen")
_Told = Iterator[tuple[Bounds, list[Fact]]]


def facts_of(
    source: Source, sorts: Collection[Sort] = SORTS, *, keep: bool = False
) -> tuple[Fact, ...]:
    """Return what is in a film, in order of frames, as far as it was measured.

    Facts are cut at the seams that count, but for those of the sound. With ``keep`` all that is
    asked for was measured, and what is told is kept: `kept_facts` has it at once.
    """
    kept = KeptFacts(source)
    facts: list[Fact] = []
    for group, of, told in _GROUPS:
        if not any(s in sorts for s in of):
            continue
        whole = all(s in sorts for s in of)  # of a part alone not all may have been measured
        missing = []
        for bounds in _bounds(source, of):
            if kept.has(group, bounds):
                facts += kept.of(group, bounds)
            else:
                missing.append(bounds)
        for bounds, found in told(source, missing):
            facts += found
            if keep and whole:
                kept.put(group, bounds, found)
    if keep and all(sort in sorts for sort in SORTS):
        _keep_stills(source, kept)
    kept.write()
    return _in_order(f for f in facts if f.sort in sorts)


def _keep_stills(source: Source, kept: KeptFacts) -> None:
    """Keep which frame of each shot tells most, by light, movement and faces."""
    spans = {}
    shots = shots_of(source)
    for shot, after in zip_longest(shots, shots[1:]):
        if not kept.has_still((shot.start, shot.end)):
            spans[shot.start, shot.end] = clean_span(shot, after)
    for bounds, frame in zip(spans, stills_of(source, list(spans.values())), strict=True):
        kept.put_still(bounds, frame)


def kept_facts(source: Source, sorts: Collection[Sort] = SORTS) -> tuple[Fact, ...]:
    """Return what was told of a film before, of the shots it has now; nothing is worked out."""
    kept = KeptFacts(source)
    return _in_order(
        fact
        for group, of, _ in _GROUPS
        if any(s in sorts for s in of)
        for bounds in _bounds(source, of)
        for fact in kept.of(group, bounds)
        if fact.sort in sorts
    )


def _in_order(facts: Iterable[Fact]) -> tuple[Fact, ...]:
    order = {sort: place for place, sort in enumerate(SORTS)}
    return tuple(sorted(facts, key=lambda f: (f.start, order[f.sort], f.end)))


def by_shot(source: Source, facts: Sequence[Fact]) -> dict[Bounds, tuple[Fact, ...]]:
    """Return what is in each shot of a film; what is heard is cut at its ends."""
    shots = [(s.start, s.end) for s in shots_of(source)]
    found: dict[Bounds, list[Fact]] = {bounds: [] for bounds in shots}
    at = 0
    for fact in sorted(facts, key=lambda f: f.start):
        if fact.sort is Sort.LOUDNESS:
            continue
        while at < len(shots) and shots[at][1] <= fact.start:
            at += 1
        place = at
        while place < len(shots) and shots[place][0] < fact.end:
            a, b = shots[place]
            inside = a <= fact.start and fact.end <= b
            held = fact if inside else replace(fact, start=max(a, fact.start), end=min(b, fact.end))
            found[a, b].append(held)
            place += 1
    return {bounds: _in_order(held) for bounds, held in found.items()}


def _bounds(source: Source, sorts: Collection[Sort]) -> list[Bounds]:
    """Return what facts are cut at: the shots; those of the sound at the film's ends alone."""
    if Sort.SOUND in sorts or Sort.LOUDNESS in sorts:
        return [(source.start, source.end)]
    return [(shot.start, shot.end) for shot in shots_of(source)]


def _by_camera(source: Source, bounds: list[Bounds]) -> _Told:
    if not bounds:
        return
    path, rate = kept_path(source), float(source.media.rate)
    limits = grades_in_force().steadiness
    for a, b in bounds:
        shot = path.within(a, b)
        yield (
            (a, b),
            [f.moved(a) for f in (*camera_of(shot, rate), *steadiness_of(shot, rate, limits))],
        )


def _by_light(source: Source, bounds: list[Bounds]) -> _Told:
    if not bounds:
        return
    lights, rate = kept_light(source.media, 0, source.media.frames, crop_of(source)), _rate(source)
    looked = kept_lettering(source.media, crop_of(source))
    grades = grades_in_force()
    for (a, b), here in _each(looked, bounds):
        shot = Lights(lights.rows[a:b], lights.known[a:b])
        light = light_of(shot, rate, grades.light, grades.burnt / 100)
        found = [*light, *focus_of(shot, rate, grades.soft), *colour_of(shot)]
        yield (a, b), [_with_looked(f.moved(a), here, a, b) for f in found]


def _with_looked(fact: Fact, looked: Mapping[int, Lettered], a: int, b: int) -> Fact:
    """Return a fact with what the frames tell that were looked at: five colours, the grain."""
    if fact.sort is Sort.COLOUR and (colours := five_colours(looked, a, b)):
        return replace(fact, figures={**fact.figures, "colours": colours})
    if fact.sort is Sort.FOCUS and looked:
        grain = round(float(np.median([seen.grain for seen in looked.values()])), 2)
        return replace(fact, figures={**fact.figures, "grain": grain})
    return fact


def _each(
    looked: Mapping[int, _Seen], bounds: list[Bounds]
) -> Iterator[tuple[Bounds, dict[int, _Seen]]]:
    """Yield each shot with its frames that were looked at."""
    frames = sorted(looked)
    for a, b in bounds:
        yield (
            (a, b),
            {f: looked[f] for f in frames[bisect_left(frames, a) : bisect_left(frames, b)]},
        )


def _by_ground(source: Source, bounds: list[Bounds]) -> _Told:
    if not bounds:
        return
    media, rate = source.media, _rate(source)
    grounds = kept_ground(media, 0, media.frames, crop_of(source))
    sound = kept_speech(media)
    tone = None if sound is None else only_tone(sound[1], sound[2])
    leader = leader_in(grounds, rate)
    path = kept_path(source)
    for a, b in bounds:
        shot = Grounds(grounds.rows[a:b], grounds.known[a:b])
        goes = goes_in(path.within(a, b), rate)
        heard = None if tone is None else tone[a:b]
        found = parts_of(shot, rate, heard, leader[a:b], goes)
        yield (a, b), [f.moved(a) for f in found]


def _by_faces(source: Source, bounds: list[Bounds]) -> _Told:
    looked = kept_faces(source.media, crop_of(source)) if bounds else {}
    for (a, b), here in _each(looked, bounds):
        yield (a, b), faces_of(here, a, b)


def _by_letters(source: Source, bounds: list[Bounds]) -> _Told:
    looked = kept_lettering(source.media, crop_of(source)) if bounds else {}
    for (a, b), here in _each(looked, bounds):
        yield (a, b), texts_of(here, a, b)


def _by_sound(source: Source, bounds: list[Bounds]) -> _Told:
    heard = kept_speech(source.media) if bounds else None
    for low, high in bounds:
        found = []
        if heard is not None:
            found = sound_of(heard[0][low:high], heard[1][low:high], _rate(source))
        yield (low, high), [f.moved(low) for f in found]


def _by_loudness(source: Source, bounds: list[Bounds]) -> _Told:
    """Yield how loud the whole film is; of a film without sound nothing."""
    if not bounds:
        return
    integrated, momentary = kept_integrated(source.media), kept_loudness(source.media)
    for low, high in bounds:
        found = []
        if integrated is not None and momentary is not None:
            value = round(integrated, 1) if integrated > SILENT else SILENT
            figures: dict[str, Figure] = {"loudest": round(float(momentary.max()), 1)}
            found = [Fact(Sort.LOUDNESS, value, low, high, FactCertainty.SURE, figures)]
        yield (low, high), found


def _rate(source: Source) -> float:
    return float(source.media.rate)


_GROUPS: tuple[tuple[str, tuple[Sort, ...], Callable[[Source, list[Bounds]], _Told]], ...] = (
    (named("camera", CAMERA), (Sort.CAMERA, Sort.STEADINESS), _by_camera),
    (named("light", LIGHT, LETTERING), (Sort.LIGHT, Sort.FOCUS, Sort.COLOUR), _by_light),
    (named("ground", GROUND, SPEECH, CAMERA), (Sort.PART,), _by_ground),
    (named("faces", FACES), (Sort.FACES,), _by_faces),
    (named("letters", LETTERING), (Sort.TEXT,), _by_letters),
    (named("sound", SPEECH), (Sort.SOUND,), _by_sound),
    (named("loudness", LOUDNESS), (Sort.LOUDNESS,), _by_loudness),
)
