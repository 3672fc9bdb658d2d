"""CMX 3600 edit decision lists."""

from __future__ import annotations

import re
from pathlib import Path

from offcut.core.lists.events import EventList, write_text
from offcut.core.model.project import Kind
from offcut.core.timecode import base_of

_LINE = "{number:03d}  {reel:<8s} V     {how:<8s} {times}"


def edl_text(events: EventList) -> str:
    """Return the list as CMX 3600 text with CRLF line ends.

    Every shot is an event with a straight cut at its seam, so that source and record lengths
    agree event by event in any reader; how a gradual seam was joined stands in a comment. Markers
    become locators, a shot that does not run as shot a speed line.
    """
    lines = [
        f"TITLE: {_plain(events.title)[:70]}",
        f"FCM: {'DROP FRAME' if events.drop else 'NON-DROP FRAME'}",
        "",
    ]
    film = reel_from(events.clip)
    for event in events.events:
        reel = _reel(event.reel) or film
        times = " ".join(
            events.words(f)
            for f in (event.source_in, event.source_out, event.record_in, event.record_out)
        )
        lines.append(_LINE.format(number=event.number, reel=reel, how="C", times=times))
        if event.speed != 1:
            fps = float(event.speed * base_of(events.rate))
            shown = f"{'-' if fps < 0 else ''}{abs(fps):05.1f}"
            lines.append(f"M2   {reel:<8s} {shown:>11s}                {times.split()[0]}")
        lines.append(f"* FROM CLIP NAME: {_plain(event.name)}")
        if not event.reel:
            lines.append(f"* SOURCE FILE: {_plain(events.clip)}")
        if event.joined_by is not Kind.CUT:
            lines.append(f"* JOINED BY A {event.joined_by.value.upper()} OF {event.mixed} FRAMES")
        for marker in event.markers:
            at = events.words(event.record_in + marker.start - event.start)
            lines.append(f"* LOC: {at} YELLOW  {_plain(marker.name or marker.note)}".rstrip())
        if event.scene:
            lines.append(f"* SCENE: {_plain(event.scene)}")
        if event.note:
            lines.append(f"* COMMENT: {_plain(event.note)}")
    return "\r\n".join(lines) + "\r\n"


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
