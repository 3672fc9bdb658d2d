"""Comparing two versions of a film: what became of each shot, told by their pictures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.seam import Certainty, Reason
from offcut.core.tally.sides import Side
from offcut.core.tally.versions.changes import Change, Comparison, What, in_order
from offcut.core.tally.versions.closer import Finely, looked_closer
from offcut.core.tally.versions.conversion import conversion_of
from offcut.core.tally.versions.known_noise import whitening_of
from offcut.core.tally.versions.overlay import Overlay, overlay_of
from offcut.core.tally.versions.pieces import Piece, pieces_of
from offcut.core.tally.versions.places import out_of_order
from offcut.core.tally.versions.ties import Noise, Tie, lay_at, ties_of
from offcut.core.timecode import rate_words

Floats = NDArray[np.float32]
Span = tuple[int, int]


def compared(old: Side, new: Side, finely: Finely | None = None) -> Comparison:
    """Return what became of every shot from the old version to the new one.

    ``finely`` has fine prints made of what is to be looked at closer, where one is framed
    otherwise.
    """
    overlay = overlay_of(old, new)
    facts = (*_facts(old, new), *overlay.facts)
    conversion = conversion_of(old, new, overlay)
    if conversion is None:
        return Comparison(_changes(old, new, overlay, finely), facts)
    changes = tuple(conversion.told(c) for c in _changes(conversion.side, new, overlay))
    facts = (f"{facts[0]}, with pictures repeated or left out", *facts[1:])
    return Comparison(changes, facts, old.rate / new.rate)


def _changes(
    old: Side, new: Side, overlay: Overlay, finely: Finely | None = None
) -> tuple[Change, ...]:
    olds, news = overlay.old(old.luma), overlay.new(new.luma)
    old_spans = [(a - old.start, b - old.start) for a, b in old.stretches]
    new_spans = [(a - new.start, b - new.start) for a, b in new.stretches]
    whitening = whitening_of(news, new_spans, olds, old_spans)
    if whitening is not None:
        olds, news = olds @ whitening, news @ whitening
    reframed = not overlay.reframing.plain
    found, noise = ties_of(
        news, new_spans, olds, old_spans, new_bounds=new.bounds - new.start,
        old_bounds=old.bounds - old.start, reframed=reframed,
    )  # fmt: skip
    ties = [((a + new.start, b + new.start), _of_films(t, old, new)) for (a, b), t in found]
    pieces = pieces_of(old, new, ties)
    if reframed and finely is not None:
        far = _FAR_APART * noise.apart
        ties = looked_closer(ties, pieces, old, overlay, far, finely)
        pieces = pieces_of(old, new, ties)
    pieces = _with_other_pictures(pieces, old, new)
    pieces = _with_same_after_all(pieces, old, new, olds, news)
    spans = [p.old for p in pieces if p.old]
    moved = _moved(pieces)
    parts = _part_differs(pieces, overlay, old, new)
    changes = [_change(piece, n in moved, noise, n in parts) for n, piece in enumerate(pieces)]
    gone = [Change(What.GONE, span, None) for span in _untied(old, spans)]
    return in_order(changes, gone)


def _of_films(tie: Tie | None, old: Side, new: Side) -> Tie | None:
    """Return a tie in frames of the films instead of places among the prints."""
    if tie is None:
        return None
    by = old.start - (new.start if tie.speed == 1 else 0)
    return replace(
        tie,
        new=(tie.new[0] + new.start, tie.new[1] + new.start),
        held=(tie.held[0] + new.start, tie.held[1] + new.start),
        offset=tie.offset + by, low=tie.low + by, high=tie.high + by,
    )  # fmt: skip


def _untied(old: Side, taken: Sequence[Span]) -> list[Span]:
    """Return the old version's shots of which nothing, or hardly a frame, is left."""
    length = old.end - old.start
    turns = np.zeros(length + 1, np.int64)
    for a, b in taken:
        turns[max(0, a - old.start)] += 1
        turns[min(length, max(0, b - old.start))] -= 1
    held = np.concatenate([[0], np.cumsum(np.cumsum(turns[:-1]) > 0)])
    return [
        (a, b)
        for a, b in old.shots
        if held[b - old.start] - held[a - old.start] <= min(2, (b - a) // 2)
    ]


def _with_other_pictures(pieces: list[Piece], old: Side, new: Side) -> list[Piece]:
    """Tie shots nothing is known of to those that lay in the same place and were as long."""
    made = list(pieces)
    loose = dict(zip(old.bounds.tolist(), old.loose.tolist(), strict=True))
    for forward in (True, False):
        places = range(len(made)) if forward else range(len(made) - 1, -1, -1)
        free = _untied(old, [p.old for p in made if p.old])
        by_start = {a: (a, b) for a, b in free}
        by_end = {b: (a, b) for a, b in free}
        edge = old.bounds[0] if forward else old.bounds[-1]
        for n in places:
            piece = made[n]
            if piece.old is not None:
                edge = piece.old[1] if forward else piece.old[0]
                continue
            shot = (by_start if forward else by_end).get(int(edge))
            if shot is None:
                continue
            length = piece.new[1] - piece.new[0]
            slack = loose.get(shot[0], 0) + loose.get(shot[1], 0)
            if abs(shot[1] - shot[0] - length) <= slack:
                made[n] = replace(piece, old=shot, offset=shot[0] - piece.new[0])
                edge = shot[1] if forward else shot[0]
    return made


_FAR = 2.5


def _with_same_after_all(
    pieces: Sequence[Piece], old: Side, new: Side, olds: Floats, news: Floats
) -> list[Piece]:
    """Tie shots that lie in the same place, are as long, and differ little more than the worst of
    those that are the same.
    """
    ties = [t for p in pieces for t in p.ties]
    line = _FAR * float(np.quantile([t.apart for t in ties], 0.95)) if ties else 0.0
    made = []
    for piece in pieces:
        now = piece
        if piece.old is not None and not piece.ties and piece.offset is not None:
            a = max(piece.new[0], old.start - piece.offset)
            b = min(piece.new[1], old.end - piece.offset)
            ones = news[a - new.start : b - new.start]
            others = olds[a + piece.offset - old.start : b + piece.offset - old.start]
            lay = lay_at(ones, others, piece.offset)
            if lay.apart < line and piece.new[1] - piece.new[0] == piece.old[1] - piece.old[0]:
                o = piece.offset
                tie = Tie(piece.new, piece.new, 0, o, lay.apart, lay.moving, o, o)
                now = replace(piece, ties=(tie,))
        made.append(now)
    return made


def _moved(pieces: Sequence[Piece]) -> set[int]:
    """Return which pieces lie in another place among the others than they did."""
    there = [n for n, p in enumerate(pieces) if p.old is not None]
    start = np.array([pieces[n].old[0] for n in there])  # type: ignore[index]
    frames = [pieces[n].new[1] - pieces[n].new[0] for n in there]
    return {there[k] for k in out_of_order(start, frames)}


def _change(piece: Piece, moved: bool, noise: Noise, part_differs: bool) -> Change:
    if piece.old is None:
        return Change(What.NEW, None, piece.new)
    if not piece.ties:
        return Change(
            What.OTHER, piece.old, piece.new, moved=moved, offset=piece.offset,
            certainty=Certainty.LIKELY,
            reasons=(Reason("lies where that shot lay, as long, and shows something else"),),
        )  # fmt: skip
    more = (piece.new[1] - piece.new[0]) - (piece.old[1] - piece.old[0])
    if piece.speed != 1:
        what = What.LONGER if more > 0 else What.SHORTER if more < 0 else What.OTHER
    elif piece.head or piece.tail:
        what = What.LONGER if piece.head + piece.tail > 0 else What.SHORTER
    else:
        what = What.SAME
    reasons: list[Reason] = []
    if piece.split:
        reasons.append(Reason("the old version has no seam there", code="split"))
    if piece.joined:
        reasons.append(Reason("the new version has no seam there", code="joined"))
    certainty = _certainty(piece, noise, reasons)
    if part_differs:
        what = What.OTHER if what is What.SAME else what
        reasons.append(Reason("a part of the picture shows something else", code="part"))
    return Change(
        what, piece.old, piece.new, piece.head, piece.tail, moved, certainty, tuple(reasons),
        piece.speed, piece.offset,
    )  # fmt: skip


def _certainty(piece: Piece, noise: Noise, reasons: list[Reason]) -> Certainty:
    """Return how sure a tie is, and say why it is not."""
    frames = [t.new[1] - t.new[0] for t in piece.ties]
    apart = float(np.average([t.apart for t in piece.ties], weights=frames))
    runner_up = min(t.runner_up for t in piece.ties)
    doubt = 0
    if apart > _FAR_APART * noise.apart:
        doubt += 1 + (apart > 120 * noise.apart)
        reasons.append(Reason("the pictures differ more than elsewhere", 0.4, True, "apart"))
    if runner_up < 3 * apart + 2 * noise.apart:
        doubt += 1
        reasons.append(Reason("another shot looks as much like it", 0.5, True, "runner-up"))
    still = any(t.high - t.low > 1 for t in piece.ties)
    if still and (piece.head or piece.tail):
        doubt += 1
        reasons.append(
            Reason("the picture stands still, so the frame cannot be told", 0.5, True, "still")
        )
    return (Certainty.SURE, Certainty.LIKELY, Certainty.DOUBTFUL)[min(2, doubt)]


_FAR_APART = 25
"""Ties are in doubt that are so many times farther apart than is usual."""
_BEYOND = 1.5
"""A part of the picture shows something else where it differs so many times more than what nine of
ten shots do."""


def _part_differs(pieces: Sequence[Piece], overlay: Overlay, old: Side, new: Side) -> set[int]:
    """Return which pieces show something else in a part of the picture, as a finished effect."""
    held = {n: means for n, p in enumerate(pieces) if (means := _means(p, old, new)) is not None}
    if not held:
        return set()
    gaps = overlay.local_gaps(*(np.stack([m[k] for m in held.values()]) for k in (0, 1)))
    line = max(1.0, _BEYOND * float(np.quantile(gaps, 0.9)))
    return {n for n, gap in zip(held, gaps.tolist(), strict=True) if gap > line}


def _means(piece: Piece, old: Side, new: Side) -> tuple[Floats, Floats] | None:
    """Return the mean prints of a shot in both versions, None where too little is in both."""
    if not piece.ties or piece.speed != 1 or piece.offset is None:
        return None
    a = max(piece.new[0], piece.ties[0].held[0])
    b = min(piece.new[1], piece.ties[-1].held[1])
    if b - a < 3:
        return None
    frames = np.linspace(a, b - 1, min(12, b - a)).astype(np.int64)
    return (
        old.luma[frames + piece.offset - old.start].mean(axis=0),
        new.luma[frames - new.start].mean(axis=0),
    )


def _facts(old: Side, new: Side) -> tuple[str, ...]:
    if old.rate == new.rate:
        return ()
    return (f"it runs at {rate_words(new.rate)} instead of {rate_words(old.rate)}",)
