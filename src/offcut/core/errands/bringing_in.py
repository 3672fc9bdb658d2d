"""Intake: an opened film made a source of a project, with what can be known of it by looking."""

from __future__ import annotations

import threading
from fractions import Fraction

from offcut.core.media.display import CINEON
from offcut.core.media.live_picture import FoundFraming, find_framing
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty
from offcut.core.model.source import Framed, Media, Source
from offcut.core.model.ticket import Flash
from offcut.core.model.verbs.searching import take_framing
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.ticket import set_display, set_reel, set_stops

RATES = tuple(
    Fraction(r)
    for r in (
        "16",
        "18",
        "24000/1001",
        "24",
        "25",
        "30000/1001",
        "30",
        "48",
        "50",
        "60000/1001",
        "60",
    )
)
"""Rates that are offered; any other can be typed."""


def bring_in(project: Project, film: OpenedFilm) -> Project:
    """Return a project with a film, its ticket as the film's header has it.

    Log pictures are seen through the Cineon display until another is chosen.
    """
    source_id = project.next_id
    project = add_source(project, film.media)
    if film.log:
        project = set_display(project, source_id, CINEON)
    return set_reel(project, source_id, film.reel) if film.reel else project


def same_film(project: Project, media: Media) -> Source | None:
    """Return the source that holds this very film, None where there is none."""
    return next(
        (
            s
            for s in project.sources
            if s.media.fingerprint == media.fingerprint
            and (s.media.frames == media.frames or s.media.run is not None)
        ),
        None,
    )


def framing_wanted(source: Source) -> bool:
    """Tell whether nobody has said yet which part of the picture is the film."""
    return source.framed is Framed.NO and not source.searched


def look_for_framing(
    film: OpenedFilm, source: Source, stop: threading.Event | None = None
) -> FoundFraming:
    """Look where the live picture lies, quickly, before anything is measured."""
    return find_framing(film, source.start, source.end, stop)


def with_framing(project: Project, source_id: int, found: FoundFraming) -> Project:
    """Return a project with a framing that was found by itself, where it is sure.

    Behind a gate lies a scan: its camera stops are one cut each unless that was set otherwise.
    """
    source = project.source(source_id)
    if source.framed is not Framed.NO or found.certainty is not Certainty.SURE:
        return project
    project = take_framing(project, source_id, found.framing)
    if found.words.startswith("gate") and source.ticket.stops is None:
        project = set_stops(project, source_id, True)
    return project


def stops_wanted(source: Source) -> Flash | None:
    """Return how camera stops of a film are treated, None where they are nothing of their own.

    Where nothing was set they are looked for in runs of stills.
    """
    wanted = source.ticket.stops
    if wanted is None:
        wanted = source.media.run is not None
    return source.ticket.flash if wanted else None
