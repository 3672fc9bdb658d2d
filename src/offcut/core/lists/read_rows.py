"""Reading lists of rows: our own CSV, and plain text with a timecode or frame on each line."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.listed import MAX_EVENTS, ListedEvent, ReadList, Trouble, text_of
from offcut.core.model.project import Kind
from offcut.core.timecode import Rate, base_of, can_drop, frame_from_timecode

_WORD = re.compile(r"[0-9:;.,]+")


def read_csv(path: str | Path, rate: Rate) -> ReadList:
    """Read a CSV as `write_csv` writes it; columns are told by their heads. Raises ListError."""
    text = text_of(path)
    troubles: list[Trouble] = []
    events: list[ListedEvent] = []
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
                record_in, record_out = (_frame(cell(n), rate) for n in ("record in", "record out"))
                side = "reel" if cell("reel in") and cell("reel out") else "source"
                source_in = _frame(cell(f"{side} in") or cell("record in"), rate)
                source_out = _frame(cell(f"{side} out") or cell("record out"), rate)
                mixed = int(cell("mixed frames") or 0)
            except (TimecodeError, ValueError) as error:
                troubles.append(Trouble(line, ",".join(map(str, row.values())), f"{error}:"))
                continue
            if record_out <= record_in:
                why = "ends before it begins on the record side:"
                troubles.append(Trouble(line, ",".join(map(str, row.values())), why))
                continue
            drop = drop or ";" in cell("record in")
            highest = max(highest, *(_last(cell(n)) for n in ("record in", "record out")))
            kind = Kind(cell("joined by")) if cell("joined by") in list(Kind) else Kind.CUT
            start = record_in - mixed // 2
            events.append(
                ListedEvent(
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


def read_plain(path: str | Path, rate: Rate) -> ReadList:
    """Read a plain list: each line one timecode or frame where a shot begins, then maybe its name.

    Empty lines and what follows a # are left out. Raises ListError when nothing can be read.
    """
    troubles: list[Trouble] = []
    found: list[tuple[int, int, str, bool]] = []
    highest = 0
    for number, raw in enumerate(text_of(path).splitlines(), start=1):
        line = raw.split("#", 1)[0].strip()
        if not line:
            continue
        word, _, name = line.replace("\t", " ").partition(" ")
        if not _WORD.fullmatch(word):
            troubles.append(Trouble(number, raw, "begins with no timecode or frame:"))
            continue
        try:
            found.append((_frame(word, rate), number, name.strip(), ";" in word))
        except (TimecodeError, ValueError) as error:
            troubles.append(Trouble(number, raw, f"{error}:"))
            continue
        highest = max(highest, _last(word))
        if len(found) > MAX_EVENTS:
            raise ListError(f"{path}: more than {MAX_EVENTS} lines")
    if not found:
        first = f"; {troubles[0]}" if troubles else ""
        raise ListError(f"{path}: not one timecode or frame can be read in it{first}")
    order = sorted(found)
    events = [
        ListedEvent(str(i), line, "", here, after, here, after, clip=name, drop=drop)
        for i, ((here, line, name, drop), (after, *_)) in enumerate(
            pairwise([*order, (order[-1][0] + base_of(rate), 0, "", False)]), start=1
        )
        if after > here
    ]
    events[-1] = replace(events[-1], note="")
    return ReadList(
        str(path), "plain list", rate, order[0][3], Path(path).stem, tuple(events),
        troubles=tuple(troubles), highest=highest,
    )  # fmt: skip


def _frame(word: str, rate: Rate) -> int:
    if word.isdigit():
        if len(word) > 9:
            raise ValueError("a frame number out of range")
        return int(word)
    drop = (";" in word or "." in word[-4:] or "," in word[-4:]) and can_drop(rate)
    return frame_from_timecode(re.sub("[;.,]", ":", word), rate, drop)


def _last(word: str) -> int:
    fields = re.split("[:;.,]", word)
    return int(fields[-1]) if len(fields) == 4 and fields[-1].isdigit() else 0
