"""Judging seams: kept, struck, open again; one by one or a whole range."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from offcut.core.model.project import Project
from offcut.core.model.seam import Seam, Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Source
from offcut.core.model.verbs.replacing import with_changed


def _judged(
    project: Project, source_id: int, seam_ids: Iterable[int], standing: Standing
) -> Project:
    return with_changed(project, source_id, seam_ids, lambda s: replace(s, standing=standing))


def keep_seams(project: Project, source_id: int, seam_ids: Iterable[int]) -> Project:
    """Keep seams: they count whatever the sensitivity."""
    return _judged(project, source_id, seam_ids, Standing.KEPT)


def strike_seams(project: Project, source_id: int, seam_ids: Iterable[int]) -> Project:
    """Strike seams: they never count, and can be re-opened at any time."""
    return _judged(project, source_id, seam_ids, Standing.STRUCK)


def reopen_seams(project: Project, source_id: int, seam_ids: Iterable[int]) -> Project:
    """Take the decision back: the sensitivity decides again."""
    return _judged(project, source_id, seam_ids, Standing.OPEN)


def counted_in(source: Source, start: int, end: int) -> tuple[Seam, ...]:
    """Return the counted seams at frames [start, end)."""
    return tuple(s for s in counted_seams(source) if start <= s.frame < end)


def strike_range(project: Project, source_id: int, start: int, end: int) -> Project:
    """Strike every counted seam at frames [start, end)."""
    source = project.source(source_id)
    return strike_seams(project, source_id, [s.id for s in counted_in(source, start, end)])
