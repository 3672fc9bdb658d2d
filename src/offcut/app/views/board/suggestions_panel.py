"""Looks like one place: what is suggested, with its pictures, taken or waved away one by one."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import SMALL, font, theme
from offcut.app.theme.parts import label, plain
from offcut.app.views.board.board_shots import BoardShots
from offcut.app.views.board.looking import Looking
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_painting import frame_of_sheet, wanted_at
from offcut.core.board.looking import Suggestion, UsedTwice
from offcut.core.board.rows import BoardRow
from offcut.core.model.project import ShotRef
from offcut.core.words import many

SHOWN = 2
HIGH = 58


class SuggestionCard(QWidget):
    """One suggestion. A click chooses its shots; ``chosen`` tells it."""

    chosen = Signal(object)

    def __init__(
        self,
        rows: list[BoardRow],
        words: str,
        hint: str,
        pictures: ShotPictures,
        buttons: list[QWidget],
    ) -> None:
        super().__init__()
        self._rows = rows
        self._words = words
        self._pictures = pictures
        self.setFixedHeight(HIGH)
        self.setToolTip(plain(hint))
        self.setAccessibleName(words)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        row = QHBoxLayout(self)
        row.setContentsMargins(108, 8, 8, 22)
        row.setSpacing(4)
        row.addStretch()
        for button in buttons:
            row.addWidget(button)
        pictures.arrived.connect(self.update)

    def wanted(self) -> list[Wanted]:
        """Return the pictures that are shown."""
        return [
            wanted_at(r, frame_of_sheet(r), QRectF(0, 0, 47, 27))
            for r in self._rows[:2]
            if r.source is not None
        ]

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit(tuple(r.ref for r in self._rows))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        painter.setPen(QPen(look.colour("faint"), 1, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)
        for n, row in enumerate(self._rows[:2]):
            place = QRectF(7 + n * 50, 7, 47, 27)
            painter.fillRect(place, QColor("#1C1C1C"))
            if row.source is not None:
                self._pictures.draw(painter, place, wanted_at(row, frame_of_sheet(row), place))
        painter.setFont(font(SMALL))
        painter.setPen(look.colour("faint"))
        room = QRectF(7, 37, self.width() - 14, 17)
        shown = painter.fontMetrics().elidedText(
            self._words, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)


class SuggestionsPanel(QWidget):
    """The next few suggestions, and how many more there are."""

    def __init__(
        self, looking: Looking, shots: BoardShots, actions: ShotActions, pictures: ShotPictures
    ) -> None:
        super().__init__()
        self._looking = looking
        self._b = shots
        self._actions = actions
        self._pictures = pictures
        self._first = 0
        self.cards: list[SuggestionCard] = []
        self.take: list[QPushButton] = []
        self.wave: list[QToolButton] = []
        self._told: object = None
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        head = QHBoxLayout()
        head.setContentsMargins(16, 0, 10, 0)
        head.addWidget(label("Looks like one place", "head"))
        head.addStretch()
        self._more = QToolButton()
        self._more.setObjectName("faint")
        self._more.setToolTip("The next suggestions")
        self._more.clicked.connect(self._next)
        head.addWidget(self._more)
        box.addLayout(head)
        self._cards = QVBoxLayout()
        self._cards.setContentsMargins(10, 0, 10, 0)
        self._cards.setSpacing(6)
        box.addLayout(self._cards)
        self._none = label("", "faint")
        self._none.setContentsMargins(16, 0, 10, 0)
        self._none.setWordWrap(True)
        box.addWidget(self._none)
        looking.changed.connect(self.refresh)
        shots.changed.connect(self.refresh)

    def _next(self) -> None:
        count = len(self._looking.suggestions) + len(self._looking.twice)
        self._first = self._first + SHOWN if self._first + SHOWN < count else 0
        self._told = None
        self.refresh()

    def refresh(self) -> None:
        """Show what is suggested now."""
        if not self.isVisible():
            return
        entries: list[Suggestion | UsedTwice] = [*self._looking.suggestions, *self._looking.twice]
        told = (entries, self._first, self._looking.done)
        if told == self._told:
            return
        self._told = told
        if self._first >= len(entries):
            self._first = 0
        while self._cards.count():
            old = self._cards.takeAt(0)
            widget = old.widget() if old is not None else None
            if widget is not None:
                widget.deleteLater()
        self.cards, self.take, self.wave = [], [], []
        rows = {r.ref: r for r in self._b.all_rows}
        shown = entries[self._first : self._first + SHOWN]
        for entry in shown:
            made = self._card(entry, rows)
            if made is not None:
                self.cards.append(made)
                self._cards.addWidget(made)
        self._pictures.want("suggestions", [w for c in self.cards for w in c.wanted()])
        if len(entries) > SHOWN:
            last = min(len(entries), self._first + SHOWN)
            self._more.setText(f"{self._first + 1}–{last} of {len(entries)} ›")
        self._more.setVisible(len(entries) > SHOWN)
        self._none.setVisible(not self.cards)
        self._none.setText(
            "No more shots that look alike" if self._looking.done else "Shots are being looked at"
        )

    def _card(
        self, entry: Suggestion | UsedTwice, rows: dict[ShotRef | None, BoardRow]
    ) -> SuggestionCard | None:
        if isinstance(entry, Suggestion):
            held = [rows[r] for r in entry.refs if r in rows]
            if not held:
                return None
            numbers = ", ".join(str(r.shot.number) for r in held[:8] if r.shot)
            words = f"{many(len(entry.refs), 'shot')}, {entry.words}, likeness {entry.likeness:.0f}"
            hint = f"Shots {numbers}. Likeness {entry.likeness:.0f} of 100. A click chooses them."
            take = QPushButton("Take")
            take.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            take.setToolTip("Put them into one scene")
            take.clicked.connect(lambda _on=False, r=entry.refs: self._actions.take_suggestion(r))
            wave = QToolButton()
            wave.setText("×")
            wave.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            wave.setToolTip("Wave it away: it is not suggested again")
            wave.setAccessibleName("Wave the suggestion away")
            wave.clicked.connect(lambda _on=False, r=entry.refs: self._actions.wave_away(r))
            self.take.append(take)
            self.wave.append(wave)
            card = SuggestionCard(held, words, hint, self._pictures, [take, wave])
        else:
            held = [rows[r] for r in (entry.first, entry.second) if r in rows]
            if len(held) < 2:
                return None
            numbers = " and ".join(str(r.shot.number) for r in held if r.shot)
            words = f"Used twice: shots {numbers}, {entry.words}"
            card = SuggestionCard(
                held, words, f"{words}. A click chooses them.", self._pictures, []
            )
        card.chosen.connect(self._choose)
        return card

    def _choose(self, refs: tuple[ShotRef, ...]) -> None:
        self._b.choose([r for r in refs if r in self._b.places])
