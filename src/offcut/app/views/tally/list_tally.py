"""The list in hand: read, laid on the film, and held against its seams join by join."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.views.tally.paired import Paired, RowTold
from offcut.core.lists.incoming import ReadList
from offcut.core.lists.registry import read_list
from offcut.core.model.seam import Certainty, Reason
from offcut.core.model.source import Source
from offcut.core.tally.against_list import (
    JoinRow,
    Lie,
    Said,
    lie_words,
    lies_of,
    rows_of,
    take_film_side,
    take_list_side,
)
from offcut.core.tally.joins import Joins
from offcut.core.tally.taking import Taking
from offcut.core.tally.versions.changes import Change, What
from offcut.core.timecode import timecode_from_frame
from offcut.core.words import many

_AROUND = 24
_ORDER = (Said.OFF, Said.LISTED, Said.FOUND, Said.AGREES)
_WHAT = {
    Said.AGREES: What.SAME, Said.OFF: What.SHORTER, Said.LISTED: What.GONE, Said.FOUND: What.NEW,
}  # fmt: skip
_STEADY = (Lie(0, 0),)


@dataclass(frozen=True)
class _Laid:
    """A list as it was read, its joins, and how it lies on a film."""

    listed: ReadList
    joins: Joins
    offset: int
    lies: tuple[Lie, ...]


def _laid(listed: ReadList, source: Source) -> _Laid:
    taking = Taking(listed)
    joins = taking.joins
    if not joins.joins:
        return _Laid(listed, joins, 0, _STEADY)
    offset = taking.laid(source).offset
    return _Laid(listed, joins, offset, lies_of(joins, source, offset))


class ListTally(Paired):
    """What the lists part of Tally shows: where the list has a join, and where the film has it.

    Attributes: ``listed`` the list, None for none; ``offset`` how it lies, in frames; ``lies`` how
    it runs off that from point to point; ``laid`` True where it is laid so.
    """

    names = ("list", "film")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.listed: ReadList | None = None
        self.joins: Joins | None = None
        self.offset = 0
        self.lies: tuple[Lie, ...] = _STEADY
        self.laid = True
        self._joins_of: list[JoinRow] = []
        self._marks: tuple[list[int], list[int]] = [], []
        self._of: object = None
        self._laying: Job | None = None
        session.changed.connect(self.refresh)
        session.film_changed.connect(self._follow_film)
        session.project_changed.connect(self._forget)

    @property
    def old(self) -> Source | None:
        """The film, as the list has its joins."""
        return self._s.source if self.listed is not None else None

    @property
    def new(self) -> Source | None:
        """The film, as it was cut."""
        return self._s.source

    def _forget(self) -> None:
        self.listed, self.joins, self._of = None, None, None
        self.rows, self._joins_of, self.row, self.trouble = [], [], -1, ""
        self.busy = False
        self.changed.emit()

    def _follow_film(self) -> None:
        if self.listed is not None:
            self._lay()
        self.refresh()

    # the list

    def read(self, path: str | Path) -> None:
        """Read a list and lay it on the film."""
        source = self._s.source
        if source is None:
            return
        media = source.media
        self.busy, self.trouble = True, ""

        def work(_job: Job) -> _Laid:
            listed = read_list(path, media.rate, media.drop)
            return _laid(listed, source)

        self._s.work(
            "Reading the list", work, self._take, of=[source.id], failed=self._fail, quick=True
        )
        self.changed.emit()

    def _fail(self, words: str) -> None:
        self.busy, self.trouble = False, words
        self.changed.emit()

    def _take(self, laid: _Laid) -> None:
        self.busy = False
        self.listed, self.joins = laid.listed, laid.joins
        if not laid.joins.joins:
            self.trouble = f"{laid.listed.name}: no join is in it to hold against the film"
            self.listed = self.joins = None
        else:
            self._lie(laid)
        self.refresh()

    def _lay(self) -> None:
        """Lay the list on the film in hand, off the interface thread."""
        source, listed = self._s.source, self.listed
        if source is None or listed is None:
            return

        def take(laid: _Laid) -> None:
            if job is self._laying:
                self._lie(laid)
                self.refresh()

        job = self._laying = self._s.work(
            "Laying the list on the film", lambda _job: _laid(listed, source), take,
            of=[source.id], quick=True,
        )  # fmt: skip

    def _lie(self, laid: _Laid) -> None:
        self._laying = None
        self.offset, self.lies = laid.offset, laid.lies
        self.laid, self._of = True, None

    def set_offset(self, offset: int) -> None:
        """Lay the list otherwise."""
        if offset != self.offset and self._s.source is not None and self.joins is not None:
            self.offset = offset
            self.lies = lies_of(self.joins, self._s.source, offset)
            self.refresh()

    def set_laid(self, laid: bool) -> None:
        """Lay the list as it runs off from point to point, or all of it alike."""
        self.laid = laid
        self.refresh()

    @property
    def steady_words(self) -> tuple[str, ...]:
        """Where the list runs off by a steady amount, in sentences."""
        if self.joins is None:
            return ()
        return tuple(w for lie in self.lies if (w := lie_words(lie, self.joins)))

    def marks(self, side: int) -> Sequence[int]:
        """Return where the list has its joins on the film, or the film its seams."""
        return self._marks[side]

    def sort_again(self) -> None:
        """Put the rows in their order."""
        self._of = None
        self.refresh()

    # showing

    def refresh(self) -> None:
        """Show what list and film say now."""
        source, joins = self._s.source, self.joins
        if not self.alive():
            return
        if source is None or joins is None:
            self.rows, self._joins_of = [], []
            self.changed.emit()
            return
        key = (source.id, source.seams, source.sensitivity, source.zones, self.offset, self.laid)
        if self._of is not None and all(
            a is b or a == b
            for a, b in zip(key, self._of, strict=True)  # type: ignore[call-overload]
        ):
            self.changed.emit()
            return
        self._of = key
        here = self.change
        lies = self.lies if self.laid else _STEADY
        found = rows_of(joins, source, self.offset, lies)
        doubts = sorted(found, key=lambda r: (_ORDER.index(r.said), r.at))
        self._joins_of = list(found) if self.as_they_run else doubts
        listed = sorted(r.frame for r in found if r.frame is not None)
        self._marks = listed, sorted(r.seam.frame for r in found if r.seam is not None)
        self.rows = [self._row(r, source) for r in self._joins_of]
        self.row = self.row_like(here)
        self.changed.emit()
        self.chosen_changed.emit()

    def _row(self, row: JoinRow, source: Source) -> Change:
        def around(frame: int) -> tuple[int, int]:
            return max(0, frame - _AROUND), min(source.media.frames, frame + _AROUND)

        listed = row.frame if row.frame is not None else row.at
        seen = row.seam.frame if row.seam is not None else listed
        sure = row.said is Said.AGREES or (row.seam is not None and row.seam.judged)
        return Change(
            _WHAT[row.said], around(listed), around(seen),
            certainty=Certainty.SURE if sure else Certainty.LIKELY,
            reasons=(Reason(row.said.value),), offset=listed - seen,
            by_hand=row.seam is not None and row.seam.judged,
        )  # fmt: skip

    @property
    def join(self) -> JoinRow | None:
        """The join that is looked at."""
        return self._joins_of[self.row] if 0 <= self.row < len(self._joins_of) else None

    def told(self, change: Change) -> RowTold:
        """Return what a row says of a join."""
        source = self._s.source
        place = next((n for n, c in enumerate(self.rows) if c is change), -1)
        if source is None or not 0 <= place < len(self._joins_of):
            return RowTold(None, 0, "", "", "")
        row, media = self._joins_of[place], source.media
        event = row.join.event if row.join is not None else None
        number = f"Event {event.number}" if event is not None and event.number else "Join"
        title = (event.clip if event is not None else "") or number
        words: str = row.said.value
        if row.said is Said.OFF:
            late = "later" if row.off > 0 else "earlier"
            words = f"the list has it {many(abs(row.off), 'frame')} {late}"
        at = timecode_from_frame(media.start + row.at, media.rate, media.drop)
        kept = row.seam is not None and row.seam.judged
        return RowTold(
            source, row.at, title if row.join is not None else "Found", at, words,
            "judged" if kept else "",
        )  # fmt: skip

    @property
    def counts(self) -> dict[Said, int]:
        """How many joins there are of each sort."""
        said = [r.said for r in self._joins_of]
        return {sort: said.count(sort) for sort in Said}

    @property
    def joins_shown(self) -> list[JoinRow]:
        """The joins in the order of the rows."""
        return self._joins_of

    # judging

    def of_sort(self, said: Said) -> list[JoinRow]:
        """Return the joins of a sort."""
        return [r for r in self._joins_of if r.said is said]

    def take_list(self, rows: Sequence[JoinRow]) -> bool:
        """Cut the film as the list says at some joins."""
        source_id = self._s.in_hand
        words = f"take the list’s side at {many(len(rows), 'join')}"
        return bool(rows) and self._s.edit_project(
            lambda p: take_list_side(p, source_id, rows), words
        )

    def take_film(self, rows: Sequence[JoinRow]) -> bool:
        """Keep the film's seams at some joins."""
        source_id = self._s.in_hand
        held = [r for r in rows if r.seam is not None]
        words = f"keep the film’s side at {many(len(held), 'join')}"
        return bool(held) and self._s.edit_project(
            lambda p: take_film_side(p, source_id, held), words
        )
