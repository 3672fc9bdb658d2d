"""What was found in the shots that are studied, laid along their axis."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from offcut.core.facts.fact import USUAL, Fact, Sort
from offcut.core.facts.in_shot import InShots, in_shots
from offcut.core.model.project import Project
from offcut.core.rhythm.lengths import ShotLengths

NOTED = {
    "camera": (Sort.CAMERA, Sort.STEADINESS), "faces": (Sort.FACES,), "speech": (Sort.SOUND,),
}  # fmt: skip
"""The lanes, and which facts each shows."""
_USUAL = USUAL | {(Sort.STEADINESS, "slight"), (Sort.SOUND, "silence")}


class Note(NamedTuple):
    """A fact, and from where to where it lies on the axis, in seconds."""

    begin: float
    end: float
    fact: Fact


def notes_along(
    axis: ShotLengths, project: Project, inside: Callable[[int], InShots], lane: str
) -> Iterator[Note]:
    """Yield what a lane shows of the shots; ``inside`` tells what is in those of a film, by its id.

    What is usual is not told: a camera that stands, nobody, silence.
    """
    for place, shot in enumerate(axis.shots):
        if not project.holds(shot.source) or shot.end <= shot.start:
            continue
        here = inside(shot.source).get((shot.start, shot.end))
        if here is None:
            continue
        begin = float(axis.begins[place])
        scale = float(axis.seconds[place]) / (shot.end - shot.start)
        for fact in here.facts:
            if fact.sort in NOTED[lane] and (fact.sort, fact.value) not in _USUAL:
                first, last = (begin + (f - shot.start) * scale for f in (fact.start, fact.end))
                yield Note(first, last, fact)


def notes_of(axis: ShotLengths, project: Project) -> dict[str, tuple[Note, ...]]:
    """Return the notes of each lane, by what is kept of the films; nothing is measured."""
    films = {shot.source for shot in axis.shots if project.holds(shot.source)}
    inside = {film: in_shots(project.source(film)) for film in films}
    return {lane: tuple(notes_along(axis, project, inside.__getitem__, lane)) for lane in NOTED}
