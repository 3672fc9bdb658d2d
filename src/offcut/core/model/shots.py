"""Shots, derived from seams: which seams count, and the stretches between them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import wraps
from operator import attrgetter
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.card import Card
from offcut.core.model.seam import Origin, Seam, Standing
from offcut.core.model.seam_arrays import SeamArrays, arrays_of
from offcut.core.model.source import Source, Zone

_R = TypeVar("_R")


def _told_once(work_out: Callable[[Source], _R]) -> Callable[[Source], _R]:
    """Remember what a function told of the last few sources, by identity: they never change.

    Everything on screen asks the same of the same value.
    """
    told: list[tuple[Source, _R]] = []

    @wraps(work_out)
    def asked(source: Source) -> _R:
        for known, result in tuple(told):
            if known is source:
                return result
        result = work_out(source)
        told.insert(0, (source, result))
        del told[3:]
        return result

    return asked


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


@_told_once
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


@_told_once
def counted_seams(source: Source) -> tuple[Seam, ...]:
    """Return the seams that open a shot inside the range, in order, no two on one frame."""
    return tuple(source.seams[place] for place in counted_places(source).tolist())


@_told_once
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


def doubt_order(source: Source, *, faint_within: float = 49.8) -> tuple[Seam, ...]:
    """Return the seams worth a look, most doubtful first, those already judged last.

    An open seam is the more doubtful the nearer its score lies to where the present sensitivity
    draws the line, on either side: a faint one just under it is as likely an error as a counted
    one just over it. Faint ones farther than ``faint_within`` below the line are left out.
    """
    arrays = arrays_of(source.seams)
    above = arrays.scores - _lines(source, arrays)
    inside = (arrays.frames > source.start) & (arrays.frames < source.end)
    judged = arrays.judged & inside
    far = above <= -faint_within
    far[counted_places(source)] = False
    open_ones = ~arrays.judged & inside & ~np.isnan(above) & ~far
    by_list = open_ones & arrays.listed
    doubt = np.where(by_list, 0.0, np.abs(above))  # a list says so, the picture does not
    doubted = np.flatnonzero(open_ones & (~arrays.listed | arrays.doubtful))
    doubted = doubted[np.lexsort((arrays.frames[doubted], doubt[doubted]))]
    given = np.flatnonzero(by_list & ~arrays.doubtful)
    order = np.concatenate((doubted, given, np.flatnonzero(judged)))
    return tuple(source.seams[place] for place in order.tolist())


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
    lengths = np.diff([source.start, *arrays.frames[counted].tolist(), source.end])
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
