"""Every edit there is: pure functions from a project to a new project.

All of them act on the source that is on the bench. A verb that would change nothing returns the
project it was given, so that the caller can tell.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable
from dataclasses import replace
from operator import attrgetter

from offcut.core.errors import OffcutError
from offcut.core.model.project import (
    SMALLEST,
    Certainty,
    Framing,
    Kind,
    Media,
    Origin,
    Project,
    Reason,
    Seam,
    Source,
    Standing,
    Words,
)
from offcut.core.model.shots import counted_seams, is_counted


def project_with_media(project: Project, media: Media) -> Project:
    """Bring a movie in: it becomes the source on the bench, with its whole length as range."""
    source = Source(media=media, start=0, end=media.frames)
    return replace(project, sources=(*project.sources, source), current=len(project.sources))


_FRAME = attrgetter("frame")
_ORDER = attrgetter("frame", "id")


def with_source(project: Project, source: Source) -> Project:
    if source == project.source:
        return project
    sources = list(project.sources)
    sources[project.current] = source
    return replace(project, sources=tuple(sources))


def with_seams(project: Project, seams: Iterable[Seam]) -> Project:
    ordered = tuple(sorted(seams, key=_ORDER))
    return with_source(project, replace(project.source, seams=ordered))


def seam_by_id(source: Source, seam_id: int) -> Seam:
    """Return the seam of that id; OffcutError when the source has none."""
    for seam in source.seams:
        if seam.id == seam_id:
            return seam
    raise OffcutError(f"there is no seam {seam_id} in this source")


def with_changed(
    project: Project, seam_ids: Iterable[int], change: Callable[[Seam], Seam]
) -> Project:
    ids = set(seam_ids)
    seams = list(project.source.seams)
    moved = False
    for place in [i for i, s in enumerate(seams) if s.id in ids]:
        changed = change(seams[place])
        moved = moved or changed.frame != seams[place].frame
        seams[place] = changed
    if moved:
        return with_seams(project, seams)
    return with_source(project, replace(project.source, seams=tuple(seams)))


def keep_seams(project: Project, seam_ids: Iterable[int]) -> Project:
    """Keep seams: they count whatever the sensitivity."""
    return with_changed(project, seam_ids, lambda s: replace(s, standing=Standing.KEPT))


def strike_seams(project: Project, seam_ids: Iterable[int]) -> Project:
    """Strike seams: they never count, and can be re-opened at any time."""
    return with_changed(project, seam_ids, lambda s: replace(s, standing=Standing.STRUCK))


def reopen_seams(project: Project, seam_ids: Iterable[int]) -> Project:
    """Take the decision back: the sensitivity decides again."""
    return with_changed(project, seam_ids, lambda s: replace(s, standing=Standing.OPEN))


def place_seam(project: Project, frame: int, *, kind: Kind = Kind.CUT, span: int = 0) -> Project:
    """Place a seam by hand so that ``frame`` opens a new shot.

    ``span`` is the length in frames of a gradual one, centred on ``frame``. Where a seam lies
    already, that one is kept instead. Raises OffcutError at or outside the ends of the range.
    """
    source = project.source
    if not source.start < frame < source.end:
        raise OffcutError("a seam must lie inside the range, after its first frame")
    there = [s for s in source.seams if s.frame == frame]
    if there:
        if any(is_counted(s, source) and s.judged for s in there):
            return project
        best = max(there, key=lambda s: (is_counted(s, source), s.score))
        return keep_seams(project, [best.id])
    start, end = span_around(frame, 0 if kind is Kind.CUT else span)
    seam = Seam(
        id=project.next_id,
        frame=frame,
        start=max(start, source.start),
        end=min(end, source.end),
        kind=kind,
        score=100.0,
        certainty=Certainty.SURE,
        standing=Standing.OPEN,
        origin=Origin.PLACED,
        reasons=(Reason("placed by hand"),),
    )
    placed = with_seams(project, (*source.seams, seam))
    return replace(placed, next_id=project.next_id + 1)


def span_around(frame: int, span: int) -> tuple[int, int]:
    """Return [start, end) of ``span`` frames whose middle is ``frame``; empty for 0."""
    start = frame - span // 2
    return start, start + span


def roll_limits(source: Source, seam_id: int) -> tuple[int, int]:
    """Return the first and last frame a seam can be rolled to, inclusive.

    It stays at least one frame away from the counted seams and ends on either side.
    """
    seam = seam_by_id(source, seam_id)
    counted = counted_seams(source)
    at = bisect_left(counted, seam.frame, key=_FRAME)
    past = bisect_right(counted, seam.frame, key=_FRAME)
    before = counted[at - 1].frame if at > 0 else source.start
    after = counted[past].frame if past < len(counted) else source.end
    return before + 1, after - 1


def roll_seam(project: Project, seam_id: int, frames: int) -> Project:
    """Roll a seam by so many frames, later when positive, as far as its neighbours allow."""
    return roll_seam_to(project, seam_id, seam_by_id(project.source, seam_id).frame + frames)


def roll_seam_to(project: Project, seam_id: int, frame: int) -> Project:
    """Roll a seam so that it opens its shot at ``frame``, or as near as its neighbours allow.

    Rolling is a decision: the seam is kept by it. Words of the shot move along, and so does the
    span of a gradual one, cut short where the film ends.
    """
    source = project.source
    seam = seam_by_id(source, seam_id)
    low, high = roll_limits(source, seam_id)
    to = max(low, min(high, frame))
    if to == seam.frame or low > high:
        return project
    by = to - seam.frame
    rolled = replace(
        seam,
        frame=to,
        start=max(0, seam.start + by) if seam.gradual else to,
        end=min(source.media.frames, seam.end + by) if seam.gradual else to,
        standing=Standing.KEPT,
    )
    return with_changed(project, [seam_id], lambda _: rolled)


def set_sensitivity(project: Project, sensitivity: int) -> Project:
    """Set how readily open seams are counted, 0 to 100; judged ones do not move."""
    level = max(0, min(100, int(sensitivity)))
    return with_source(project, replace(project.source, sensitivity=level))


def set_range(project: Project, start: int, end: int) -> Project:
    """Look only between frames [start, end); OffcutError when that is empty."""
    start, end = max(0, start), min(project.source.media.frames, end)
    if end <= start:
        raise OffcutError("the out point must lie after the in point")
    return with_source(project, replace(project.source, start=start, end=end))


def set_framing(project: Project, framing: Framing) -> Project:
    """Look only inside a framing. OffcutError when it leaves less than 16 pixels."""
    wide, high = framing.size(project.source.media)
    sides = (framing.left, framing.top, framing.right, framing.bottom)
    if min(sides) < 0 or min(wide, high) < SMALLEST:
        raise OffcutError(f"the framing must leave {SMALLEST} pixels of the picture at least")
    return with_source(project, replace(project.source, framing=framing))


def name_shot(project: Project, frame: int, name: str) -> Project:
    """Name the shot that holds ``frame``."""
    return _reworded(project, frame, lambda w: replace(w, name=" ".join(name.split())[:200]))


def note_shot(project: Project, frame: int, note: str) -> Project:
    """Note something about the shot that holds ``frame``."""
    return _reworded(project, frame, lambda w: replace(w, note=note.strip()[:4000]))


def put_in_scene(project: Project, frame: int, scene: str) -> Project:
    """Put the shot that holds ``frame`` into a scene, or into none."""
    return _reworded(project, frame, lambda w: replace(w, scene=" ".join(scene.split())[:200]))


def set_shot_aside(project: Project, frame: int, aside: bool = True) -> Project:
    """Make the shot that holds ``frame`` an offcut, or take it back."""
    return _reworded(project, frame, lambda w: replace(w, set_aside=aside))


def _reworded(project: Project, frame: int, change: Callable[[Words], Words]) -> Project:
    source = project.source
    if not source.start <= frame < source.end:
        return project
    counted = counted_seams(source)
    at = bisect_right(counted, frame, key=_FRAME) - 1
    opener = counted[at] if at >= 0 else None
    return with_words(project, opener, change(opener.opening if opener else source.first))


def with_words(project: Project, opener: Seam | None, words: Words) -> Project:
    if opener is None:
        return with_source(project, replace(project.source, first=words))
    return with_changed(project, [opener.id], lambda s: replace(s, opening=words))


def take_found(
    project: Project, found: Iterable[Seam], start: int, end: int, *, done: bool = True
) -> Project:
    """Take what detection found in frames [start, end) in place of what it found before.

    Seams that a person judged, placed or wrote words on, and listed ones, stay as they are; a
    found one within two frames of such a seam is the same join and is left out. ``done`` tells
    that the search is complete. Ids are given anew to new seams; one that was found at the same
    frame before keeps its id.
    """
    source = project.source
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
    taken = with_seams(project, (*sacred, *elsewhere, *fresh))
    if done and not taken.source.searched:
        taken = with_source(taken, replace(taken.source, searched=True))
    return replace(taken, next_id=next_id) if next_id != project.next_id else taken


def name_project(project: Project, name: str) -> Project:
    """Name the project."""
    return replace(project, name=name) if name != project.name else project
