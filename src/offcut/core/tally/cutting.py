"""Cutting a film by a list: alone, together with what was found, or as a witness."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import OffcutError
from offcut.core.lists.incoming import ListMarker, ReadEvent
from offcut.core.model.card import NO_CARD, Card, Original
from offcut.core.model.kinds import spans
from offcut.core.model.project import Project
from offcut.core.model.rules import fault_of_original
from offcut.core.model.seam import AsFound, Certainty, Kind, Origin, Reason, Seam, Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Marker, Source
from offcut.core.model.verbs.markers import with_markers
from offcut.core.model.verbs.replacing import clean_name, clean_note, with_seams, with_source
from offcut.core.model.verbs.scenes import scene_named
from offcut.core.tally.fitting import frames_off
from offcut.core.tally.joins import Join, Joins

WITHIN = 2
"""So many frames apart a listed and a found seam are taken for the same join."""
WITNESS = "in-list"


class Use(StrEnum):
    """What a list is used for.

    ALONE, TOGETHER and WITNESS cut by it; MARKERS takes the places it marks and NAMES what a bin
    of shots says of them (see `offcut.core.tally.taking`).
    """

    ALONE = "alone"
    TOGETHER = "together"
    WITNESS = "witness"
    MARKERS = "markers"
    NAMES = "names"


def cut_by_list(
    project: Project,
    source_id: int,
    joins: Joins,
    offset: int,
    use: Use,
    *,
    within: int = WITHIN,
    at_found: bool = True,
    markers: Sequence[ListMarker] = (),
) -> Project:
    """Cut a film by a list, and take its locators as markers.

    ALONE: the list's joins take the place of the open found seams. TOGETHER: a listed and a found
    seam ``within`` frames of each other are one, with the list's kind and card, at the found
    one's place if ``at_found``; all others stay. WITNESS: the list only raises or lowers scores,
    and its locators stay out.
    What a person judged or placed always stays; OffcutError when nothing falls inside the range.
    """
    source = project.source(source_id)
    inside = [j for j in joins.joins if source.start < j.frame - offset < source.end]
    if not inside:
        raise OffcutError("no join of the list falls inside the range: change the offset")
    if use is Use.WITNESS:
        return _witnessed(project, source, inside, offset, within)
    project, scenes = _with_scenes(project, [joins.first, *(j.event for j in inside)])
    lay = _Laying(offset, source.media.frames, scenes)
    found = list(source.seams)
    if use is Use.ALONE:
        found = [s for s in found if s.judged or s.opening]
    found = [s for s in found if s.origin is not Origin.LISTED or s.judged]
    frames = np.array([s.frame for s in found], np.int64)
    next_id = project.next_id
    made: list[Seam] = []
    gone: set[int] = set()
    seen = [s for s in counted_seams(source) if s.origin is not Origin.LISTED]
    seen_at = np.array([s.frame for s in seen], np.int64)
    for join in inside:
        near = _nearest(found, frames, join, offset, within, gone)
        listed = lay.seam(join, next_id)
        if source.searched and _nearest(seen, seen_at, join, offset, within, set()) is None:
            alone = Reason("the picture does not change here", 0.8, True, "unseen")
            listed = replace(listed, certainty=Certainty.DOUBTFUL, reasons=(*listed.reasons, alone))
        if near is not None:
            gone.add(near.id)
            listed = _one_of_two(near, listed, at_found)
        else:
            next_id += 1
        made.append(listed)
    left = [s for s in found if s.id not in gone]
    taken = with_seams(project, source_id, (*left, *made))
    now = taken.source(source_id)
    first = joins.first
    if first is not None and joins.first_frame - offset <= source.start:
        now = replace(now, first=lay.card(source.first, first))
    taken = with_source(taken, replace(now, searched=True))
    taken = replace(taken, next_id=next_id) if next_id != project.next_id else taken
    return with_locators(taken, source_id, markers, offset)


def _with_scenes(
    project: Project, events: Iterable[ReadEvent | None]
) -> tuple[Project, dict[str, int]]:
    """Return a project that has the scenes events name, and their ids by those names."""
    ids: dict[str, int] = {"": 0}
    for event in events:
        if event is not None and event.scene not in ids:
            project, ids[event.scene] = scene_named(project, event.scene)
    return project, ids


def with_locators(
    project: Project, source_id: int, locators: Sequence[ListMarker], offset: int
) -> Project:
    """Return the project with a marker for each locator on the film that has none yet."""
    source, next_id = project.source(source_id), project.next_id
    known = {(m.start, m.name) for m in source.markers}
    new = []
    for locator in locators:
        frame, name = locator.frame - offset, clean_name(locator.name)
        if 0 <= frame < source.media.frames and (frame, name) not in known:
            end = min(source.media.frames, frame + locator.length)
            note = clean_note(locator.note)
            new.append(Marker(next_id, frame, end, name, note, locator.colour))
            known.add((frame, name))
            next_id += 1
    if not new:
        return project
    marked = with_markers(project, source_id, (*source.markers, *new))
    return replace(marked, next_id=next_id)


def _nearest(
    found: list[Seam],
    frames: NDArray[np.int64],
    join: Join,
    offset: int,
    within: int,
    gone: set[int],
) -> Seam | None:
    """Return the found seam that is the same join, None when there is none."""
    frame = join.frame - offset
    reach = within + max(join.end - join.start, 60) // 2
    low, high = np.searchsorted(frames, (frame - reach, frame + reach + 1))
    near = [
        s
        for s in found[int(low) : int(high)]
        if s.id not in gone
        and s.standing is not Standing.STRUCK
        and (
            abs(frames_off(frame, s)) <= within
            or (join.end > join.start and join.start - offset <= s.frame <= join.end - offset)
        )
    ]
    gradual = join.end > join.start

    def far(seam: Seam) -> tuple[bool, int, bool, float]:
        return not seam.judged, abs(seam.frame - frame), seam.gradual != gradual, -seam.score

    return min(near, key=far, default=None)


@dataclass(frozen=True)
class _Laying:
    """How a list lies on a film of so many frames: film frame = record frame - ``offset``.

    What would reach past the film's ends is cut off there. ``scenes`` are ids by their names.
    """

    offset: int
    frames: int
    scenes: Mapping[str, int]

    def seam(self, join: Join, seam_id: int) -> Seam:
        """Return a join as a listed seam."""
        frame = join.frame - self.offset
        start = max(0, min(frame, join.start - self.offset))
        end = min(self.frames, max(frame, join.end - self.offset))
        gradual = spans(join.kind) and end > start
        number = f" as event {join.event.number}" if join.event and join.event.number else ""
        return Seam(
            id=seam_id,
            frame=frame,
            start=start if gradual else frame,
            end=end if gradual else frame,
            kind=join.kind if gradual else Kind.CUT,
            score=100.0,
            certainty=Certainty.SURE,
            origin=Origin.LISTED,
            reasons=(Reason(f"in the list{number}", 1.0, False, "listed"),),
            opening=self.card(NO_CARD, join.event),
        )

    def card(self, own: Card, event: ReadEvent | None) -> Card:
        """Return the card of a shot with what its event says; a name a person gave stays."""
        if event is None or event.black:
            return own
        start = event.source_out - 1 if event.speed < 0 else event.source_in
        told = Original(
            reel=event.reel,
            start=start,
            at=event.record_in - self.offset,
            clip=event.clip,
            drop=event.drop,
            speed=event.speed,
            comments=_comments(event),
        )
        has = bool(event.reel or event.clip) and event.source_out > event.source_in
        fits = has and not fault_of_original(told)
        return Card(
            own.name or clean_name(event.clip),
            own.note or clean_note(event.note),
            own.set_aside,
            told if fits else own.original,
            own.scene or self.scenes.get(event.scene, 0),
        )


def _one_of_two(found: Seam, listed: Seam, at_found: bool) -> Seam:
    """Return one seam of a found and a listed one: what a person decided holds."""
    opening = Card(
        found.opening.name or listed.opening.name,
        found.opening.note or listed.opening.note,
        found.opening.set_aside,
        listed.opening.original or found.opening.original,
        found.opening.scene or listed.opening.scene,
    )
    if found.judged:
        return replace(found, opening=opening)
    one = replace(listed, id=found.id, opening=opening, as_found=found.found)
    one = replace(one, reasons=(*listed.reasons, *found.reasons), score=max(found.score, 90.0))
    if at_found:
        by_found = found.gradual or not listed.gradual
        one = replace(
            one,
            frame=found.frame,
            start=found.start if by_found else listed.start,
            end=found.end if by_found else listed.end,
            kind=listed.kind if found.gradual == listed.gradual else found.kind,
        )
        if not spans(one.kind) or not one.gradual:
            one = replace(one, start=one.frame, end=one.frame, kind=Kind.CUT)
    lies_so = one.as_found == AsFound(one.frame, one.gradual)
    return replace(one, as_found=None) if lies_so else one


_UNDERSTOOD = (
    "FROM CLIP NAME:", "TO CLIP NAME:", "COMMENT:", "NOTE:", "SCENE:", "LOC:", "SOURCE FILE:",
    "JOINED BY A ",
)  # fmt: skip
"""Comments that are held elsewhere, or that Offcut writes of itself."""


def _comments(event: ReadEvent) -> tuple[str, ...]:
    """Return what a list says of an event beyond what is understood; 40 lines of 400 at most."""
    left = (" ".join(c.split()) for c in event.comments)
    return tuple(c[:400] for c in left if c and not c.upper().startswith(_UNDERSTOOD))[:40]


def _witnessed(
    project: Project, source: Source, joins: list[Join], offset: int, within: int
) -> Project:
    """Raise the scores of open found seams the list has, and lower those of the others."""
    if any(r.code == WITNESS for s in source.seams for r in s.reasons):
        raise OffcutError(
            "a list has weighed these seams already: undo that, or find the seams again first"
        )
    frames = np.sort(np.array([j.frame - offset for j in joins], np.int64))

    def weighed(seam: Seam) -> Seam:
        if seam.judged or seam.origin is not Origin.FOUND:
            return seam
        at = int(np.searchsorted(frames, seam.frame))
        near = any(
            abs(frames_off(int(frames[k]), seam)) <= within
            for k in (at - 1, at)
            if 0 <= k < len(frames)
        )
        if near:
            return replace(
                seam,
                score=round(seam.score + (100 - seam.score) * 0.75, 1),
                certainty=Certainty.SURE if seam.score >= 50 else Certainty.LIKELY,
                reasons=(*seam.reasons, Reason("the list has a join here", 0.8, False, WITNESS)),
            )
        return replace(
            seam,
            score=round(seam.score * 0.6, 1),
            certainty=Certainty.DOUBTFUL,
            reasons=(*seam.reasons, Reason("the list has no join here", 0.8, True, WITNESS)),
        )

    return with_seams(project, source.id, (weighed(s) for s in source.seams))
