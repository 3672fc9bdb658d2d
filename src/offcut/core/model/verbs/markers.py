"""Markers: named, noted places that belong to a source and stay with their frames."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.project import Project
from offcut.core.model.source import Marker, MarkerColour, Source
from offcut.core.model.verbs.replacing import clean_name, clean_note, with_source


def marker_by_id(source: Source, marker_id: int) -> Marker:
    """Return the marker of that id; OffcutError when the source has none."""
    for marker in source.markers:
        if marker.id == marker_id:
            return marker
    raise OffcutError(f"there is no marker {marker_id} in this source")


def add_marker(
    project: Project,
    source_id: int,
    start: int,
    end: int | None = None,
    name: str = "",
    note: str = "",
    colour: MarkerColour = MarkerColour.NONE,
) -> Project:
    """Mark a frame, or frames [start, end); OffcutError outside the film."""
    source = project.source(source_id)
    stop = start + 1 if end is None else end
    if not 0 <= start < stop <= source.media.frames:
        raise OffcutError("a marker must lie inside the film")
    marker = Marker(project.next_id, start, stop, clean_name(name), clean_note(note), colour)
    marked = with_markers(project, source_id, (*source.markers, marker))
    return replace(marked, next_id=project.next_id + 1)


def change_marker(
    project: Project,
    source_id: int,
    marker_id: int,
    *,
    start: int | None = None,
    end: int | None = None,
    name: str | None = None,
    note: str | None = None,
    colour: MarkerColour | None = None,
) -> Project:
    """Move, stretch, name, note or colour a marker.

    It is held inside the film, a frame long at least.
    """
    source = project.source(source_id)
    old = marker_by_id(source, marker_id)
    frames = source.media.frames
    first = max(0, min(frames - 1, old.start if start is None else start))
    length = old.end - old.start
    last = first + length if end is None else end
    new = replace(
        old,
        start=first,
        end=max(first + 1, min(frames, last)),
        name=old.name if name is None else clean_name(name),
        note=old.note if note is None else clean_note(note),
        colour=old.colour if colour is None else colour,
    )
    markers = (new if m.id == marker_id else m for m in source.markers)
    return with_markers(project, source_id, tuple(markers))


def remove_marker(project: Project, source_id: int, marker_id: int) -> Project:
    """Take a marker away."""
    source = project.source(source_id)
    marker_by_id(source, marker_id)
    return with_markers(project, source_id, tuple(m for m in source.markers if m.id != marker_id))


def with_markers(project: Project, source_id: int, markers: tuple[Marker, ...]) -> Project:
    """Put markers in place of the source's, in order."""
    ordered = tuple(sorted(markers, key=lambda m: (m.start, m.end, m.id)))
    return with_source(project, replace(project.source(source_id), markers=ordered))
