"""Running orders as they stand: what each of their uses shows now."""

from __future__ import annotations

from typing import NamedTuple

from offcut.core.model.card import Card
from offcut.core.model.project import Order, OrderUse, Project, ShotRef
from offcut.core.model.seam import Standing
from offcut.core.model.shots import Shot, shot_opened_by, shots_of
from offcut.core.model.source import Source


class UsedShot(NamedTuple):
    """What one use of a running order shows.

    ``shot`` has the in and out of this use, and is opened by its seam only where it begins with
    it; None where there is none now, for the reason ``why``. ``whole`` is the shot itself, None
    for a piece. ``source`` is None where its film was taken out.
    """

    use: OrderUse
    source: Source | None
    shot: Shot | None
    whole: Shot | None = None
    why: str = ""

    @property
    def title(self) -> str:
        """The name of the shot or piece, or why there is none."""
        return self.shot.title if self.shot is not None else f"gone: {self.why}"


def uses_of(project: Project, order: Order) -> tuple[UsedShot, ...]:
    """Return what each use of an order shows."""
    sources = {s.id: s for s in project.sources}
    openers: dict[int, dict[int, Shot]] = {}
    shown = []
    for place, use in enumerate(order.uses, start=1):
        source = sources.get(use.source)
        if source is None:
            shown.append(UsedShot(use, None, None, None, "its film was taken out"))
        elif use.shot is None:
            shown.append(_piece(use, source, place))
        else:
            if use.source not in openers:
                openers[use.source] = {seam_of(s): s for s in shots_of(source)}
            shown.append(_use_of(use, source, openers[use.source].get(use.shot.seam)))
    return tuple(shown)


def _piece(use: OrderUse, source: Source, place: int) -> UsedShot:
    start, end = _kept_inside(source, use.start or 0, use.end or 0)
    if start >= end:
        return UsedShot(use, source, None, None, "it lies outside the film")
    name = use.name or f"Piece {place}"
    return UsedShot(use, source, Shot(place, start, end, Card(name=name), None))


def _use_of(use: OrderUse, source: Source, whole: Shot | None) -> UsedShot:
    if whole is None:
        return UsedShot(use, source, None, None, _why_gone(use, source))
    start = whole.start if use.start is None else use.start
    end = whole.end if use.end is None else use.end
    start, end = _kept_inside(source, start, end)
    if start >= end:
        return UsedShot(use, source, None, whole, "its in lies after its out")
    opener = whole.opened_by if start == whole.start else None
    return UsedShot(use, source, whole._replace(start=start, end=end, opened_by=opener), whole)


def _kept_inside(source: Source, start: int, end: int) -> tuple[int, int]:
    return max(0, start), min(source.media.frames, end)


def _why_gone(use: OrderUse, source: Source) -> str:
    seam = next((s for s in source.seams if use.shot and s.id == use.shot.seam), None)
    if seam is None:
        return "its seam is no longer there"
    if seam.standing is Standing.STRUCK:
        return "its seam was struck"
    if not source.start < seam.frame < source.end:
        return "its seam lies outside the range"
    return "its seam does not count now"


def frames_of(shown: tuple[UsedShot, ...]) -> int:
    """Return how many frames a running order plays."""
    return sum(u.shot.length for u in shown if u.shot is not None)


def seam_of(shot: Shot) -> int:
    """Return the id of the seam that opens a shot, 0 for a film's first."""
    return shot.opened_by.id if shot.opened_by else 0


def ref_of(source: Source, shot: Shot) -> ShotRef:
    """Return the name that stays of a shot."""
    return ShotRef(source.id, seam_of(shot))


def shot_of(project: Project, ref: ShotRef) -> Shot | None:
    """Return the shot that is meant, None where there is none now."""
    if not project.holds(ref.source):
        return None
    return shot_opened_by(project.source(ref.source), ref.seam)


def shots_meant(project: Project, refs: tuple[ShotRef, ...]) -> list[tuple[Source, Shot]]:
    """Return the shots that are meant, in their order; those that are gone are left out."""
    found: dict[int, dict[int, Shot]] = {}
    sources = {s.id: s for s in project.sources}
    meant = []
    for ref in refs:
        source = sources.get(ref.source)
        if source is None:
            continue
        if ref.source not in found:
            found[ref.source] = {seam_of(s): s for s in shots_of(source)}
        shot = found[ref.source].get(ref.seam)
        if shot is not None:
            meant.append((source, shot))
    return meant
