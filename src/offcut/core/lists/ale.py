"""ALE: a bin of shots, one a row, with their reels and source timecodes.

Written by OpenTimelineIO's adapter; read here, line by line, because one odd row must not lose the
others. The form: a heading, the names of the columns, and rows with tabs between (common practice,
no published standard).
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.incoming import (
    COMMENTS_KEPT,
    MAX_EVENTS,
    ListTroubles,
    ReadEvent,
    ReadList,
    frame_from_word,
    frames_field,
    lines_of,
)
from offcut.core.lists.outgoing import Event, EventList, with_plain_texts, write_list
from offcut.core.lists.timelines.writing import library, text_by_adapter
from offcut.core.timecode import Rate, base_of, rate_from, rate_words

_OWN = ("name", "tape", "start", "end", "duration", "scene", "comments", "source file", "tracks")
_NAMES = ("tape", "reel", "tape name", "reel name", "source file", "source file name", "camroll")


def read_ale(path: str | Path, rate: Rate) -> ReadList:
    """Read the shots of an ALE; the rate it tells itself goes before ``rate``.

    They have no record side: it is given as their source side, and ``bin`` is set. Rows whose
    timecodes cannot be read are told and left out. Raises ListError naming the file.
    """
    troubles = ListTroubles(path)
    events: list[ReadEvent] = []
    part, columns = "", {}
    own: Rate | None = None
    drop, highest = False, 0
    for number, line in lines_of(path):
        word = line.strip().lower()
        if word in ("heading", "column", "data"):
            part = word
        elif not word:
            continue
        elif part == "heading":
            key, _, value = line.partition("\t")
            if key.strip().lower() == "fps":
                own = _rate(value.strip(), number, line, troubles)
        elif part == "column":
            heads = [h.strip().lower() for h in line.split("\t")]
            columns = {h: n for n, h in enumerate(heads) if h}
            part = ""
        elif part == "data" and columns:
            if len(events) >= MAX_EVENTS:
                raise ListError(f"{path}: more than {MAX_EVENTS:,} shots")
            cells = [c.strip() for c in line.split("\t")]
            try:
                event = _shot(cells, columns, number, len(events) + 1, own or rate)
            except (TimecodeError, ValueError) as error:
                troubles.add(number, line, f"{error}:")
                continue
            highest = max(highest, frames_field(cells[columns["start"]]))
            drop = drop or event.drop
            events.append(event)
        else:
            troubles.add(number, line, "not understood:")
    if not events:
        raise troubles.refusal("not one shot can be read in it")
    return troubles.told_by(
        ReadList(
            str(path), "ALE", own or rate, drop, Path(path).stem, tuple(events), highest=highest,
            told_rate=own, bin=True,
        )
    )  # fmt: skip


def _rate(word: str, number: int, line: str, troubles: ListTroubles) -> Rate | None:
    try:
        return rate_from(word)
    except TimecodeError as error:
        troubles.add(number, line, f"{error}:")
        return None


def _shot(
    cells: list[str], columns: dict[str, int], line: int, place: int, rate: Rate
) -> ReadEvent:
    """Return a row as an event. Raises TimecodeError or ValueError."""

    def cell(name: str) -> str:
        at = columns.get(name, -1)
        return cells[at] if 0 <= at < len(cells) else ""

    start = cell("start")
    if not start:
        raise ValueError("has no start")
    first = frame_from_word(start, rate)
    if cell("end"):
        last = frame_from_word(cell("end"), rate)
    elif cell("duration"):
        last = first + frame_from_word(cell("duration"), rate)
    else:
        raise ValueError("has neither an end nor a duration")
    if last <= first:
        raise ValueError("ends before it begins")
    reel = next((c for n in _NAMES if (c := cell(n))), "")
    others = [
        f"{name}: {cells[at]}"
        for name, at in columns.items()
        if name not in _OWN and name not in _NAMES and at < len(cells) and cells[at]
    ]
    return ReadEvent(
        number=str(place),
        line=line,
        reel=reel,
        source_in=first,
        source_out=last,
        record_in=first,
        record_out=last,
        clip=cell("name"),
        note=cell("comments") or cell("description"),
        scene=cell("scene"),
        drop=";" in start,
        comments=tuple(others[:COMMENTS_KEPT]),
    )


# writing


_COLUMNS = (
    "Name",
    "Tape",
    "Start",
    "End",
    "Duration",
    "Tracks",
    "Scene",
    "Comments",
    "Source File",
)
_RASTERS = {1080: "1080", 720: "720", 576: "PAL", 486: "NTSC", 480: "NTSC"}
"""What a heading calls the picture, by its height (common practice)."""


def ale_text(events: EventList) -> str:
    """Return the shots as an ALE: reels and timecodes of the originals where they have one."""
    otio, events = library(), with_plain_texts(events)
    shots = otio.schema.SerializableCollection(events.title)
    shots.extend(_clip(otio, event, base_of(events.rate)) for event in events.events)
    shots.metadata["ALE"] = {"columns": list(_COLUMNS)}
    raster = _RASTERS.get(events.events[0].film.height, "CUSTOM")
    rate = base_of(events.rate)
    text = text_by_adapter(shots, "ale", "an ALE", fps=rate, video_format=raster)
    head, rows = text.split("\nData\n", 1)
    head = head.replace(f"FPS\t{rate}\n", f"FPS\t{rate_words(events.rate)}\n", 1)
    told = (
        _labelled(row, events, event)
        for row, event in zip(rows.splitlines(), events.events, strict=True)
    )
    return "\n".join([f"{head}\nData", *told]) + "\n"


def _labelled(row: str, events: EventList, event: Event) -> str:
    """Return a row whose timecodes count as its source does; the adapter knows one way for all."""
    cells = row.split("\t")
    ends = (event.source_in, event.source_out, event.source_out - event.source_in)
    cells[2:5] = [events.source_words(event, frame) for frame in ends]
    return "\t".join(cells)


def _clip(otio: Any, event: Event, rate: int) -> Any:
    clip = otio.schema.Clip(name=event.name)
    clip.source_range = otio.opentime.TimeRange(
        otio.opentime.RationalTime(event.source_in, rate),
        otio.opentime.RationalTime(event.source_out - event.source_in, rate),
    )
    clip.metadata["ALE"] = {
        "Tape": event.reel or event.film.reel or Path(event.film.name).stem,
        "Tracks": "V",
        "Scene": event.scene,
        "Comments": event.note,
    }
    if not event.reel:
        clip.media_reference = otio.schema.ExternalReference(target_url=event.film.name)
    return clip


def write_ale(events: EventList, path: str | Path) -> Path:
    """Write the shots as an ALE. Raises ListError naming the file."""
    try:
        text = ale_text(events)
    except ListError as error:
        raise ListError(f"{path}: {error}") from error
    return write_list(path, text)
