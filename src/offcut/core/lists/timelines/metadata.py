"""What the metadata of a timeline says, in the places that OTIO, XML and AAF have for it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from typing import Any

from offcut.core.errors import TimecodeError
from offcut.core.lists.incoming import COMMENTS_KEPT, ReadEvent, harmless_line
from offcut.core.lists.marker_colours import nearest_colour
from offcut.core.model.source import MarkerColour
from offcut.core.timecode import Rate, rate_from


def text_in(value: Any) -> str:
    """Return a text of the file on one line, harmless; empty for what is none."""
    return harmless_line(" ".join(value.split())) if isinstance(value, str) else ""


def part_of(metadata: Any, *names: str) -> Mapping[str, Any]:
    """Return a part of metadata, empty where it is not there or is no object."""
    for name in names:
        held = metadata.get(name) if hasattr(metadata, "get") else None
        if not hasattr(held, "get"):
            return {}
        metadata = held
    found: Mapping[str, Any] = metadata
    return found


def remapped(parameters: Any) -> Fraction:
    """Return the speed that the parameters of a time remap tell, in hundredths of as shot.

    Who writes nothing but a small speed means it in whole (seen in files, no published source).
    """
    alone = hasattr(parameters, "get")
    speed, turned = Fraction(1), False
    for told in [parameters] if alone else list(parameters or ()):
        name, value = text_in(told.get("parameterid")), str(told.get("value", ""))[:20]
        if name == "speed":
            speed = Fraction(value)
            speed = speed if alone and abs(speed) < _SMALL else speed / 100
        elif name == "reverse":
            turned = value.upper() == "TRUE"
    return -speed if turned and speed > 0 else speed.limit_denominator(10_000)


_SMALL = 10


def note_of(marker: Any) -> str:
    return text_in(part_of(marker.metadata, "offcut").get("note")) or text_in(
        part_of(marker.metadata, "fcp_xml").get("comment")
    )


def colour_of(marker: Any, form: str) -> MarkerColour:
    told = part_of(marker.metadata, "offcut").get("colour")
    if told is None and form == "xml":
        shades = part_of(marker.metadata, "fcp_xml", "color")
        levels = [int(shades.get(n, -1)) for n in ("red", "green", "blue")] if shades else [-1]
        told = nearest_colour(*levels) if min(levels) >= 0 else MarkerColour.NONE
    elif told is None:
        told = getattr(marker, "color", "")
    try:
        return MarkerColour(str(told).lower())
    except ValueError:
        return MarkerColour.NONE


def rate_told(timeline: Any) -> Rate | None:
    """Return the rate a timeline runs at: that of its start, or else of its first clip."""
    try:
        start = timeline.global_start_time
        told = start.rate if start is not None else None
        if told is None:
            first = next(iter(timeline.find_clips()), None)
            span = first.source_range if first is not None else None
            told = span.duration.rate if span is not None else None
        return rate_from(float(told)) if told and told > 1 else None
    except (TimecodeError, AttributeError, ValueError):
        return None


def with_original(event: ReadEvent, told: Any) -> ReadEvent:
    """Return an event with the original that Offcut wrote of it; itself where there is none."""
    try:
        first, last, speed = int(told["in"]), int(told["out"]), Fraction(str(told["speed"])[:40])
        if last <= first or abs(speed) > 1000:
            return event
        return replace(
            event,
            reel=str(told["reel"]),
            source_in=first,
            source_out=last,
            drop=bool(told["drop"]),
            speed=speed,
            comments=tuple(text_in(c) for c in list(told["comments"])[:COMMENTS_KEPT]),
        )
    except (KeyError, TypeError, ValueError, ZeroDivisionError, OverflowError):
        return event
