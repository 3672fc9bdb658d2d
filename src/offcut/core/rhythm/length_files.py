"""Lengths in files: a column of seconds, reference sets to keep and share, and cut lists."""

from __future__ import annotations

import csv
import io
import json
import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.errors import ListError, OffcutError
from offcut.core.files import write_whole
from offcut.core.lists.incoming import MAX_EVENTS, ReadList, Trouble, text_of
from offcut.core.lists.registry import read_list
from offcut.core.model.seam import Kind
from offcut.core.rhythm.lengths import ShotLengths, lengths_of_list, lengths_of_seconds
from offcut.core.timecode import (
    FILM,
    NTSC,
    NTSC_DOUBLE,
    PAL,
    Rate,
    base_of,
    can_drop,
    rate_from,
    rate_words,
)

SUFFIX = ".lengths.json"
KIND = "offcut-lengths"
VERSION = 1
LONGEST = 1e6
"""No shot is held longer than so many seconds."""
_MANY_WORDS = 50
"""A list of so many events at 25 frames a second has a timecode of frame 24 in it."""
_HEADS = ("seconds", "length", "duration", "length (s)", "duration (s)", "length in seconds")
"""What a column of seconds may be headed, the surest first."""
_NUMBER = re.compile(r"\s*[-+]?\d+([.,]\d+)?\s*")


def read_lengths(
    path: str | Path, rate: Rate | None = None, likely: Rate | None = None
) -> tuple[ShotLengths, ...]:
    """Read whatever tells lengths of shots: a reference set, a column of seconds, a cut list.

    ``rate`` is that of a list's timecodes, whatever it says itself. Without one a list that tells
    none is taken at the ``likely`` rate, that of a film it is held beside, where its timecodes fit
    it; else at the one they speak for; and the note of what is returned says so. A reference set
    may hold several. Lines that could not be used are told in notes. Raises ListError naming the
    file (and line).
    """
    file = Path(path)
    if file.suffix.lower() == ".json":
        return _from_json(file)
    if file.suffix.lower() in (".csv", ".tsv", ".txt", ""):
        rows = _rows_of_seconds(file, text_of(file))
        if rows is not None:
            return (rows,)
    return (_from_list(file, rate, likely),)


# columns of seconds


def _rows_of_seconds(file: Path, text: str) -> ShotLengths | None:
    """Return lengths where a text is a column of seconds or has one; None where it is not."""
    lines = [line for line in text.splitlines() if line.strip()]
    numbers = [line for line in lines[:2000] if _NUMBER.fullmatch(line)]
    plain = len(numbers) >= max(1, len(lines[:2000]) - 1)
    if plain and (file.suffix.lower() != ".txt" or any("." in n for n in numbers)):
        return _one_column(file, text.splitlines())
    if file.suffix.lower() == ".txt" or not lines:
        return None
    delimiter = max((",", ";", "\t"), key=lines[0].count)
    heads = [h.strip().lower() for h in next(csv.reader([lines[0]], delimiter=delimiter))]
    column = next((h for h in _HEADS if h in heads), "")
    if not column or (column != "seconds" and "record in" in heads):
        return None
    return _with_heads(file, text, delimiter, ["seconds" if h == column else h for h in heads])


def _one_column(file: Path, lines: Sequence[str]) -> ShotLengths:
    seconds: list[float] = []
    troubles: list[Trouble] = []
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        value = _length(line)
        if value is not None:
            seconds.append(value)
        elif seconds or troubles or _NUMBER.fullmatch(line):  # else it is the column's head
            troubles.append(Trouble(number, line.strip(), "is no length in seconds:"))
        if len(seconds) > MAX_EVENTS:
            raise ListError(f"{file}: more than {MAX_EVENTS} lengths")
    return _told(file, seconds, troubles)


def _with_heads(file: Path, text: str, delimiter: str, heads: Sequence[str]) -> ShotLengths:
    seconds: list[float] = []
    titles: list[str] = []
    kinds: list[Kind | None] = []
    mixed: list[float] = []
    troubles: list[Trouble] = []
    try:
        rows = csv.reader(io.StringIO(text), delimiter=delimiter)
        next(rows)
        for row in rows:
            cells = dict(zip(heads, (c.strip() for c in row), strict=False))
            if not any(cells.values()):
                continue
            value = _length(cells.get("seconds", ""))
            if value is None:
                words = delimiter.join(row)
                troubles.append(Trouble(rows.line_num, words, "has no length in seconds:"))
                continue
            seconds.append(value)
            titles.append(cells.get("name", "").removeprefix("'"))
            joined = cells.get("joined by", "")
            kinds.append(Kind(joined) if joined in list(Kind) and len(seconds) > 1 else None)
            mixed.append(_length(cells.get("mixed seconds", "")) or 0.0)
            if len(seconds) > MAX_EVENTS:
                raise ListError(f"{file}: more than {MAX_EVENTS} lengths")
    except csv.Error as error:
        raise ListError(f"{file}: not comma-separated rows ({error})") from error
    return _told(file, seconds, troubles, titles, kinds, mixed)


def _length(text: str) -> float | None:
    """Return a length in seconds, None for what is none."""
    try:
        value = float(text.strip().replace(",", ".")) if len(text) < 40 else math.nan
    except ValueError:
        return None
    return value if 0 < value < LONGEST else None


def _told(
    file: Path,
    seconds: Sequence[float],
    troubles: Sequence[Trouble],
    titles: Sequence[str] = (),
    kinds: Sequence[Kind | None] = (),
    mixed: Sequence[float] = (),
) -> ShotLengths:
    if not seconds:
        first = f"; {troubles[0]}" if troubles else ""
        raise ListError(f"{file}: not one length can be read in it{first}")
    return lengths_of_seconds(
        _stem(file), seconds, titles=titles, kinds=kinds, mixed=mixed, note=_summed(troubles)
    )


def _summed(troubles: Sequence[Trouble], count: int = 0) -> str:
    """Return troubles in a sentence: the first, and how many more."""
    if not troubles:
        return ""
    count = max(count, len(troubles))
    more = f", and {count - 1} more lines" if count > 1 else ""
    return f"{troubles[0]}{more}"


def _stem(file: Path) -> str:
    return file.name.removesuffix(SUFFIX).removesuffix(file.suffix) or file.name


# cut lists


def _from_list(file: Path, rate: Rate | None, likely: Rate | None) -> ShotLengths:
    listed, note = list_at_its_rate(file, rate, likely)
    notes = [n for n in (note, _summed(listed.troubles, listed.lost + listed.odd)) if n]
    return lengths_of_list(replace(listed, title=listed.title or _stem(file)), "; ".join(notes))


def list_at_its_rate(
    file: Path, rate: Rate | None = None, likely: Rate | None = None
) -> tuple[ReadList, str]:
    """Return a list read at a rate, or at the one it tells or speaks for; and a sentence where that
    is a guess. ``likely`` is that of a film it may belong to. Raises ListError.
    """
    known, note = (rate, "") if rate is not None else _guessed(file, likely)
    return read_list(file, known), note


def _guessed(file: Path, likely: Rate | None) -> tuple[Rate, str]:
    """Return the rate of a list that was not told it, and a sentence where it is a guess."""
    listed = read_list(file, NTSC_DOUBLE)  # the highest there is: no timecode is out of range
    if listed.told_rate is not None:
        return listed.told_rate, ""
    if not listed.highest:  # it has no timecodes that would speak for one
        taken = likely or PAL
        return taken, f"tells no rate, so it is taken at {rate_words(taken)} a second"
    if likely is not None and _fits(listed, likely):
        return likely, f"tells no rate; it is taken at the film’s {rate_words(likely)} a second"
    guess = _rate_by(listed.highest, len(listed.events), listed.drop)
    return guess, f"tells no rate; by its timecodes it is taken at {rate_words(guess)} a second"


def _fits(listed: ReadList, rate: Rate) -> bool:
    """Tell whether the timecodes of a list can be of a rate."""
    return listed.highest < base_of(rate) and (not listed.drop or can_drop(rate))


def _rate_by(highest: int, events: int, drop: bool) -> Rate:
    """Return the rate that the highest frames field of a list speaks for."""
    if drop:
        return NTSC if highest < 30 else NTSC_DOUBLE
    for fields, rate in ((50, Fraction(60)), (30, Fraction(50)), (25, Fraction(30)), (24, PAL)):
        if highest >= fields:
            return rate
    return FILM if events >= _MANY_WORDS else PAL


# reference sets, and what Offcut prints itself


def _from_json(file: Path) -> tuple[ShotLengths, ...]:
    try:
        held = json.loads(text_of(file))
    except (ValueError, RecursionError) as error:
        raise ListError(f"{file}: not JSON, or damaged") from error
    if not isinstance(held, dict):
        raise ListError(f"{file}: tells no lengths of shots")
    if held.get("kind") == KIND:
        version = held.get("version")
        if not isinstance(version, int) or version > VERSION:
            raise ListError(f"{file}: was made by a newer Offcut")
        sets = held.get("sets")
        found = [_one_set(file, s) for s in sets] if isinstance(sets, list) else []
        if not found:
            raise ListError(f"{file}: holds no lengths")
        return tuple(found)
    if isinstance(held.get("lengths"), list):
        return (_one_set(file, {"name": held.get("name"), "seconds": held["lengths"]}),)
    if isinstance(held.get("shots"), list):
        return (_from_detection(file, held),)
    raise ListError(f"{file}: tells no lengths of shots")


def _one_set(file: Path, held: object) -> ShotLengths:
    if not isinstance(held, dict) or not isinstance(held.get("seconds"), list):
        raise ListError(f"{file}: a set in it has no list of seconds")
    if len(held["seconds"]) > MAX_EVENTS:
        raise ListError(f"{file}: more than {MAX_EVENTS} lengths")
    seconds = []
    for place, value in enumerate(held["seconds"], start=1):
        good = isinstance(value, int | float) and not isinstance(value, bool)
        if not good or not 0 < value < LONGEST:
            raise ListError(f"{file}: length {place} is no length in seconds “{str(value)[:40]}”")
        seconds.append(float(value))
    name, note = (str(held.get(k) or "")[:2000] for k in ("name", "note"))
    joins = held.get("joins")
    kinds: list[Kind | None] = []
    if isinstance(joins, list) and len(joins) == len(seconds):
        kinds = [Kind(k) if isinstance(k, str) and k in list(Kind) else None for k in joins]
    return lengths_of_seconds(name or _stem(file), seconds, kinds=kinds, note=note)


def _from_detection(file: Path, held: dict[str, Any]) -> ShotLengths:
    """Read what `offcut detect --json` prints."""
    try:
        rate = rate_from(str(held["source"]["rate"]))
        frames = [int(s["end"]) - int(s["start"]) for s in held["shots"]]
        name = Path(str(held["source"]["path"])).stem
    except (KeyError, TypeError, ValueError, OverflowError, OffcutError) as error:
        raise ListError(f"{file}: tells no lengths of shots") from error
    longest = LONGEST * rate
    if any(f >= longest for f in frames):
        raise ListError(f"{file}: has a shot of more than {LONGEST:.0f} seconds")
    seconds = [f * rate.denominator / rate.numerator for f in frames if f > 0]
    return lengths_of_seconds(name, seconds)


def reference_text(sets: Sequence[ShotLengths]) -> str:
    """Return a reference set: names, lengths that count, how shots are joined; and no pictures."""
    return json.dumps(
        {
            "kind": KIND,
            "version": VERSION,
            "sets": [
                {
                    "name": lengths.name,
                    "note": lengths.note,
                    "seconds": lengths.held.tolist(),
                    "joins": list(_joins(lengths)),
                }
                for lengths in sets
            ],
        },
        ensure_ascii=False,
        indent=1,
    )


def _joins(lengths: ShotLengths) -> Iterator[str | None]:
    for n, place in enumerate(lengths.places.tolist()):
        kind = lengths.shots[place].kind
        yield kind.value if kind is not None and n else None


def write_reference(sets: Sequence[ShotLengths], path: str | Path) -> Path:
    """Keep lengths as a reference set. Raises ListError."""
    file = Path(path)
    if not any(len(lengths.held) for lengths in sets):
        raise ListError(f"{file}: there are no lengths to keep")
    try:
        write_whole(file, reference_text(sets).encode())
    except OSError as error:
        raise ListError(f"{file}: cannot be written ({error.strerror})") from error
    return file
