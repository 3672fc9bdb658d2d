"""The change list: what became of every shot, for those who have to follow: as JSON, CSV, EDL, OTIO
and on paper with pictures.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from offcut.core.errands.held_against import OneSide
from offcut.core.errors import OffcutError
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.outgoing import events_of, going, write_list, write_list_bytes
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Marker, MarkerColour, Source
from offcut.core.reports.pair_sheet import PaperPair, PaperSide, pairs_pdf
from offcut.core.tally.versions.changes import Change, Comparison, Span, What, frames_words
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


def changes_csv(comparison: Comparison, old: OneSide, new: OneSide) -> str:
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


def _words(side: OneSide, span: Span | None) -> tuple[str, str]:
    return (side.words(span[0]), side.words(span[1])) if span else ("", "")


class _Names:
    """What the shots of both sides are called, by the frames they begin at."""

    def __init__(self, old: OneSide, new: OneSide) -> None:
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


def write_change_list(path: str | Path, comparison: Comparison, old: OneSide, new: OneSide) -> Path:
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


def changes_pdf(comparison: Comparison, old: OneSide, new: OneSide, paper: str = "A4") -> bytes:
    """Return the changed shots on paper, each with its picture in both versions."""
    names = _Names(old, new)
    told = ", ".join(f"{n} {words}" for words, n in comparison.counts.items() if n)
    heads = (
        f"What changed in {new.path.name}", f"held against {old.path.name}", told,
        "; ".join(comparison.facts),
    )  # fmt: skip
    pairs = [
        PaperPair(
            change.words, names.of(change), (_side(old, change.old), _side(new, change.new)),
            "; ".join([change.certainty.value, *(r.text for r in change.reasons)]),
        )
        for change in comparison.changes if not change.alike
    ]  # fmt: skip
    return pairs_pdf(heads, ("old", "new"), pairs, paper)


def _side(side: OneSide, span: Span | None) -> PaperSide:
    if span is None:
        return PaperSide(None, 0, "")
    place = f"{side.words(span[0])}  {side.words(span[1])}"
    return PaperSide(side.source, sum(span) // 2, place, frames_words(span[1] - span[0]))


def comparison_text(comparison: Comparison, old: OneSide, new: OneSide) -> str:
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
