"""The slivers: shots suspiciously short, shortest first, folded or set aside one by one or all."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.shared.when_seen import when_seen
from offcut.app.theme.parts import label, number
from offcut.core.facts.likeness import Likeness, likeness_of
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.shots import Shot
from offcut.core.model.slivers import slivers_of, suggested_limit
from offcut.core.model.verbs.cards import set_shots_aside
from offcut.core.model.verbs.folding import fold_shots
from offcut.core.timecode import length_words
from offcut.core.words import many

_SHOT = Qt.ItemDataRole.UserRole


class SliverDrawer(QWidget):
    """Shots shorter than a limit. Acts on the chosen ones, or on all when none is chosen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._slivers: tuple[Shot, ...] = ()
        self.likeness: dict[tuple[int, int], Likeness] = {}
        self._job: Job | None = None
        self.limit = number(1, 1000, "Shots shorter than so many frames are slivers", " frames")
        self.limit.valueChanged.connect(self._set_limit)
        self._length = label("", "faint")
        self._suggest = QPushButton("Suggested")
        self._suggest.clicked.connect(self._take_suggested)
        self.list = QListWidget()
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.setAccessibleName("Slivers, shortest first")
        self.list.currentItemChanged.connect(self._go)
        self.list.itemSelectionChanged.connect(self._tell_buttons)
        self._told = label("", "faint")
        self._told.setWordWrap(True)
        self.nearer = QPushButton("Fold all into what they look like")
        self.before, self.after, self.aside = (
            QPushButton(w) for w in ("Into the one before", "Into the one after", "Set aside")
        )
        self.nearer.clicked.connect(lambda: self.fold(0))
        self.before.clicked.connect(lambda: self.fold(-1))
        self.after.clicked.connect(lambda: self.fold(1))
        self.aside.clicked.connect(self.set_aside)
        self._lay_out()
        self._soon = soon(self, 60, self._fill)
        when_seen(session.changed, self, self._changed)
        session.film_changed.connect(self._forget)

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 10, 18, 12)
        box.setSpacing(7)
        row = QHBoxLayout()
        row.addWidget(label("Shorter than"))
        row.addWidget(self.limit, 1)
        box.addLayout(row)
        row = QHBoxLayout()
        row.addWidget(self._length, 1)
        row.addWidget(self._suggest)
        box.addLayout(row)
        box.addWidget(self.list, 1)
        box.addWidget(self._told)
        box.addWidget(self.nearer)
        grid = QGridLayout()
        grid.setSpacing(6)
        grid.addWidget(self.before, 0, 0)
        grid.addWidget(self.after, 0, 1)
        grid.addWidget(self.aside, 1, 0, 1, 2)
        box.addLayout(grid)

    def _forget(self) -> None:
        self.likeness.clear()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._fill()

    def _changed(self) -> None:
        if self.isVisible():
            self._soon.start()

    def _set_limit(self, frames: int) -> None:
        if frames != self._session.sliver_frames:
            self._session.set_sliver_limit(frames)

    def _take_suggested(self) -> None:
        self._session.set_sliver_limit(0)

    # the list

    def _fill(self) -> None:
        source = self._session.source
        self.setEnabled(source is not None)
        if source is None:
            return
        limit = self._session.sliver_frames
        self.limit.blockSignals(True)
        self.limit.setValue(limit)
        self.limit.blockSignals(False)
        self._length.setText(length_words(limit, source.media.rate))
        suggested = suggested_limit(source, self._session.second)
        self._suggest.setText(f"Suggested: {suggested}")
        self._suggest.setEnabled(suggested != limit)
        slivers = slivers_of(source, limit)
        if slivers != self._slivers or self.list.count() != len(slivers):
            self._slivers = slivers
            chosen = {s.start for s in self._chosen()} if self.list.selectedItems() else set()
            here = self.list.currentRow()
            self.list.blockSignals(True)
            self.list.clear()
            for shot in slivers:
                item = QListWidgetItem(self._words(shot))
                item.setData(_SHOT, shot)
                self.list.addItem(item)
                item.setSelected(shot.start in chosen)
            if slivers and here >= 0:
                self.list.setCurrentRow(min(here, len(slivers) - 1))
                self.list.clearSelection()
            self.list.blockSignals(False)
        self._look()
        self._tell_buttons()

    def _words(self, shot: Shot) -> str:
        like = self.likeness.get((shot.start, shot.end))
        frames = many(shot.length, "frame")
        words = f"{self._session.words_of(shot.start)}   {frames}"
        return f"{words}\n{like.words if like else 'looking at it'}"

    def _look(self) -> None:
        """Look at the slivers not looked at yet, off the interface thread."""
        film = self._session.film
        new = [s for s in self._slivers if (s.start, s.end) not in self.likeness]
        if film is None or not new or self._job is not None:
            return
        shots = self._session.shots

        def work(job: Job) -> None:
            with open_reader(film, Purpose.PLAY, threads=1) as reader:
                for n, shot in enumerate(sorted(new, key=lambda s: s.start)):
                    if job.stop.is_set():
                        return
                    at = shot.number - 1
                    low = shots[at - 1].start if at else shot.start
                    high = shots[at + 1].end if at + 1 < len(shots) else shot.end
                    like = likeness_of(reader, shot.start, shot.end, low, high)
                    job.partial.emit((shot.start, shot.end, like))
                    job.tell(n + 1, len(new))

        self._job = self._session.work(
            "Looking at slivers", work, of=[self._session.in_hand],
            partial=self._looked, ended=self._look_ended,
        )  # fmt: skip

    def _looked(self, told: tuple[int, int, Likeness]) -> None:
        start, end, like = told
        self.likeness[(start, end)] = like
        for row in range(self.list.count()):
            item = self.list.item(row)
            shot: Shot = item.data(_SHOT)
            if (shot.start, shot.end) == (start, end):
                item.setText(self._words(shot))

    def _look_ended(self) -> None:
        self._job = None
        self._tell_buttons()

    # folding and setting aside

    def _chosen(self) -> list[Shot]:
        return [i.data(_SHOT) for i in self.list.selectedItems()] or list(self._slivers)

    def _tell_buttons(self) -> None:
        count, chosen = len(self._slivers), len(self.list.selectedItems())
        these = "all" if not chosen else "it" if chosen == 1 else f"these {chosen}"
        self.nearer.setText(
            f"Fold {these} into what it looks like"
            if chosen == 1
            else f"Fold {these} into what they look like"
        )
        for button in (self.nearer, self.before, self.after, self.aside):
            button.setEnabled(count > 0)
        self._told.setText(
            "No shot is that short"
            if not count
            else f"{count} slivers, {these} are meant below"
            if chosen != 1
            else f"{count} slivers, the chosen one is meant below"
        )

    def fold(self, way: int) -> None:
        """Fold the chosen slivers: -1 before, 1 after, 0 each into the one it looks more like."""
        shots = self._chosen()
        known = {s.start: self.likeness.get((s.start, s.end)) for s in shots}
        ways = {f: way or (like.side if like else -1) for f, like in known.items()}
        what = many(len(ways), "sliver")
        where = {-1: "into the shot before", 1: "into the shot after"}.get(
            way, "into what looks like it"
        )
        if ways:
            at = min(ways)
            self._session.edit(lambda p, s: fold_shots(p, s, ways), f"Fold {what} {where}", at)

    def set_aside(self) -> None:
        """Make the chosen slivers offcuts."""
        frames = [s.start for s in self._chosen()]
        what = many(len(frames), "sliver")
        if frames:
            self._session.edit(
                lambda p, s: set_shots_aside(p, s, frames), f"Set {what} aside", min(frames)
            )

    def next(self) -> None:
        """Go to the next sliver in the list."""
        self._fill()
        if not self._slivers:
            self._session.said.emit("No shot is that short")
            return
        row = (self.list.currentRow() + 1) % self.list.count()
        self.list.setCurrentRow(row)

    def _go(self, item: QListWidgetItem | None) -> None:
        if item is None:
            return
        shot: Shot = item.data(_SHOT)
        self._session.select(shot.opened_by.id if shot.opened_by else None)
        self._session.go_to(shot.start)
