"""Plain lists: a timecode or frame on each line, and maybe a name."""

from __future__ import annotations

import re
from dataclasses import replace
from itertools import pairwise
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
from offcut.core.timecode import Rate, base_of

_WORD = re.compile(r"[0-9:;.,]+")


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
            found.append((frame_from_word(word, rate), number, name.strip(), ";" in word))
        except (TimecodeError, ValueError) as error:
            troubles.append(Trouble(number, raw, f"{error}:"))
            continue
        highest = max(highest, frames_field(word))
        if len(found) > MAX_EVENTS:
            raise ListError(f"{path}: more than {MAX_EVENTS} lines")
    if not found:
        first = f"; {troubles[0]}" if troubles else ""
        raise ListError(f"{path}: not one timecode or frame can be read in it{first}")
    order = sorted(found)
    events = [
        ReadEvent(str(i), line, "", here, after, here, after, clip=name, drop=drop)
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
