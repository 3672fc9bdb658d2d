"""Scenes as they stand: which there are in a source, and which shots belong to each."""

from __future__ import annotations

from offcut.core.model.project import Project, Scene
from offcut.core.model.shots import Shot, shots_of
from offcut.core.model.source import Source


def scenes_in(project: Project, source: Source) -> tuple[Scene, ...]:
    """Return the scenes that shots of a source belong to, in the order of their first shots."""
    ids = dict.fromkeys(s.card.scene for s in shots_of(source) if s.card.scene)
    known = {scene.id: scene for scene in project.scenes}
    return tuple(known[i] for i in ids if i in known)


def shots_in_scene(source: Source, scene_id: int) -> tuple[Shot, ...]:
    """Return the shots of a source that belong to a scene, in the film's order."""
    return tuple(s for s in shots_of(source) if scene_id and s.card.scene == scene_id)
