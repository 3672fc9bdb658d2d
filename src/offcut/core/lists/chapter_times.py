"""When chapters and captions are shown: from the film's first frame on, at its even rate."""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple

from offcut.core.lists.outgoing import Event, EventList
from offcut.core.timecode import Rate


class Chapter(NamedTuple):
    """An event with the frames [start, end) at which it is seen."""

    event: Event
    start: int
    end: int


def chapters_of(events: EventList) -> list[Chapter]:
    """Return the events in rising order of time.

    Those of one film are timed by it; those of several by where they lie after one another.
    """
    if events.one_film:
        found = [Chapter(e, e.start, e.start + e.length) for e in events.events]
        return sorted(found, key=lambda c: c.start)
    first = events.events[0].record_in
    return [Chapter(e, e.record_in - first, e.record_out - first) for e in events.events]


def clock(frame: int, rate: Rate, digits: int) -> str:
    """Return when a frame is shown at an even rate, as HH:MM:SS with so many digits of a second."""
    ticks = round(Fraction(frame) / rate * 10**digits)
    seconds, rest = divmod(ticks, 10**digits)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}.{rest:0{digits}d}"
