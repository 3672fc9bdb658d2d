"""Spans and kinds of seams, set by hand."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.kinds import spans
from offcut.core.model.project import Project
from offcut.core.model.seam import Former, Kind, Seam, Standing
from offcut.core.model.verbs.placing import span_around
from offcut.core.model.verbs.replacing import seam_by_id, with_changed
from offcut.core.model.verbs.rolling import roll_limits

USUAL_SPAN = 12
"""Frames a seam gets that is made gradual by hand, half a second of film."""


def set_span(project: Project, source_id: int, seam_id: int, start: int, end: int) -> Project:
    """Set the first mixed and the first clean frame of a gradual seam; it is kept by it.

    Its frame becomes the middle. The span is held between the neighbours and has one frame at
    least. OffcutError for a cut.
    """
    source = project.source(source_id)
    seam = seam_by_id(source, seam_id)
    if not spans(seam.kind):
        raise OffcutError("a cut has no span; make it a dissolve, a fade, a wipe or a whip first")
    low, high = roll_limits(source, seam_id)
    start = max(low, min(start, high - 1))
    end = max(start + 1, min(end, high + 1))
    if (start, end) == (seam.start, seam.end):
        return project
    changed = replace(seam, start=start, end=end, frame=(start + end) // 2, standing=Standing.KEPT)
    return with_changed(project, source_id, [seam_id], lambda _: changed)


def set_kind(project: Project, source_id: int, seam_ids: Iterable[int], kind: Kind) -> Project:
    """Make seams another kind; they are kept by it.

    A gradual one becomes one cut at its middle and remembers its span; a cut made gradual again
    gets that span back, or one of half a second.
    """
    source = project.source(source_id)

    def change(seam: Seam) -> Seam:
        if seam.kind is kind:
            return seam
        if not spans(kind):
            former = Former(seam.kind, seam.frame - seam.start, seam.end - seam.frame)
            start = end = seam.frame
        elif not spans(seam.kind):
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

    return with_changed(project, source_id, seam_ids, change)


def one_cut_or_back(project: Project, source_id: int, seam_id: int) -> Project:
    """Make a gradual seam one cut at its middle, or such a cut what it was before."""
    seam = seam_by_id(project.source(source_id), seam_id)
    if spans(seam.kind):
        return set_kind(project, source_id, [seam_id], Kind.CUT)
    return set_kind(
        project, source_id, [seam_id], seam.former.kind if seam.former else Kind.DISSOLVE
    )
