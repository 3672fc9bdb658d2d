"""Cuts alone: one source's seams, words and markers without its film, and taking them in again."""

from __future__ import annotations

from dataclasses import dataclass, replace

from offcut.core.model.project import (
    NO_WORDS,
    Marker,
    Media,
    Origin,
    Project,
    Seam,
    Source,
    Words,
    Zone,
)
from offcut.core.model.verbs import with_source


@dataclass(frozen=True)
class Cuts:
    """What is handed on: which film it belongs to, and everything decided about it."""

    media: Media
    sensitivity: int
    first: Words
    seams: tuple[Seam, ...]
    zones: tuple[Zone, ...]
    markers: tuple[Marker, ...]


@dataclass(frozen=True)
class Merge:
    """A merged project and what came of it.

    ``taken`` decisions and words that came in; ``ours`` places where both had decided
    differently and ours stayed, as frames.
    """

    project: Project
    taken: int
    ours: tuple[int, ...]


def cuts_of(source: Source) -> Cuts:
    """Return the cuts alone of a source."""
    return Cuts(
        source.media, source.sensitivity, source.first, source.seams, source.zones, source.markers
    )


def misfit(cuts: Cuts, media: Media) -> str:
    """Return why cuts do not belong to a film, empty when they do.

    A copy of the film (other bytes, as many frames at the same rate) is taken for the film.
    """
    theirs = cuts.media
    if theirs.fingerprint == media.fingerprint:
        return ""
    if theirs.frames != media.frames:
        return f"belongs to a film of {theirs.frames} frames, this one has {media.frames}"
    if theirs.rate != media.rate:
        return "belongs to a film that runs at another rate"
    return ""


def with_cuts_replaced(project: Project, cuts: Cuts) -> Project:
    """Put a colleague's cuts in place of ours; nothing of ours stays."""
    source = replace(
        project.source,
        sensitivity=cuts.sensitivity,
        first=cuts.first,
        seams=cuts.seams,
        zones=cuts.zones,
        markers=cuts.markers,
        searched=True,
    )
    ids = [s.id for s in cuts.seams] + [m.id for m in cuts.markers]
    return replace(
        with_source(project, source), next_id=max([project.next_id, *(i + 1 for i in ids)])
    )


def with_cuts_merged(project: Project, cuts: Cuts) -> Merge:
    """Merge a colleague's cuts into ours.

    A seam is the same when it lies at the same frame, or when detection found it for both with
    the same id and score and one of us rolled it. What only one of us decided holds; where both
    decided differently ours stays. Words and markers of theirs fill in where we have none, and so
    do their zones where ours leave room.
    """
    source = project.source
    ours = list(source.seams)
    by_frame = {s.frame: i for i, s in enumerate(ours)}
    by_find = {(s.id, s.score): i for i, s in enumerate(ours) if s.origin is Origin.FOUND}
    next_id = project.next_id
    taken = 0
    differ: list[int] = []
    came: list[Seam] = []
    for theirs in cuts.seams:
        at = by_frame.get(theirs.frame)
        if at is None and theirs.origin is Origin.FOUND:
            at = by_find.get((theirs.id, theirs.score))
        if at is None:
            if theirs.judged or theirs.opening or theirs.origin is not Origin.FOUND:
                came.append(replace(theirs, id=next_id))
                next_id += 1
                taken += 1
            continue
        merged = _merged(ours[at], theirs)
        if merged is None:
            differ.append(ours[at].frame)
            merged = replace(ours[at], opening=_filled(ours[at].opening, theirs.opening))
        taken += merged != ours[at]
        ours[at] = merged
    first = _filled(source.first, cuts.first)
    known = {(m.start, m.end, m.name, m.note) for m in source.markers}
    markers = list(source.markers)
    for marker in cuts.markers:
        if (marker.start, marker.end, marker.name, marker.note) not in known:
            markers.append(replace(marker, id=next_id))
            next_id += 1
            taken += 1
    held = source.zones
    zones = [z for z in cuts.zones if all(z.end <= o.start or z.start >= o.end for o in held)]
    taken += len(zones)
    merged_source = replace(
        source,
        first=first,
        zones=(*held, *zones),
        seams=tuple(sorted([*ours, *came], key=lambda s: (s.frame, s.id))),
        markers=tuple(sorted(markers, key=lambda m: (m.start, m.end, m.id))),
    )
    taken += first != source.first
    result = with_source(project, merged_source)
    if next_id != project.next_id:
        result = replace(result, next_id=next_id)
    return Merge(result, taken, tuple(differ))


def _merged(ours: Seam, theirs: Seam) -> Seam | None:
    """Return one seam of two that are the same join; None where both decided differently."""
    opening = _filled(ours.opening, theirs.opening)
    if not theirs.judged:
        return replace(ours, opening=opening)
    if not ours.judged:
        return replace(theirs, id=ours.id, opening=opening)
    alike = (ours.frame, ours.start, ours.end, ours.kind, ours.standing) == (
        theirs.frame,
        theirs.start,
        theirs.end,
        theirs.kind,
        theirs.standing,
    )
    return replace(ours, opening=opening) if alike else None


def _filled(ours: Words, theirs: Words) -> Words:
    if ours == NO_WORDS:
        return theirs
    return Words(
        ours.name or theirs.name,
        ours.note or theirs.note,
        ours.set_aside or theirs.set_aside,
        ours.original or theirs.original,
        ours.scene or theirs.scene,
    )
