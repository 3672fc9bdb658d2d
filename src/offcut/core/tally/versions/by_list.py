"""Versions told by lists: two cut lists, or a list and a film, where there are no pictures to ask.

Two lists are tied by what their events were made from: reel and source timecode. A list and a film
are tied by their places.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np

from offcut.core.lists.incoming import ReadEvent, ReadList, seen_events
from offcut.core.model.seam import Certainty, Reason
from offcut.core.tally.versions.changes import Change, Comparison, Span, What, in_order
from offcut.core.tally.versions.places import out_of_order
from offcut.core.timecode import rate_words

_ORDER = 0.01


def lists_compared(old: ReadList, new: ReadList) -> Comparison:
    """Return what became of every event of a list in another; frames count from each list's own
    first.
    """
    (olds, first_old), (news, first_new) = events_told(old), events_told(new)
    first = first_old, first_new
    ties = _tied(olds, news)
    rows: list[Change] = []
    for n, event in enumerate(news):
        span = (event.record_in - first[1], event.record_out - first[1])
        k = ties.get(n)
        if k is None:
            rows.append(Change(What.NEW, None, span))
        else:
            mate = olds[k]
            there = (mate.record_in - first[0], mate.record_out - first[0])
            rows.append(_change(mate, event, there, span))
    left = [
        (e.record_in - first[0], e.record_out - first[0])
        for k, e in enumerate(olds)
        if k not in set(ties.values())
    ]
    rows = with_others_in_place(rows, left)
    taken = {c.old for c in rows}
    gone = [Change(What.GONE, span, None) for span in left if span not in taken]
    rate = (f"it runs at {rate_words(new.rate)} instead of {rate_words(old.rate)}",)
    return Comparison(in_order(with_moves(rows), gone), rate if old.rate != new.rate else ())


def events_told(listed: ReadList) -> tuple[list[ReadEvent], int]:
    """Return the events of a list that changes are told of, and its first record frame."""
    events = [e for e in seen_events(listed.events) if not e.black]
    return events, events[0].record_in if events else 0


def _key(event: ReadEvent) -> str:
    name = event.reel if event.reel and event.reel.upper() not in ("AX", "BL") else event.clip
    return "".join(c for c in (name or event.reel).upper() if c.isalnum())


def _tied(olds: Sequence[ReadEvent], news: Sequence[ReadEvent]) -> dict[int, int]:
    """Return for new events which old one each was made from; the same one twice where it was
    split. Those that share most, and lie nearest to where they lay, come first.
    """
    by_reel: dict[str, list[int]] = defaultdict(list)
    for k, event in enumerate(olds):
        by_reel[_key(event)].append(k)
    pairs: list[tuple[float, int, int]] = []
    scale = len(olds) / max(1, len(news))
    for n, event in enumerate(news):
        for k in by_reel.get(_key(event), ())[:2000]:
            shared = _shared(olds[k], event)
            if shared > 0:
                share = shared / max(1, min(_length(olds[k]), _length(event)))
                pairs.append((share - _ORDER * abs(n * scale - k) / (1 + abs(n * scale - k)), n, k))
    ties: dict[int, int] = {}
    held: dict[int, list[ReadEvent]] = defaultdict(list)
    for _, n, k in sorted(pairs, key=lambda p: (-p[0], p[1])):
        if n in ties:
            continue
        if any(2 * _shared(other, news[n]) > _length(news[n]) for other in held[k]):
            continue  # a second use of the same pictures
        ties[n] = k
        held[k].append(news[n])
    return ties


def _length(event: ReadEvent) -> int:
    return event.source_out - event.source_in or event.length


def _shared(one: ReadEvent, other: ReadEvent) -> int:
    """Return how many frames of their source two events share; those that touch share one."""
    if one.source_out == one.source_in or other.source_out == other.source_in:
        return min(one.length, other.length)  # nothing is known of the source but its name
    return min(one.source_out, other.source_out) - max(one.source_in, other.source_in)


def _change(old: ReadEvent, new: ReadEvent, there: Span, here: Span) -> Change:
    speed = new.speed or old.speed
    known = old.source_out > old.source_in and new.source_out > new.source_in
    if not known:
        more = new.length - old.length
        what = What.SAME if not more else What.LONGER if more > 0 else What.SHORTER
        why = Reason("the list tells no source timecode, so by length alone", 0.5, True, "length")
        return Change(what, there, here, 0, more, certainty=Certainty.LIKELY, reasons=(why,))
    if new.speed != old.speed:
        more = new.length - old.length
        what = What.LONGER if more > 0 else What.SHORTER if more < 0 else What.OTHER
        times = abs(new.speed / old.speed) if old.speed and new.speed else speed
        return Change(what, there, here, speed=times)
    pace = abs(speed) if speed else Fraction(1)
    head = round((old.source_in - new.source_in) / pace)
    tail = round((new.source_out - old.source_out) / pace)
    if speed < 0:
        head, tail = tail, head
    return Change(_what(head, tail), there, here, head, tail, offset=there[0] + head - here[0])


def _what(head: int, tail: int) -> What:
    if not head and not tail:
        return What.SAME
    return What.LONGER if head + tail > 0 else What.SHORTER


def with_others_in_place(rows: Sequence[Change], left: Sequence[Span]) -> list[Change]:
    """Tie what is new to what is gone where that lay in the same place and was as long."""
    by_start = {s[0]: s for s in left}
    by_end = {s[1]: s for s in left}
    made = list(rows)
    for forward in (True, False):
        edge = 0 if forward else max((c.old[1] for c in rows if c.old), default=0)
        for n in range(len(made)) if forward else reversed(range(len(made))):
            change = made[n]
            if change.old is not None:
                edge = change.old[1] if forward else change.old[0]
                continue
            span = (by_start if forward else by_end).get(edge)
            assert change.new is not None
            if span and span[1] - span[0] == change.new[1] - change.new[0]:
                made[n] = replace(
                    change, what=What.OTHER, old=span, offset=span[0] - change.new[0],
                    certainty=Certainty.LIKELY,
                    reasons=(Reason("lies where that shot lay and is as long"),),
                )  # fmt: skip
                by_start.pop(span[0])
                by_end.pop(span[1])
                edge = span[1] if forward else span[0]
    return made


def with_moves(rows: Sequence[Change]) -> list[Change]:
    """Tell of each change whether it lies in another place among the others."""
    there = [n for n, c in enumerate(rows) if c.old and c.new]
    start = np.array([rows[n].old[0] for n in there], np.int64)  # type: ignore[index]
    frames = [rows[n].new[1] - rows[n].new[0] for n in there]  # type: ignore[index]
    moved = {there[k] for k in out_of_order(start, frames)}
    return [replace(c, moved=n in moved) for n, c in enumerate(rows)]


def places_compared(old: Sequence[Span], new: Sequence[Span]) -> Comparison:
    """Return what became of shots whose places alone are known, as of a list laid on a film: each
    is tied to the one it shares most frames with.
    """
    rows: list[Change] = []
    taken: set[Span] = set()
    k = 0
    for span in new:
        while k < len(old) and old[k][1] <= span[0]:
            k += 1
        near = [s for s in old[max(0, k - 1) : k + 50] if min(s[1], span[1]) > max(s[0], span[0])]
        best = max(near, key=lambda s: min(s[1], span[1]) - max(s[0], span[0]), default=None)
        if best is None or best in taken:
            rows.append(Change(What.NEW, None, span))
            continue
        taken.add(best)
        head, tail = best[0] - span[0], span[1] - best[1]
        rows.append(Change(_what(head, tail), best, span, head, tail, offset=0))
    gone = [Change(What.GONE, span, None) for span in old if span not in taken]
    return Comparison(in_order(rows, gone), ("a list has no pictures: told by place alone",))
