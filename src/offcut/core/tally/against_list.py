"""A list against the found seams, join by join: what agrees, what is off, by how much all along.

Lists that were made for an earlier state of a film run off by a steady amount from some point on.
That point and that amount are told as one thing, and the list is laid so.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from offcut.core.model.kinds import spans
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind, Origin, Seam
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Source
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam_to
from offcut.core.tally.fitting import frames_off
from offcut.core.tally.joins import Join, Joins

REACH = 12
_FARTHEST = 500
_TURN = 3.0
_LEAST = 3
_MOST = 12


class Said(StrEnum):
    """What a list and the film say of one join."""

    AGREES = "agrees"
    OFF = "off"
    LISTED = "only in the list"
    FOUND = "only found"


@dataclass(frozen=True, slots=True)
class JoinRow:
    """One join, as the list and the film have it.

    Attributes: ``join`` of the list and ``frame`` where that lies on the film, None where only the
    film has it; ``seam`` of the film, None where only the list has it; ``off`` how many frames
    later the list has it.
    """

    said: Said
    join: Join | None
    frame: int | None
    seam: Seam | None
    off: int = 0

    @property
    def at(self) -> int:
        """Where it lies: by the film, or by the list where the film has nothing."""
        return self.seam.frame if self.seam is not None else self.frame or 0


@dataclass(frozen=True, slots=True)
class Lie:
    """From a join on, by its place in the list, the list lies so many frames off its offset."""

    first: int
    off: int


def lies_of(joins: Joins, source: Source, offset: int) -> tuple[Lie, ...]:
    """Return how a list lies on a film from point to point; one lie of 0 where it is steady.

    The offsets that most joins vote for are tried, and the way through them that leaves fewest
    joins on no seam is taken; changing over costs as much as three joins.
    """
    frames = np.array([j.frame - offset for j in joins.joins], np.int64)
    seams = np.array(
        [s.frame for s in counted_seams(source) if s.origin is not Origin.LISTED], np.int64
    )
    if not len(frames) or not len(seams):
        return (Lie(0, 0),)
    apart = (frames[:, None] - seams[None, :]).ravel()
    apart = apart[np.abs(apart) <= _FARTHEST]
    values, votes = np.unique(apart, return_counts=True)
    offs = [0, *values[np.argsort(-votes)][:_MOST].tolist()]
    known = set(seams.tolist())
    misses = np.array([[float(int(f - o) not in known) for o in offs] for f in frames])
    cost = misses[0].copy()
    came: list[np.ndarray] = []
    for row in misses[1:]:
        turned = float(cost.min()) + _TURN
        came.append(np.where(cost <= turned, np.arange(len(offs)), int(cost.argmin())))
        cost = np.minimum(cost, turned) + row
    at = int(cost.argmin())
    path = [at]
    for back in reversed(came):
        at = int(back[at])
        path.append(at)
    path.reverse()
    lies = [Lie(0, int(offs[path[0]]))]
    for n, k in enumerate(path):
        if offs[k] != lies[-1].off:
            lies.append(Lie(n, int(offs[k])))
    return tuple(lies)


def lie_words(lie: Lie, joins: Joins) -> str:
    """Return in a sentence how a list lies from a point on, empty where it lies right."""
    if not lie.off:
        return ""
    event = joins.joins[lie.first].event
    number = f"event {event.number}" if event is not None and event.number else "there"
    since = f"From {number} on" if lie.first else "All along"
    count = abs(lie.off)
    late = "late" if lie.off > 0 else "early"
    return f"{since} all is {count} frame{'' if count == 1 else 's'} {late}"


def rows_of(
    joins: Joins, source: Source, offset: int, lies: Sequence[Lie] = (Lie(0, 0),)
) -> tuple[JoinRow, ...]:
    """Return what list and film say of each join, in the film's order.

    ``lies`` move the list from point to point. Pairs within 12 frames are matched nearest first,
    each seam once; inside the span of a gradual one nothing is off.
    """
    seams = [s for s in counted_seams(source) if s.origin is not Origin.LISTED]
    starts = np.array([s.frame for s in seams], np.int64)
    places = [j.frame - offset - _off_at(n, lies) for n, j in enumerate(joins.joins)]
    pairs: list[tuple[int, int, int]] = []
    for n, frame in enumerate(places):
        low, high = np.searchsorted(starts, (frame - REACH - 60, frame + REACH + 61))
        for k in range(int(low), int(high)):
            off = frames_off(frame, seams[k])
            if abs(off) <= REACH:
                pairs.append((abs(off), n, k))
    of_join: dict[int, int] = {}
    of_seam: dict[int, int] = {}
    for _, n, k in sorted(pairs):
        if n not in of_join and k not in of_seam:
            of_join[n], of_seam[k] = k, n
    rows = []
    for n, (join, frame) in enumerate(zip(joins.joins, places, strict=True)):
        if n not in of_join:
            if source.start < frame < source.end:
                rows.append(JoinRow(Said.LISTED, join, frame, None))
            continue
        seam = seams[of_join[n]]
        off = frames_off(frame, seam)
        rows.append(JoinRow(Said.OFF if off else Said.AGREES, join, frame, seam, off))
    first = joins.first_frame - offset
    last = joins.last_frame - offset
    rows += [
        JoinRow(Said.FOUND, None, None, s)
        for k, s in enumerate(seams)
        if k not in of_seam and first < s.frame < last
    ]
    return tuple(sorted(rows, key=lambda r: r.at))


def _off_at(place: int, lies: Sequence[Lie]) -> int:
    return next((lie.off for lie in reversed(lies) if lie.first <= place), 0)


def take_list_side(project: Project, source_id: int, rows: Sequence[JoinRow]) -> Project:
    """Return a project in which the film is cut as the list says at some joins.

    What is off is rolled there, what only the list has is placed, what only the film has is
    struck, what agrees is kept.
    """
    for row in rows:
        if row.said is Said.LISTED and row.frame is not None and row.join is not None:
            gradual = spans(row.join.kind)
            span = row.join.end - row.join.start if gradual else 0
            kind = row.join.kind if span else Kind.CUT
            project = place_seam(project, source_id, row.frame, kind=kind, span=span)
        elif row.said is Said.OFF and row.frame is not None and row.seam is not None:
            project = roll_seam_to(project, source_id, row.seam.id, row.frame)
        elif row.seam is not None:
            verb = strike_seams if row.said is Said.FOUND else keep_seams
            project = verb(project, source_id, [row.seam.id])
    return project


def take_film_side(project: Project, source_id: int, rows: Sequence[JoinRow]) -> Project:
    """Return a project in which the seams that were found at some joins are kept."""
    return keep_seams(project, source_id, [r.seam.id for r in rows if r.seam is not None])
