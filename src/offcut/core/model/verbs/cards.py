"""Cards: naming and noting shots, setting them aside, putting them into scenes."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

from offcut.core.model.card import Card
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.shots import counted_seams, shot_at, shots_of
from offcut.core.model.verbs.replacing import FRAME, clean_name, clean_note, with_card, with_cards
from offcut.core.model.verbs.scenes import scene_named


def name_shot(project: Project, source_id: int, frame: int, name: str) -> Project:
    """Name the shot that holds ``frame``."""
    return _changed(project, source_id, frame, lambda c: replace(c, name=clean_name(name)))


def note_shot(project: Project, source_id: int, frame: int, note: str) -> Project:
    """Note something about the shot that holds ``frame``."""
    return _changed(project, source_id, frame, lambda c: replace(c, note=clean_note(note)))


def put_in_scene(project: Project, source_id: int, frame: int, scene: str) -> Project:
    """Put the shot that holds ``frame`` into the scene of a name, made where there is none.

    An empty name takes it out of its scene.
    """
    source = project.source(source_id)
    if not source.start <= frame < source.end:
        return project
    made, scene_id = scene_named(project, scene)
    return _changed(made, source_id, frame, lambda c: replace(c, scene=scene_id))


def set_shot_aside(project: Project, source_id: int, frame: int, aside: bool = True) -> Project:
    """Make the shot that holds ``frame`` an offcut, or take it back."""
    return _changed(project, source_id, frame, lambda c: replace(c, set_aside=aside))


def set_shots_aside(
    project: Project, source_id: int, frames: Iterable[int], aside: bool = True
) -> Project:
    """Make the shots that hold the frames offcuts, or take them back."""
    shots = shots_of(project.source(source_id))
    for frame in frames:
        shot = shot_at(shots, frame)
        if shot is not None:
            card = replace(shot.card, set_aside=aside)
            project = with_card(project, source_id, shot.opened_by, card)
    return project


def name_shots(project: Project, names: Mapping[ShotRef, str]) -> Project:
    """Name shots of any films, each as it is said."""
    return with_cards(project, names, lambda r, c: replace(c, name=clean_name(names[r])))


def note_shots(project: Project, refs: Iterable[ShotRef], note: str) -> Project:
    """Note the same about shots of any films."""
    text = clean_note(note)
    return with_cards(project, refs, lambda _ref, card: replace(card, note=text))


def set_aside(project: Project, refs: Iterable[ShotRef], aside: bool = True) -> Project:
    """Make shots of any films offcuts, or take them back."""
    return with_cards(project, refs, lambda _ref, card: replace(card, set_aside=aside))


def wave_away(project: Project, refs: Iterable[ShotRef]) -> Project:
    """Remember that shots are not to be suggested as one place again."""
    group = tuple(sorted(dict.fromkeys(refs), key=lambda r: (r.source, r.seam)))
    if not group or group in project.waved:
        return project
    return replace(project, waved=(*project.waved, group))


def _changed(
    project: Project, source_id: int, frame: int, change: Callable[[Card], Card]
) -> Project:
    source = project.source(source_id)
    if not source.start <= frame < source.end:
        return project
    counted = counted_seams(source)
    at = bisect_right(counted, frame, key=FRAME) - 1
    opener = counted[at] if at >= 0 else None
    return with_card(project, source_id, opener, change(opener.opening if opener else source.first))
