"""Joins: where the picture changes by a cut list."""

from __future__ import annotations

from dataclasses import dataclass, replace

from offcut.core.lists.incoming import ReadEvent, ReadList, seen_events
from offcut.core.model.seam import Kind


@dataclass(frozen=True, slots=True)
class Join:
    """Where the list joins two shots: record ``frame``, span [start, end), and the event it opens.

    ``frame`` is the first of the list's later shot, for a gradual one the middle of its span.
    """

    frame: int
    start: int
    end: int
    kind: Kind
    event: ReadEvent | None


@dataclass(frozen=True)
class Joins:
    """A list made ready for cutting: the event that opens the film, and the joins after it."""

    first: ReadEvent | None
    first_frame: int
    joins: tuple[Join, ...]
    last_frame: int


def joins_of(listed: ReadList) -> Joins:
    """Return where the picture changes by a list; nothing where it only has markers.

    A mix into black and out of it again is one fade over both; where a list leaves a gap, the
    gap opens a shot of its own that no event names.
    """
    events = seen_events(listed.events)
    joins: list[Join] = []
    if not events:
        return Joins(None, 0, (), 0)
    at = events[0].record_in
    fading: int | None = None
    for place, event in enumerate(events):
        if place and event.record_in > at:
            joins.append(Join(at, at, at, Kind.CUT, None))
        before = events[place - 1] if place else None
        gradual = event.mix_out > event.mix_in
        after_black = before is not None and before.black
        if event.black and gradual and place:
            fading = event.mix_in  # the fade goes on into what comes out of the black
        elif fading is not None and after_black:
            end = event.mix_out if gradual else event.record_in
            joins.append(_gradual(fading, end, Kind.FADE, event))
            fading = None
        elif place and gradual:
            kind = Kind.FADE if after_black else event.kind
            start = event.mix_in
            if after_black and joins and joins[-1].event is before:
                start = joins.pop().start  # cut to black, then faded in
            joins.append(_gradual(start, event.mix_out, kind, event))
        elif place:
            joins.append(Join(event.record_in, event.record_in, event.record_in, Kind.CUT, event))
        at = max(at, event.record_out)
    return Joins(events[0], events[0].record_in, tuple(_in_order(joins)), at)


def _in_order(joins: list[Join]) -> list[Join]:
    """Return joins in the order of their frames, no two at one, each span clear of its neighbours.

    A list may lay events over one another, and mix longer than a shot is.
    """
    order: list[Join] = []
    for join in sorted(joins, key=lambda j: (j.frame, j.end - j.start)):
        if order and order[-1].frame == join.frame:
            order[-1] = join if join.event is not None else order[-1]
        else:
            order.append(join)
    for n, join in enumerate(order):
        if join.end > join.start:
            before = order[n - 1].frame if n else join.start
            after = order[n + 1].frame if n + 1 < len(order) else join.end
            start, end = max(join.start, before), min(join.end, after)
            order[n] = replace(join, start=min(start, join.frame), end=max(end, join.frame))
    return order


def _gradual(start: int, end: int, kind: Kind, event: ReadEvent) -> Join:
    if end <= start:
        return Join(start, start, start, Kind.CUT, event)
    return Join((start + end) // 2, start, end, kind, event)
