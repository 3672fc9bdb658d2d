"""A whole cut list read in as a running order: each event as a shot of the project's films.

An event names its film by clip name, reel or file name, or, in a project of one film, not at all;
its source timecode says which frames. Where its reel and timecode are those of a shot's original,
it is that shot.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from offcut.core.facts.query import folded
from offcut.core.lists.incoming import ReadEvent, ReadList
from offcut.core.model.orders import ref_of
from offcut.core.model.project import OrderUse, Project
from offcut.core.model.shots import Shot, shot_at, shots_of
from offcut.core.model.source import Source


@dataclass(frozen=True)
class ListAsOrder:
    """The uses a list makes, without ids; and a sentence on each event that has no film here."""

    uses: tuple[OrderUse, ...]
    left: tuple[str, ...]


def order_from_list(project: Project, listed: ReadList) -> ListAsOrder:
    """Return a list's events as uses, in the list's order."""
    uses: list[OrderUse] = []
    left: list[str] = []
    for event in listed.events:
        if event.black or event.length <= 0:
            continue
        use = _by_film(project, event) or _by_original(project, event)
        if use is None:
            named = event.clip or event.reel or "no name"
            where = f"line {event.line}: " if event.line else ""
            left.append(f"{where}event {event.number} ({named}) is of no film of this project")
        else:
            uses.append(use)
    return ListAsOrder(tuple(uses), tuple(left))


def _by_film(project: Project, event: ReadEvent) -> OrderUse | None:
    if event.source_out <= event.source_in:
        return None  # its source is not known
    named = [s for s in project.sources if _is_named(s, event)]
    tried = named or (project.sources if len(project.sources) == 1 else ())
    for source in tried:
        start = event.source_in - source.media.start
        end = start + event.length
        if 0 <= start < end <= source.media.frames:
            return _use(source, start, end, event)
    return None


def _is_named(source: Source, event: ReadEvent) -> bool:
    path = Path(source.media.path)
    names = {folded(path.name), folded(path.stem), folded(source.ticket.reel)} - {""}
    said = {folded(event.clip), folded(event.reel), folded(Path(event.clip).stem)} - {""}
    # reels of eight letters and the like are cut short, and have no dots
    plain = {"".join(c for c in n if c.isalnum()) for n in names}
    short = {"".join(c for c in s if c.isalnum()) for s in said}
    cut = {s for s in short if len(s) >= 8 and any(p.startswith(s) for p in plain)}
    return bool(names & said or plain & short - {""} or cut)


def _by_original(project: Project, event: ReadEvent) -> OrderUse | None:
    for source in project.sources:
        for shot in shots_of(source):
            original = shot.card.original
            if original is None or original.speed != 1 or not event.reel:
                continue
            first, last = original.span(shot.start, shot.end)
            if folded(original.reel) == folded(event.reel) and (
                event.source_in < last and event.source_out > first
            ):
                start = max(0, shot.start + event.source_in - first)
                end = min(source.media.frames, start + event.length)
                if start < end:
                    return _of_shot(source, shot, start, end)
    return None


def _use(source: Source, start: int, end: int, event: ReadEvent) -> OrderUse:
    shot = shot_at(shots_of(source), (start + end - 1) // 2)
    if shot is not None and shot.start - 48 <= start and end <= shot.end + 48:
        return _of_shot(source, shot, start, end)
    return OrderUse(0, source.id, None, start, end, event.clip or "")


def _of_shot(source: Source, shot: Shot, start: int, end: int) -> OrderUse:
    own_start = None if start == shot.start else start
    return OrderUse(0, source.id, ref_of(source, shot), own_start, None if end == shot.end else end)
