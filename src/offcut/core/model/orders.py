"""Running orders as they stand: what each of their places shows now."""

from __future__ import annotations

from typing import NamedTuple

from offcut.core.model.project import Order, Project, ShotRef
from offcut.core.model.shots import Shot, shot_opened_by, shots_of
from offcut.core.model.source import Source


class OrderPlace(NamedTuple):
    """One place of a running order.

    ``source`` is None where its film was taken out, ``shot`` where nothing is opened now: its
    seam is struck, or does not count at the present sensitivity.
    """

    ref: ShotRef
    source: Source | None
    shot: Shot | None


def places_of(project: Project, order: Order) -> tuple[OrderPlace, ...]:
    """Return what each place of an order shows."""
    sources = {s.id: s for s in project.sources}
    openers: dict[int, dict[int, Shot]] = {}
    places = []
    for ref in order.shots:
        source = sources.get(ref.source)
        shot = None
        if source is not None:
            if ref.source not in openers:
                openers[ref.source] = {
                    (s.opened_by.id if s.opened_by else 0): s for s in shots_of(source)
                }
            shot = openers[ref.source].get(ref.seam)
        places.append(OrderPlace(ref, source, shot))
    return tuple(places)


def ref_of(source: Source, shot: Shot) -> ShotRef:
    """Return the name that stays of a shot."""
    return ShotRef(source.id, shot.opened_by.id if shot.opened_by else 0)


def shot_of(project: Project, ref: ShotRef) -> Shot | None:
    """Return the shot that is meant, None where there is none now."""
    if not project.holds(ref.source):
        return None
    return shot_opened_by(project.source(ref.source), ref.seam)
