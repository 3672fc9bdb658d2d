"""Rulings: what a person says a shot of a new version was made from."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.orders import shot_of
from offcut.core.model.project import Project, Ruling, ShotRef


def rule_shot(project: Project, ruling: Ruling) -> Project:
    """Say what a shot was made from; an earlier ruling on it, or on the same old one, gives way.

    Raises OffcutError for shots of one and the same film, and for one that is not there.
    """
    if ruling.new.source == ruling.against:
        raise OffcutError("a film is not held against itself")
    if shot_of(project, ruling.new) is None or not project.holds(ruling.against):
        raise OffcutError("the shot is not there any more")
    if ruling.old is not None and ruling.old.source != ruling.against:
        raise OffcutError("the shot is of another film than the one it is held against")
    left = [r for r in project.rulings if not _same(r, ruling)]
    return replace(project, rulings=(*left, ruling))


def _same(one: Ruling, other: Ruling) -> bool:
    if one.against != other.against or one.new.source != other.new.source:
        return False
    return one.new == other.new or (one.old is not None and one.old == other.old)


def take_ruling_back(project: Project, new: ShotRef, against: int) -> Project:
    """Let the pictures tell again what a shot was made from."""
    left = tuple(r for r in project.rulings if r.new != new or r.against != against)
    return replace(project, rulings=left) if len(left) < len(project.rulings) else project
