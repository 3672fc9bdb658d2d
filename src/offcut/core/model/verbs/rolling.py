"""Rolling: a seam moved earlier or later, its shot's card and its span along with it."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import replace

from offcut.core.model.project import Project
from offcut.core.model.seam import Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Source
from offcut.core.model.verbs.replacing import FRAME, seam_by_id, with_changed


def roll_limits(source: Source, seam_id: int) -> tuple[int, int]:
    """Return the first and last frame a seam can be rolled to, inclusive.

    It stays at least one frame away from the counted seams and ends on either side.
    """
    seam = seam_by_id(source, seam_id)
    counted = counted_seams(source)
    at = bisect_left(counted, seam.frame, key=FRAME)
    past = bisect_right(counted, seam.frame, key=FRAME)
    before = counted[at - 1].frame if at > 0 else source.start
    after = counted[past].frame if past < len(counted) else source.end
    return before + 1, after - 1


def roll_seam(project: Project, source_id: int, seam_id: int, frames: int) -> Project:
    """Roll a seam by so many frames, later when positive, as far as its neighbours allow."""
    frame = seam_by_id(project.source(source_id), seam_id).frame
    return roll_seam_to(project, source_id, seam_id, frame + frames)


def roll_seam_to(project: Project, source_id: int, seam_id: int, frame: int) -> Project:
    """Roll a seam so that it opens its shot at ``frame``, or as near as its neighbours allow.

    Rolling is a decision: the seam is kept by it. The card of the shot moves along, and so does
    the span of a gradual one, cut short where the film ends.
    """
    source = project.source(source_id)
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
    return with_changed(project, source_id, [seam_id], lambda _: rolled)
