"""Zones: stretches with a sensitivity of their own, or hushed."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.project import Project
from offcut.core.model.source import Zone
from offcut.core.model.verbs.replacing import with_source


def add_zone(project: Project, source_id: int, zone: Zone) -> Project:
    """Give a stretch a sensitivity of its own, or hush it; it takes the place of what it covers.

    Zones never overlap: an earlier one is cut back to what is left of it. OffcutError when the
    zone is empty.
    """
    if zone.end <= zone.start:
        raise OffcutError("a zone needs at least one frame")
    left: list[Zone] = []
    for other in project.source(source_id).zones:
        if other.end <= zone.start or other.start >= zone.end:
            left.append(other)
            continue
        if other.start < zone.start:
            left.append(replace(other, end=zone.start))
        if other.end > zone.end:
            left.append(replace(other, start=zone.end))
    zones = tuple(sorted((*left, zone), key=lambda z: z.start))
    return with_source(project, replace(project.source(source_id), zones=zones))


def remove_zone(project: Project, source_id: int, zone: Zone) -> Project:
    """Take a zone away; what was judged in it stays judged."""
    zones = tuple(z for z in project.source(source_id).zones if z != zone)
    return with_source(project, replace(project.source(source_id), zones=zones))


def change_zone(project: Project, source_id: int, zone: Zone, to: Zone) -> Project:
    """Give a zone another stretch or another sensitivity."""
    return add_zone(remove_zone(project, source_id, zone), source_id, to)
