"""What all verbs rest on: a project with one of its parts replaced."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from operator import attrgetter

from offcut.core.errors import OffcutError
from offcut.core.model.card import Card
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.seam import AsFound, Origin, Seam
from offcut.core.model.source import Source

FRAME = attrgetter("frame")
ORDER = attrgetter("frame", "id")


def with_source(project: Project, source: Source) -> Project:
    """Put a source in the place of the one of its id."""
    if source == project.source(source.id):
        return project
    return replace(
        project, sources=tuple(source if s.id == source.id else s for s in project.sources)
    )


def with_seams(project: Project, source_id: int, seams: Iterable[Seam]) -> Project:
    """Put seams in place of a source's, in order of frame."""
    ordered = tuple(sorted(seams, key=ORDER))
    return with_source(project, replace(project.source(source_id), seams=ordered))


def seam_by_id(source: Source, seam_id: int) -> Seam:
    """Return the seam of that id; OffcutError when the source has none."""
    for seam in source.seams:
        if seam.id == seam_id:
            return seam
    raise OffcutError(f"there is no seam {seam_id} in this source")


def with_changed(
    project: Project, source_id: int, seam_ids: Iterable[int], change: Callable[[Seam], Seam]
) -> Project:
    """Change some seams of a source; those that detection found stay known by where it did."""
    ids = set(seam_ids)
    source = project.source(source_id)
    seams = list(source.seams)
    moved = False
    for place in [i for i, s in enumerate(seams) if s.id in ids]:
        changed = _known(seams[place], change(seams[place]))
        moved = moved or changed.frame != seams[place].frame
        seams[place] = changed
    if moved:
        seams.sort(key=ORDER)
    return with_source(project, replace(source, seams=tuple(seams)))


def _known(before: Seam, after: Seam) -> Seam:
    """Return a changed seam with what a search knows it by, where it no longer lies so."""
    if before.origin is Origin.PLACED or after.origin is Origin.PLACED:
        return after
    found = before.found
    lies_so = found == AsFound(after.frame, after.gradual)
    known = None if lies_so else found
    return after if known == after.as_found else replace(after, as_found=known)


def with_card(project: Project, source_id: int, opener: Seam | None, card: Card) -> Project:
    """Give the shot that a seam opens another card; the first shot of the source for None."""
    if opener is None:
        return with_source(project, replace(project.source(source_id), first=card))
    return with_changed(project, source_id, [opener.id], lambda s: replace(s, opening=card))


def with_cards(
    project: Project, refs: Iterable[ShotRef], change: Callable[[ShotRef, Card], Card]
) -> Project:
    """Change the cards of shots of any sources; shots that are not there are passed over."""
    by_source: dict[int, set[int]] = {}
    for ref in refs:
        by_source.setdefault(ref.source, set()).add(ref.seam)
    for source_id, seam_ids in by_source.items():
        if not project.holds(source_id):
            continue
        source = project.source(source_id)
        first = source.first
        if 0 in seam_ids:
            first = change(ShotRef(source_id), first)
        seams = list(source.seams)
        for place in [n for n, s in enumerate(seams) if s.id in seam_ids]:
            seam = seams[place]
            card = change(ShotRef(source_id, seam.id), seam.opening)
            seams[place] = _with_opening(seam, card)
        project = with_source(project, replace(source, first=first, seams=tuple(seams)))
    return project


def _with_opening(seam: Seam, card: Card) -> Seam:
    return seam if card == seam.opening else replace(seam, opening=card)


def clean_name(name: str) -> str:
    """Return a name as it is kept: one line, 200 characters at most."""
    return " ".join(name.split())[:200]


def clean_note(note: str) -> str:
    """Return a note as it is kept: 4,000 characters at most."""
    return note.strip()[:4000]
