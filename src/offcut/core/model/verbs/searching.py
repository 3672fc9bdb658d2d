"""How a film is searched: sensitivity, range and framing; and what was found, taken in."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.project import Project
from offcut.core.model.seam import AsFound, Origin, Seam, Standing
from offcut.core.model.source import SMALLEST, Framed, Framing
from offcut.core.model.verbs.judging import keep_seams
from offcut.core.model.verbs.replacing import with_seams, with_source


def set_sensitivity(project: Project, source_id: int, sensitivity: int) -> Project:
    """Set how readily open seams are counted, 0 to 100; judged ones do not move."""
    level = max(0, min(100, int(sensitivity)))
    return with_source(project, replace(project.source(source_id), sensitivity=level))


def set_range(project: Project, source_id: int, start: int, end: int) -> Project:
    """Look only between frames [start, end); OffcutError when that is empty."""
    source = project.source(source_id)
    start, end = max(0, start), min(source.media.frames, end)
    if end <= start:
        raise OffcutError("the out point must lie after the in point")
    return with_source(project, replace(source, start=start, end=end))


def set_framing(project: Project, source_id: int, framing: Framing) -> Project:
    """Look only inside a framing. OffcutError when it leaves less than 16 pixels."""
    source = project.source(source_id)
    wide, high = framing.size(source.media)
    sides = (framing.left, framing.top, framing.right, framing.bottom)
    if min(sides) < 0 or min(wide, high) < SMALLEST:
        raise OffcutError(f"the framing must leave {SMALLEST} pixels of the picture at least")
    return with_source(project, replace(source, framing=framing, framed=Framed.SET))


def take_framing(project: Project, source_id: int, framing: Framing) -> Project:
    """Take a framing that was found by itself, unless one was set by hand. OffcutError as above."""
    if project.source(source_id).framed is Framed.SET:
        return project
    taken = set_framing(project, source_id, framing)
    return with_source(taken, replace(taken.source(source_id), framed=Framed.FOUND))


def take_found(
    project: Project,
    source_id: int,
    found: Iterable[Seam],
    start: int,
    end: int,
    *,
    done: bool = True,
) -> Project:
    """Take what detection found in frames [start, end) in place of what it found before.

    Seams that a person judged, placed or wrote a card on, and listed ones, stay; a found one that
    is the same join as one of them (`_same_joins`) is left out, and tells the one that was found
    before its score and reasons as they are now. So it never matters how often, in how many pieces
    or in what ranges a film was searched. ``done`` tells that the search is complete. Ids are given
    anew to new seams; one that was found before keeps its id.
    """
    source = project.source(source_id)
    come = _best_of_each(s for s in found if start <= s.frame < end)
    sacred = [s for s in source.seams if s.judged or s.opening or s.origin is not Origin.FOUND]
    same = _same_joins(sacred, come)
    told = [_told_anew(s, same.get(s.id)) for s in sacred]
    taken = {id(s) for s in same.values()}
    fresh = [s for s in come if id(s) not in taken]
    sacred_ids = {s.id for s in sacred}
    loose = [s for s in source.seams if s.id not in sacred_ids]
    ids = _ids_of_before([s for s in loose if start <= s.frame < end], fresh)
    next_id = project.next_id
    for place, seam in enumerate(fresh):
        known = ids.get(id(seam))
        fresh[place] = replace(seam, id=next_id if known is None else known)
        next_id += known is None
    elsewhere = [s for s in loose if not start <= s.frame < end]
    taken_in = with_seams(project, source_id, (*told, *elsewhere, *fresh))
    now = taken_in.source(source_id)
    if done and not now.searched:
        taken_in = with_source(taken_in, replace(now, searched=True))
    return replace(taken_in, next_id=next_id) if next_id != project.next_id else taken_in


NEAR = 2
"""Frames that a seam may be told apart from where it was told before and still be the same."""


def _best_of_each(found: Iterable[Seam]) -> list[Seam]:
    """Return found seams in order, the likeliest of those that nothing tells apart."""
    best: dict[AsFound, Seam] = {}
    for seam in found:
        other = best.get(seam.found)
        if other is None or seam.score > other.score:
            best[seam.found] = seam
    return sorted(best.values(), key=lambda s: (s.frame, s.gradual))


def _same_joins(sacred: Sequence[Seam], found: Sequence[Seam]) -> dict[int, Seam]:
    """Return which found seam is the same join as a sacred one, by the id of that one.

    First the one that it was found as; then the nearest within two frames of where it was found
    or lies now, of its own sort; then of the other sort, but for a struck one: of a cut and a mix
    at one place a person may strike the one and mean the other. One stands for one only.
    """
    by_find = {s.found: s for s in found}
    same: dict[int, Seam] = {}
    for seam in sacred:
        mine = by_find.get(seam.found) if seam.origin is not Origin.PLACED else None
        if mine is not None:
            same[seam.id] = by_find.pop(seam.found)
    for alike in (True, False):
        asking = [
            s
            for s in sacred
            if s.id not in same
            and (alike or s.origin is not Origin.FOUND or s.standing is not Standing.STRUCK)
        ]
        same |= _nearest_pairs(asking, by_find, alike=alike)
    return same


def _nearest_pairs(
    asking: Iterable[Seam], by_find: dict[AsFound, Seam], *, alike: bool
) -> dict[int, Seam]:
    """Return pairs of seams within two frames, the nearest first; takes them out of ``by_find``."""
    pairs: list[tuple[int, float, int, AsFound]] = []
    for seam in asking:
        lies = AsFound(seam.frame, seam.gradual)
        for known in {seam.found, lies}:
            for by in range(-NEAR, NEAR + 1):
                at = AsFound(known.frame + by, known.gradual == alike)
                if at in by_find:
                    pairs.append((abs(by), -by_find[at].score, seam.id, at))
    same: dict[int, Seam] = {}
    for _, _, seam_id, at in sorted(pairs, key=lambda p: p[:3]):
        if seam_id not in same and at in by_find:
            same[seam_id] = by_find.pop(at)
    return same


def _told_anew(seam: Seam, found: Seam | None) -> Seam:
    """Return a sacred seam with what the search tells of it now; what was decided stays."""
    if found is None or seam.origin is not Origin.FOUND:
        return seam
    if not seam.judged:
        return replace(found, id=seam.id, opening=seam.opening)
    now = (found.score, found.certainty, found.reasons)
    if now == (seam.score, seam.certainty, seam.reasons):
        return seam
    return replace(seam, score=found.score, certainty=found.certainty, reasons=found.reasons)


def _ids_of_before(before: Iterable[Seam], found: Sequence[Seam]) -> dict[int, int]:
    """Return the ids that found seams had before, by `id` of the found one: each at most once."""
    by_find = {s.found: s for s in found}
    ids: dict[int, int] = {}
    left: list[Seam] = []
    for seam in before:
        mine = by_find.pop(seam.found, None)
        if mine is None:
            left.append(seam)
        else:
            ids[id(mine)] = seam.id
    for alike in (True, False):
        for seam_id, mine in _nearest_pairs(left, by_find, alike=alike).items():
            ids[id(mine)] = seam_id
        named = set(ids.values())
        left = [s for s in left if s.id not in named]
    return ids


def take_one(project: Project, source_id: int, found: Seam) -> Project:
    """Take one seam that was looked for by hand; it is kept. Where one lies already, that one."""
    source = project.source(source_id)
    here = [s for s in source.seams if s.frame == found.frame]
    if here:
        best = max(here, key=lambda s: (s.gradual == found.gradual, s.score))
        return keep_seams(project, source_id, [best.id])
    seam = replace(found, id=project.next_id, standing=Standing.KEPT)
    taken = with_seams(project, source_id, (*source.seams, seam))
    return replace(taken, next_id=project.next_id + 1)
