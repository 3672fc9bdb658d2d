"""Notices: a bar under the top bar that says one thing and offers what can be done about it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from offcut.app.theme import theme
from offcut.app.theme.parts import label


@dataclass
class Notice:
    """One thing to say: its ``kind`` (a later one of the kind takes its place), words, ways out.

    ``ways`` are pairs of a button's words and what it does; every button takes the notice away.
    ``bad`` ones tell of work that did not come.
    """

    kind: str
    words: str
    ways: list[tuple[str, Callable[[], object]]] = field(default_factory=list)
    bad: bool = False


class Notices(QWidget):
    """Shows the newest notice; the ones before come back when it is answered."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("offer")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.waiting: list[Notice] = []
        self.buttons: list[QPushButton] = []
        self.words = label("", "")
        self.words.setWordWrap(True)
        self.words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(16, 6, 14, 6)
        self._row.setSpacing(8)
        self._row.addWidget(self.words, 1)
        self.more = label("", "faint")
        self._row.addWidget(self.more)
        self.setAccessibleName("Notice")
        self.hide()

    @property
    def shown(self) -> Notice | None:
        """The notice on show."""
        return self.waiting[-1] if self.waiting else None

    def tell(self, notice: Notice) -> None:
        """Show a notice, in place of an older one of its kind."""
        self.waiting = [n for n in self.waiting if n.kind != notice.kind]
        self.waiting.append(notice)
        self._show()

    def take_away(self, kind: str) -> None:
        """Take a kind of notice away: it is settled."""
        self.waiting = [n for n in self.waiting if n.kind != kind]
        self._show()

    def _answer(self, notice: Notice, do: Callable[[], object]) -> None:
        if notice in self.waiting:
            self.waiting.remove(notice)
            self._show()
        do()

    def _show(self) -> None:
        for button in self.buttons:
            self._row.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.buttons = []
        notice = self.shown
        self.setVisible(notice is not None)
        if notice is None:
            return
        self.words.setText(notice.words)
        self.words.setStyleSheet(f"color: {theme().warn};" if notice.bad else "")
        others = len(self.waiting) - 1
        self.more.setText(f"and {others} more" if others else "")
        self.more.setVisible(bool(others))
        for words, do in notice.ways:
            button = QPushButton(words)
            button.clicked.connect(lambda _on=False, d=do, n=notice: self._answer(n, d))
            self._row.addWidget(button)
            self.buttons.append(button)
