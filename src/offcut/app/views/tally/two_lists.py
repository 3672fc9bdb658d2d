"""Two lists held against each other, without any film: what became of each event."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.views.tally.paired import Paired, RowTold
from offcut.core.errands.held_against import OneSide, held, versions_compared
from offcut.core.errands.study import is_film
from offcut.core.errors import OffcutError
from offcut.core.lists.incoming import ReadEvent
from offcut.core.store.project_file import SUFFIX
from offcut.core.tally.versions.by_list import events_told
from offcut.core.tally.versions.changes import Change, Comparison
from offcut.core.tally.versions.ruled import doubt_first
from offcut.core.timecode import rate_words, timecode_from_frame
from offcut.core.words import many

_NOTHING = Comparison(())


@dataclass(frozen=True)
class _Both:
    """Two lists, either of which may be missing: their events in order by their place, what became
    of them, and a sentence where they have nothing in common.
    """

    sides: tuple[OneSide | None, OneSide | None]
    events: tuple[dict[int, ReadEvent], ...]
    comparison: Comparison = _NOTHING
    trouble: str = ""

    @classmethod
    def of(cls, sides: tuple[OneSide | None, OneSide | None]) -> _Both:
        events = tuple(_by_place(one) for one in sides)
        old, new = sides
        if old is None or new is None:
            return cls(sides, events)
        try:
            return cls(sides, events, versions_compared(old, new))
        except OffcutError as error:
            return cls(sides, events, trouble=str(error))


def _by_place(one: OneSide | None) -> dict[int, ReadEvent]:
    if one is None or one.listed is None:
        return {}
    events, first = events_told(one.listed)
    return {e.record_in - first: e for e in events}


class TwoLists(Paired):
    """What the page of two lists shows.

    Attributes: ``sides`` the old and the new list, None for none yet; ``comparison`` what became
    of each event.
    """

    names = ("old", "new")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.sides: list[OneSide | None] = [None, None]
        self.comparison = _NOTHING
        self._events: tuple[dict[int, ReadEvent], ...] = ({}, {})

    def read(self, side: int, path: str | Path) -> None:
        """Read a list as the old one (0) or the new one (1), and hold both against each other."""
        other = self.sides[1 - side]
        film = self._s.source
        likely = other.rate if other is not None else film.media.rate if film is not None else None
        self.busy, self.trouble = True, ""

        def work(_job: Job) -> _Both:
            if is_film(Path(path)) or Path(path).suffix.lower() == SUFFIX:
                raise OffcutError(
                    f"{path}: is no list; films are held against each other under Versions"
                )
            one = held(path, likely=likely)
            return _Both.of((one, other) if side == 0 else (other, one))

        def take(both: _Both) -> None:
            if self.sides[1 - side] is not other:  # the other one was read meanwhile
                self.read(side, path)
                return
            self._take(both)

        def fail(words: str) -> None:
            self.busy, self.trouble = False, words
            self.changed.emit()

        self._s.work("Reading the list", work, take, whatever=True, failed=fail, quick=True)
        self.changed.emit()

    def swap(self) -> None:
        """Let the new list be the old one."""
        old, new = self.sides
        self._s.work(
            "Comparing both lists", lambda _job: _Both.of((new, old)), self._take, whatever=True
        )

    def _take(self, both: _Both) -> None:
        self.busy, self.row = False, -1
        self.sides, self._events = list(both.sides), both.events
        self.comparison, self.trouble = both.comparison, both.trouble
        self.sort_again()

    def sort_again(self) -> None:
        """Put the rows in their order."""
        here, changes = self.change, self.comparison.changes
        self.rows = list(changes) if self.as_they_run else doubt_first(changes)
        self.row = self.row_like(here)
        self.changed.emit()
        self.chosen_changed.emit()

    def along(self) -> list[Change]:
        """Return what became of every event, in the new list's order."""
        return list(self.comparison.changes)

    def length(self, side: int) -> int:
        """Return how many frames a list is long."""
        return next((at + e.length for at, e in reversed(self._events[side].items())), 0)

    def event_of(self, change: Change, side: int) -> ReadEvent | None:
        """Return the event of a list that a change is about, None where it has none."""
        span = change.new if side else change.old
        return self._events[side].get(span[0]) if span is not None else None

    def told(self, change: Change) -> RowTold:
        """Return what a row says: of the new list, of the old one where the event is gone."""
        side = 1 if change.new is not None else 0
        one, event = self.sides[side], self.event_of(change, side)
        if one is None or event is None:
            return RowTold(None, 0, "", "", change.words)
        title = event.clip or event.reel or f"Event {event.number}"
        why = next((r.text for r in change.reasons if r.against), "")
        at = timecode_from_frame(event.record_in, one.rate, event.drop)
        return RowTold(None, 0, title, at, change.words, why, True)

    def said_of(self, change: Change) -> tuple[str, str]:
        """Return both events, line by line."""
        old, new = (self._lines(change, side) for side in (0, 1))
        return old, new

    def _lines(self, change: Change, side: int) -> str:
        one, event = self.sides[side], self.event_of(change, side)
        if one is None or event is None:
            return f"not in the {self.names[side]} list"
        rate = one.rate

        def at(frame: int) -> str:
            return timecode_from_frame(frame, rate, event.drop)

        lines = [f"event {event.number}" if event.number else "", event.clip, f"reel  {event.reel}"]
        if event.source_out > event.source_in:
            lines.append(f"source  {at(event.source_in)}  {at(event.source_out)}")
        lines.append(f"record  {at(event.record_in)}  {at(event.record_out)}")
        lines.append(f"{many(event.length, 'frame')}, {event.kind.value}")
        if event.speed != 1:
            lines.append(f"at {float(event.speed):.0%} speed")
        lines += [c for c in event.comments if event.clip not in c][:4]
        return "\n".join(line for line in lines if line)

    @property
    def facts(self) -> tuple[str, ...]:
        """What is so all along, and how the lists were read, in sentences."""
        notes = [
            one.note.replace(str(one.path), one.path.name)
            for one in self.sides
            if one is not None and one.note
        ]
        return (*self.comparison.facts, *notes)

    def words_of(self, side: int) -> str:
        """Return what is said of a list beside its name: how many events, and its rate."""
        one = self.sides[side]
        if one is None:
            return ""
        return f"{many(len(self._events[side]), 'event')}  {rate_words(one.rate)} fps"
