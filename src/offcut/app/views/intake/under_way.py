"""The work under way: what is done now, what waits in which order, how long it still takes."""

from __future__ import annotations

import time
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.app.theme.parts import label, plain
from offcut.app.theme.progress_line import ProgressLine
from offcut.core.words import long_words, many, time_left

SHOWN = 3
WORDS_EVERY = 1.0
"""Seconds between two words of how long it still takes."""


class _Waiting(QListWidget):
    """The films that wait; Alt with an arrow moves one, Delete takes it off."""

    def __init__(self, search: SeamSearch) -> None:
        super().__init__()
        self._search = search
        self.setAccessibleName("Films that wait; Alt and an arrow move one, Delete takes it off")
        self.setToolTip("Alt and an arrow move a film, Delete takes it off the queue")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def chosen(self) -> int:
        """Return the film that is chosen, 0 for none."""
        item = self.currentItem()
        return int(item.data(Qt.ItemDataRole.UserRole)) if item is not None else 0

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        alt = event.modifiers() & Qt.KeyboardModifier.AltModifier
        if alt and event.key() in (keys.Key_Up, keys.Key_Down):
            self._search.move(self.chosen(), -1 if event.key() == keys.Key_Up else 1)
        elif event.key() == keys.Key_Delete:
            self._search.take_off([self.chosen()])
        else:
            super().keyPressEvent(event)


class UnderWayPanel(QWidget):
    """Seen only while there is work."""

    def __init__(self, session: Session, search: SeamSearch) -> None:
        super().__init__()
        self._s = session
        self._search = search
        self._told = 0.0
        self.now = label("")
        self.bar = ProgressLine("How far the film under way is")
        self.left = label("", "monofaint")
        self.waiting = _Waiting(search)
        self.hold = QPushButton()
        self.hold.clicked.connect(self._turn)
        self.rest = label("", "faint")
        head = QHBoxLayout()
        head.addWidget(label("Under way", "head"))
        head.addStretch()
        head.addWidget(self.hold)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.now, 3)
        row.addWidget(self.bar, 2)
        row.addWidget(self.left)
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 4, 16, 6)
        box.setSpacing(5)
        box.addLayout(head)
        box.addLayout(row)
        box.addWidget(self.waiting)
        box.addWidget(self.rest)
        search.changed.connect(self.refresh)
        search.progressed.connect(lambda _id: self._show_progress())
        session.changed.connect(self.refresh)
        self.refresh()

    def _turn(self) -> None:
        if self._search.held:
            self._search.go_on()
        else:
            self._search.hold()

    def _name(self, source_id: int) -> str:
        if not self._s.project.holds(source_id):
            return ""
        return Path(self._s.project.source(source_id).media.path).name

    def _show_progress(self) -> None:
        """Show how far the film under way is."""
        if not self.isVisible():
            return
        self.bar.set_share(self._search.share)
        now = time.monotonic()
        if now - self._told < WORDS_EVERY:
            return  # other words lay the panel out anew
        self._told = now
        own, whole = self._search.seconds_left()
        self.left.setText(time_left(own).removesuffix(" left"))
        ids = self._search.waiting_ids
        rest = f"then {many(len(ids), 'film')}, about {long_words(whole)} in all" if ids else ""
        self.rest.setText(rest)

    def refresh(self) -> None:
        """Show the queue as it is now."""
        search = self._search
        self.setVisible(search.busy)
        if not search.busy:
            return
        self.hold.setText("Go on" if search.held else "Hold")
        name = self._name(search.finding_id)
        words = f"{name}: {search.under_way_words}" if name else "held"
        room = max(60, self.width() * 3 // 6)
        fitted = self.now.fontMetrics().elidedText(words, Qt.TextElideMode.ElideMiddle, room)
        self.now.setText(fitted)
        self.now.setToolTip(plain(words))
        ids = search.waiting_ids
        shown = [(i, f"{self._name(i)}    {long_words(max(1.0, search.cost(i)))}") for i in ids]
        now = [
            (self.waiting.item(r).data(Qt.ItemDataRole.UserRole), self.waiting.item(r).text())
            for r in range(self.waiting.count())
        ]
        if shown != now:
            chosen = self.waiting.chosen()
            self.waiting.clear()
            for source_id, words in shown:
                item = QListWidgetItem(words)
                item.setData(Qt.ItemDataRole.UserRole, source_id)
                self.waiting.addItem(item)
                if source_id == chosen:
                    self.waiting.setCurrentItem(item)
        self.waiting.setVisible(bool(ids))
        row = max(12, self.waiting.sizeHintForRow(0))
        self.waiting.setFixedHeight(row * min(SHOWN, max(1, len(ids))) + 4)
        self.rest.setVisible(bool(ids))
        self._told = 0.0
        self._show_progress()
