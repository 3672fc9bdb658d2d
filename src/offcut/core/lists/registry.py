"""The registry of list formats: what each is called, who reads it, who writes it.

A format is a file beside this one and a line here, or what another package adds; nothing else knows
how many there are.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction
from functools import cache
from itertools import islice
from pathlib import Path

from offcut.core.errors import ListError
from offcut.core.lists.ale import read_ale, write_ale
from offcut.core.lists.csv import read_csv, write_csv
from offcut.core.lists.edl.reading import read_edl
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.ffmetadata import write_ffmetadata
from offcut.core.lists.incoming import (
    ListTroubles,
    ReadEvent,
    ReadList,
    lines_of,
)
from offcut.core.lists.json_list import write_json
from offcut.core.lists.marker_lists import write_chapter_text, write_marker_edl, write_markers
from offcut.core.lists.matroska_chapters import write_matroska
from offcut.core.lists.outgoing import EventList
from offcut.core.lists.plain import read_plain
from offcut.core.lists.spreadsheet import write_spreadsheet
from offcut.core.lists.timelines.aaf import write_aaf
from offcut.core.lists.timelines.reading_apart import read_apart
from offcut.core.lists.timelines.writing import library, write_otio, write_subclips
from offcut.core.lists.timelines.xml import write_xml
from offcut.core.lists.webvtt import write_webvtt
from offcut.core.machine.added import LIST_FORMS, added
from offcut.core.model.card import Original
from offcut.core.model.rules import MAX_FRAME, fault_of_original
from offcut.core.timecode import Rate

Writer = Callable[[EventList, str | Path], Path]
Reader = Callable[[Path, Rate, bool], ReadList]


class Group(StrEnum):
    """What a list is for."""

    CUT = "to cut again"
    READ = "to read"
    STUDY = "to study"


@dataclass(frozen=True)
class ListFormat:
    """One format: a stable code, its words, what its file's name ends in, its reader and writer.

    ``originals`` True when its source side is the camera originals'; ``bytes_each`` about how
    much a shot takes in it; ``also`` other endings it is read by; ``heads`` words by which a file
    with another ending is told, where one of its first lines holds one of them; ``vague`` True
    where the ending says nothing of what is inside; ``group`` what it is for, ``row``
    what it is about in that group and ``short`` its name there; ``of_markers`` True where it lists
    markers in place of shots; ``stills`` False where it cannot point to numbered stills.
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
    group: Group = Group.CUT
    row: str = "this film"
    short: str = ""
    of_markers: bool = False
    stills: bool = True

    @property
    def endings(self) -> tuple[str, ...]:
        """The endings of names it is read by."""
        return (self.suffix, *self.also) if self.read is not None else ()


def _plainly(read: Callable[[Path, Rate], ReadList]) -> Reader:
    return lambda path, rate, _drop: read(path, rate)


def _apart(form: str) -> Reader:
    return lambda path, rate, drop: read_apart(path, rate, drop, form)


def _any_otio(path: Path, rate: Rate, drop: bool) -> ReadList:
    suffix = path.suffix.lower().removeprefix(".")
    return read_apart(path, rate, drop, suffix if suffix in ("otioz", "otiod") else "otio")


_OF_EITHER: tuple[ListFormat, ...] = (
    ListFormat(
        "edl", "EDL", "CMX 3600", ".edl", write_edl, _plainly(read_edl),
        bytes_each=190, also=(".cmx",), heads=("TITLE:", "FCM:"),
    ),
    ListFormat(
        "otio", "OTIO", "a timeline, with markers and notes", ".otio", write_otio, _any_otio,
        bytes_each=2200, also=(".otioz", ".otiod"), heads=('"OTIO_SCHEMA"',),
    ),
    ListFormat(
        "xml", "XML", "xmeml, with markers and notes", ".xml", write_xml, _apart("xml"),
        bytes_each=500, stills=False, heads=("<XMEML",),
    ),
    ListFormat(
        "aaf", "AAF", "with markers", ".aaf", write_aaf, _apart("aaf"), bytes_each=9500,
        stills=False,
    ),
    ListFormat(
        "ale", "ALE", "a bin of shots, reels and timecodes", ".ale", write_ale,
        _plainly(read_ale), bytes_each=70, heads=("FIELD_DELIM",),
    ),
)  # fmt: skip
"""Those that may point to the film or to its originals."""


def _of_originals(form: ListFormat) -> ListFormat:
    return replace(
        form,
        code=f"{form.code}-originals",
        words=f"{form.words} of the originals",
        about="reels and source timecodes a list gave",
        suffix=f".originals{form.suffix}",
        read=None,
        originals=True,
        row="the originals",
        short=form.words,
    )


FORMATS: tuple[ListFormat, ...] = (
    *_OF_EITHER,
    *map(_of_originals, _OF_EITHER),
    ListFormat(
        "subclips", "Subclips", "whole, with handles (OTIO)", ".subclips.otio", write_subclips,
        bytes_each=2600,
    ),
    ListFormat(
        "csv", "CSV", "a row for each shot", ".csv", write_csv, _plainly(read_csv),
        bytes_each=130, heads=("RECORD IN", "MARKER IN"), group=Group.READ, row="each shot",
    ),
    ListFormat(
        "xlsx", "Spreadsheet", "a row for each shot", ".xlsx", write_spreadsheet, bytes_each=150,
        group=Group.READ, row="each shot",
    ),
    ListFormat(
        "json", "JSON", "for scripts", ".json", write_json, bytes_each=420, group=Group.READ,
        row="each shot",
    ),
    ListFormat(
        "markers", "Markers, CSV", "a row for each marker", ".markers.csv", write_markers,
        bytes_each=20, row="markers", short="CSV", group=Group.STUDY, of_markers=True,
    ),
    ListFormat(
        "marker-edl", "Markers, EDL", "a locator for each", ".markers.edl", write_marker_edl,
        bytes_each=40, row="markers", short="EDL", group=Group.STUDY, of_markers=True,
    ),
    ListFormat(
        "chapter-text", "Markers, text", "chapters as players and sites take them",
        ".chapters.txt", write_chapter_text, bytes_each=10, row="markers", short="Text",
        group=Group.STUDY, of_markers=True,
    ),
    ListFormat(
        "ffmeta", "Chapters, FFmpeg", "metadata text", ".ffmeta", write_ffmetadata, bytes_each=90,
        row="chapters", short="FFmpeg", group=Group.STUDY,
    ),
    ListFormat(
        "chapters", "Chapters, Matroska", "XML", ".chapters.xml", write_matroska, bytes_each=350,
        row="chapters", short="Matroska", group=Group.STUDY,
    ),
    ListFormat(
        "vtt", "Captions", "WebVTT, name and note", ".vtt", write_webvtt, bytes_each=70,
        row="chapters", short="Captions", group=Group.STUDY,
    ),
    ListFormat(
        "plain", "Plain list", "a timecode on each line", ".txt", read=_plainly(read_plain),
        vague=True,
    ),
)  # fmt: skip


@cache
def formats() -> tuple[ListFormat, ...]:
    """Return all formats, ours first."""
    known = {f.code for f in FORMATS}

    def fault(form: ListFormat) -> str:
        if form.code in known:
            return f"there is a list called {form.code}"
        if not re.fullmatch(r"[a-z][a-z0-9-]*", form.code):
            return f"“{form.code}” is no code: small letters, digits and hyphens"
        if not re.fullmatch(r"(\.[A-Za-z0-9_-]+)+", form.suffix):
            return f"“{form.suffix}” is no ending of a file"
        known.add(form.code)
        return "" if form.read or form.write else "it neither reads nor writes"

    return FORMATS + added(LIST_FORMS, ListFormat, fault)


def written_formats() -> tuple[ListFormat, ...]:
    """Return the formats Offcut writes itself, in the order they are offered."""
    return tuple(f for f in formats() if f.write is not None)


def reading_endings() -> tuple[str, ...]:
    """Return the endings of files that are taken for cut lists."""
    return tuple(ending for f in formats() for ending in f.endings)


def format_of(code: str) -> ListFormat | None:
    """Return a written format by its code, None where there is none."""
    return next((f for f in written_formats() if f.code == code), None)


# reading


def read_list(path: str | Path, rate: Rate, drop: bool = False) -> ReadList:
    """Read a list of any form of `formats`, or of what an installed OTIO adapter knows.

    ``rate`` and ``drop`` are the film's; a list does not always say its own. What a project
    cannot hold is left out and told with its line. Raises ListError with a sentence naming the
    file (and line).
    """
    return _within_rules(_read(Path(path), rate, drop))


def _read(file: Path, rate: Rate, drop: bool) -> ReadList:
    suffix = file.suffix.lower()
    known = format_of("aaf") if _is_aaf(file) else None
    if known is None and suffix:
        known = next(
            (f for f in formats() if suffix in f.endings and f.read is not None and not f.vague),
            None,
        )
        if known is None and suffix.removeprefix(".") in _other_suffixes():
            return read_apart(file, rate, drop, "")
    if known is None:
        known = _by_heads(file)
    if known is not None:
        assert known.read is not None
        return known.read(file, rate, drop)
    try:
        return read_plain(file, rate)
    except ListError:
        return read_edl(file, rate)


_AAF = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
"""What an AAF begins with, whatever the file is called."""


def _is_aaf(file: Path) -> bool:
    try:
        with file.open("rb") as opened:
            return opened.read(len(_AAF)) == _AAF
    except OSError:
        return False


def _by_heads(file: Path) -> ListFormat | None:
    """Return the form that one of a file's first lines gives away."""
    lines = [line.upper() for _, line in islice(lines_of(file), 50)]
    for known in formats():
        if known.read is not None and any(head in line for head in known.heads for line in lines):
            return known
    return None


@cache
def _other_suffixes() -> frozenset[str]:
    """Return the suffixes, without the point, that other installed OTIO adapters can read."""
    found = library().adapters.suffixes_with_defined_adapters(read=True)
    return frozenset(found) - {"txt", ""}


def _within_rules(read: ReadList) -> ReadList:
    """Return a list whose events a project can hold; the source of one that cannot is left out."""
    troubles = ListTroubles(read.path)
    events: list[ReadEvent] = []
    for event in read.events:
        if max(abs(event.record_in), abs(event.record_out)) > MAX_FRAME:
            troubles.add(event.line, "", f"event {event.number} lies where no film reaches")
            continue
        fault = fault_of_original(
            Original(event.reel, event.source_in, 0, speed=event.speed)
        ) or fault_of_original(Original(event.reel, event.source_out, 0))
        if fault:
            words = f"event {event.number}: {fault}, so its source is left out"
            troubles.add(event.line, "", words, used=True)
            event = _without_source(event)
        events.append(event)
    if not events and not read.markers:
        raise troubles.refusal("not one event can be used")
    return troubles.told_by(replace(read, events=tuple(events)))


def _without_source(event: ReadEvent) -> ReadEvent:
    """Return an event whose source timecodes are not known."""
    at = event.record_in
    return replace(event, source_in=at, source_out=at, speed=Fraction(1))
