"""The left of the Board put together: scenes, suggestions, running orders."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.session.session import Session
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import label, plain
from offcut.app.views.board.board_shots import BoardShots
from offcut.app.views.board.group_list import GroupList, time_of
from offcut.app.views.board.looking import Looking
from offcut.app.views.board.order_list import OrderList
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.suggestions_panel import SuggestionsPanel
from offcut.core.model.source import Source


class LeftSide(QWidget):
    """What can be shown, of which film, and how long it plays."""

    def __init__(
        self,
        session: Session,
        shots: BoardShots,
        actions: ShotActions,
        looking: Looking,
        pictures: ShotPictures,
        table: Actions,
    ) -> None:
        super().__init__()
        self.setObjectName("list")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(232)
        self._b = shots
        self.groups = GroupList(session, shots, actions)
        self.orders = OrderList(session, shots, actions, pictures)
        self.suggestions = SuggestionsPanel(looking, shots, actions, pictures)
        self.film = QComboBox()
        self.film.setAccessibleName("Film")
        self.film.activated.connect(lambda _n: shots.show_film(self.film.currentData() or 0))
        self.add_scene, self.add_order = _plus("A new scene"), _plus("A new running order")
        self.count, self.order_time = label("", "monofaint"), label("", "monofaint")
        self.play_button = ActionButton(table, "board-play", "Play what is shown")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 12)
        column.setSpacing(5)
        column.addLayout(_head("Scenes", self.add_scene, self.count))
        column.addLayout(_line(self.film, 12))
        column.addWidget(self.groups, 5)
        column.addSpacing(6)
        column.addWidget(self.suggestions)
        column.addSpacing(6)
        column.addLayout(_head("Running orders", self.add_order, self.order_time))
        column.addWidget(self.orders, 3)
        column.addLayout(_line(self.play_button, 16))

    def refresh(self) -> None:
        """Show everything as it is now."""
        self.groups.refresh()
        self.orders.refresh()
        self.suggestions.refresh()

    def show_figures(self, sources: Sequence[Source]) -> None:
        """Show how long what is shown plays, and which films there are."""
        whole = time_of(r.seconds for r in self._b.rows)
        self.count.setText(whole)
        self.order_time.setText(whole if self._b.order is not None else "")
        self.film.setVisible(len(sources) > 1)
        entries = [("All films", 0)] + [(Path(s.media.path).name, s.id) for s in sources]
        held = [(self.film.itemText(n), self.film.itemData(n)) for n in range(self.film.count())]
        if entries != held:
            self.film.clear()
            for words, source_id in entries:
                self.film.addItem(words, source_id)
        self.film.setCurrentIndex(max(0, self.film.findData(self._b.film)))


def _plus(hint: str) -> QToolButton:
    button = QToolButton()
    button.setText("+")
    button.setToolTip(plain(hint))
    button.setAccessibleName(hint)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return button


def _head(words: str, button: QToolButton, figures: QWidget) -> QHBoxLayout:
    row = QHBoxLayout()
    row.setContentsMargins(16, 0, 16, 0)
    row.addWidget(label(words, "head"))
    row.addWidget(button)
    row.addStretch()
    row.addWidget(figures)
    return row


def _line(widget: QWidget, aside: int) -> QHBoxLayout:
    row = QHBoxLayout()
    row.setContentsMargins(aside, 0, aside, 0)
    row.addWidget(widget)
    return row
