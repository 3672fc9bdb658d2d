"""Markers: named, noted places that belong to a source and stay with their frames."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.project import Marker, Project, Source
from offcut.core.model.verbs import with_source


def marker_by_id(source: Source, marker_id: int) -> Marker:
    """Return the marker of that id; OffcutError when the source has none."""
    for marker in source.markers:
        if marker.id == marker_id:
            return marker
    raise OffcutError(f"there is no marker {marker_id} in this source")


def add_marker(
    project: Project, start: int, end: int | None = None, name: str = "", note: str = ""
) -> Project:
    """Mark a frame, or frames [start, end); OffcutError outside the film."""
    source = project.source
    stop = start + 1 if end is None else end
    if not 0 <= start < stop <= source.media.frames:
        raise OffcutError("a marker must lie inside the film")
    marker = Marker(project.next_id, start, stop, _clean(name), note.strip()[:4000])
    marked = with_markers(project, (*source.markers, marker))
    return replace(marked, next_id=project.next_id + 1)


def change_marker(
    project: Project,
    marker_id: int,
    *,
    start: int | None = None,
    end: int | None = None,
    name: str | None = None,
    note: str | None = None,
) -> Project:
    """Move, stretch, name or note a marker; it is held inside the film, a frame long at least."""
    old = marker_by_id(project.source, marker_id)
    frames = project.source.media.frames
    first = max(0, min(frames - 1, old.start if start is None else start))
    length = old.end - old.start
    last = first + length if end is None else end
    new = replace(
        old,
        start=first,
        end=max(first + 1, min(frames, last)),
        name=old.name if name is None else _clean(name),
        note=old.note if note is None else note.strip()[:4000],
    )
    markers = (new if m.id == marker_id else m for m in project.source.markers)
    return with_markers(project, tuple(markers))


def remove_marker(project: Project, marker_id: int) -> Project:
    """Take a marker away."""
    marker_by_id(project.source, marker_id)
    return with_markers(project, tuple(m for m in project.source.markers if m.id != marker_id))


def _clean(name: str) -> str:
    return " ".join(name.split())[:200]


def with_markers(project: Project, markers: tuple[Marker, ...]) -> Project:
    """Put markers in place of the source's, in order."""
    ordered = tuple(sorted(markers, key=lambda m: (m.start, m.end, m.id)))
    return with_source(project, replace(project.source, markers=ordered))
