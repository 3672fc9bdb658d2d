"""Lists harmed at random: bytes, words, lines, numbers and brackets of a sound one changed."""

from __future__ import annotations

import copy
import json
import random
import re
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.errors import OffcutError
from offcut.core.lists.csv import csv_text
from offcut.core.lists.edl.writing import edl_text
from offcut.core.lists.outgoing import EventList
from offcut.core.lists.registry import read_list
from offcut.core.lists.timelines.writing import otio_text
from offcut.core.model.project import Project
from offcut.core.model.rules import fault_of_project
from offcut.core.model.source import Media
from offcut.core.model.verbs.sources import add_source
from offcut.core.tally.cutting import Use
from offcut.core.tally.fitting import misgivings
from offcut.core.tally.taking import Taking

ODD = [
    b"", b"\0", b"\xff\xfe", b"\x1a", b"\x1b[2J", "²³".encode(), "٣".encode(), b"-1", b"1e999",
    b"NaN", b"Infinity", b"null", b"{}", b"[]", b'"', b"9" * 40, b"0.0000001", b"A" * 3000,
    b"A0A0A0A0A0A0A0A0A0A0A0A0A0A0A0A0A0A0A0A0!", b"99:99:99:99", b"24:00:00:00", b"00:00:00;00",
    b"M2", b"* LOC:", b"D 999999", b"W001 -5", b"K", b"\t", b";", b"\r", b"true", b"*" * 50,
]  # fmt: skip
_WORD = re.compile(rb"[^\s,]+")


def sound_lists(events: EventList) -> dict[str, bytes]:
    """Return one sound list of each form, by its suffix."""
    plain = "".join(f"{events.words(e.record_in)} {e.name}\n" for e in events.events)
    texts = {
        "edl": edl_text(events), "otio": otio_text(events), "csv": csv_text(events), "txt": plain
    }  # fmt: skip
    return {suffix: text.encode() for suffix, text in texts.items()}


def harmed(data: bytes, count: int, seed: int = 1) -> Iterator[bytes]:
    """Yield so many harmed copies of a file."""
    rng = random.Random(seed)
    lines = data.splitlines(keepends=True)
    for _ in range(count):
        made = data
        for _ in range(rng.randint(1, 4)):
            made = _once(made, lines, rng)
        yield made


def _once(data: bytes, lines: list[bytes], rng: random.Random) -> bytes:
    at = rng.randrange(len(data) + 1)
    way = rng.randrange(7)
    if way == 0:
        return data[:at] + rng.randbytes(rng.randint(1, 8)) + data[at + rng.randint(0, 8) :]
    if way == 1:
        return data[:at] + rng.choice(ODD) + data[at:]
    if way == 2:
        end = at + rng.randint(1, 400)
        return data[:at] + data[end:]
    if way == 3:
        return data[:at] + b"".join(rng.choices(lines, k=3)) + data[at:]
    if way == 4:
        return data[:at]
    words = list(_WORD.finditer(data))
    if not words:
        return data + rng.choice(ODD)
    word = rng.choice(words)
    other = rng.choice(words)[0] if way == 5 else rng.choice(ODD)
    return data[: word.start()] + other + data[word.end() :]


_ODD_VALUES = [
    None, True, 0, -1, 1e300, 10**400, float("nan"), float("inf"), "", "x", "\x1b[2J", [], {},
    [None],
    {"OTIO_SCHEMA": "Clip.1"}, {"OTIO_SCHEMA": "Nothing.7"}, {"OTIO_SCHEMA": "Gap.1"},
    {"OTIO_SCHEMA": "RationalTime.1", "rate": 0, "value": 5}, "SMPTE_Dissolve", 1500.0, "V" * 5000,
]  # fmt: skip


def harmed_json(data: bytes, count: int, seed: int = 1) -> Iterator[bytes]:
    """Yield so many harmed copies of a JSON document that are still JSON."""
    rng = random.Random(seed)
    for _ in range(count):
        made = json.loads(data)
        for _ in range(rng.randint(1, 4)):
            _harm_value(made, rng)
        yield json.dumps(made).encode()


def _harm_value(document: Any, rng: random.Random) -> None:
    holder, deep = document, rng.randint(1, 14)
    for _ in range(deep):
        keys = list(holder) if isinstance(holder, dict) else range(len(holder))
        inner = [k for k in keys if isinstance(holder[k], dict | list) and holder[k]]
        if not inner:
            break
        holder = holder[rng.choice(inner)]
    keys = list(holder) if isinstance(holder, dict) else list(range(len(holder)))
    if not keys:
        return
    key, way = rng.choice(keys), rng.randrange(5)
    if way == 0:
        del holder[key]
    elif way == 1:
        holder[key] = copy.deepcopy(holder[rng.choice(keys)])
    elif way == 2 and isinstance(holder, list):
        holder.insert(key, copy.deepcopy(holder[rng.choice(keys)]))
    else:
        holder[key] = copy.deepcopy(rng.choice(_ODD_VALUES))


def read_harmed(folder: Path, suffix: str, data: bytes, rate: Fraction) -> str:
    """Read a harmed list and cut by it: return what was said, empty where it was taken.

    Anything but a clean sentence is raised.
    """
    path = folder / f"harmed.{suffix}"
    path.write_bytes(data)
    media = Media("/films/Line 7.mov", rate, 5000, 1920, 1080, start=1000)
    project = add_source(Project(), media)
    try:
        listed = read_list(path, rate)
        taking = Taking(listed)
        use = Use.TOGETHER if taking.joins.joins else Use.MARKERS
        fit = taking.laid(project.sources[0], use)
        misgivings(listed, taking.joins, media, fit.offset)
        project = taking.take(project, 1, fit.offset, use)
    except OffcutError as error:
        said = str(error)
        assert "\n" not in said, said
        assert len(said) < 1000, said
        return said
    assert not fault_of_project(project), fault_of_project(project)
    return ""
