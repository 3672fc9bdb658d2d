"""How a film is searched: sensitivity, range and framing; and what was found, taken in."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.project import Project
from offcut.core.model.seam import Origin, Seam, Standing
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

    Seams that a person judged, placed or wrote a card on, and listed ones, stay as they are; a
    found one within two frames of such a seam is the same join and is left out. ``done`` tells
    that the search is complete. Ids are given anew to new seams; one that was found at the same
    frame before keeps its id.
    """
    source = project.source(source_id)
    sacred = [s for s in source.seams if s.judged or s.opening or s.origin is not Origin.FOUND]
    held = {s.frame + near for s in sacred for near in range(-2, 3)}
    ids = {s.frame: s.id for s in source.seams}
    next_id = project.next_id
    fresh: list[Seam] = []
    for seam in found:
        if seam.frame in held or not start <= seam.frame < end:
            continue
        known = ids.get(seam.frame)
        fresh.append(replace(seam, id=next_id if known is None else known))
        next_id += known is None
    kept_ids = {s.id for s in sacred}
    elsewhere = [s for s in source.seams if s.id not in kept_ids and not start <= s.frame < end]
    taken = with_seams(project, source_id, (*sacred, *elsewhere, *fresh))
    now = taken.source(source_id)
    if done and not now.searched:
        taken = with_source(taken, replace(now, searched=True))
    return replace(taken, next_id=next_id) if next_id != project.next_id else taken


def take_one(project: Project, source_id: int, found: Seam) -> Project:
    """Take one seam that was looked for by hand; it is kept. Where one lies already, that one."""
    source = project.source(source_id)
    there = next((s for s in source.seams if s.frame == found.frame), None)
    if there is not None:
        return keep_seams(project, source_id, [there.id])
    seam = replace(found, id=project.next_id, standing=Standing.KEPT)
    taken = with_seams(project, source_id, (*source.seams, seam))
    return replace(taken, next_id=project.next_id + 1)
