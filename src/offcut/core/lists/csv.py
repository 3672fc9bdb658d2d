"""Comma-separated shots, one row each, for spreadsheets."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from offcut.core.lists.events import EventList, write_text

_HEADS = (
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
)


def csv_text(events: EventList) -> str:
    """Return the list as RFC 4180 text; cells a spreadsheet would run as formulas are quoted."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(_HEADS)
    for event in events.events:
        rows.writerow(
            (
                event.number,
                harmless(event.name),
                *(
                    events.words(f)
                    for f in (event.source_in, event.source_out, event.record_in, event.record_out)
                ),
                event.source_in - events.source_start,
                event.length,
                event.joined_by.value,
                event.mixed,
                harmless(event.note),
            )
        )
    return out.getvalue()


def harmless(cell: str) -> str:
    """Put an apostrophe before a cell that a spreadsheet would take for a formula."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell


def write_csv(events: EventList, path: str | Path) -> Path:
    """Write the list as CSV with a byte order mark, which spreadsheets need. Raises ListError."""
    return write_text(path, csv_text(events), "utf-8-sig")
