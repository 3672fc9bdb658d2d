"""Plain lists: a timecode or frame on each line, and maybe a name; or chapters in text."""

from __future__ import annotations

import re
from fractions import Fraction
from itertools import pairwise
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
)
from offcut.core.timecode import Rate, base_of

_WORD = re.compile(r"[0-9:;.,]{1,40}")
_CLOCK = re.compile(r"(?:([0-9]{1,3}):)?([0-9]{1,2}):([0-9]{2})(?:[.,]([0-9]{1,6}))?")


def read_plain(path: str | Path, rate: Rate) -> ReadList:
    """Read a plain list: each line one timecode or frame where a shot begins, then maybe its name.

    Where every line has hours, minutes and seconds alone (``00:01:30 The quay``), they are
    chapters: places in time from the film's first frame, and the list marks them. Empty lines and
    what follows a # are left out. Raises ListError when nothing can be read.
    """
    troubles = ListTroubles(path)
    found: list[tuple[int, int, str, bool]] = []
    chapters: list[ListMarker] = []
    highest = 0
    for number, raw in lines_of(path):
        line = raw.split("#", 1)[0].strip()
        if not line:
            continue
        word, _, name = line.replace("\t", " ").partition(" ")
        clock = _CLOCK.fullmatch(word)
        if not _WORD.fullmatch(word):
            troubles.add(number, raw, "begins with no timecode or frame:")
            continue
        if clock is not None and not found:
            chapters.append(ListMarker(_frame_at(clock, rate), name.strip(" -–—\t")))
        elif clock is not None or chapters:
            troubles.add(number, raw, "counts otherwise than the lines before:")
            continue
        else:
            try:
                frame = frame_from_word(word, rate)
            except (TimecodeError, ValueError) as error:
                troubles.add(number, raw, f"{error}:")
                continue
            found.append((frame, number, name.strip(), ";" in word))
            highest = max(highest, frames_field(word))
        if len(found) + len(chapters) > MAX_EVENTS:
            raise ListError(f"{path}: more than {MAX_EVENTS:,} lines")
    if chapters:
        return troubles.told_by(
            ReadList(
                str(path), "chapters", rate, False, Path(path).stem, markers=tuple(chapters),
                marks=True, from_zero=True,
            )
        )  # fmt: skip
    if not found:
        raise troubles.refusal("not one timecode or frame can be read in it")
    order = sorted(found)
    events = [
        ReadEvent(str(i), line, "", here, after, here, after, clip=name, drop=drop)
        for i, ((here, line, name, drop), (after, *_)) in enumerate(
            pairwise([*order, (order[-1][0] + base_of(rate), 0, "", False)]), start=1
        )
        if after > here
    ]
    return troubles.told_by(
        ReadList(
            str(path), "plain list", rate, order[0][3], Path(path).stem, tuple(events),
            highest=highest,
        )
    )  # fmt: skip


def _frame_at(clock: re.Match[str], rate: Rate) -> int:
    """Return the frame that is shown at a time of day's worth of hours, minutes and seconds."""
    hours, minutes, seconds, parts = clock.groups(default="0")
    whole = (int(hours) * 60 + int(minutes)) * 60 + int(seconds)
    return round((whole + Fraction(int(parts), 10 ** len(parts))) * rate)
