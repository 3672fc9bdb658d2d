"""Chapters and captions: FFmpeg metadata, Matroska XML and WebVTT, timed from the film's start."""

from __future__ import annotations

import re
from fractions import Fraction
from pathlib import Path
from xml.sax.saxutils import escape

from offcut.core.lists.events import Event, EventList, write_text


def _seconds(events: EventList, frame: int) -> Fraction:
    """Return when a frame of the film is shown, counted from its first, at its even rate."""
    return Fraction(frame) / events.rate


def _clock(time: Fraction, digits: int) -> str:
    ticks = round(time * 10**digits)
    seconds, rest = divmod(ticks, 10**digits)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}.{rest:0{digits}d}"


def _by_time(events: EventList) -> list[Event]:
    """Return the events as they lie in the film: all three are timed by it, in rising order."""
    return sorted(events.events, key=lambda e: e.start)


def ffmetadata_text(events: EventList) -> str:
    """Return the shots as chapters in FFmpeg's metadata format, in units of one frame."""

    def plain(text: str) -> str:
        return re.sub(r"([=;#\\\n])", r"\\\1", text)

    base = 1 / events.rate
    lines = [";FFMETADATA1", f"title={plain(events.title)}"]
    for event in _by_time(events):
        lines += [
            "",
            "[CHAPTER]",
            f"TIMEBASE={base.numerator}/{base.denominator}",
            f"START={event.start}",
            f"END={event.start + event.length}",
            f"title={plain(event.name)}",
        ]
    return "\n".join(lines) + "\n"


def matroska_text(events: EventList) -> str:
    """Return the shots as Matroska's chapter XML, times to the nanosecond."""
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<!DOCTYPE Chapters SYSTEM "matroskachapters.dtd">',
        "<Chapters>",
        "  <EditionEntry>",
    ]
    for event in _by_time(events):
        start, end = (_seconds(events, f) for f in (event.start, event.start + event.length))
        lines += [
            "    <ChapterAtom>",
            f"      <ChapterUID>{event.number}</ChapterUID>",
            f"      <ChapterTimeStart>{_clock(start, 9)}</ChapterTimeStart>",
            f"      <ChapterTimeEnd>{_clock(end, 9)}</ChapterTimeEnd>",
            "      <ChapterDisplay>",
            f"        <ChapterString>{escape(_printable(event.name))}</ChapterString>",
            "        <ChapterLanguage>und</ChapterLanguage>",
            "      </ChapterDisplay>",
            "    </ChapterAtom>",
        ]
    return "\n".join([*lines, "  </EditionEntry>", "</Chapters>"]) + "\n"


def webvtt_text(events: EventList) -> str:
    """Return the shots as WebVTT cues (W3C): number, name, note."""

    def cue(event: Event) -> str:
        start, end = (_seconds(events, f) for f in (event.start, event.start + event.length))
        words = "\n".join(
            " ".join(_printable(w).split()).replace("&", "&amp;").replace("<", "&lt;")
            for w in (event.name, event.note)
            if w
        ).replace("-->", "→")
        return f"{event.number}\n{_clock(start, 3)} --> {_clock(end, 3)}\n{words}\n"

    return "WEBVTT\n\n" + "\n".join(cue(e) for e in _by_time(events))


def _printable(text: str) -> str:
    return "".join(c for c in text if c.isprintable() or c == " ")


def write_ffmetadata(events: EventList, path: str | Path) -> Path:
    """Write FFmpeg metadata. Raises ListError."""
    return write_text(path, ffmetadata_text(events))


def write_matroska(events: EventList, path: str | Path) -> Path:
    """Write Matroska chapters. Raises ListError."""
    return write_text(path, matroska_text(events))


def write_webvtt(events: EventList, path: str | Path) -> Path:
    """Write WebVTT. Raises ListError."""
    return write_text(path, webvtt_text(events))
