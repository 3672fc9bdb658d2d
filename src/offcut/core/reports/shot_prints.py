"""Pictures of studied shots at print size, by the frame that tells most, or the middle."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from offcut.core.board.looking import FramePictures
from offcut.core.facts.kept_facts import KeptFacts
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.project import Project
from offcut.core.rhythm.lengths import ShotLengths
from offcut.core.rhythm.page import PRINTED, ShotPicture


def prints_of(
    lengths: ShotLengths,
    places: Sequence[int],
    project: Project,
    opened: Mapping[int, OpenedFilm] | None = None,
) -> list[ShotPicture]:
    """Return pictures of the shots at some places; those that cannot be had are left out.

    ``opened`` are films that are open already.
    """
    frames = FramePictures(opened)
    found = []
    try:
        for place in places:
            shot = lengths.shots[place]
            if not project.holds(shot.source):
                continue
            source = project.source(shot.source)
            size = fit(*shown_size(source.media), *PRINTED)
            still = KeptFacts(source).still((shot.start, shot.end))
            middle = (shot.start + shot.end) // 2
            picture = frames.picture(source, middle if still is None else still, size)
            if picture is not None:
                found.append(ShotPicture(place, picture))
    finally:
        frames.close()
    return found
