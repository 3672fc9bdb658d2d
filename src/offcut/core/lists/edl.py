"""CMX 3600 edit decision lists."""

from __future__ import annotations

import re
from functools import partial
from pathlib import Path

from offcut.core.lists.events import Event, EventList, write_text
from offcut.core.model.project import Kind
from offcut.core.timecode import base_of

_LINE = "{number:03d}  {reel:<8s} V     {how:<8s} {times}"
_MIXES = {Kind.DISSOLVE: "D", Kind.FADE: "D", Kind.WIPE: "W001"}
BLACK = "BL"


def edl_text(events: EventList) -> str:
    """Return the list as CMX 3600 text with CRLF line ends.

    A shot of the film is an event with a straight cut at its seam: a mix is in its pictures
    already, and how long it is stands in a comment. Between originals a mix is made again: a
    dissolve or wipe with its two lines, a fade as a dissolve to black and one out of it. Markers
    become locators, a shot that does not run as shot a speed line.
    """
    lines = [
        f"TITLE: {_plain(events.title)[:70]}",
        f"FCM: {'DROP FRAME' if events.drop else 'NON-DROP FRAME'}",
        "",
    ]
    film = reel_from(events.clip)
    number = 0

    def line(reel: str, how: str, source: Event | None, *frames: int) -> str:
        words = partial(events.source_words, source) if source else events.words
        times = " ".join([*map(words, frames[:2]), *map(events.words, frames[2:])])
        return _LINE.format(number=number, reel=reel, how=how, times=times)

    for place, event in enumerate(events.events):
        reel, mix = _reel(event.reel) or film, event.mix
        after = events.events[place + 1].mix if place + 1 < len(events.events) else None
        source_out = after.left_at if after else event.source_out
        record_out = after.start if after else event.record_out
        number += 1
        if mix is None:
            times = (event.source_in, source_out, event.record_in, record_out)
            lines.append(line(reel, "C", event, *times))
        else:
            before = events.events[place - 1]
            left = _reel(before.reel) or film
            start, middle = mix.start, event.record_in
            lines.append(line(left, "C", before, mix.left_at, mix.left_at, start, start))
            times = (mix.source_in, source_out, start, record_out)
            from_clip = f"* FROM CLIP NAME: {_plain(before.name)}"
            if mix.kind is Kind.FADE:
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
        if mix is not None and mix.kind is not Kind.FADE:
            lines.append(from_clip)
        lines.append(f"* {'FROM' if mix is None else 'TO'} CLIP NAME: {_plain(event.name)}")
        if not event.reel:
            lines.append(f"* SOURCE FILE: {_plain(events.clip)}")
        if event.joined_by is not Kind.CUT and mix is None:
            lines.append(f"* JOINED BY A {event.joined_by.value.upper()} OF {event.mixed} FRAMES")
        lines += _said_of(events, event)
    return "\r\n".join(lines) + "\r\n"


def _said_of(events: EventList, event: Event) -> list[str]:
    """Return the comments of an event: its markers, scene, note, and what a list said of it."""
    lines = []
    for marker in event.markers:
        at = events.words(event.record_in + marker.start - event.start)
        lines.append(f"* LOC: {at} YELLOW  {_plain(marker.name or marker.note)}".rstrip())
    if event.scene:
        lines.append(f"* SCENE: {_plain(event.scene)}")
    if event.note:
        lines.append(f"* COMMENT: {_plain(event.note)}")
    return lines + [f"* {_plain(c)}" for c in event.comments]


def _mixed(kind: Kind, frames: int) -> str:
    return f"{_MIXES[kind]:<4s} {frames:03d}"


def reel_from(clip: str) -> str:
    """Return a reel name of at most eight characters that CMX 3600 allows, from a file name."""
    letters = re.sub(r"[^A-Z0-9]", "", Path(clip).stem.upper())
    return letters[:8] or "AX"


def _reel(reel: str) -> str:
    """Return a reel name as an EDL can hold it: no spaces, 32 characters at most."""
    return re.sub(r"\s+", "_", reel.strip())[:32]


def _plain(text: str) -> str:
    return " ".join(text.split())


def write_edl(events: EventList, path: str | Path) -> Path:
    """Write the list as an EDL. Raises ListError."""
    return write_text(path, edl_text(events))
