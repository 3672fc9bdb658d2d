"""A shot of another project taken into this one: its film comes with it."""

from __future__ import annotations

from typing import NamedTuple

from offcut.core.errors import OffcutError
from offcut.core.model.orders import ref_of
from offcut.core.model.project import OrderUse, Project
from offcut.core.model.shots import shot_at, shot_opened_by, shots_of
from offcut.core.model.verbs.sources import copy_source


class TakenShot(NamedTuple):
    """The project with the film in it, and the use that the shot makes of it, without an id."""

    project: Project
    use: OrderUse


def with_shot_of(project: Project, other: Project, source_id: int, seam_id: int) -> TakenShot:
    """Take a shot of another project in.

    Where this project has the film already, nothing is brought in, and the use is of its own shot
    where that has the same frames, else a piece of them. Raises OffcutError where the other
    project has no such shot now.
    """
    source = other.source(source_id)
    shot = shot_opened_by(source, seam_id)
    if shot is None:
        raise OffcutError("that shot is no longer in its project")
    media = source.media
    mine = next(
        (
            s
            for s in project.sources
            if s.media.fingerprint == media.fingerprint and s.media.frames == media.frames
            and (media.fingerprint or s.media.path == media.path)
        ),
        None,
    )  # fmt: skip
    if mine is None:
        made = project.next_id
        project = copy_source(project, other, source_id)
        mine = project.source(made)
    here = shot_at(shots_of(mine), shot.start)
    if here is not None and (here.start, here.end) == (shot.start, shot.end):
        return TakenShot(project, OrderUse(0, mine.id, ref_of(mine, here)))
    name = shot.card.name or f"Shot {shot.number}"
    return TakenShot(project, OrderUse(0, mine.id, None, shot.start, shot.end, name))
