"""Folding: a shot joined to its neighbour by striking the seam between them."""

from __future__ import annotations

from collections.abc import Mapping

from offcut.core.model.card import Card
from offcut.core.model.project import Project
from offcut.core.model.shots import Shot, shot_at, shots_of
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.replacing import with_card


def fold_shot(project: Project, source_id: int, frame: int, way: int = -1) -> Project:
    """Fold the shot at ``frame`` into the one before it (-1) or after it (1).

    At an end of the film into the only neighbour there is. Strikes the seam between them; what
    was written about both is kept.
    """
    return fold_shots(project, source_id, {frame: way})


def fold_shots(project: Project, source_id: int, ways: Mapping[int, int]) -> Project:
    """Fold every shot that holds one of the frames into its neighbour, -1 before, 1 after."""
    shots = shots_of(project.source(source_id))
    gone: set[int] = set()
    for frame, way in ways.items():
        shot = shot_at(shots, frame)
        if shot is None or len(shots) < 2:
            continue
        at = shot.number - 1
        forwards = (way > 0 and at + 1 < len(shots)) or at == 0
        opener = shots[at + 1].opened_by if forwards else shot.opened_by
        if opener is not None:
            gone.add(opener.id)
    struck = strike_seams(project, source_id, gone)
    group: list[Shot] = []
    for shot in (*shots, None):
        if shot is not None and shot.opened_by is not None and shot.opened_by.id in gone:
            group.append(shot)
            continue
        if len(group) > 1:
            joined = _joined([s.card for s in group])
            if joined != group[0].card:
                struck = with_card(struck, source_id, group[0].opened_by, joined)
        group = [shot] if shot is not None else []
    return struck


def _joined(cards: list[Card]) -> Card:
    names = list(dict.fromkeys(c.name for c in cards if c.name))
    notes = [c.note for c in cards if c.note]
    return Card(
        name=names[0] if names else "",
        note=" · ".join([*notes, *names[1:]]),
        set_aside=all(c.set_aside for c in cards),
        original=next((c.original for c in cards if c.original), None),
        scene=next((c.scene for c in cards if c.scene), 0),
    )
