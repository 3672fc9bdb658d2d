"""The shots as plain JSON, for scripts; described in docs/formats.md."""

from __future__ import annotations

from pathlib import Path

from offcut.core.lists.outgoing import EventList, write_list
from offcut.core.words import as_json


def json_text(events: EventList) -> str:
    """Return the list as one JSON object, frames and timecodes side by side."""
    document = {
        "title": events.title,
        "film": events.events[0].film.name if events.events else "",
        "rate": f"{events.rate.numerator}/{events.rate.denominator}",
        "drop": events.drop,
        "shots": [
            {
                "number": e.number,
                "film": e.film.name,
                "name": e.name,
                "note": e.note,
                "scene": e.scene,
                "start": e.counted[0],
                "end": e.counted[1],
                "source_in": events.words(e.source_in),
                "source_out": events.words(e.source_out),
                "record_in": events.words(e.record_in),
                "record_out": events.words(e.record_out),
                "handles": [e.head, e.tail],
                "joined_by": e.joined_by.value,
                "mixed": e.mixed,
                **dict(zip(("reel", "reel_in", "reel_out"), events.reel_words(e), strict=True)),
                **({"shows": dict(e.shows)} if e.shows else {}),
                "markers": [
                    {
                        "start": e.number_of(m.start),
                        "end": e.number_of(m.end - 1) + 1,
                        "name": m.name,
                        "note": m.note,
                    }
                    for m in e.markers
                ],
            }
            for e in events.events
        ],
    }
    return as_json(document, indent=1) + "\n"


def write_json(events: EventList, path: str | Path) -> Path:
    """Write the JSON. Raises ListError."""
    return write_list(path, json_text(events))
