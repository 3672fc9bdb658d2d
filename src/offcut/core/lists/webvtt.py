"""Captions in WebVTT."""

from __future__ import annotations

from pathlib import Path

from offcut.core.lists.chapter_times import Chapter, chapters_of, clock
from offcut.core.lists.outgoing import EventList, write_list
from offcut.core.words import printable


def webvtt_text(events: EventList) -> str:
    """Return the shots as WebVTT cues (W3C): number, name, note."""

    def cue(chapter: Chapter) -> str:
        event, start, end = chapter
        words = "\n".join(
            " ".join(printable(w).split()).replace("&", "&amp;").replace("<", "&lt;")
            for w in (event.name, event.note)
            if w
        ).replace("-->", "→")
        times = " --> ".join(clock(f, events.rate, 3) for f in (start, end))
        return f"{event.number}\n{times}\n{words}\n"

    return "WEBVTT\n\n" + "\n".join(cue(c) for c in chapters_of(events))


def write_webvtt(events: EventList, path: str | Path) -> Path:
    """Write WebVTT. Raises ListError."""
    return write_list(path, webvtt_text(events))
