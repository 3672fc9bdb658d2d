"""Names, notes and scenes from a bin of shots: which of them a shot of the film was made from."""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from dataclasses import dataclass, replace
from pathlib import Path

from offcut.core.errors import OffcutError
from offcut.core.lists.incoming import ReadEvent, ReadList
from offcut.core.model.card import Card
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.shots import Shot, shots_of
from offcut.core.model.source import Source
from offcut.core.model.verbs.replacing import clean_name, clean_note, with_cards
from offcut.core.model.verbs.scenes import scene_named


@dataclass(frozen=True, slots=True)
class Named:
    """A shot, and the row of the bin that it is in; ``by`` says in words how that is known."""

    shot: Shot
    row: ReadEvent
    by: str


def named_of(project: Project, source_id: int, listed: ReadList) -> tuple[Named, ...]:
    """Return which row each shot is of: by its original's reel and timecode, by the film's own, or
    by its clip's name. A row must hold half of a shot at least.
    """
    source = project.source(source_id)
    rows = _Bin(listed)
    names = dict.fromkeys(map(key_of_name, (*_film_names(source), "")))
    found: list[Named] = []
    for shot in shots_of(source):
        original = shot.card.original
        row: ReadEvent | None = None
        by = ""
        if original is not None and original.reel:
            row = rows.holding(key_of_name(original.reel), *original.span(shot.start, shot.end))
            by = "by its reel and timecode"
        if row is None:
            start = source.media.start
            for name in names:
                row = row or rows.holding(name, start + shot.start, start + shot.end)
            by = "by the film’s own timecode"
        if row is None:
            said = (original.clip if original is not None else "") or shot.card.name
            row, by = rows.named(said), "by its name"
        if row is not None:
            found.append(Named(shot, row, by))
    return tuple(found)


def name_by_list(project: Project, source_id: int, listed: ReadList) -> Project:
    """Return the project with the names, notes and scenes of a bin; what a person gave stays.

    OffcutError when no shot is on it, or nothing new is told.
    """
    found = named_of(project, source_id, listed)
    if not found:
        raise OffcutError(f"{listed.name}: no shot of the film is in it by reel, timecode or name")
    before, source = project, project.source(source_id)
    cards: dict[ShotRef, Card] = {}
    for named in found:
        card, row, scene = named.shot.card, named.row, named.shot.card.scene
        if not scene and row.scene:
            project, scene = scene_named(project, row.scene)
        cards[ref_of(source, named.shot)] = replace(
            card,
            name=card.name or clean_name(row.clip),
            note=card.note or clean_note(row.note),
            scene=scene,
        )
    project = with_cards(project, cards, lambda ref, _card: cards[ref])
    if project == before:
        raise OffcutError(f"{listed.name}: brings nothing that the shots do not have already")
    return project


def _film_names(source: Source) -> tuple[str, ...]:
    path = Path(source.media.path)
    return source.ticket.reel, path.stem, path.name


def key_of_name(name: str) -> str:
    """Return a reel's or a file's name as it is compared: capitals, letters and digits alone."""
    return "".join(c for c in name.upper() if c.isalnum())


_LOOKED_BACK = 400
"""So many rows that begin before a shot's end are looked at, the nearest first."""


class _Bin:
    """The rows by reel, each in order of time, and by name."""

    def __init__(self, listed: ReadList) -> None:
        self._rows: dict[str, list[ReadEvent]] = defaultdict(list)
        self._names: dict[str, ReadEvent] = {}
        for row in sorted(listed.events, key=lambda e: e.source_in):
            key = key_of_name(row.reel)
            self._rows[key].append(row)
            self._names.setdefault(key_of_name(row.clip), row)

    def holding(self, reel: str, start: int, end: int) -> ReadEvent | None:
        """Return the row of a reel that holds most of [start, end), half of it at least."""
        rows = self._rows.get(reel, [])
        last = bisect_left(rows, end, key=lambda e: e.source_in)
        best: ReadEvent | None = None
        most = (end - start) / 2
        for n in range(last - 1, max(-1, last - _LOOKED_BACK), -1):
            row = rows[n]
            inside = min(end, row.source_out) - max(start, row.source_in)
            if inside >= most and (best is None or inside > most):
                best, most = row, inside
        return best

    def named(self, name: str) -> ReadEvent | None:
        """Return the first row of that name, None for no name."""
        key = key_of_name(name)
        return self._names.get(key) if key else None
