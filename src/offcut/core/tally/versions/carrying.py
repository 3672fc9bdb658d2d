"""Carrying over: what was decided about one version put where it lies in the next."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from offcut.core.model.card import NO_CARD, Card
from offcut.core.model.orders import ref_of, uses_of
from offcut.core.model.project import OrderUse, Project, ShotRef
from offcut.core.model.seam import Origin, Reason, Seam, Standing
from offcut.core.model.shots import Shot, shots_of
from offcut.core.model.source import Marker, Source
from offcut.core.model.verbs.markers import with_markers
from offcut.core.model.verbs.orders import add_order
from offcut.core.model.verbs.replacing import with_cards, with_seams
from offcut.core.tally.versions.changes import Change, Comparison, What


class Carry(StrEnum):
    """What is carried over."""

    WORDS = "words"
    JUDGED = "judged"
    MARKERS = "markers"
    ORDERS = "orders"
    ORIGINALS = "originals"


@dataclass(frozen=True)
class Carried:
    """What carrying over came to: the project, how many shots have something new, and sentences
    about what could not be placed and stays with the old version.
    """

    project: Project
    shots: int
    left: tuple[str, ...] = ()


_NEAR = 1


def carried_over(
    project: Project,
    old_id: int,
    new_id: int,
    comparison: Comparison,
    what: Sequence[Carry] = tuple(Carry),
) -> Carried:
    """Return a project in which the new version has what was decided about the old one.

    What a person said of the new version already stays as it is.
    """
    way = _Way(project.source(old_id), project.source(new_id), comparison.changes)
    left: list[str] = []
    before = project
    if Carry.JUDGED in what:
        project = _judged(project, way, left)
        way = _Way(project.source(old_id), project.source(new_id), comparison.changes)
    if Carry.WORDS in what or Carry.ORIGINALS in what:
        project = _cards(project, way, what, left)
    if Carry.MARKERS in what:
        project = _markers(project, way, left)
    if Carry.ORDERS in what:
        project = _orders(project, way, left)
    then = {s.start: s.card for s in shots_of(before.source(new_id))}
    now = shots_of(project.source(new_id))
    shots = sum(then.get(s.start) != s.card for s in now)
    return Carried(project, shots, tuple(left))


class _Way:
    """Where frames and shots of the old version lie in the new one."""

    def __init__(self, old: Source, new: Source, changes: Sequence[Change]) -> None:
        self.old, self.new = old, new
        self._tied = sorted(
            (c for c in changes if c.old and c.new and c.offset is not None and c.speed == 1),
            key=lambda c: c.old or (0, 0),
        )
        self._starts = [c.old[0] for c in self._tied if c.old]
        self.old_shots = {s.start: s for s in shots_of(old)}
        self.new_shots = {s.start: s for s in shots_of(new)}

    def change_of(self, frame: int) -> Change | None:
        """Return what became of the shot that held a frame, None where it is gone."""
        for change in reversed(self._tied[: bisect_left(self._starts, frame + 1)]):
            assert change.old is not None
            if change.old[0] <= frame < change.old[1]:
                return change
        return None

    def frame(self, frame: int) -> int | None:
        """Return where a frame of the old version lies now, None where it is not there."""
        change = self.change_of(frame)
        if change is None or change.offset is None or change.new is None:
            return None
        if change.what is What.OTHER and not any(r.code == "part" for r in change.reasons):
            return None
        now = frame - change.offset
        return now if change.new[0] <= now < change.new[1] else None

    def shot(self, shot: Shot) -> tuple[Shot, Change] | None:
        """Return the shot that an old one became, and what happened to it."""
        best: tuple[Shot, Change] | None = None
        for change in self._tied:
            if change.old is None or change.new is None:
                continue
            shared = min(change.old[1], shot.end) - max(change.old[0], shot.start)
            now = self.new_shots.get(change.new[0])
            if now is not None and 2 * shared > shot.length and best is None:
                best = now, change
        return best


def _cards(project: Project, way: _Way, what: Sequence[Carry], left: list[str]) -> Project:
    cards: dict[ShotRef, Card] = {}
    for shot in way.old_shots.values():
        if not shot.card:
            continue
        found = way.shot(shot)
        if found is None:
            left.append(f"{shot.title}: there is no such shot now, so its card stays")
            continue
        now, change = found
        cards[ref_of(way.new, now)] = _card(shot.card, now.card, change, what)
    return with_cards(project, cards, lambda ref, _card: cards[ref])


def _card(old: Card, now: Card, change: Change, what: Sequence[Carry]) -> Card:
    """Return a card with what the old one says where it says nothing itself."""
    made = now
    if Carry.WORDS in what:
        made = Card(
            now.name or old.name, now.note or old.note, now.set_aside or old.set_aside,
            now.original, now.scene or old.scene,
        )  # fmt: skip
    other = change.what is What.OTHER and not any(r.code == "part" for r in change.reasons)
    if Carry.ORIGINALS in what and now.original is None and old.original is not None and not other:
        at = old.original.at - (change.offset or 0)
        made = replace(made, original=replace(old.original, at=at))
    return made


def _judged(project: Project, way: _Way, left: list[str]) -> Project:
    """Keep and strike the seams of the new version that lie where judged ones lay."""
    seams = list(way.new.seams)
    next_id = project.next_id
    lost = 0
    for seam in way.old.seams:
        if not seam.judged:
            continue
        frame = _place_of(seam, way)
        if frame is None:
            lost += seam.standing is not Standing.STRUCK
            continue
        near = [n for n, s in enumerate(seams) if _is_there(s, frame)]
        same = [n for n in near if seams[n].gradual == seam.gradual]
        if seam.standing is Standing.STRUCK:
            near = same  # of a cut and a mix at one place a person struck the one
        if near:
            n = min(same or near, key=lambda n: (abs(seams[n].frame - frame), -seams[n].score))
            if not seams[n].judged:
                seams[n] = replace(seams[n], standing=_standing(seam))
        elif seam.standing is not Standing.STRUCK:
            seams.append(_moved(seam, frame, next_id, way.new))
            next_id += 1
    if lost:
        left.append(
            f"{lost} judged seam{'' if lost == 1 else 's'} of shots that changed: judge them anew"
        )
    made = with_seams(project, way.new.id, seams)
    return replace(made, next_id=next_id) if next_id != project.next_id else made


def _standing(seam: Seam) -> Standing:
    """Return a standing as it is carried: what was placed and not judged further is kept."""
    return Standing.KEPT if seam.standing is Standing.OPEN else seam.standing


def _place_of(seam: Seam, way: _Way) -> int | None:
    """Return where a seam lies now: where what lies on both its sides went along together, or what
    it opens begins with the frame it began with.
    """
    now = way.frame(seam.frame)
    before = way.frame(seam.frame - 1)
    if now is None:
        return None
    if before is None or before != now - 1:
        change = way.change_of(seam.frame)
        return now if change is not None and change.new and change.new[0] == now else None
    return now


def _is_there(seam: Seam, frame: int) -> bool:
    return abs(seam.frame - frame) <= _NEAR or seam.start < frame < seam.end


def _moved(seam: Seam, frame: int, seam_id: int, film: Source) -> Seam:
    by = frame - seam.frame
    return replace(
        seam, id=seam_id, frame=frame, start=max(film.start, seam.start + by),
        end=min(film.end, seam.end + by),
        origin=Origin.PLACED, opening=NO_CARD, former=None, as_found=None,
        reasons=(Reason("carried over from the version before"),),
    )  # fmt: skip


def _markers(project: Project, way: _Way, left: list[str]) -> Project:
    known = {(m.start, m.name) for m in way.new.markers}
    markers = list(way.new.markers)
    next_id = project.next_id
    for marker in way.old.markers:
        start = way.frame(marker.start)
        if start is None:
            left.append(f"marker {marker.name or '(no name)'}: its frame is not there now")
            continue
        end = min(way.new.media.frames, start + marker.end - marker.start)
        if (start, marker.name) not in known:
            markers.append(Marker(next_id, start, end, marker.name, marker.note, marker.colour))
            next_id += 1
    if next_id == project.next_id:
        return project
    ordered = tuple(sorted(markers, key=lambda m: (m.start, m.id)))
    return replace(with_markers(project, way.new.id, ordered), next_id=next_id)


def _orders(project: Project, way: _Way, left: list[str]) -> Project:
    """Make each running order that uses the old version once more, of the new one."""
    for order in project.orders:
        shown = uses_of(project, order)
        if not any(u.use.source == way.old.id for u in shown):
            continue
        project = add_order(project, f"{order.name}, new version")
        made = project.orders[-1]
        uses: list[OrderUse] = []
        for used in shown:
            use = used.use
            if use.source == way.old.id:
                now = _use(use, used.whole, way)
                if now is None:
                    left.append(f"{order.name}: {used.title} is not there now")
                    continue
                use = now
            uses.append(replace(use, id=project.next_id))
            project = replace(project, next_id=project.next_id + 1)
        orders = tuple(
            replace(o, uses=tuple(uses)) if o.id == made.id else o for o in project.orders
        )
        project = replace(project, orders=orders)
    return project


def _use(use: OrderUse, whole: Shot | None, way: _Way) -> OrderUse | None:
    """Return a use of the new version's shot or frames, None where there are none."""
    if use.shot is None:
        start, end = way.frame(use.start or 0), way.frame((use.end or 1) - 1)
        if start is None or end is None or end < start:
            return None
        return replace(use, source=way.new.id, start=start, end=end + 1)
    found = way.shot(whole) if whole is not None else None
    if found is None:
        return None
    shot, change = found
    by = change.offset or 0
    start = use.start - by if use.start is not None else None
    end = use.end - by if use.end is not None else None
    return replace(use, source=way.new.id, shot=ref_of(way.new, shot), start=start, end=end)
