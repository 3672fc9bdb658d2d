"""Scenes: made, renamed, given a look, ordered, joined and taken away."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.card import Card
from offcut.core.model.project import Project, Scene, ShotRef
from offcut.core.model.scene_look import Pattern, Tint, next_look
from offcut.core.model.verbs.replacing import clean_name, with_cards


def scene_named(project: Project, name: str) -> tuple[Project, int]:
    """Return a project that has a scene of a name, and its id; id 0 for an empty name."""
    wanted = clean_name(name)
    if not wanted:
        return project, 0
    for scene in project.scenes:
        if scene.name == wanted:
            return project, scene.id
    look = next_look((s.pattern, s.tint) for s in project.scenes)
    made = Scene(project.next_id, wanted, *look)
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


def set_scene_look(project: Project, scene_id: int, pattern: Pattern, tint: Tint) -> Project:
    """Give a scene's band another pattern and tint."""
    scenes = tuple(
        replace(s, pattern=pattern, tint=tint) if s.id == scene_id else s for s in project.scenes
    )
    return replace(project, scenes=scenes) if scenes != project.scenes else project


def arrange_scenes(project: Project, scene_ids: Sequence[int]) -> Project:
    """Give the scenes another order; those not named keep theirs, after the others."""
    rank = {scene_id: n for n, scene_id in enumerate(scene_ids)}
    scenes = tuple(sorted(project.scenes, key=lambda s: rank.get(s.id, len(rank))))
    return replace(project, scenes=scenes) if scenes != project.scenes else project


def put_shots_in_scene(project: Project, refs: Iterable[ShotRef], name: str) -> Project:
    """Put shots of any films into the scene of a name, made where there is none.

    An empty name takes them out of their scenes.
    """
    made, scene_id = scene_named(project, name)
    return with_cards(made, refs, lambda _ref, card: replace(card, scene=scene_id))


def join_scenes(project: Project, scene_ids: Sequence[int]) -> Project:
    """Join scenes: the shots of all belong to the first one named, the others go."""
    if not scene_ids:
        return project
    into, *others = dict.fromkeys(scene_ids)
    if project.scene(into) is None:
        raise OffcutError("there is no such scene")
    return _moved(project, frozenset(others), into)


def remove_scene(project: Project, scene_id: int) -> Project:
    """Take a scene away; its shots belong to none then."""
    return _moved(project, frozenset((scene_id,)), 0)


def _moved(project: Project, gone: frozenset[int], into: int) -> Project:
    """Give the shots of some scenes to another, and take those scenes away."""

    def moved(card: Card) -> Card:
        return replace(card, scene=into) if card.scene in gone else card

    scenes = tuple(s for s in project.scenes if s.id not in gone)
    if scenes == project.scenes:
        return project
    sources = tuple(
        replace(
            source,
            first=moved(source.first),
            seams=tuple(
                replace(s, opening=moved(s.opening)) if s.opening.scene in gone else s
                for s in source.seams
            ),
        )
        if source.first.scene in gone or any(s.opening.scene in gone for s in source.seams)
        else source
        for source in project.sources
    )
    return replace(project, scenes=scenes, sources=sources)
