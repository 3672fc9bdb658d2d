"""Comma-separated shots, one row each, for spreadsheets."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from pathlib import Path

from offcut.core.lists.events import EventList, write_text

HEADS = (
    "number",
    "name",
    "source in",
    "source out",
    "record in",
    "record out",
    "first frame",
    "frames",
    "joined by",
    "mixed frames",
    "note",
    "reel",
    "reel in",
    "reel out",
    "markers",
    "scene",
)


def csv_text(events: EventList) -> str:
    """Return the list as RFC 4180 text; cells a spreadsheet would run as formulas are quoted."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(HEADS)
    for row in rows_of(events):
        rows.writerow(row)
    return out.getvalue()


def rows_of(events: EventList) -> Iterator[tuple[str | int, ...]]:
    """Yield a row for each event, under the heads of `HEADS`, every cell made harmless."""
    for event in events.events:
        marks = "; ".join(
            f"{events.words(event.record_in + m.start - event.start)} {m.name}".strip()
            for m in event.markers
        )
        yield (
            event.number,
            harmless(event.name),
            *(
                events.words(f)
                for f in (event.source_in, event.source_out, event.record_in, event.record_out)
            ),
            event.start,
            event.length,
            event.joined_by.value,
            event.mixed,
            harmless(event.note),
            *(harmless(w) for w in events.reel_words(event)),
            harmless(marks),
            harmless(event.scene),
        )


def harmless(cell: str) -> str:
    """Put an apostrophe before a cell that a spreadsheet would take for a formula."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell


def write_csv(events: EventList, path: str | Path) -> Path:
    """Write the list as CSV with a byte order mark, which spreadsheets need. Raises ListError."""
    return write_text(path, csv_text(events), "utf-8-sig")
