"""Paired: what lists and wells of Tally ask of whatever is held against something."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.core.model.seam import Certainty
from offcut.core.model.source import Source
from offcut.core.tally.versions.changes import Change


@dataclass(frozen=True)
class RowTold:
    """What a row says: of which film and frame its picture is, its title, its timecode, what came
    of it, and why that is in doubt (``warned`` where it is a doubt); ``signed`` False where
    nothing is told that a sign stands for.
    """

    source: Source | None
    frame: int
    title: str
    timecode: str
    words: str
    why: str = ""
    warned: bool = False
    signed: bool = True


class Paired(QObject):
    """Pairs of stretches of two films, one of them looked at.

    ``changed`` tells that there are others; ``chosen_changed`` that another one is looked at.

    Attributes: ``rows`` what is worth a look, most doubtful first; ``row`` which of them is looked
    at; ``busy`` True while they are worked out, ``share`` how far that is; ``trouble`` a sentence
    where they cannot be; ``names`` what the two sides are called; ``alive`` tells whether anybody
    looks; ``as_they_run`` True where the rows lie as the film runs, all of them; ``shows`` tells
    what is in the shot that holds a frame of a film, in a line, empty where it is not known.
    """

    changed = Signal()
    chosen_changed = Signal()
    names = ("old", "new")

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._s = session
        self.alive: Callable[[], bool] = lambda: True
        self.shows: Callable[[Source | None, int], str] = lambda _source, _frame: ""
        self.rows: list[Change] = []
        self.row = -1
        self.busy = self.as_they_run = False
        self.trouble = ""
        self.share = 0.0

    def works_when_asked(self, milliseconds: int) -> None:
        """Work out what is not known yet, a moment after it was asked for; forget it with the
        project.
        """
        self._soon = soon(self, milliseconds, self._work)
        self._s.changed.connect(self.refresh)
        self._s.film_changed.connect(self.refresh)
        self._s.project_changed.connect(self._forget)

    def refresh(self) -> None:
        """Show what is known, and have worked out what is not."""

    def _work(self) -> None:
        """Work out what is not known yet."""

    def _forget(self) -> None:
        """Forget what was worked out: the project is another."""

    @property
    def old(self) -> Source | None:
        """The film on the one side, None where there is none."""
        return None

    @property
    def new(self) -> Source | None:
        """The film on the other side, None where there is none."""
        return None

    def told(self, change: Change) -> RowTold:
        """Return what a row says."""
        return RowTold(None, 0, "", "", change.words)

    @property
    def tells(self) -> bool:
        """False where both only lie over each other, and nothing is told."""
        return True

    def marks(self, side: int) -> Sequence[int]:
        """Return the joins of a side, 0 or 1, in its own frames, rising."""
        return ()

    def said_of(self, change: Change) -> tuple[str, str]:
        """Return what is known of both sides where there are no pictures, line by line."""
        return tuple(f"not in the {name} one" for name in self.names)  # type: ignore[return-value]

    @property
    def flopped(self) -> bool:
        """True where the picture of the one side has to be flopped to look like the other."""
        return False

    @property
    def change(self) -> Change | None:
        """What is looked at now."""
        return self.rows[self.row] if 0 <= self.row < len(self.rows) else None

    def choose(self, row: int) -> None:
        """Look at a row."""
        if 0 <= row < len(self.rows) and row != self.row:
            self.row = row
            self.chosen_changed.emit()

    def step(self, way: int) -> None:
        """Look at the row after or before."""
        if self.rows:
            self.choose(max(0, min(len(self.rows) - 1, self.row + way)))

    def set_as_they_run(self, as_they_run: bool) -> None:
        """Let the rows lie as the film runs, all of them, or the doubtful first."""
        self.as_they_run = as_they_run
        self.sort_again()

    def sort_again(self) -> None:
        """Put the rows in their order."""

    def step_along(self, way: int) -> None:
        """Look at the shot that comes next in the film, or the one before."""
        along = self.along()
        if not along:
            return
        here = self.change
        place = next((n for n, c in enumerate(along) if here is not None and c.is_of(here)), -1)
        self.look_at(along[max(0, min(len(along) - 1, place + way))])

    def along(self) -> list[Change]:
        """Return all pairs in the film's order, those too that are no rows now."""
        return sorted(self.rows, key=lambda c: c.new or c.old or (0, 0))

    def look_at(self, change: Change) -> None:
        """Look at a pair; one that is no row comes to them."""
        for n, row in enumerate(self.rows):
            if row.is_of(change):
                self.choose(n)
                return
        self.rows.append(change)
        self.row = len(self.rows) - 1
        self.changed.emit()
        self.chosen_changed.emit()

    def next_doubt(self) -> bool:
        """Look at the next row that is in doubt; tell whether there is one."""
        count = len(self.rows)
        for n in [*range(self.row + 1, count), *range(self.row + 1)]:
            row = self.rows[n]
            if row.certainty is not Certainty.SURE and not row.by_hand and n != self.row:
                self.choose(n)
                return True
        return False

    def row_like(self, change: Change | None) -> int:
        """Return the row of what was looked at, where it is still there."""
        if change is not None:
            for n, row in enumerate(self.rows):
                if (row.new or row.old) == (change.new or change.old):
                    return n
        return min(max(0, self.row), len(self.rows) - 1)
