"""Chapters in FFmpeg's metadata text."""

from __future__ import annotations

import re
from pathlib import Path

from offcut.core.lists.chapter_times import chapters_of
from offcut.core.lists.outgoing import EventList, write_list


def ffmetadata_text(events: EventList) -> str:
    """Return the shots as chapters in FFmpeg's metadata format, in units of one frame."""

    def plain(text: str) -> str:
        return re.sub(r"([=;#\\\n])", r"\\\1", text)

    base = 1 / events.rate
    lines = [";FFMETADATA1", f"title={plain(events.title)}"]
    for event, start, end in chapters_of(events):
        lines += [
            "",
            "[CHAPTER]",
            f"TIMEBASE={base.numerator}/{base.denominator}",
            f"START={start}",
            f"END={end}",
            f"title={plain(event.name)}",
        ]
    return "\n".join(lines) + "\n"


def write_ffmetadata(events: EventList, path: str | Path) -> Path:
    """Write FFmpeg metadata. Raises ListError."""
    return write_list(path, ffmetadata_text(events))
