"""CMX 3600 edit decision lists, written by the book."""

from __future__ import annotations

import re
from functools import partial
from pathlib import Path

from offcut.core.lists.edl.words import BLACK, MARKED_FOR, RATE_COMMENT
from offcut.core.lists.marker_colours import USUAL_COLOUR
from offcut.core.lists.outgoing import Event, EventList, write_list
from offcut.core.model.kinds import KINDS, spans
from offcut.core.model.seam import Kind
from offcut.core.model.source import Marker
from offcut.core.timecode import base_of, rate_words

_LINE = "{number:03d}  {reel:<8s} V     {how:<8s} {times}"


def edl_text(events: EventList) -> str:
    """Return the list as CMX 3600 text with CRLF line ends.

    A shot of the film is an event with a straight cut at its seam: a mix is in its pictures
    already, and how long it is stands in a comment. Between originals a mix is made again: a
    dissolve or wipe with its two lines, a fade as a dissolve to black and one out of it. Markers
    become locators, a shot that does not run as shot a speed line.
    """
    lines = [
        f"TITLE: {plain(events.title)[:70]}",
        f"FCM: {'DROP FRAME' if events.drop else 'NON-DROP FRAME'}",
        "",
    ]
    films = reels_of(events)
    number = 0

    def line(reel: str, how: str, source: Event | None, *frames: int) -> str:
        words = partial(events.source_words, source) if source else events.words
        times = " ".join([*map(words, frames[:2]), *map(events.words, frames[2:])])
        return _LINE.format(number=number, reel=reel, how=how, times=times)

    for place, event in enumerate(events.events):
        reel, mix = _reel(event.reel) or films[event.film.path], event.mix
        after = events.events[place + 1].mix if place + 1 < len(events.events) else None
        source_out = after.left_at if after else event.source_out
        record_out = after.start if after else event.record_out
        number += 1
        if mix is None:
            times = (event.source_in, source_out, event.record_in, record_out)
            lines.append(line(reel, "C", event, *times))
        else:
            before = events.events[place - 1]
            left = _reel(before.reel) or films[before.film.path]
            start, middle = mix.start, event.record_in
            lines.append(line(left, "C", before, mix.left_at, mix.left_at, start, start))
            times = (mix.source_in, source_out, start, record_out)
            from_clip = f"* FROM CLIP NAME: {plain(before.name)}"
            if KINDS[mix.kind].through_black:
                dark = middle - start
                lines.append(line(BLACK, _mixed(mix.kind, dark), None, 0, dark, start, middle))
                lines.append(from_clip)
                number += 1
                lines.append(line(BLACK, "C", None, dark, dark, middle, middle))
                times = (event.source_in, source_out, middle, record_out)
                start = middle
            lines.append(line(reel, _mixed(mix.kind, mix.end - start), event, *times))
        if event.speed != 1:
            fps = float(event.speed * base_of(events.rate))
            shown = f"{'-' if fps < 0 else ''}{abs(fps):05.1f}"
            at = events.source_words(event, times[0])
            lines.append(f"M2   {reel:<8s} {shown:>11s}                {at}")
        if mix is not None and not KINDS[mix.kind].through_black:
            lines.append(from_clip)
        lines.append(f"* {'FROM' if mix is None else 'TO'} CLIP NAME: {plain(event.name)}")
        if not event.reel:
            lines.append(f"* SOURCE FILE: {plain(event.film.name)}")
        if spans(event.joined_by) and (mix is None or KINDS[mix.kind].told):
            lines.append(f"* JOINED BY A {event.joined_by.value.upper()} OF {event.mixed} FRAMES")
        lines += _said_of(events, event)
        if not place:  # some readers take no comment before the first event
            lines.append(f"* {RATE_COMMENT} {rate_words(events.rate)}")
    return "\r\n".join(lines) + "\r\n"


def _said_of(events: EventList, event: Event) -> list[str]:
    """Return the comments of an event: its markers, scene, note, and what a list said of it."""
    lines = []
    for marker in event.markers:
        at = events.words(event.record_in + marker.start - event.start)
        lines += locator_lines(at, marker)
    if event.scene:
        lines.append(f"* SCENE: {plain(event.scene)}")
    if event.note:
        lines.append(f"* COMMENT: {plain(event.note)}")
    return lines + [f"* {plain(c)}" for c in event.comments]


def locator_lines(at: str, marker: Marker) -> list[str]:
    """Return the lines of a locator at a timecode: its colour and words, and what it marks."""
    colour = marker.colour.value.upper() or USUAL_COLOUR
    lines = [f"* LOC: {at} {colour:<7s} {plain(marker.name or marker.note)}".rstrip()]
    if not marker.point:
        lines.append(f"* {MARKED_FOR}{marker.end - marker.start} FRAMES")
    return lines


def _mixed(kind: Kind, frames: int) -> str:
    return f"{KINDS[kind].edl:<4s} {frames:03d}"


def reels_of(events: EventList) -> dict[str, str]:
    """Return a reel name for each film, by its path; no two the same."""
    reels: dict[str, str] = {}
    for event in events.events:
        if event.film.path in reels:
            continue
        reel, number = reel_from(event.film.reel or event.film.name), 1
        while reel in reels.values():
            number += 1
            reel = (
                f"{reel_from(event.film.reel or event.film.name)[: 8 - len(str(number))]}{number}"
            )
        reels[event.film.path] = reel
    return reels


def reel_from(clip: str) -> str:
    """Return a reel name of at most eight characters that CMX 3600 allows, from a file name."""
    letters = re.sub(r"[^A-Z0-9]", "", Path(clip).stem.upper())
    return letters[:8] or "AX"


def _reel(reel: str) -> str:
    """Return a reel name as an EDL can hold it: no spaces, 32 characters at most."""
    return re.sub(r"\s+", "_", reel.strip())[:32]


def plain(text: str) -> str:
    """Return a text on one line."""
    return " ".join(text.split())


def write_edl(events: EventList, path: str | Path) -> Path:
    """Write the list as an EDL. Raises ListError."""
    return write_list(path, edl_text(events))
