"""The registry of list formats: what each is called, who reads it, who writes it.

A format is a file beside this one and a line here; nothing else knows how many there are.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from offcut.core.errors import ListError
from offcut.core.lists.csv import read_csv, write_csv
from offcut.core.lists.edl import read_edl, write_edl
from offcut.core.lists.ffmetadata import write_ffmetadata
from offcut.core.lists.incoming import ReadEvent, ReadList, Trouble, text_of
from offcut.core.lists.json_list import write_json
from offcut.core.lists.matroska_chapters import write_matroska
from offcut.core.lists.otio import (
    read_otio,
    reading_suffixes,
    write_otio,
    write_subclips,
    write_with_adapter,
    writing_adapters,
)
from offcut.core.lists.outgoing import EventList
from offcut.core.lists.plain import read_plain
from offcut.core.lists.spreadsheet import write_spreadsheet
from offcut.core.lists.webvtt import write_webvtt
from offcut.core.model.card import Original
from offcut.core.model.rules import fault_of_original
from offcut.core.timecode import Rate

Writer = Callable[[EventList, str | Path], Path]
Reader = Callable[[Path, Rate, bool], ReadList]


@dataclass(frozen=True)
class ListFormat:
    """One format: a stable code, its words, what its file's name ends in, its reader and writer.

    ``originals`` True when its source side is the camera originals'; ``bytes_each`` about how
    much a shot takes in it; ``also`` other endings it is read by; ``heads`` words by which a file
    with another ending is told, where one of its first lines holds one of them; ``vague`` True
    where the ending says nothing of what is inside.
    """

    code: str
    words: str
    about: str
    suffix: str
    write: Writer | None = None
    read: Reader | None = None
    originals: bool = False
    bytes_each: int = 300
    also: tuple[str, ...] = ()
    heads: tuple[str, ...] = ()
    vague: bool = False

    @property
    def endings(self) -> tuple[str, ...]:
        """The endings of names it is read by."""
        return (self.suffix, *self.also) if self.read is not None else ()


FORMATS: tuple[ListFormat, ...] = (
    ListFormat(
        "edl", "EDL", "CMX 3600, from this film", ".edl", write_edl,
        lambda path, rate, _drop: read_edl(path, rate),
        bytes_each=190, also=(".cmx",), heads=("TITLE:", "FCM:"),
    ),
    ListFormat(
        "edl-originals", "EDL of the originals", "reels and source timecodes a list gave",
        ".originals.edl", write_edl, originals=True, bytes_each=150,
    ),
    ListFormat(
        "otio", "OTIO timeline", "with markers and notes", ".otio", write_otio, read_otio,
        bytes_each=2200, also=(".otioz", ".otiod"),
    ),
    ListFormat(
        "subclips", "Subclips", "whole, with handles (OTIO)", ".subclips.otio", write_subclips,
        bytes_each=2600,
    ),
    ListFormat(
        "csv", "CSV", "a row for each shot", ".csv", write_csv,
        lambda path, rate, _drop: read_csv(path, rate),
        bytes_each=130, heads=("RECORD IN",),
    ),
    ListFormat(
        "xlsx", "Spreadsheet", "a row for each shot", ".xlsx", write_spreadsheet, bytes_each=150
    ),
    ListFormat(
        "ffmeta", "Chapters, FFmpeg", "metadata text", ".ffmeta", write_ffmetadata, bytes_each=90
    ),
    ListFormat(
        "chapters", "Chapters, Matroska", "XML", ".chapters.xml", write_matroska, bytes_each=350
    ),
    ListFormat("vtt", "Captions", "WebVTT, name and note", ".vtt", write_webvtt, bytes_each=70),
    ListFormat("json", "JSON", "for scripts", ".json", write_json, bytes_each=420),
    ListFormat(
        "plain", "Plain list", "a timecode on each line", ".txt",
        read=lambda path, rate, _drop: read_plain(path, rate), vague=True,
    ),
)  # fmt: skip


def written_formats() -> tuple[ListFormat, ...]:
    """Return the formats Offcut writes itself, in the order they are offered."""
    return tuple(f for f in FORMATS if f.write is not None)


def reading_endings() -> tuple[str, ...]:
    """Return the endings of files that are taken for cut lists."""
    return tuple(ending for f in FORMATS for ending in f.endings)


def format_of(code: str) -> ListFormat | None:
    """Return a format by its code; "adapter:NAME" is an installed OpenTimelineIO adapter."""
    known = next((f for f in written_formats() if f.code == code), None)
    if known is not None or not code.startswith("adapter:"):
        return known
    return next((f for f in adapter_formats() if f.code == code), None)


def adapter_formats() -> tuple[ListFormat, ...]:
    """Return a format for each OpenTimelineIO adapter installed here that writes.

    The first call loads OpenTimelineIO, which takes a moment.
    """

    def writer(name: str) -> Writer:
        return lambda events, path: write_with_adapter(events, path, name)

    return tuple(
        ListFormat(
            f"adapter:{name}",
            f"by {name}",
            about or "OpenTimelineIO adapter",
            f".{name}{suffix}",
            writer(name),
        )
        for name, suffix, about in writing_adapters()
    )


# reading


def read_list(path: str | Path, rate: Rate, drop: bool = False) -> ReadList:
    """Read a cut list: EDL, OTIO, CSV, plain text, or what an installed OTIO adapter knows.

    ``rate`` and ``drop`` are the film's; a list does not always say its own. What a project
    cannot hold is left out and told with its line. Raises ListError with a sentence naming the
    file (and line).
    """
    return _within_rules(_read(Path(path), rate, drop))


def _read(file: Path, rate: Rate, drop: bool) -> ReadList:
    suffix = file.suffix.lower()
    for known in FORMATS:
        if suffix in known.endings and known.read is not None and not known.vague:
            return known.read(file, rate, drop)
    if suffix.removeprefix(".") in reading_suffixes():
        return read_otio(file, rate, drop)
    text = text_of(file)
    if '"OTIO_SCHEMA"' in text[:2000]:
        raise ListError(f"{file}: an OTIO timeline must be called NAME.otio to be read")
    lines = [line.upper() for line in text.splitlines()[:50]]
    for known in FORMATS:
        if known.read is not None and any(head in line for head in known.heads for line in lines):
            return known.read(file, rate, drop)
    try:
        return read_plain(file, rate)
    except ListError:
        return read_edl(file, rate)


def _within_rules(read: ReadList) -> ReadList:
    """Return a list whose events a project can hold; the source of one that cannot is left out."""
    events: list[ReadEvent] = []
    troubles: list[Trouble] = []
    for event in read.events:
        fault = fault_of_original(
            Original(event.reel, event.source_in, 0, speed=event.speed)
        ) or fault_of_original(Original(event.reel, event.source_out, 0))
        if fault:
            words = f"event {event.number}: {fault}, so its source is left out"
            troubles.append(Trouble(event.line, "", words))
            event = without_source(event)
        events.append(event)
    if not troubles:
        return read
    return replace(read, events=tuple(events), troubles=(*read.troubles, *troubles))


def without_source(event: ReadEvent) -> ReadEvent:
    """Return an event of which only the record side, its name and comments are known."""
    at = event.record_in
    return replace(event, reel="", source_in=at, source_out=at, speed=Fraction(1))
