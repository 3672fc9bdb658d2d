"""Lists of markers: a CSV, an EDL of locators, and chapters as players and sites take them."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from offcut.core.lists.csv import harmless
from offcut.core.lists.edl.writing import locator_lines, plain, reels_of
from offcut.core.lists.outgoing import Event, EventList, write_list
from offcut.core.model.source import Marker

HEADS = ("marker in", "marker out", "name", "note", "colour", "frames", "shot", "film")


class Marked(NamedTuple):
    """A marker of a shot that goes, with the frame of the list's own clock where it begins."""

    event: Event
    marker: Marker
    frame: int


def marked_of(events: EventList) -> list[Marked]:
    """Return the markers of the shots that go, in order of time.

    Those of one film are timed by its own timecode; those of several by the record side.
    """
    own = events.one_film
    found = [
        Marked(e, m, e.film.start + m.start if own else e.record_in + m.start - e.start)
        for e in events.events
        for m in e.markers
    ]
    once = {(m.event.film.path, m.marker.id) if own else (m.frame, m.marker.id): m for m in found}
    return sorted(once.values(), key=lambda m: (m.frame, m.marker.end))


def markers_csv(events: EventList) -> str:
    """Return a row for each marker, RFC 4180; read back by its heads."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(HEADS)
    for event, marker, frame in marked_of(events):
        length = marker.end - marker.start
        rows.writerow(
            (
                events.words(frame),
                events.words(frame + length),
                harmless(marker.name),
                harmless(marker.note),
                marker.colour.value,
                length,
                event.number,
                harmless(event.film.name),
            )
        )
    return out.getvalue()


def markers_edl(events: EventList) -> str:
    """Return an EDL that marks places: an event of one frame for each marker, with its locator."""
    mode = "DROP FRAME" if events.drop else "NON-DROP FRAME"
    lines = [f"TITLE: {plain(events.title)[:70]}", f"FCM: {mode}", ""]
    reels = reels_of(events)
    for number, (event, marker, frame) in enumerate(marked_of(events), start=1):
        first = event.film.start + marker.start
        ends = [events.source_words(event, f) for f in (first, first + 1)]
        ends += [events.words(f) for f in (frame, frame + 1)]
        reel = reels[event.film.path]
        lines.append(f"{number:03d}  {reel:<8s} V     {'C':<8s} {' '.join(ends)}")
        lines += locator_lines(events.words(frame), marker)
        if marker.note and marker.name:
            lines.append(f"* COMMENT: {plain(marker.note)}")
    return "\r\n".join(lines) + "\r\n"


def chapter_text(events: EventList) -> str:
    """Return a line for each marker, its time in whole seconds and its name.

    Sites want the first at zero, so the title stands there where no marker does.
    """
    lines = list(_chapters(events))
    if not lines or not lines[0].startswith("00:00:00 "):
        lines.insert(0, f"00:00:00 {plain(events.title)}")
    return "\n".join(lines) + "\n"


def _chapters(events: EventList) -> Iterator[str]:
    marked = marked_of(events)
    if not marked:
        return
    own = events.one_film
    zero = marked[0].event.film.start if own else events.events[0].record_in
    for _, marker, frame in marked:
        minutes, seconds = divmod(int((frame - zero) / events.rate), 60)
        hours, minutes = divmod(minutes, 60)
        name = plain(marker.name or marker.note) or "Marker"
        yield f"{hours:02d}:{minutes:02d}:{seconds:02d} {name}"


def write_markers(events: EventList, path: str | Path) -> Path:
    """Write the markers as CSV with a byte order mark. Raises ListError."""
    return write_list(path, markers_csv(events), "utf-8-sig")


def write_marker_edl(events: EventList, path: str | Path) -> Path:
    """Write the markers as an EDL. Raises ListError."""
    return write_list(path, markers_edl(events))


def write_chapter_text(events: EventList, path: str | Path) -> Path:
    """Write the markers as chapters in text. Raises ListError."""
    return write_list(path, chapter_text(events))
