"""Lists that come with a film, and cuts that go to a colleague and come back."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal

from offcut.app.session.session import Session
from offcut.core.lists.registry import read_list
from offcut.core.model.cuts import Cuts, misfit
from offcut.core.model.verbs.cuts import with_cuts_merged, with_cuts_replaced
from offcut.core.store.cuts_file import read_cuts, write_cuts
from offcut.core.words import many


class ListsAndCuts(QObject):
    """Reads lists and cuts for the film in hand, and writes its cuts.

    ``list_read`` tells a cut list that was read.
    """

    list_read = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session

    def read_list(self, path: str | Path) -> None:
        """Read a cut list; ``list_read`` tells it."""
        source = self._s.source
        if source is None:
            self._s.failed.emit("Open the film first, then the list that came with it")
            return
        media = source.media
        self._s.work(
            "Reading the list",
            lambda _job: read_list(path, media.rate, media.drop),
            self.list_read.emit, of=[source.id], quick=True,
        )  # fmt: skip

    # the cuts alone

    def write_cuts(self, path: str | Path) -> None:
        """Write the cuts alone for a colleague."""
        project, source_id = self._s.project, self._s.in_hand
        if not project.holds(source_id):
            return
        self._s.work(
            "Writing the cuts", lambda _job: write_cuts(project, source_id, path),
            lambda file: self._s.said.emit(f"The cuts alone were written to {file.name}"),
            whatever=True, quick=True,
        )  # fmt: skip

    def take_cuts(self, path: str | Path, *, merge: bool) -> None:
        """Take a colleague's cuts in, merged with ours or in place of them, as one edit."""
        source_id = self._s.in_hand
        self._s.work(
            "Reading the cuts", lambda _job: read_cuts(path),
            lambda cuts: self._cuts_read(source_id, cuts, Path(path), merge),
            of=[source_id], quick=True,
        )  # fmt: skip

    def _cuts_read(self, source_id: int, cuts: Cuts, file: Path, merge: bool) -> None:
        s = self._s
        s.take_in_hand(source_id)
        why = misfit(cuts, s.project.source(source_id).media)
        if why:
            s.failed.emit(f"{file}: {why}; nothing was changed")
            return
        if not merge:
            if not s.edit(lambda p, i: with_cuts_replaced(p, i, cuts), f"Replace by {file.name}"):
                s.said.emit(f"{file.name} says what is here already")
            return
        merged = with_cuts_merged(s.project, source_id, cuts)
        if not s.edit(lambda _p, _i: merged.project, f"Merge {file.name}"):
            s.said.emit(f"{file.name} brings nothing new")
            return
        words = f"{file.name} merged: {many(merged.taken, 'decision')} taken over"
        if merged.ours:
            where = ", ".join(s.words_of(f) for f in merged.ours[:3])
            more = ", ..." if len(merged.ours) > 3 else ""
            words += f"; ours stayed where both had decided: {where}{more}"
        s.said.emit(words)
