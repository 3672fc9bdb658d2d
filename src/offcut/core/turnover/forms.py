"""The forms a list can take at hand-over: what each is called, its suffix, who writes it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from offcut.core.lists.chapters import write_ffmetadata, write_matroska, write_webvtt
from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl import write_edl
from offcut.core.lists.events import EventList, write_text
from offcut.core.lists.json_list import write_json
from offcut.core.lists.otio import (
    subclips_text,
    write_otio,
    write_with_adapter,
    writing_adapters,
)
from offcut.core.lists.spreadsheet import write_spreadsheet

Writer = Callable[[EventList, str | Path], Path]


@dataclass(frozen=True)
class Form:
    """One form: a stable code, its words, what its file's name ends in, and its writer.

    ``originals`` True when its source side is the camera originals'; ``bytes_each`` about how
    much a shot takes in it.
    """

    code: str
    words: str
    about: str
    suffix: str
    write: Writer
    originals: bool = False
    bytes_each: int = 300


def _write_subclips(events: EventList, path: str | Path) -> Path:
    return write_text(path, subclips_text(events))


FORMS: tuple[Form, ...] = (
    Form("edl", "EDL", "CMX 3600, from this film", ".edl", write_edl, bytes_each=190),
    Form(
        "edl-originals",
        "EDL of the originals",
        "reels and source timecodes a list gave",
        ".originals.edl",
        write_edl,
        True,
        150,
    ),
    Form("otio", "OTIO timeline", "with markers and notes", ".otio", write_otio, bytes_each=2200),
    Form(
        "subclips",
        "Subclips",
        "whole, with handles (OTIO)",
        ".subclips.otio",
        _write_subclips,
        bytes_each=2600,
    ),
    Form("csv", "CSV", "a row for each shot", ".csv", write_csv, bytes_each=130),
    Form("xlsx", "Spreadsheet", "a row for each shot", ".xlsx", write_spreadsheet, bytes_each=150),
    Form("ffmeta", "Chapters, FFmpeg", "metadata text", ".ffmeta", write_ffmetadata, bytes_each=90),
    Form("chapters", "Chapters, Matroska", "XML", ".chapters.xml", write_matroska, bytes_each=350),
    Form("vtt", "Captions", "WebVTT, name and note", ".vtt", write_webvtt, bytes_each=70),
    Form("json", "JSON", "for scripts", ".json", write_json, bytes_each=420),
)


def form_of(code: str) -> Form | None:
    """Return a form by its code; "adapter:NAME" is an installed OpenTimelineIO adapter."""
    known = next((f for f in FORMS if f.code == code), None)
    if known is not None or not code.startswith("adapter:"):
        return known
    return next((f for f in adapter_forms() if f.code == code), None)


def adapter_forms() -> tuple[Form, ...]:
    """Return a form for each OpenTimelineIO adapter installed here that writes."""

    def writer(name: str) -> Writer:
        return lambda events, path: write_with_adapter(events, path, name)

    return tuple(
        Form(
            f"adapter:{name}",
            f"by {name}",
            about or "OpenTimelineIO adapter",
            f".{name}{suffix}",
            writer(name),
        )
        for name, suffix, about in writing_adapters()
    )
