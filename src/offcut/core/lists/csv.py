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
    ListMarker,
    ListTroubles,
    ReadEvent,
    ReadList,
    frame_from_word,
    frames_field,
    lines_of,
    marks_only,
)
from offcut.core.lists.outgoing import EventList, write_list
from offcut.core.model.kinds import spans
from offcut.core.model.seam import Kind
from offcut.core.model.source import MarkerColour
from offcut.core.timecode import Rate

_LONGEST_ROW = 100_000
Row = dict[str, str]


def read_csv(path: str | Path, rate: Rate) -> ReadList:
    """Read a CSV as `write_csv` writes it, or a list of markers; columns are told by their heads.

    Raises ListError naming the file.
    """
    troubles = ListTroubles(path)
    rows = _rows_in(path)
    try:
        heads = next(rows, (0, {}))[1]
        if "marker in" in heads:
            return _markers_in(path, rate, rows, troubles)
        if "record in" not in heads or "record out" not in heads:
            raise ListError(f"{path}: has no columns “record in” and “record out”")
        return _events_in(path, rate, rows, troubles)
    except csv.Error as error:
        raise ListError(f"{path}: not comma-separated rows ({error})") from error


def _rows_in(path: str | Path) -> Iterator[tuple[int, Row]]:
    """Yield each row with its line, cells by their heads in lower case; the heads come first."""
    lines = lines_of(path, _LONGEST_ROW)
    number, first = next(lines, (0, ""))
    delimiter = max(",;\t", key=first.count) if first else ","
    told = [number]

    def texts() -> Iterator[str]:
        yield first + "\n"
        for told[0], line in lines:
            yield line + "\n"

    reader = csv.reader(texts(), delimiter=delimiter)
    heads = [" ".join(h.split()).lower() for h in next(reader, [])]
    yield told[0], {h: h for h in heads if h}
    for row in reader:
        if any(row):
            cells = {h: c.strip() for h, c in zip(heads, row, strict=False) if h}
            yield told[0], cells


def _events_in(
    path: str | Path, rate: Rate, rows: Iterator[tuple[int, Row]], troubles: ListTroubles
) -> ReadList:
    events: list[ReadEvent] = []
    highest, drop = 0, False
    for line, row in rows:
        if len(events) >= MAX_EVENTS:
            raise ListError(f"{path}: more than {MAX_EVENTS:,} events")
        try:
            event = _event_in(row, line, len(events) + 1, rate, troubles)
        except (TimecodeError, ValueError) as error:
            troubles.add(line, ",".join(row.values()), f"{error}:")
            continue
        drop = drop or ";" in row.get("record in", "")
        highest = max(highest, *(frames_field(row.get(n, "")) for n in ("record in", "record out")))
        events.append(event)
    if not events:
        raise troubles.refusal("not one event can be read in it")
    return troubles.told_by(
        ReadList(
            str(path), "CSV", rate, drop, Path(path).stem, tuple(events), highest=highest,
            marks=marks_only(events),
        )
    )  # fmt: skip


def _event_in(row: Row, line: int, place: int, rate: Rate, troubles: ListTroubles) -> ReadEvent:
    """Return a row as an event. Raises TimecodeError or ValueError."""

    def cell(name: str) -> str:
        return row.get(name, "")

    record_in, record_out = (frame_from_word(cell(n), rate) for n in ("record in", "record out"))
    if record_out <= record_in:
        raise ValueError("ends before it begins on the record side")
    mixed_word = cell("mixed frames") or "0"
    if not (mixed_word.isascii() and mixed_word.isdigit() and len(mixed_word) <= 6):
        raise ValueError("its mixed frames are no number")
    mixed = min(int(mixed_word), 2 * (record_out - record_in))
    side = "reel" if cell("reel in") and cell("reel out") else "source"
    try:
        source_in = frame_from_word(cell(f"{side} in") or cell("record in"), rate)
        source_out = frame_from_word(cell(f"{side} out") or cell("record out"), rate)
        if source_out < source_in:
            raise ValueError("ends before it begins on the source side")
    except (TimecodeError, ValueError) as error:
        why = f"{error}, so its source is left out:"
        troubles.add(line, ",".join(row.values()), why, used=True)
        source_in = source_out = record_in
    kind = Kind(cell("joined by")) if cell("joined by") in list(Kind) else Kind.CUT
    start = record_in - mixed // 2
    gradual = mixed > 0 and spans(kind)
    return ReadEvent(
        number=cell("number")[:40] or str(place),
        line=line,
        reel=cell("reel").removeprefix("'"),
        source_in=source_in,
        source_out=source_out,
        record_in=record_in,
        record_out=record_out,
        kind=kind if gradual else Kind.CUT,
        mix_in=start if gradual else 0,
        mix_out=start + mixed if gradual else 0,
        clip=cell("name").removeprefix("'"),
        note=cell("note").removeprefix("'"),
        scene=cell("scene").removeprefix("'"),
        drop=";" in (cell(f"{side} in") or cell("record in")),
        speed=_speed(source_out - source_in, record_out - record_in, side),
    )


def _markers_in(
    path: str | Path, rate: Rate, rows: Iterator[tuple[int, Row]], troubles: ListTroubles
) -> ReadList:
    """Return a list that has markers alone."""
    markers: list[ListMarker] = []
    highest, drop = 0, False
    for line, row in rows:
        if len(markers) >= MAX_EVENTS:
            raise ListError(f"{path}: more than {MAX_EVENTS:,} markers")
        try:
            start = frame_from_word(row.get("marker in", ""), rate)
            after = row.get("marker out", "")
            end = frame_from_word(after, rate) if after else start + 1
        except (TimecodeError, ValueError) as error:
            troubles.add(line, ",".join(row.values()), f"{error}:")
            continue
        told = row.get("colour", "").lower()
        colour = MarkerColour(told) if told in list(MarkerColour) else MarkerColour.NONE
        name, note = (row.get(n, "").removeprefix("'") for n in ("name", "note"))
        markers.append(ListMarker(start, name, max(1, end - start), note, colour))
        highest = max(highest, frames_field(row.get("marker in", "")))
        drop = drop or ";" in row.get("marker in", "")
    if not markers:
        raise troubles.refusal("not one marker can be read in it")
    return troubles.told_by(
        ReadList(
            str(path), "CSV", rate, drop, Path(path).stem, markers=tuple(markers), highest=highest,
            marks=True,
        )
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


def heads_of(events: EventList) -> tuple[str, ...]:
    """Return the heads of the columns: `HEADS`, then what is in the shots where it is known."""
    return (*HEADS, *events.shows)


def csv_text(events: EventList) -> str:
    """Return the list as RFC 4180 text; cells a spreadsheet would run as formulas are quoted."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(heads_of(events))
    for row in rows_of(events):
        rows.writerow(row)
    return out.getvalue()


def rows_of(events: EventList) -> Iterator[tuple[str | int | float, ...]]:
    """Yield a row for each event, under the heads of `heads_of`, every cell made harmless."""
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
            *(harmless(event.shows.get(sort, "")) for sort in events.shows),
        )


def harmless(cell: str) -> str:
    """Put an apostrophe before a cell that a spreadsheet would take for a formula."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell


def write_csv(events: EventList, path: str | Path) -> Path:
    """Write the list as CSV with a byte order mark, which spreadsheets need. Raises ListError."""
    return write_list(path, csv_text(events), "utf-8-sig")
