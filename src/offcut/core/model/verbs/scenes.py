"""Scenes: made, renamed and taken away."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.card import Card
from offcut.core.model.project import Project, Scene
from offcut.core.model.verbs.replacing import clean_name


def scene_named(project: Project, name: str) -> tuple[Project, int]:
    """Return a project that has a scene of a name, and its id; id 0 for an empty name."""
    wanted = clean_name(name)
    if not wanted:
        return project, 0
    for scene in project.scenes:
        if scene.name == wanted:
            return project, scene.id
    made = Scene(project.next_id, wanted)
    return (
        replace(project, scenes=(*project.scenes, made), next_id=project.next_id + 1),
        made.id,
    )


def rename_scene(project: Project, scene_id: int, name: str) -> Project:
    """Give a scene another name. OffcutError where that is empty or another scene's."""
    wanted = clean_name(name)
    if not wanted:
        raise OffcutError("a scene needs a name")
    if any(s.name == wanted and s.id != scene_id for s in project.scenes):
        raise OffcutError(f"there is a scene “{wanted}” already")
    scenes = tuple(replace(s, name=wanted) if s.id == scene_id else s for s in project.scenes)
    return replace(project, scenes=scenes) if scenes != project.scenes else project


def remove_scene(project: Project, scene_id: int) -> Project:
    """Take a scene away; its shots belong to none then."""

    def freed(card: Card) -> Card:
        return replace(card, scene=0) if card.scene == scene_id else card

    sources = tuple(
        replace(
            source,
            first=freed(source.first),
            seams=tuple(
                replace(s, opening=freed(s.opening)) if s.opening.scene == scene_id else s
                for s in source.seams
            ),
        )
        if source.first.scene == scene_id or any(s.opening.scene == scene_id for s in source.seams)
        else source
        for source in project.sources
    )
    scenes = tuple(s for s in project.scenes if s.id != scene_id)
    if scenes == project.scenes:
        return project
    return replace(project, scenes=scenes, sources=sources)
