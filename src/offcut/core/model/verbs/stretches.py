"""Stretches of a film, chosen by what is in them: made shots, pieces, markers, or set aside."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from offcut.core.errors import OffcutError
from offcut.core.model.orders import seam_of
from offcut.core.model.project import OrderUse, Project, ShotRef
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.cards import set_shots_aside
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.orders import put_uses
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import clean_name

Stretch = tuple[int, int]
"""Frames [start, end)."""


def make_shots_of_stretches(
    project: Project, source_id: int, stretches: Iterable[Stretch]
) -> Project:
    """Place a seam at either end of each stretch, so that it is a shot, or shots, of its own.

    Ends outside the range that is searched need none.
    """
    source = project.source(source_id)
    starts = {s.start for s in shots_of(source)}
    for frame in sorted({end for stretch in stretches for end in stretch}):
        if source.start < frame < source.end and frame not in starts:
            project = place_seam(project, source_id, frame)
    return project


def set_stretches_aside(
    project: Project, source_id: int, stretches: Sequence[Stretch], aside: bool = True
) -> Project:
    """Make each stretch a shot, or shots, of its own and set those aside, or take them back."""
    project = make_shots_of_stretches(project, source_id, stretches)
    inside = [
        shot.start
        for shot in shots_of(project.source(source_id))
        if any(start <= shot.start and shot.end <= end for start, end in stretches)
    ]
    return set_shots_aside(project, source_id, inside, aside)


def put_stretches_in_order(
    project: Project,
    order_id: int,
    source_id: int,
    stretches: Sequence[Stretch],
    names: Sequence[str] = (),
) -> Project:
    """Put stretches at the end of a running order: a whole shot as that shot, others as pieces.

    Raises OffcutError for frames that the film does not have.
    """
    source = project.source(source_id)
    shots = {(s.start, s.end): s for s in shots_of(source)}
    uses = []
    for place, (start, end) in enumerate(stretches):
        if not 0 <= start < end <= source.media.frames:
            raise OffcutError("a piece must lie inside the film")
        shot = shots.get((start, end))
        if shot is not None:
            uses.append(OrderUse(0, source_id, ShotRef(source_id, seam_of(shot))))
        else:
            name = clean_name(names[place]) if place < len(names) else ""
            uses.append(OrderUse(0, source_id, None, start, end, name))
    return put_uses(project, order_id, uses)


def mark_stretches(
    project: Project, source_id: int, stretches: Sequence[Stretch], names: Sequence[str]
) -> Project:
    """Put a marker over each stretch, by its name."""
    for (start, end), name in zip(stretches, names, strict=True):
        project = add_marker(project, source_id, start, end, name)
    return project
