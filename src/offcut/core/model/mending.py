"""Edits that mend more than a seam's place: spans and kinds, ranges, zones, slivers, folds."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from statistics import median

from offcut.core.errors import OffcutError
from offcut.core.model.project import (
    Former,
    Kind,
    Project,
    Seam,
    Source,
    Standing,
    Words,
    Zone,
)
from offcut.core.model.shots import Shot, counted_seams, shot_at, shots_of
from offcut.core.model.verbs import (
    keep_seams,
    roll_limits,
    seam_by_id,
    span_around,
    strike_seams,
    with_changed,
    with_seams,
    with_source,
    with_words,
)

USUAL_SPAN = 12
"""Frames a seam gets that is made gradual by hand, half a second of film."""


def set_span(project: Project, seam_id: int, start: int, end: int) -> Project:
    """Set the first mixed and the first clean frame of a gradual seam; it is kept by it.

    Its frame becomes the middle. The span is held between the neighbours and has one frame at
    least. OffcutError for a cut.
    """
    source = project.source
    seam = seam_by_id(source, seam_id)
    if seam.kind is Kind.CUT:
        raise OffcutError("a cut has no span; make it a dissolve, a fade or a wipe first")
    low, high = roll_limits(source, seam_id)
    start = max(low, min(start, high - 1))
    end = max(start + 1, min(end, high + 1))
    if (start, end) == (seam.start, seam.end):
        return project
    changed = replace(seam, start=start, end=end, frame=(start + end) // 2, standing=Standing.KEPT)
    return with_changed(project, [seam_id], lambda _: changed)


def set_kind(project: Project, seam_ids: Iterable[int], kind: Kind) -> Project:
    """Make seams another kind; they are kept by it.

    A gradual one becomes one cut at its middle and remembers its span; a cut made gradual again
    gets that span back, or one of half a second.
    """
    source = project.source

    def change(seam: Seam) -> Seam:
        if seam.kind is kind:
            return seam
        if kind is Kind.CUT:
            former = Former(seam.kind, seam.frame - seam.start, seam.end - seam.frame)
            start = end = seam.frame
        elif seam.kind is Kind.CUT:
            low, high = roll_limits(source, seam.id)
            start, end = span_around(seam.frame, USUAL_SPAN)
            if seam.former is not None:
                start, end = seam.frame - seam.former.before, seam.frame + seam.former.after
            start, end = max(low, start), min(high + 1, end)
            former = None
            if end <= start:
                raise OffcutError("there is no room for a span between its neighbours")
        else:
            start, end, former = seam.start, seam.end, seam.former
        return replace(seam, kind=kind, start=start, end=end, former=former, standing=Standing.KEPT)

    return with_changed(project, seam_ids, change)


def one_cut_or_back(project: Project, seam_id: int) -> Project:
    """Make a gradual seam one cut at its middle, or such a cut what it was before."""
    seam = seam_by_id(project.source, seam_id)
    if seam.kind is not Kind.CUT:
        return set_kind(project, [seam_id], Kind.CUT)
    return set_kind(project, [seam_id], seam.former.kind if seam.former else Kind.DISSOLVE)


def take_one(project: Project, found: Seam) -> Project:
    """Take one seam that was looked for by hand; it is kept. Where one lies already, that one."""
    source = project.source
    there = next((s for s in source.seams if s.frame == found.frame), None)
    if there is not None:
        return keep_seams(project, [there.id])
    seam = replace(found, id=project.next_id, standing=Standing.KEPT)
    taken = with_seams(project, (*source.seams, seam))
    return replace(taken, next_id=project.next_id + 1)


# ranges and zones


def counted_in(source: Source, start: int, end: int) -> tuple[Seam, ...]:
    """Return the counted seams at frames [start, end)."""
    return tuple(s for s in counted_seams(source) if start <= s.frame < end)


def strike_range(project: Project, start: int, end: int) -> Project:
    """Strike every counted seam at frames [start, end)."""
    return strike_seams(project, [s.id for s in counted_in(project.source, start, end)])


def add_zone(project: Project, zone: Zone) -> Project:
    """Give a stretch a sensitivity of its own, or hush it; it takes the place of what it covers.

    Zones never overlap: an earlier one is cut back to what is left of it. OffcutError when the
    zone is empty.
    """
    if zone.end <= zone.start:
        raise OffcutError("a zone needs at least one frame")
    left: list[Zone] = []
    for other in project.source.zones:
        if other.end <= zone.start or other.start >= zone.end:
            left.append(other)
            continue
        if other.start < zone.start:
            left.append(replace(other, end=zone.start))
        if other.end > zone.end:
            left.append(replace(other, start=zone.end))
    zones = tuple(sorted((*left, zone), key=lambda z: z.start))
    return with_source(project, replace(project.source, zones=zones))


def remove_zone(project: Project, zone: Zone) -> Project:
    """Take a zone away; what was judged in it stays judged."""
    zones = tuple(z for z in project.source.zones if z != zone)
    return with_source(project, replace(project.source, zones=zones))


def change_zone(project: Project, zone: Zone, to: Zone) -> Project:
    """Give a zone another stretch or another sensitivity."""
    return add_zone(remove_zone(project, zone), to)


# folds and slivers


def fold_shot(project: Project, frame: int, way: int = -1) -> Project:
    """Fold the shot at ``frame`` into the one before it (-1) or after it (1).

    At an end of the film into the only neighbour there is. Strikes the seam between them; what
    was written about both is kept.
    """
    return fold_shots(project, {frame: way})


def fold_shots(project: Project, ways: Mapping[int, int]) -> Project:
    """Fold every shot that holds one of the frames into its neighbour, -1 before, 1 after."""
    source = project.source
    shots = shots_of(source)
    gone: set[int] = set()
    for frame, way in ways.items():
        shot = shot_at(shots, frame)
        if shot is None or len(shots) < 2:
            continue
        at = shot.number - 1
        forwards = (way > 0 and at + 1 < len(shots)) or at == 0
        opener = shots[at + 1].opened_by if forwards else shot.opened_by
        if opener is not None:
            gone.add(opener.id)
    struck = strike_seams(project, gone)
    group: list[Shot] = []
    for shot in (*shots, None):
        if shot is not None and shot.opened_by is not None and shot.opened_by.id in gone:
            group.append(shot)
            continue
        if len(group) > 1:
            joined = _joined([s.words for s in group])
            if joined != group[0].words:
                struck = with_words(struck, group[0].opened_by, joined)
        group = [shot] if shot is not None else []
    return struck


def _joined(words: list[Words]) -> Words:
    names = list(dict.fromkeys(w.name for w in words if w.name))
    notes = [w.note for w in words if w.note]
    return Words(
        name=names[0] if names else "",
        note=" · ".join([*notes, *names[1:]]),
        set_aside=all(w.set_aside for w in words),
        original=next((w.original for w in words if w.original), None),
        scene=next((w.scene for w in words if w.scene), ""),
    )


def set_shots_aside(project: Project, frames: Iterable[int], aside: bool = True) -> Project:
    """Make the shots that hold the frames offcuts, or take them back."""
    shots = shots_of(project.source)
    for frame in frames:
        shot = shot_at(shots, frame)
        if shot is not None:
            words = replace(shot.words, set_aside=aside)
            project = with_words(project, shot.opened_by, words)
    return project


def slivers_of(source: Source, limit: int) -> tuple[Shot, ...]:
    """Return the shots of fewer than ``limit`` frames that are not set aside, shortest first."""
    short = [s for s in shots_of(source) if s.length < limit and not s.words.set_aside]
    return tuple(sorted(short, key=lambda s: (s.length, s.start)))


def suggested_limit(source: Source, second: int) -> int:
    """Suggest a limit for slivers from the film's own lengths, in frames.

    Lengths of shots spread evenly on a log scale (Salt 1974, "Statistical style analysis of
    motion pictures", from memory, found them near log-normal); what lies under a sixth of the
    median is suspiciously short. Between 3 frames and a second (``second`` frames).
    """
    shots = shots_of(source)
    usual = median(s.length for s in shots) if shots else second
    return max(3, min(second, round(usual / 6)))
