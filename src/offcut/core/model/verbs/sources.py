"""Sources brought in and taken out, and the name of the project."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.model.project import Project
from offcut.core.model.source import Media, Source


def add_source(project: Project, media: Media) -> Project:
    """Bring a film in, with its whole length as range; its id is the project's ``next_id``."""
    source = Source(id=project.next_id, media=media, start=0, end=media.frames)
    return replace(project, sources=(*project.sources, source), next_id=project.next_id + 1)


def remove_source(project: Project, source_id: int) -> Project:
    """Take a film out with all that is decided about it. OffcutError when it is not there."""
    project.source(source_id)
    return replace(project, sources=tuple(s for s in project.sources if s.id != source_id))


def name_project(project: Project, name: str) -> Project:
    """Name the project."""
    return replace(project, name=name) if name != project.name else project
