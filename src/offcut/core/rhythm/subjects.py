"""Subjects: what of a project can be studied, and its lengths."""

from __future__ import annotations

from collections.abc import Collection
from enum import StrEnum
from typing import NamedTuple

from offcut.core.model.project import Project
from offcut.core.model.source import Source
from offcut.core.rhythm.lengths import (
    ShotLengths,
    lengths_of_film,
    lengths_of_films,
    lengths_of_order,
    lengths_of_scene,
)


class StudyOf(StrEnum):
    """Sorts of things that can be studied."""

    FILM = "film"
    RANGE = "range"
    SCENE = "scene"
    ORDER = "order"
    CHOSEN = "chosen"
    ALL = "all"


class Subject(NamedTuple):
    """What is studied: its sort, and the id of the film, scene or order it is."""

    what: StudyOf
    id: int = 0

    @property
    def key(self) -> str:
        """A word for it that can be written down."""
        return f"{self.what.value}:{self.id}"


def subject_from(key: str) -> Subject | None:
    """Return the subject of a key, None for anything else."""
    what, _, number = key.partition(":")
    if what not in list(StudyOf) or not number.isdigit():
        return None
    return Subject(StudyOf(what), int(number))


class Offered(NamedTuple):
    """A subject in a list to choose from: its words, and why it cannot be chosen now."""

    subject: Subject
    words: str
    why_not: str = ""


def offered(
    project: Project, in_hand: Source, chosen: Collection[int], marked: bool
) -> list[Offered]:
    """Return what can be studied: the film in hand first, then its parts, then the project's."""
    found = [
        Offered(Subject(StudyOf.FILM, in_hand.id), "Whole film"),
        Offered(
            Subject(StudyOf.RANGE, in_hand.id),
            "Marked range",
            "" if marked else "Mark a range with I and O, or by dragging along the skyline",
        ),
    ]
    if 1 < len(chosen) < len(project.sources):
        found.append(Offered(Subject(StudyOf.CHOSEN), f"The {len(chosen)} chosen films"))
    if len(project.sources) > 1:
        many = len(project.sources)
        words = "Both films" if many == 2 else f"All {many} films"
        found.append(Offered(Subject(StudyOf.ALL), words))
    found += [Offered(Subject(StudyOf.SCENE, s.id), f"Scene: {s.name}") for s in project.scenes]
    found += [Offered(Subject(StudyOf.ORDER, o.id), f"Order: {o.name}") for o in project.orders]
    return found


def lengths_of_subject(
    project: Project,
    subject: Subject,
    *,
    marked: tuple[int, int] | None = None,
    chosen: Collection[int] = (),
    aside: bool = False,
) -> ShotLengths | None:
    """Return the lengths of a subject, None where it is not there any more.

    ``marked`` are the frames [first, last) of a marked range; without one a range is the whole
    film. ``chosen`` are the ids of films for `StudyOf.CHOSEN`.
    """
    what = subject.what
    if what in (StudyOf.FILM, StudyOf.RANGE):
        if not project.holds(subject.id):
            return None
        source = project.source(subject.id)
        lengths = lengths_of_film(source, aside=aside)
        if what is StudyOf.FILM or marked is None:
            return lengths
        first, last = (float(f / source.media.rate) for f in marked)
        return lengths.within(first, last)
    if what is StudyOf.SCENE:
        if project.scene(subject.id) is None:
            return None
        return lengths_of_scene(project, subject.id, aside=aside)
    if what is StudyOf.ORDER:
        order = next((o for o in project.orders if o.id == subject.id), None)
        return lengths_of_order(project, order) if order is not None else None
    films = [s for s in project.sources if what is StudyOf.ALL or s.id in chosen]
    return lengths_of_films(films, aside=aside) if films else None
