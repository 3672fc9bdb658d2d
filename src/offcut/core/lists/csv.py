"""Comma-separated shots, one row each, for spreadsheets; read back by the heads of the columns."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.incoming import (
    MAX_EVENTS,
    ReadEvent,
    ReadList,
    Trouble,
    frame_from_word,
    frames_field,
    text_of,
)
from offcut.core.lists.outgoing import EventList, write_list
from offcut.core.model.seam import Kind
from offcut.core.timecode import Rate


def read_csv(path: str | Path, rate: Rate) -> ReadList:
    """Read a CSV as `write_csv` writes it; columns are told by their heads. Raises ListError."""
    text = text_of(path)
    troubles: list[Trouble] = []
    events: list[ReadEvent] = []
    dialect: type[csv.Dialect] | csv.Dialect = csv.excel
    first = text.split("\n", 1)[0]
    if first.count(";") > first.count(","):
        dialect = csv.excel()
        dialect.delimiter = ";"
    elif first.count("\t") > first.count(","):
        dialect = csv.excel_tab
    highest, drop = 0, False
    try:
        rows = csv.DictReader(io.StringIO(text), dialect=dialect)
        heads = {str(h).strip().lower(): h for h in rows.fieldnames or ()}
        if "record in" not in heads or "record out" not in heads:
            raise ListError(f"{path}: has no columns “record in” and “record out”")
        for row in rows:
            line = rows.line_num

            def cell(name: str, row: dict[str, str | None] = row) -> str:
                return str(row.get(heads.get(name, ""), "") or "").strip()

            try:
                record_in, record_out = (
                    frame_from_word(cell(n), rate) for n in ("record in", "record out")
                )
                side = "reel" if cell("reel in") and cell("reel out") else "source"
                source_in = frame_from_word(cell(f"{side} in") or cell("record in"), rate)
                source_out = frame_from_word(cell(f"{side} out") or cell("record out"), rate)
                mixed = int(cell("mixed frames") or 0)
            except (TimecodeError, ValueError) as error:
                troubles.append(Trouble(line, ",".join(map(str, row.values())), f"{error}:"))
                continue
            if record_out <= record_in:
                why = "ends before it begins on the record side:"
                troubles.append(Trouble(line, ",".join(map(str, row.values())), why))
                continue
            drop = drop or ";" in cell("record in")
            highest = max(highest, *(frames_field(cell(n)) for n in ("record in", "record out")))
            kind = Kind(cell("joined by")) if cell("joined by") in list(Kind) else Kind.CUT
            start = record_in - mixed // 2
            events.append(
                ReadEvent(
                    number=cell("number") or str(len(events) + 1),
                    line=line,
                    reel=cell("reel").removeprefix("'"),
                    source_in=source_in,
                    source_out=source_out,
                    record_in=record_in,
                    record_out=record_out,
                    kind=kind if mixed else Kind.CUT,
                    mix_in=start if mixed else 0,
                    mix_out=start + mixed if mixed else 0,
                    clip=cell("name").removeprefix("'"),
                    note=cell("note").removeprefix("'"),
                    scene=cell("scene").removeprefix("'"),
                    drop=";" in (cell(f"{side} in") or cell("record in")),
                    speed=_speed(source_out - source_in, record_out - record_in, side),
                )
            )
            if len(events) > MAX_EVENTS:
                raise ListError(f"{path}: more than {MAX_EVENTS} events")
    except csv.Error as error:
        raise ListError(f"{path}: not comma-separated rows ({error})") from error
    if not events:
        first_words = f"; {troubles[0]}" if troubles else ""
        raise ListError(f"{path}: not one event can be read in it{first_words}")
    return ReadList(
        str(path), "CSV", rate, drop, Path(path).stem, tuple(events),
        troubles=tuple(troubles), highest=highest,
    )  # fmt: skip


def _speed(natural: int, length: int, side: str) -> Fraction:
    """Return source frames a frame of the film; the film's own run as they are."""
    if side == "source" or natural <= 0:
        return Fraction(1)
    return Fraction(natural, length).limit_denominator(10_000)


# writing


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
    "film",
    "seconds",
)


def csv_text(events: EventList) -> str:
    """Return the list as RFC 4180 text; cells a spreadsheet would run as formulas are quoted."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(HEADS)
    for row in rows_of(events):
        rows.writerow(row)
    return out.getvalue()


def rows_of(events: EventList) -> Iterator[tuple[str | int | float, ...]]:
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
            event.counted[0],
            event.length,
            event.joined_by.value,
            event.mixed,
            harmless(event.note),
            *(harmless(w) for w in events.reel_words(event)),
            harmless(marks),
            harmless(event.scene),
            harmless(event.film.name),
            float(event.length / events.rate),
        )


def harmless(cell: str) -> str:
    """Put an apostrophe before a cell that a spreadsheet would take for a formula."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell


def write_csv(events: EventList, path: str | Path) -> Path:
    """Write the list as CSV with a byte order mark, which spreadsheets need. Raises ListError."""
    return write_list(path, csv_text(events), "utf-8-sig")
