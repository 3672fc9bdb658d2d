"""Pieces: ties put together to whole shots of both versions, whichever of them a seam is missed in.

Ties that go on at the same offset are one run. In a run both versions show the same, so a seam
that is seen in one of them is a seam of both, and nothing was taken off there; only at its
ends can a shot be shorter or longer.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from offcut.core.tally.sides import Side
from offcut.core.tally.versions.ties import Tie

Span = tuple[int, int]
_NEAR = 1


@dataclass(frozen=True, slots=True)
class Piece:
    """A shot of the new version and, where it has one, that of the old one; in frames of the films.

    ``ties`` are what it is made of, none for a shot that was not there; ``split`` says that
    the old version has no seam where this shot begins or ends, ``joined`` that the new one
    has none.
    """

    new: Span
    old: Span | None
    head: int = 0
    tail: int = 0
    offset: int | None = None
    speed: Fraction = Fraction(1)
    ties: tuple[Tie, ...] = ()
    split: bool = False
    joined: bool = False


class _Bounds:
    """Where shots of one side begin and end, the faint seams apart."""

    def __init__(self, side: Side) -> None:
        self.counted = side.bounds.tolist()
        self.loose = dict(zip(self.counted, side.loose.tolist(), strict=True))
        self.faint = side.faint.tolist()

    def near(self, frame: int, *, faint: bool = False, reach: int = _NEAR) -> int | None:
        """Return the bound nearest a frame, None where none is near."""
        best: int | None = None
        for bounds in (self.counted, *([self.faint] if faint else ())):
            k = bisect_right(bounds, frame)
            for at in bounds[max(0, k - 1) : k + 1]:
                near = abs(at - frame) <= reach + self.loose.get(at, 0)
                if near and (best is None or abs(at - frame) < abs(best - frame)):
                    best = at
            if best is not None:
                return best
        return None

    def is_about(self, bound: int, frames: Sequence[int]) -> bool:
        """Tell whether a gradual seam may as well lie at one of some frames."""
        return any(0 < abs(bound - f) <= self.loose.get(bound, 0) for f in frames)

    def unless_about(self, bound: int, frames: int) -> int:
        """Return a number of frames off a bound, 0 where its seam is no surer than that."""
        return 0 if abs(frames) <= self.loose.get(bound, 0) else frames

    def around(self, frame: int) -> Span:
        """Return the shot that holds a frame."""
        k = min(len(self.counted) - 1, max(1, bisect_right(self.counted, frame)))
        return self.counted[k - 1], self.counted[k]

    def inside(self, start: int, end: int) -> list[int]:
        """Return the bounds inside a stretch, its ends not among them."""
        return [b for b in self.counted if start < b < end]


def pieces_of(old: Side, new: Side, ties: Sequence[tuple[Span, Tie | None]]) -> list[Piece]:
    """Return the shots of the new version in order, with what ties tie them to.

    Stretches and ties are in frames of the new film, their offsets lead to frames of the old one.
    """
    olds, news = _Bounds(old), _Bounds(new)
    runs = _runs(ties, olds, news)
    pieces: list[Piece] = []
    for span, held in runs:
        if not held:
            cuts = [span[0], *news.inside(*span), span[1]]
            pieces += [Piece((a, b), None) for a, b in pairwise(cuts)]
        elif held[0].speed != 1:
            pieces.append(_at_speed(span, held, olds))
        else:
            pieces += _of_run(span, held, olds, news)
    return pieces


def _runs(
    ties: Sequence[tuple[Span, Tie | None]], olds: _Bounds, news: _Bounds
) -> list[tuple[Span, tuple[Tie, ...]]]:
    """Put stretches together that go on at one offset.

    What nothing is known of goes with what it adjoins inside a shot: it is more of the same. A
    faint seam is one where the old version has a seam there.
    """
    runs: list[tuple[Span, tuple[Tie, ...]]] = []
    counted = set(news.counted)
    faint = set(news.faint)
    for span, tie in ties:
        if runs:
            before, held = runs[-1]
            goes_on = (
                tie is not None and bool(held) and held[-1].offset == tie.offset
                and held[-1].speed == tie.speed == 1
            )  # fmt: skip
            seam = span[0] in counted or (
                span[0] in faint
                and bool(held)
                and olds.near(span[0] + held[-1].offset, faint=True) is not None
            )
            more = not seam and (tie is None or not held)
            if goes_on or more:
                runs[-1] = ((before[0], span[1]), (*held, *((tie,) if tie else ())))
                continue
        runs.append((span, (tie,) if tie is not None else ()))
    return runs


def _at_speed(span: Span, held: tuple[Tie, ...], olds: _Bounds) -> Piece:
    tie = held[0]
    last = tie.offset + round((span[1] - span[0] - 1) * tie.speed)
    middle = (tie.offset + last) // 2
    return Piece(span, olds.around(middle), offset=tie.offset, speed=tie.speed, ties=held)


def _of_run(span: Span, held: tuple[Tie, ...], olds: _Bounds, news: _Bounds) -> list[Piece]:
    """Cut a run at the seams that either version has."""
    start, end = span
    offset = held[0].offset
    # what the ties hold: beyond it the new version may show more than the old one had
    first, last = held[0].held[0], held[-1].held[1]
    cuts: dict[int, tuple[int, bool, bool]] = {}  # new frame: old frame, missing in old, in new
    mates: dict[int, int] = {}
    for at in (start, end):
        mate = olds.near(at + offset, faint=False)
        if mate is not None:
            mates[mate] = at
    for at in news.inside(start, end):
        mate = olds.near(at + offset, faint=False)
        if mate is None:
            cuts[at] = (at + offset, True, False)
        elif mate not in mates or abs(at + offset - mate) < abs(mates[mate] + offset - mate):
            mates[mate] = at  # of several about one gradual seam the nearest is that seam
    inside = {at: mate for mate, at in mates.items() if start < at < end}
    cuts |= {at: (mate, False, False) for at, mate in inside.items()}
    for at in olds.inside(first + offset, last + offset):
        if at in mates:
            continue
        mate = news.near(at - offset, faint=False)
        if mate in (start, end) or olds.is_about(at, (start + offset, end + offset)):
            continue
        if mate is None or mate not in cuts:
            cuts.setdefault(at - offset, (at, False, mate is None))
    edges = sorted(cuts)
    starts = [start, *edges]
    ends = [*edges, end]
    pieces = []
    for k, (a, b) in enumerate(zip(starts, ends, strict=True)):
        ties = tuple(t for t in held if t.new[0] < b and t.new[1] > a)
        shot = olds.around((max(a, first) + min(b, last)) // 2 + offset)
        head = tail = 0
        split = joined = False
        low, high = shot
        if k:
            low, split, joined = cuts[a]
        else:
            low = _edge((a + offset, first + offset), low, olds)
            head = olds.unless_about(low, low - offset - a)
        if k + 1 < len(starts):
            high, missing, unseen = cuts[b]
            split, joined = split or missing, joined or unseen
        else:
            high = _edge((b + offset, last + offset), high, olds)
            tail = olds.unless_about(high, b - (high - offset))
        pieces.append(
            Piece((a, b), (low, high), head, tail, offset, ties=ties, split=split, joined=joined)
        )
    return pieces


def _edge(ends: tuple[int, int], bound: int, olds: _Bounds) -> int:
    """Return where the old shot begins or ends: at a faint seam that lies to the frame where the
    new one does, or where what both show does; else at its own bound.
    """
    if bound in ends:
        return bound
    return next((end for end in ends if end in olds.faint), bound)
