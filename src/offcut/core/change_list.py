"""The change list: what became of every shot, for those who have to follow: as JSON, CSV, EDL, OTIO
and on paper with pictures.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from offcut.core.board.looking import FramePictures
from offcut.core.errors import OffcutError
from offcut.core.held_against import Held
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.outgoing import events_of, going, write_list, write_list_bytes
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Marker, MarkerColour, Source
from offcut.core.papers import PAPERS
from offcut.core.tally.versions.changes import Change, Comparison, Span, What, frames_words
from offcut.core.turnover.sheet import (
    FAINT,
    INK,
    MARGIN,
    Box,
    Line,
    Page,
    PdfSheet,
    Picture,
)
from offcut.core.words import many


def change_document(comparison: Comparison) -> dict[str, Any]:
    """Return what `offcut tally --json` prints, as docs/formats.md describes it."""
    return {
        "facts": list(comparison.facts),
        "changes": [_change_in_json(c) for c in comparison.changes],
        "unchanged": [
            {"old": list(s.old), "new": list(s.new)} for s in unchanged_stretches(comparison)
        ],
    }


def _change_in_json(change: Change) -> dict[str, Any]:
    return {
        "change": change.what.value,
        "moved": change.moved,
        "old": list(change.old) if change.old else None,
        "new": list(change.new) if change.new else None,
        "head": change.head,
        "tail": change.tail,
        "speed": float(change.speed),
        "certainty": change.certainty.value,
        "reasons": [r.text for r in change.reasons],
    }


@dataclass(frozen=True, slots=True)
class Stretch:
    """Frames of both versions that are the same without a break."""

    old: Span
    new: Span


def unchanged_stretches(comparison: Comparison) -> list[Stretch]:
    """Return the stretches that did not change, as long as they go: what sound can be moved by."""
    made: list[Stretch] = []
    for change in comparison.changes:
        span = _kept_of(change)
        if span is None:
            continue
        if made and made[-1].old[1] == span.old[0] and made[-1].new[1] == span.new[0]:
            made[-1] = Stretch((made[-1].old[0], span.old[1]), (made[-1].new[0], span.new[1]))
        else:
            made.append(span)
    return made


def _kept_of(change: Change) -> Stretch | None:
    """Return what of a shot is in both versions; another picture does not keep sound."""
    if change.old is None or change.new is None or change.speed != 1:
        return None
    if change.what is What.OTHER and not any(r.code == "part" for r in change.reasons):
        return None
    old = change.old[0] + max(0, -change.head), change.old[1] - max(0, -change.tail)
    new = change.new[0] + max(0, change.head), change.new[1] - max(0, change.tail)
    return Stretch(old, new) if old[1] > old[0] and new[1] - new[0] == old[1] - old[0] else None


_HEADS = (
    "change", "moved", "old in", "old out", "new in", "new out", "head", "tail", "speed", "name",
    "certainty", "reasons",
)  # fmt: skip


def changes_csv(comparison: Comparison, old: Held, new: Held) -> str:
    """Return the changes as comma-separated rows, and after them the unchanged stretches with
    their timecodes in both versions.
    """
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(_HEADS)
    names = _Names(old, new)
    for c in comparison.changes:
        rows.writerow(
            (
                c.what.value, "yes" if c.moved else "", *_words(old, c.old), *_words(new, c.new),
                c.head or "", c.tail or "", f"{float(c.speed):g}" if c.speed != 1 else "",
                names.of(c), c.certainty.value, "; ".join(r.text for r in c.reasons),
            )
        )  # fmt: skip
    rows.writerow(())
    rows.writerow(("unchanged", "frames", "old in", "old out", "new in", "new out", "moves by"))
    for n, s in enumerate(unchanged_stretches(comparison), start=1):
        frames, by = s.old[1] - s.old[0], s.new[0] - s.old[0]
        rows.writerow((n, frames, *_words(old, s.old), *_words(new, s.new), by))
    return out.getvalue()


def _words(side: Held, span: Span | None) -> tuple[str, str]:
    return (side.words(span[0]), side.words(span[1])) if span else ("", "")


class _Names:
    """What the shots of both sides are called, by the frames they begin at."""

    def __init__(self, old: Held, new: Held) -> None:
        self._old, self._new = (
            {s.start: s.title for s in shots_of(h.source)} if h.source is not None else {}
            for h in (old, new)
        )

    def of(self, change: Change) -> str:
        """Return the name of the shot a change is about: the old one's, where it had one."""
        old = self._old.get(change.old[0], "") if change.old else ""
        new = self._new.get(change.new[0], "") if change.new else ""
        return old if old and not old.startswith("Shot ") else new or old


_COLOURS = {
    What.NEW: MarkerColour.GREEN,
    What.GONE: MarkerColour.RED,
    What.OTHER: MarkerColour.ORANGE,
    What.SHORTER: MarkerColour.YELLOW,
    What.LONGER: MarkerColour.YELLOW,
    What.SAME: MarkerColour.CYAN,
}


def marked(project: Project, source: Source, comparison: Comparison) -> tuple[Project, Source]:
    """Return the new version with a marker at each change, and none besides.

    What is gone is marked where it would come now.
    """
    markers = []
    at = source.start
    for n, change in enumerate(comparison.changes, start=1):
        if change.new is not None:
            at = change.new[0]
        if not change.alike:
            frame = min(max(source.start, at), source.end - 1)
            markers.append(Marker(n, frame, frame + 1, change.words, "", _COLOURS[change.what]))
        if change.new is not None:
            at = change.new[1]
    now = replace(source, markers=tuple(sorted(markers, key=lambda m: m.start)))
    sources = tuple(now if s.id == source.id else s for s in project.sources)
    return replace(project, sources=sources), now


def write_change_list(path: str | Path, comparison: Comparison, old: Held, new: Held) -> Path:
    """Write the change list in the form that a file's ending asks for: .csv, .edl, .otio or .pdf.

    Raises OffcutError for another ending, and where it cannot be written.
    """
    file = Path(path)
    ending = file.suffix.lower()
    if ending == ".csv":
        return write_list(file, changes_csv(comparison, old, new), "utf-8-sig")
    if ending == ".pdf":
        return write_list_bytes(file, changes_pdf(comparison, old, new))
    if ending not in (".edl", ".otio"):
        raise OffcutError(f"{file}: a change list is .pdf, .csv, .edl or .otio")
    if new.project is None or new.source is None:
        raise OffcutError(f"{new.path}: is a list, so there is no film to make {file.name} of")
    project, source = marked(new.project, new.source, comparison)
    events = events_of(project, going(source))
    return write_edl(events, file) if ending == ".edl" else write_otio(events, file)


# on paper

_ROW, _HEAD = 27.0, 29.0
_WIDE = 38.0


def changes_pdf(comparison: Comparison, old: Held, new: Held, paper: str = "A4") -> bytes:
    """Return the changed shots on paper, each with its picture in both versions."""
    wide, high = PAPERS.get(paper, PAPERS["A4"])
    rows = [c for c in comparison.changes if not c.alike]
    each = max(1, int((high - 2 * MARGIN - _HEAD - 6) // _ROW))
    sheet = PdfSheet(f"{new.path.name}, change list", paper)
    pictures = _Pictures(old, new)
    names = _Names(old, new)
    count = max(1, -(-len(rows) // each))
    try:
        for number in range(count):
            some = rows[number * each : (number + 1) * each]
            boxes, lines = [], list(_head(comparison, old, new, number, count, wide, high))
            drawn: dict[int, Picture] = {}
            for k, change in enumerate(some):
                y = MARGIN + _HEAD + k * _ROW
                for side, box in pictures.boxes_of(change, y, 2 * k):
                    boxes.append(box)
                    drawn[box.place] = side
                lines += _lines_of(change, names.of(change), old, new, y, wide)
            sheet.draw(Page(tuple(boxes), tuple(lines)), drawn)
    finally:
        pictures.close()
    return sheet.data()


def _head(
    comparison: Comparison, old: Held, new: Held, number: int, count: int, wide: float, high: float
) -> Iterator[Line]:
    counts = comparison.counts
    told = ", ".join(f"{n} {words}" for words, n in counts.items() if n)
    y = MARGIN + 5
    room = wide - 2 * MARGIN
    yield Line(MARGIN, y, f"What changed in {new.path.name}", "strong", 5.2, INK, room)
    yield Line(MARGIN, y + 5.2, f"held against {old.path.name}", "sans", 2.9, INK, room)
    yield Line(MARGIN, y + 9.6, told, "sans", 2.7, INK, room)
    yield Line(MARGIN, y + 13.6, "; ".join(comparison.facts), "sans", 2.7, FAINT, room)
    yield Line(MARGIN, y + 19.4, "old", "sans", 2.7, FAINT)
    yield Line(MARGIN + _WIDE + 3, y + 19.4, "new", "sans", 2.7, FAINT)
    foot = f"{number + 1} of {count}"
    yield Line(wide - MARGIN, high - MARGIN + 3, foot, "mono", 2.5, FAINT, 0, True)


def _lines_of(
    change: Change, name: str, old: Held, new: Held, y: float, wide: float
) -> Iterator[Line]:
    x = MARGIN + 2 * (_WIDE + 3)
    room = wide - MARGIN - x
    yield Line(x, y + 3.6, change.words, "strong", 3.1, INK, room)
    yield Line(x, y + 7.9, name, "sans", 2.7, INK, room)
    for k, (words, side, span) in enumerate((("old", old, change.old), ("new", new, change.new))):
        at = y + 12.2 + 3.8 * k
        yield Line(x, at, words, "sans", 2.4, FAINT)
        if span:
            told = f"{side.words(span[0])}  {side.words(span[1])}"
            yield Line(x + 8, at, told, "mono", 2.4)
            yield Line(x + 66, at, frames_words(span[1] - span[0]), "sans", 2.4, FAINT)
        else:
            yield Line(x + 8, at, "not there", "sans", 2.4, FAINT)
    doubts = [change.certainty.value, *(r.text for r in change.reasons)]
    yield Line(x, y + 20.2, "; ".join(doubts), "sans", 2.4, FAINT, room)


class _Pictures:
    """Pictures of both sides at print size; a grey well where there is none."""

    def __init__(self, old: Held, new: Held) -> None:
        self._sides = (old, new)
        self._frames = FramePictures()

    def boxes_of(self, change: Change, y: float, place: int) -> Iterator[tuple[Picture, Box]]:
        """Yield the pictures of a change and where they lie."""
        for k, (side, span) in enumerate(zip(self._sides, (change.old, change.new), strict=True)):
            if span is None or side.source is None:
                continue
            size = shown_size(side.source.media)
            high = min(_ROW - 5.0, _WIDE * size[1] / size[0])
            long = high * size[0] / size[1]
            picture = self._frames.picture(side.source, sum(span) // 2, fit(*size, 320, 240))
            shown = picture if picture is not None else np.full((9, 16, 3), 43, np.uint8)
            inset = MARGIN + k * (_WIDE + 3) + (_WIDE - long) / 2
            yield shown, Box(place + k, inset, y, long, high)

    def close(self) -> None:
        """Give the films back."""
        self._frames.close()


def comparison_text(comparison: Comparison, old: Held, new: Held) -> str:
    """Return what changed, line by line, to be read on a terminal."""
    names = _Names(old, new)
    lines = list(comparison.facts)
    for change in comparison.changes:
        if change.alike:
            continue
        side, span = (new, change.new) if change.new else (old, change.old)
        assert span is not None
        doubt = "" if change.certainty.value == "sure" else f" ({change.certainty.value})"
        where = side.words(span[0]) + ("" if change.new else " in the old version")
        lines.append(f"{where}  {names.of(change)}: {change.words}{doubt}")
    same = sum(c.alike for c in comparison.changes)
    return "\n".join([*lines, f"{many(same, 'shot')} the same"])
