"""Sources brought in and taken out, and the name of the project."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.model.card import Card
from offcut.core.model.project import Project
from offcut.core.model.source import Media, Source
from offcut.core.model.verbs.scenes import scene_named, set_scene_look


def add_source(project: Project, media: Media) -> Project:
    """Bring a film in, with its whole length as range; its id is the project's ``next_id``."""
    source = Source(id=project.next_id, media=media, start=0, end=media.frames)
    return replace(project, sources=(*project.sources, source), next_id=project.next_id + 1)


def copy_source(project: Project, other: Project, source_id: int) -> Project:
    """Bring a film of another project in with all that is decided about it.

    Its id is ``next_id``; its seams come next in their order, then its markers. Scenes are known
    by their names. Raises OffcutError where the other project has no such film.
    """
    source = other.source(source_id)
    made = project.next_id
    seam_ids = made + 1
    marker_ids = seam_ids + len(source.seams)
    project = replace(project, next_id=marker_ids + len(source.markers))
    scenes: dict[int, int] = {0: 0}
    for scene_id in {source.first.scene, *(s.opening.scene for s in source.seams)} - {0}:
        scene = other.scene(scene_id)
        known = scene is None or any(s.name == scene.name for s in project.scenes)
        project, scenes[scene_id] = scene_named(project, scene.name if scene else "")
        if scene is not None and not known:
            project = set_scene_look(project, scenes[scene_id], scene.pattern, scene.tint)

    def here(card: Card) -> Card:
        return replace(card, scene=scenes.get(card.scene, 0)) if card.scene else card

    copied = replace(
        source,
        id=made,
        first=here(source.first),
        seams=tuple(
            replace(s, id=seam_ids + n, opening=here(s.opening)) for n, s in enumerate(source.seams)
        ),
        markers=tuple(replace(m, id=marker_ids + n) for n, m in enumerate(source.markers)),
    )
    return replace(project, sources=(*project.sources, copied))


def remove_source(project: Project, source_id: int) -> Project:
    """Take a film out with all that is decided about it. OffcutError when it is not there."""
    project.source(source_id)
    return replace(project, sources=tuple(s for s in project.sources if s.id != source_id))


def name_project(project: Project, name: str) -> Project:
    """Name the project."""
    return replace(project, name=name) if name != project.name else project
