"""Chapters in Matroska's XML."""

from __future__ import annotations

from pathlib import Path
from xml.sax.saxutils import escape

from offcut.core.lists.chapter_times import chapters_of, clock
from offcut.core.lists.outgoing import EventList, write_list
from offcut.core.words import printable


def matroska_text(events: EventList) -> str:
    """Return the shots as Matroska's chapter XML, times to the nanosecond."""
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<!DOCTYPE Chapters SYSTEM "matroskachapters.dtd">',
        "<Chapters>",
        "  <EditionEntry>",
    ]
    for event, start, end in chapters_of(events):
        lines += [
            "    <ChapterAtom>",
            f"      <ChapterUID>{event.number}</ChapterUID>",
            f"      <ChapterTimeStart>{clock(start, events.rate, 9)}</ChapterTimeStart>",
            f"      <ChapterTimeEnd>{clock(end, events.rate, 9)}</ChapterTimeEnd>",
            "      <ChapterDisplay>",
            f"        <ChapterString>{escape(printable(event.name))}</ChapterString>",
            "        <ChapterLanguage>und</ChapterLanguage>",
            "      </ChapterDisplay>",
            "    </ChapterAtom>",
        ]
    return "\n".join([*lines, "  </EditionEntry>", "</Chapters>"]) + "\n"


def write_matroska(events: EventList, path: str | Path) -> Path:
    """Write Matroska chapters. Raises ListError."""
    return write_list(path, matroska_text(events))
