"""The Seams view put together: list, picture, strip, buttons, reasons, side panel."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from offcut.app.player.pictures import Pictures
from offcut.app.player.playing import Playing
from offcut.app.seams.pair import PairView
from offcut.app.seams.reasons import Reasons
from offcut.app.seams.seam_list import SeamList
from offcut.app.seams.side import Side
from offcut.app.seams.strip import Strip
from offcut.app.session import Session
from offcut.app.theme import theme
from offcut.app.theme.parts import pane


class ActionButton(QPushButton):
    """A button for one action of the table, its key written in it."""

    def __init__(self, action: QAction, words: str, key: str, main: bool = False) -> None:
        super().__init__()
        self._action = action
        self._main = main
        self.setAccessibleName(action.text())
        self.setToolTip(action.toolTip())
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.clicked.connect(action.trigger)
        self.setText(f"{words}   {key}")
        action.changed.connect(self._follow)
        self.setMinimumHeight(34)
        self.restyle()
        self._follow()

    def restyle(self) -> None:
        """Take the theme's colours; the main action is inked."""
        look = theme()
        if self._main:
            self.setStyleSheet(
                f"QPushButton:enabled {{ background: {look.ink}; color: {look.on_ink};"
                f" border-color: {look.ink}; font-weight: 600; }}"
            )

    def _follow(self) -> None:
        self.setEnabled(self._action.isEnabled())


class SeamsView(QWidget):
    """Find, judge, mend."""

    def __init__(
        self,
        session: Session,
        large: Pictures,
        small: Pictures,
        playing: Playing,
        actions: dict[str, QAction],
    ) -> None:
        super().__init__()
        self.list = SeamList(session, small)
        self.list.setFixedWidth(290)
        self.pair = PairView(session, large, playing)
        self.strip = Strip(session, small)
        self.reasons = Reasons(session)
        self.side = Side(session)
        self.side.setFixedWidth(262)
        bench = pane("bench")
        middle = QVBoxLayout(bench)
        middle.setContentsMargins(14, 14, 14, 10)
        middle.setSpacing(10)
        middle.addWidget(self.pair, 1)
        middle.addWidget(self.strip)
        self.buttons = [
            ActionButton(actions["keep"], "Keep", "Enter", True),
            ActionButton(actions["strike"], "Strike", "Del"),
            ActionButton(actions["roll-earlier"], "Roll", "["),
            ActionButton(actions["roll-later"], "Roll", "]"),
            ActionButton(actions["place"], "Place here", "+"),
            ActionButton(actions["play"], "Play across", "Space"),
        ]
        row = QHBoxLayout()
        row.setSpacing(8)
        for button, share in zip(self.buttons, (3, 3, 2, 2, 3, 4), strict=True):
            row.addWidget(button, share)
        middle.addLayout(row)
        middle.addWidget(self.reasons)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.list)
        box.addWidget(bench, 1)
        box.addWidget(self.side)
