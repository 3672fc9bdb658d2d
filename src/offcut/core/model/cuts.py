"""Cuts alone: one source's seams, cards and markers without its film."""

from __future__ import annotations

from dataclasses import dataclass

from offcut.core.model.card import Card
from offcut.core.model.project import Project, Scene
from offcut.core.model.seam import Seam
from offcut.core.model.source import Marker, Media, Zone


@dataclass(frozen=True)
class Cuts:
    """What is handed on: which film it belongs to, and everything decided about it.

    ``scenes`` are those that its cards name.
    """

    media: Media
    sensitivity: int
    first: Card
    seams: tuple[Seam, ...]
    zones: tuple[Zone, ...]
    markers: tuple[Marker, ...]
    scenes: tuple[Scene, ...] = ()


def cuts_of(project: Project, source_id: int) -> Cuts:
    """Return the cuts alone of a source."""
    source = project.source(source_id)
    named = {source.first.scene, *(s.opening.scene for s in source.seams)}
    return Cuts(
        source.media,
        source.sensitivity,
        source.first,
        source.seams,
        source.zones,
        source.markers,
        tuple(s for s in project.scenes if s.id in named),
    )


def misfit(cuts: Cuts, media: Media) -> str:
    """Return why cuts do not belong to a film, empty when they do.

    A copy of the film (other bytes, as many frames at the same rate) is taken for the film.
    """
    theirs = cuts.media
    if theirs.fingerprint == media.fingerprint:
        return ""
    if theirs.frames != media.frames:
        return f"belongs to a film of {theirs.frames} frames, this one has {media.frames}"
    if theirs.rate != media.rate:
        return "belongs to a film that runs at another rate"
    return ""
