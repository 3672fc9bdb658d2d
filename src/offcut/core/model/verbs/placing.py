"""Placing a seam by hand."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.kinds import spans
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Kind, Origin, Reason, Seam, Standing
from offcut.core.model.shots import is_counted
from offcut.core.model.verbs.judging import keep_seams
from offcut.core.model.verbs.replacing import with_seams


def place_seam(
    project: Project, source_id: int, frame: int, *, kind: Kind = Kind.CUT, span: int = 0
) -> Project:
    """Place a seam by hand so that ``frame`` opens a new shot.

    ``span`` is the length in frames of a gradual one, centred on ``frame``. Where one of its sort
    lies already, or one that counts, that one is kept instead. Raises OffcutError at or outside
    the ends of the range.
    """
    source = project.source(source_id)
    if not source.start < frame < source.end:
        raise OffcutError("a seam must lie inside the range, after its first frame")
    gradual = spans(kind) and span > 0
    here = (s for s in source.seams if s.frame == frame)
    there = [s for s in here if s.gradual == gradual or is_counted(s, source)]
    if there:
        if any(is_counted(s, source) and s.judged for s in there):
            return project
        best = max(there, key=lambda s: (is_counted(s, source), s.score))
        return keep_seams(project, source_id, [best.id])
    start, end = span_around(frame, 0 if not spans(kind) else span)
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
    placed = with_seams(project, source_id, (*source.seams, seam))
    return replace(placed, next_id=project.next_id + 1)


def span_around(frame: int, span: int) -> tuple[int, int]:
    """Return [start, end) of ``span`` frames whose middle is ``frame``; empty for 0."""
    start = frame - span // 2
    return start, start + span
