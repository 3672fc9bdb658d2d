"""Naming many shots at once: by a pattern, or by finding and replacing in their names."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from offcut.core.board.rows import BoardRow
from offcut.core.errors import OffcutError
from offcut.core.facts.findable import reel_of
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.verbs.replacing import clean_name
from offcut.core.timecode import timecode_from_frame
from offcut.core.turnover.names import filled, pattern_problem

FIELDS: Mapping[str, str] = {
    "scene": "the scene it belongs to",
    "number": "counted on, in each scene anew where {scene} is named",
    "shot": "its number in the film",
    "film": "the film’s file name",
    "name": "the name it has",
    "reel": "the reel a list gave it",
    "in": "timecode of its first frame",
    "kind": "how it is joined to the one before",
}


class Renamed(NamedTuple):
    """What a shot is called now, and what it would be called."""

    ref: ShotRef
    before: str
    after: str


def named_by_pattern(
    project: Project,
    rows: Sequence[BoardRow],
    pattern: str,
    *,
    first: int = 1,
    step: int = 1,
    digits: int = 2,
) -> tuple[Renamed, ...]:
    """Return the names that a pattern gives shots in their order.

    Raises OffcutError for a pattern that cannot be used.
    """
    problem = pattern_problem(pattern, FIELDS)
    if problem:
        raise OffcutError(problem)
    counted: dict[str, int] = {}
    renamed = []
    for row in rows:
        source, shot, ref = row.source, row.shot, row.ref
        if source is None or shot is None or ref is None:
            continue
        media, scene = source.media, project.scene_name(shot.card.scene)
        series = scene if "{scene}" in pattern else ""
        number = first + step * counted.get(series, 0)
        counted[series] = counted.get(series, 0) + 1
        label = timecode_from_frame(media.start + shot.start, media.rate, media.drop)
        values = {
            "scene": scene,
            "number": f"{number:0{max(1, digits)}d}",
            "shot": str(shot.number),
            "film": Path(media.path).stem,
            "name": shot.card.name,
            "reel": reel_of(source, shot),
            "in": label,
            "kind": shot.opened_by.kind.value if shot.opened_by else "",
        }
        renamed.append(Renamed(ref, shot.card.name, clean_name(filled(pattern, values))))
    return tuple(renamed)


def renamed_by_words(
    rows: Sequence[BoardRow], find: str, put: str, *, capitals: bool = False
) -> tuple[Renamed, ...]:
    """Return the names that change where ``find`` is replaced by ``put``.

    ``capitals`` tells them apart. With nothing to find no name changes.
    """
    if not find:
        return ()
    sought = re.compile(re.escape(find), 0 if capitals else re.IGNORECASE)
    renamed = []
    for row in rows:
        if row.shot is None or row.ref is None:
            continue
        before = row.shot.card.name
        after = clean_name(sought.sub(lambda _m: put, before))
        if after != before:
            renamed.append(Renamed(row.ref, before, after))
    return tuple(renamed)
