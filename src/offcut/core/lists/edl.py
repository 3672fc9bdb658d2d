"""CMX 3600 edit decision lists."""

from __future__ import annotations

import re
from pathlib import Path

from offcut.core.lists.events import EventList, write_text
from offcut.core.model.project import Kind

_LINE = "{number:03d}  {reel:<8s} V     {how:<8s} {times}"


def edl_text(events: EventList) -> str:
    """Return the list as CMX 3600 text with CRLF line ends.

    Every shot is an event with a straight cut at its seam, so that source and record lengths
    agree event by event in any reader; how a gradual seam was joined stands in a comment.
    """
    lines = [
        f"TITLE: {_plain(events.title)[:70]}",
        f"FCM: {'DROP FRAME' if events.drop else 'NON-DROP FRAME'}",
        "",
    ]
    reel = reel_from(events.clip)
    for event in events.events:
        times = " ".join(
            events.words(f)
            for f in (event.source_in, event.source_out, event.record_in, event.record_out)
        )
        lines.append(_LINE.format(number=event.number, reel=reel, how="C", times=times))
        lines.append(f"* FROM CLIP NAME: {_plain(event.name)}")
        lines.append(f"* SOURCE FILE: {_plain(events.clip)}")
        if event.joined_by is not Kind.CUT:
            lines.append(f"* JOINED BY A {event.joined_by.value.upper()} OF {event.mixed} FRAMES")
        if event.note:
            lines.append(f"* COMMENT: {_plain(event.note)}")
    return "\r\n".join(lines) + "\r\n"


def reel_from(clip: str) -> str:
    """Return a reel name of at most eight characters that CMX 3600 allows, from a file name."""
    letters = re.sub(r"[^A-Z0-9]", "", Path(clip).stem.upper())
    return letters[:8] or "AX"


def _plain(text: str) -> str:
    return " ".join(text.split())


def write_edl(events: EventList, path: str | Path) -> Path:
    """Write the list as an EDL. Raises ListError."""
    return write_text(path, edl_text(events))
