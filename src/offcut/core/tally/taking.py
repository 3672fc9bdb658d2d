"""A list that came with a film, taken as what it is for: cuts, a witness, markers or names."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from offcut.core.errors import OffcutError
from offcut.core.lists.incoming import ListMarker, ReadList, markers_of_list
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source
from offcut.core.tally.cutting import WITHIN, Use, cut_by_list, with_locators
from offcut.core.tally.fitting import Fit, found_fit, found_place
from offcut.core.tally.joins import Joins, joins_of
from offcut.core.tally.naming import name_by_list, named_of
from offcut.core.timecode import timecode_from_frame

CUTTING = (Use.TOGETHER, Use.ALONE, Use.WITNESS)
MOST_ROWS = 2000
"""So many places or names are told of a list."""
Row = tuple[str, str, str]


@dataclass(frozen=True)
class Taking:
    """A list made ready to be taken.

    What follows from it is worked out when it is first asked for, and may take a second.
    """

    listed: ReadList

    @cached_property
    def joins(self) -> Joins:
        """Where the picture changes by it."""
        return joins_of(self.listed)

    @cached_property
    def places(self) -> tuple[ListMarker, ...]:
        """The places it marks, and each of its events as one."""
        return markers_of_list(self.listed)

    @property
    def likely(self) -> Use:
        """What it is most likely for, by what is in it."""
        if self.listed.marks or not self.listed.events:
            return Use.MARKERS
        return Use.NAMES if self.listed.bin else Use.TOGETHER

    def fits(self, use: Use) -> bool:
        """Tell whether it can be used so."""
        if use is Use.MARKERS:
            return bool(self.listed.events or self.listed.markers)
        return bool(self.joins.joins) if use in CUTTING else bool(self.listed.events)

    def laid(self, source: Source, use: Use = Use.TOGETHER) -> Fit:
        """Return how it lies on a film, found by itself; whoever ties a list to one asks here."""
        if use is Use.MARKERS or not self.joins.joins:
            return found_place(self.listed, source.media)
        return found_fit(self.joins, source, drop=self.listed.drop)

    def take(
        self,
        project: Project,
        source_id: int,
        offset: int,
        use: Use,
        *,
        within: int = WITHIN,
        at_found: bool = True,
    ) -> Project:
        """Return the project with the list taken; OffcutError where nothing of it can be."""
        if use is Use.MARKERS:
            return self._marked(project, source_id, offset)
        if use is Use.NAMES:
            return name_by_list(project, source_id, self.listed)
        return cut_by_list(
            project, source_id, self.joins, offset, use,
            within=within, at_found=at_found, markers=self.listed.markers,
        )  # fmt: skip

    def _marked(self, project: Project, source_id: int, offset: int) -> Project:
        frames = project.source(source_id).media.frames
        if not any(0 <= m.frame - offset < frames for m in self.places):
            raise OffcutError("no marker of the list falls on the film: change the offset")
        marked = with_locators(project, source_id, self.places, offset)
        if marked is project:
            raise OffcutError("the film has all of these markers already")
        return marked

    def told(
        self, project: Project, source_id: int, offset: int, use: Use
    ) -> tuple[str, tuple[Row, ...]]:
        """Return in a sentence how much of it is used as markers or names, and row by row what."""
        source = project.source(source_id)
        media = source.media
        if use is Use.MARKERS:
            on = [m for m in self.places if 0 <= m.frame - offset < media.frames]
            rows = tuple(
                (
                    timecode_from_frame(media.start + m.frame - offset, media.rate, media.drop),
                    m.name or m.note,
                    _joined(m.colour.value, f"{m.length} frames" if m.length > 1 else ""),
                )
                for m in on[:MOST_ROWS]
            )
            return f"{len(on)} of {len(self.places)} places lie on the film", rows
        found = named_of(project, source_id, self.listed)
        rows = tuple(
            (f"Shot {n.shot.number}", _joined(n.row.clip, n.row.scene, n.row.reel), n.by)
            for n in found[:MOST_ROWS]
        )
        return f"{len(found)} of {len(shots_of(source))} shots are in it", rows


def _joined(*words: str) -> str:
    return ", ".join(w for w in words if w)
