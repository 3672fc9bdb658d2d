"""A colleague's cuts taken in: merged with ours, or in place of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from offcut.core.model.card import NO_CARD, Card
from offcut.core.model.cuts import Cuts
from offcut.core.model.project import Project
from offcut.core.model.seam import Origin, Seam
from offcut.core.model.source import Marker
from offcut.core.model.verbs.replacing import ORDER, with_source
from offcut.core.model.verbs.scenes import scene_named, set_scene_look

_REACH = 250
"""So many frames a person may have rolled a found seam, and it is still told to be the same."""


@dataclass(frozen=True)
class Merge:
    """A merged project and what came of it.

    ``taken`` decisions and cards that came in; ``ours`` places where both had decided
    differently and ours stayed, as frames.
    """

    project: Project
    taken: int
    ours: tuple[int, ...]


def with_cuts_replaced(project: Project, source_id: int, cuts: Cuts) -> Project:
    """Put a colleague's cuts in place of ours; nothing of ours stays.

    A seam at the frame of one of ours keeps our id, so that it keeps its places in orders.
    """
    project, cuts = _with_our_scenes(project, cuts)
    source = project.source(source_id)
    same = {a: b.id for a, b in same_places(cuts.seams, source.seams)}
    next_id = project.next_id
    seams: list[Seam] = []
    for at, theirs in enumerate(cuts.seams):
        ours = same.get(at)
        seams.append(replace(theirs, id=next_id if ours is None else ours))
        next_id += ours is None
    markers: list[Marker] = []
    for marker in cuts.markers:
        markers.append(replace(marker, id=next_id))
        next_id += 1
    replaced = replace(
        source,
        sensitivity=cuts.sensitivity,
        first=cuts.first,
        seams=tuple(sorted(seams, key=ORDER)),
        zones=cuts.zones,
        markers=tuple(markers),
        searched=True,
    )
    if _same_but_ids(replaced.markers, source.markers):
        replaced, next_id = replace(replaced, markers=source.markers), next_id - len(markers)
    return replace(with_source(project, replaced), next_id=next_id)


def _same_but_ids(markers: Iterable[Marker], others: Iterable[Marker]) -> bool:
    return [replace(m, id=0) for m in markers] == [replace(m, id=0) for m in others]


def with_cuts_merged(project: Project, source_id: int, cuts: Cuts) -> Merge:
    """Merge a colleague's cuts into ours.

    A seam is the same when it lies at the same frame, or when detection found it for both with
    the same score and reasons and one of us rolled it. What only one of us decided holds; where
    both decided differently ours stays. Cards and markers of theirs fill in where we have none,
    and so do their zones where ours leave room.
    """
    project, cuts = _with_our_scenes(project, cuts)
    source = project.source(source_id)
    ours = list(source.seams)
    place_of = {id(s): i for i, s in enumerate(ours)}
    same = {a: place_of[id(b)] for a, b in same_places(cuts.seams, ours)}
    by_find: dict[object, list[int]] = {}
    for i, seam in enumerate(ours):
        if seam.origin is Origin.FOUND:
            by_find.setdefault(_found_as(seam), []).append(i)
    next_id = project.next_id
    taken = 0
    differ: list[int] = []
    came: list[Seam] = []
    for n, theirs in enumerate(cuts.seams):
        at = same.get(n)
        if at is None and theirs.origin is Origin.FOUND:
            at = _nearest(ours, by_find.get(_found_as(theirs), ()), theirs.frame)
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
        seams=tuple(sorted([*ours, *came], key=ORDER)),
        markers=tuple(sorted(markers, key=lambda m: (m.start, m.end, m.id))),
    )
    taken += first != source.first
    result = with_source(project, merged_source)
    if next_id != project.next_id:
        result = replace(result, next_id=next_id)
    return Merge(result, taken, tuple(differ))


def same_places(theirs: Sequence[Seam], ours: Iterable[Seam]) -> list[tuple[int, Seam]]:
    """Return which of theirs, by place, lies where one of ours does; a cut is rather a cut."""
    left: dict[int, list[Seam]] = {}
    for seam in ours:
        left.setdefault(seam.frame, []).append(seam)
    pairs: list[tuple[int, Seam]] = []
    for alike in (True, False):
        known = {at for at, _ in pairs}
        for at, seam in enumerate(theirs):
            here = left.get(seam.frame, [])
            of = next((s for s in here if not alike or s.gradual == seam.gradual), None)
            if at not in known and of is not None:
                here.remove(of)
                pairs.append((at, of))
    return pairs


def _found_as(seam: Seam) -> object:
    """Return what detection said of a seam, which rolling does not change."""
    return seam.score, seam.kind, seam.reasons


def _nearest(ours: list[Seam], places: Iterable[int], frame: int) -> int | None:
    near = [i for i in places if abs(ours[i].frame - frame) <= _REACH]
    return min(near, key=lambda i: abs(ours[i].frame - frame), default=None)


def _with_our_scenes(project: Project, cuts: Cuts) -> tuple[Project, Cuts]:
    """Return a project that has the scenes of some cuts, by name, and the cuts by its ids."""
    ids: dict[int, int] = {0: 0}
    for scene in cuts.scenes:
        known = any(s.name == scene.name for s in project.scenes)
        project, ids[scene.id] = scene_named(project, scene.name)
        if not known:
            project = set_scene_look(project, ids[scene.id], scene.pattern, scene.tint)
    seams = tuple(replace(s, opening=_moved(s.opening, ids)) for s in cuts.seams)
    return project, replace(cuts, first=_moved(cuts.first, ids), seams=seams, scenes=())


def _moved(card: Card, ids: Mapping[int, int]) -> Card:
    return replace(card, scene=ids.get(card.scene, 0)) if card.scene else card


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


def _filled(ours: Card, theirs: Card) -> Card:
    if ours == NO_CARD:
        return theirs
    return Card(
        ours.name or theirs.name,
        ours.note or theirs.note,
        ours.set_aside or theirs.set_aside,
        ours.original or theirs.original,
        ours.scene or theirs.scene,
    )
