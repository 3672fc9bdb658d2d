"""Shots, derived from seams: which seams count, and the stretches between them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import wraps
from operator import attrgetter, is_not
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.card import Card
from offcut.core.model.seam import Origin, Seam, Standing
from offcut.core.model.seam_arrays import SeamArrays, arrays_of
from offcut.core.model.source import Source, Zone

_R = TypeVar("_R")


_Carry = Callable[[_R, Source, list[int]], _R]


def _told_once(carry: _Carry[_R]) -> Callable[[Callable[[Source], _R]], Callable[[Source], _R]]:
    """Remember what a function told of the last few sources, by identity: they never change.

    Everything on screen asks the same of the same value. Where a source differs from one of them
    in cards alone, ``carry`` makes the answer of what was told, the source as it is now, and the
    places in ``seams`` that differ: naming one of thousands of shots works out nothing anew.
    """

    def telling(work_out: Callable[[Source], _R]) -> Callable[[Source], _R]:
        told: list[tuple[Source, _R]] = []

        @wraps(work_out)
        def asked(source: Source) -> _R:
            for known, result in tuple(told):
                if known is source:
                    return result
            for known, result in tuple(told):
                places = other_cards(known, source)
                if places is not None:
                    result = carry(result, source, places)
                    break
            else:
                result = work_out(source)
            told.insert(0, (source, result))
            del told[3:]
            return result

        return asked

    return telling


_FEW = 100


_compared: list[tuple[Source, Source, list[int] | None]] = []


def other_cards(before: Source, source: Source) -> list[int] | None:
    """Return where seams open a shot with another card, where nothing else of a source differs.

    None where something else does, or where they are many. A film's first card may be another, and
    its markers.
    """
    for one, other, places in tuple(_compared):
        if one is before and other is source:
            return places
    places = _other_cards(before, source)
    _compared.insert(0, (before, source, places))
    del _compared[6:]
    return places


def _other_cards(before: Source, source: Source) -> list[int] | None:
    if before.id != source.id or len(before.seams) != len(source.seams):
        return None
    if _without_cards(before) != _without_cards(source):
        return None
    many = len(source.seams)
    differ = np.fromiter(map(is_not, before.seams, source.seams), np.bool_, many)
    places: list[int] = np.flatnonzero(differ).tolist()
    if len(places) > _FEW:
        return None
    for place in places:
        was, now = before.seams[place], source.seams[place]
        if replace(was, opening=now.opening) != now:
            return None
    return places


def _without_cards(source: Source) -> tuple[object, ...]:
    return (
        source.media, source.ticket, source.framing, source.framed, source.start, source.end,
        source.sensitivity, source.zones,
    )  # fmt: skip


def _the_same(told: _R, _source: Source, _places: list[int]) -> _R:
    return told


def _seams_anew(told: tuple[Seam, ...], source: Source, places: list[int]) -> tuple[Seam, ...]:
    """Return seams in the order of frames, those that differ in their places."""
    made = list(told)
    for place in places:
        seam = source.seams[place]
        at = bisect_left(told, seam.frame, key=attrgetter("frame"))
        if at < len(told) and told[at].id == seam.id:
            made[at] = seam
    return tuple(made)


def _shots_anew(told: tuple[Shot, ...], source: Source, places: list[int]) -> tuple[Shot, ...]:
    made = list(told)
    for place in places:
        seam = source.seams[place]
        at = bisect_left(told, seam.frame, key=attrgetter("start"))
        opener = told[at].opened_by if at < len(told) else None
        if opener is not None and opener.id == seam.id:
            made[at] = told[at]._replace(card=seam.opening, opened_by=seam)
    if made and made[0].opened_by is None and made[0].card != source.first:
        made[0] = made[0]._replace(card=source.first)
    return tuple(made)


class Shot(NamedTuple):
    """From one counted seam to the next: frames [start, end), numbered from 1.

    ``opened_by`` is the seam at its start, None for the first shot of the range.
    """

    number: int
    start: int
    end: int
    card: Card
    opened_by: Seam | None

    @property
    def length(self) -> int:
        """Frames in the shot, at least 1."""
        return self.end - self.start

    @property
    def title(self) -> str:
        """Its name, or its number in words."""
        return self.card.name or f"Shot {self.number}"


def sensitivity_at(zones: Iterable[Zone], sensitivity: int, frame: int) -> int | None:
    """Return the sensitivity in force at a frame: the last zone over it, or the whole film's.

    None means the frame lies in a hushed zone.
    """
    in_force: int | None = sensitivity
    for zone in zones:
        if zone.start <= frame < zone.end:
            in_force = zone.sensitivity
    return in_force


def is_counted(seam: Seam, source: Source) -> bool:
    """Tell whether a seam opens a shot now.

    A kept one always, a struck one never; an open one when its score reaches 100 less the
    sensitivity in force at its frame. Placed and listed ones count until struck.
    """
    if seam.standing is Standing.KEPT:
        return True
    if seam.standing is Standing.STRUCK:
        return False
    if seam.origin is not Origin.FOUND:
        return True
    if not source.zones:
        return seam.score >= 100 - source.sensitivity
    here = sensitivity_at(source.zones, source.sensitivity, seam.frame)
    return here is not None and seam.score >= 100 - here


def _lines(source: Source, arrays: SeamArrays) -> NDArray[np.float64]:
    """Return for each seam the score an open one must reach to count, NaN where it is hushed."""
    if not source.zones:
        return np.full(len(arrays.frames), 100.0 - source.sensitivity)
    here = (sensitivity_at(source.zones, source.sensitivity, s.frame) for s in source.seams)
    lines = [np.nan if at is None else 100.0 - at for at in here]
    return np.array(lines, np.float64)


@_told_once(_the_same)
def counted_places(source: Source) -> NDArray[np.int64]:
    """Return where in ``source.seams`` those stand that open a shot inside the range, rising.

    They are those of `is_counted`, no two on one frame: of several the one a person judged
    stands for them, else the one with the highest score.
    """
    arrays = arrays_of(source.seams)
    given = arrays.kept | arrays.placed | arrays.listed
    counts = (given | (arrays.scores >= _lines(source, arrays))) & ~arrays.struck
    inside = (arrays.frames > source.start) & (arrays.frames < source.end)
    places = np.flatnonzero(counts & inside)
    # of one frame the judged come first, then the likeliest, and the first is taken
    order = np.lexsort(
        (places, -arrays.scores[places], ~arrays.judged[places], arrays.frames[places])
    )
    _, firsts = np.unique(arrays.frames[places][order], return_index=True)
    return places[order][firsts]


@_told_once(_seams_anew)
def counted_seams(source: Source) -> tuple[Seam, ...]:
    """Return the seams that open a shot inside the range, in order, no two on one frame."""
    return tuple(source.seams[place] for place in counted_places(source).tolist())


@_told_once(_the_same)
def counted_ids(source: Source) -> frozenset[int]:
    """Return the ids of the seams that open a shot inside the range."""
    return frozenset(s.id for s in counted_seams(source))


@_told_once(_shots_anew)
def shots_of(source: Source) -> tuple[Shot, ...]:
    """Return the shots, which tile the source's range without gap or overlap."""
    seams = counted_seams(source)
    starts = [source.start, *(s.frame for s in seams)]
    ends = [*starts[1:], source.end]
    openers: list[Seam | None] = [None, *seams]
    return tuple(
        Shot(number, start, end, opener.opening if opener else source.first, opener)
        for number, (start, end, opener) in enumerate(
            zip(starts, ends, openers, strict=True), start=1
        )
        if end > start
    )


def clean_span(shot: Shot, after: Shot | None) -> tuple[int, int]:
    """Return the frames [start, end) of a shot that no transition mixes with another's."""
    start = max(shot.start, shot.opened_by.end) if shot.opened_by else shot.start
    end = shot.end
    if after is not None and after.opened_by is not None:
        end = min(end, after.opened_by.start) if after.opened_by.gradual else end
    return (start, end) if start < end else (shot.start, shot.end)


def shot_lengths(source: Source) -> NDArray[np.int64]:
    """Return how many frames each shot has, int64, in order."""
    frames = arrays_of(source.seams).frames[counted_places(source)]
    lengths = np.diff(np.concatenate(([source.start], frames, [source.end])))
    return lengths[lengths > 0]


def shot_at(shots: Sequence[Shot], frame: int) -> Shot | None:
    """Return the shot that holds a frame, None outside all of them."""
    place = bisect_right(shots, frame, key=attrgetter("start")) - 1
    if place < 0 or frame >= shots[place].end:
        return None
    return shots[place]


def shot_opened_by(source: Source, seam_id: int) -> Shot | None:
    """Return the shot that a seam opens, the first one for 0; None where it opens none now."""
    for shot in shots_of(source):
        if (shot.opened_by.id if shot.opened_by else 0) == seam_id:
            return shot
    return None


DOUBTFUL_WITHIN = 49.8
"""Scores farther below where the line is drawn are not worth a look."""


def doubt_order(source: Source) -> tuple[Seam, ...]:
    """Return the seams worth a look, most doubtful first, those already judged last.

    An open seam is the more doubtful the nearer its score lies to where the present sensitivity
    draws the line, on either side: a faint one just under it is as likely an error as a counted
    one just over it. Faint ones far below the line are left out.
    """
    seams = source.seams
    return tuple([seams[place] for place in _doubt_places(source)[0]])


def to_judge(source: Source) -> int:
    """Return how many of `doubt_order` are still to judge: so many of its first."""
    return _doubt_places(source)[1]


@_told_once(_the_same)
def _doubt_places(source: Source) -> tuple[list[int], int]:
    arrays = arrays_of(source.seams)
    above = arrays.scores - _lines(source, arrays)
    inside = (arrays.frames > source.start) & (arrays.frames < source.end)
    judged = arrays.judged & inside
    far = above <= -DOUBTFUL_WITHIN
    far[counted_places(source)] = False
    open_ones = ~arrays.judged & inside & ~np.isnan(above) & ~far
    by_list = open_ones & arrays.listed
    doubt = np.where(by_list, 0.0, np.abs(above))  # a list says so, the picture does not
    doubted = np.flatnonzero(open_ones & (~arrays.listed | arrays.doubtful))
    doubted = doubted[np.lexsort((arrays.frames[doubted], doubt[doubted]))]
    given = np.flatnonzero(by_list & ~arrays.doubtful)
    order = np.concatenate((doubted, given, np.flatnonzero(judged)))
    return order.tolist(), len(doubted) + len(given)


@dataclass(frozen=True, slots=True)
class Counts:
    """How far the checking has come."""

    shots: int
    counted: int
    judged: int
    to_judge: int
    struck: int
    slivers: int


def counts_of(source: Source, sliver_frames: int) -> Counts:
    """Count shots, judged, struck and still doubtful seams, and shots under ``sliver_frames``."""
    shots = shots_of(source)
    counted = counted_places(source)
    arrays = arrays_of(source.seams)
    lengths = shot_lengths(source)
    return Counts(
        shots=len(shots),
        counted=len(counted),
        judged=int(arrays.judged.sum()),
        to_judge=int((arrays.doubtful & ~arrays.judged)[counted].sum()),
        struck=int(arrays.struck.sum()),
        slivers=int((lengths < sliver_frames).sum()),
    )


@dataclass(frozen=True, slots=True)
class Yield:
    """How many shots each sensitivity gives.

    ``shots[s]`` for s from 0 to 100; ``safe`` the flat stretches as inclusive pairs, widest
    first.
    """

    shots: tuple[int, ...]
    safe: tuple[tuple[int, int], ...]

    def steady_around(self, sensitivity: int) -> tuple[int, int] | None:
        """Return the safe stretch that holds a sensitivity, None when there is none."""
        return next((s for s in self.safe if s[0] <= sensitivity <= s[1]), None)


def yield_of(source: Source, *, width: int = 10, slack: float = 0.03) -> Yield:
    """Return the yield: shots for each sensitivity with all decisions as they are.

    A stretch is flat when over at least ``width`` points of sensitivity the number of shots
    moves by no more than ``slack`` of itself (at least one shot).
    """
    arrays = arrays_of(source.seams)
    frames = arrays.frames
    inside = (frames > source.start) & (frames < source.end) & ~arrays.struck
    given = inside & (arrays.kept | arrays.placed | arrays.listed)
    always = np.unique(frames[given])
    moved = inside & ~given & ~np.isin(frames, always)
    # what lies in a zone of its own does not move with the film's sensitivity
    apart = np.zeros(len(frames), np.bool_)
    for zone in source.zones:
        apart |= (frames >= zone.start) & (frames < zone.end)
    steps = np.bincount(
        np.clip(100 - arrays.scores[moved & ~apart].astype(np.int64), 0, 101), minlength=102
    )
    steps[0] += int((moved & apart & (arrays.scores >= _lines(source, arrays))).sum())
    shots: list[int] = []
    total = 1 + len(always)
    for step in steps[:101].tolist():
        total += step
        shots.append(total)
    return Yield(tuple(shots), _flat_stretches(shots, width, slack))


def _flat_stretches(shots: list[int], width: int, slack: float) -> tuple[tuple[int, int], ...]:
    found: list[tuple[int, int]] = []
    start = 1
    while start < 100:
        end = start
        allowed = max(1, int(shots[start] * slack))
        while end + 1 <= 99 and shots[end + 1] - shots[start] <= allowed:
            end += 1
        if end - start >= width and shots[start] > 1:
            found.append((start, end))
            start = end + 1
        else:
            start += 1
    return tuple(sorted(found, key=lambda s: s[0] - s[1]))
