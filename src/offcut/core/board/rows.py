"""Rows: every shot that the Board shows, of one film or all, or the uses of a running order."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from itertools import chain, repeat
from operator import is_not
from typing import NamedTuple

import numpy as np

from offcut.core.facts.findable import findable, reel_of
from offcut.core.facts.query import Findable, Query, folded, is_found
from offcut.core.model.orders import UsedShot, seam_of, uses_of
from offcut.core.model.project import Order, OrderUse, Project, ShotRef
from offcut.core.model.shots import Shot, other_cards, shots_of
from offcut.core.model.source import Source

SORTS = {
    "film": "Film order",
    "length": "Length",
    "name": "Name",
    "scene": "Scene",
    "light": "Light",
    "likeness": "Likeness to the chosen one",
}
"""In which orders shots can be shown; a running order has its own."""
TEXTS: dict[str, Callable[[BoardRow], str]] = {
    "note": lambda row: row.shot.card.note if row.shot else "",
    "kind": lambda row: row.shot.opened_by.kind.value if row.shot and row.shot.opened_by else "",
    "reel": lambda row: reel_of(row.source, row.shot) if row.source and row.shot else "",
    "state": lambda row: "aside" if row.shot and row.shot.card.set_aside else "",
}
"""By what else the table sorts."""


class BoardRow(NamedTuple):
    """One shot on the Board.

    ``key`` names the row for good: its shot, or its use in a running order. ``source`` is its film
    as it was when the shot changed last: its facts, ticket and framing are those of now, its other
    shots may not be. ``shot`` is None where a use shows none now, ``why`` then says so.
    ``clean_end`` is the first frame after the shot that no seam mixes, ``seconds`` how long it is.
    """

    key: ShotRef | int
    source: Source | None
    shot: Shot | None
    use: OrderUse | None = None
    why: str = ""
    clean_end: int = 0
    seconds: float = 0.0

    @property
    def ref(self) -> ShotRef | None:
        """The shot that is meant; None for a piece."""
        return self.key if isinstance(self.key, ShotRef) else self.use.shot if self.use else None

    @property
    def title(self) -> str:
        """The name of the shot or piece, or why there is none."""
        return self.shot.title if self.shot is not None else f"gone: {self.why}"

    @property
    def scene(self) -> int:
        """The id of its scene, 0 for none."""
        return self.shot.card.scene if self.shot is not None else 0


_told: dict[int, tuple[Source, tuple[BoardRow, ...]]] = {}
"""The rows of the sources asked for last, by id: a source never changes, and most stay the same."""


def rows_of_source(source: Source) -> tuple[BoardRow, ...]:
    """Return a row for every shot of a source, in its order."""
    known = _told.get(source.id)
    if known is not None and known[0] is source:
        return known[1]
    shots = shots_of(source)
    if known is not None and other_cards(known[0], source) is not None:
        made = list(known[1])
        before = [row.shot for row in known[1]]
        for place in np.flatnonzero(np.fromiter(map(is_not, before, shots), np.bool_, len(shots))):
            made[place] = made[place]._replace(source=source, shot=shots[place])
    else:
        keys, ends, seconds = _measures(source, shots)
        made = list(
            map(BoardRow, keys, repeat(source), shots, repeat(None), repeat(""), ends, seconds)
        )
    _told[source.id] = source, tuple(made)
    return _told[source.id][1]


def _measures(
    source: Source, shots: Sequence[Shot]
) -> tuple[list[ShotRef | int], list[int], list[float]]:
    """Return the keys of rows, the first frames after them that no seam mixes, and seconds."""
    second = source.media.rate.denominator / source.media.rate.numerator
    keys: list[ShotRef | int] = []
    ends: list[int] = []
    for place, shot in enumerate(shots):
        opener = shots[place + 1].opened_by if place + 1 < len(shots) else None
        end = min(shot.end, opener.start) if opener is not None and opener.gradual else shot.end
        keys.append(ShotRef(source.id, seam_of(shot)))
        ends.append(max(shot.start + 1, end))
    return keys, ends, [(shot.end - shot.start) * second for shot in shots]


def rows_of(project: Project, only: int = 0) -> tuple[BoardRow, ...]:
    """Return a row for every shot of all films, or of the one with the id ``only``."""
    if len(_told) > len(project.sources):  # what was told of other projects is let go
        here = {s.id for s in project.sources}
        for source_id in _told.keys() - here:
            del _told[source_id]
    each = [rows_of_source(s) for s in project.sources if not only or s.id == only]
    return each[0] if len(each) == 1 else tuple(chain.from_iterable(each))


def rows_of_order(project: Project, order: Order) -> tuple[BoardRow, ...]:
    """Return a row for every use of a running order, in its order."""
    return tuple(_row_of_use(u) for u in uses_of(project, order))


def _row_of_use(used: UsedShot) -> BoardRow:
    end, seconds = 0, 0.0
    if used.shot is not None and used.source is not None:
        end, seconds = used.shot.end, float(used.shot.length / used.source.media.rate)
    return BoardRow(used.use.id, used.source, used.shot, used.use, used.why, end, seconds)


def ordered(
    rows: Sequence[BoardRow],
    sort: str,
    project: Project,
    measure: Callable[[BoardRow], float] | None = None,
    *,
    back: bool = False,
) -> tuple[BoardRow, ...]:
    """Return rows in one of `SORTS` or `TEXTS`, or ``back`` the other way round.

    ``measure`` is what light and likeness go by. Rows that are equal stay in the order they had.
    """
    if back:
        return ordered(rows, sort, project, measure)[::-1]
    if sort in TEXTS:
        text = TEXTS[sort]
        return tuple(sorted(rows, key=lambda r: (not text(r), folded(text(r)))))
    if sort == "length":
        return tuple(sorted(rows, key=lambda r: -r.seconds))
    if sort == "name":
        return tuple(sorted(rows, key=lambda r: (not _name(r), folded(_name(r)))))
    if sort == "scene":
        rank = {s.id: n for n, s in enumerate(project.scenes)}
        return tuple(sorted(rows, key=lambda r: rank.get(r.scene, len(rank))))
    if sort in ("light", "likeness") and measure is not None:
        return tuple(sorted(rows, key=lambda r: -measure(r)))
    return tuple(rows)


def _name(row: BoardRow) -> str:
    return row.shot.card.name if row.shot is not None else ""


class RowFinder:
    """Finds rows by what is typed; words are folded once for each seam and scene."""

    def __init__(self) -> None:
        self._held: dict[int, tuple[object, tuple[str, int, str], Findable]] = {}

    def found(
        self,
        rows: Sequence[BoardRow],
        query: Query,
        project: Project,
        sliver_frames: Mapping[int, int],
        shows: Callable[[BoardRow], str] = lambda _row: "",
    ) -> tuple[BoardRow, ...]:
        """Return the rows that are looked for; ``sliver_frames`` of each film by its id.

        ``shows`` tells what is in a shot, in folded words.
        """
        if not query:
            return tuple(rows)
        names = {s.id: s.name for s in project.scenes}
        return tuple(
            row
            for row in rows
            if row.shot is not None
            and is_found(query, self._findable(row, names, sliver_frames, shows(row)))
        )

    def prepare(
        self,
        rows: Sequence[BoardRow],
        project: Project,
        sliver_frames: Mapping[int, int],
        shows: Callable[[BoardRow], str] = lambda _row: "",
    ) -> None:
        """Fold the words of rows, so that finding among them is at once."""
        names = {s.id: s.name for s in project.scenes}
        for row in rows:
            if row.shot is not None:
                self._findable(row, names, sliver_frames, shows(row))

    def _findable(
        self, row: BoardRow, names: Mapping[int, str], slivers: Mapping[int, int], shows: str
    ) -> Findable:
        source, shot = row.source, row.shot
        assert source is not None
        assert shot is not None
        scene = names.get(shot.card.scene, "")
        limit = slivers.get(source.id, 0)
        held = self._held.get(id(shot))
        if held is not None and held[0] is shot and held[1] == (scene, limit, shows):
            return held[2]
        if len(self._held) > 60_000:
            self._held.clear()
        made = findable(source, shot, scene, limit, shows)
        self._held[id(shot)] = shot, (scene, limit, shows), made
        return made
