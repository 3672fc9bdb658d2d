"""A button for one action of the table, its key written in it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from offcut.app.commands.actions import Actions
from offcut.app.theme import theme


class ActionButton(QPushButton):
    """A button for one action of the table, its key written in it."""

    def __init__(self, table: Actions, name: str, words: str, main: bool = False) -> None:
        super().__init__()
        self._action = table.by_id[name]
        self._table = table
        self._command = next(c for c in table.commands if c.id == name)
        self._words = words
        self._main = main
        self.setAccessibleName(self._action.text())
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.clicked.connect(self._action.trigger)
        self._action.changed.connect(self._follow)
        table.keys_changed.connect(self._tell)
        self.setMinimumHeight(34)
        self.restyle()
        self._tell()
        self._follow()

    def _tell(self) -> None:
        keys = self._table.shown_keys(self._command).split("  ")
        self.setText(f"{self._words}   {keys[0]}".rstrip())
        self.setToolTip(self._action.toolTip())

    def say(self, words: str) -> None:
        """Say something else."""
        if words != self._words:
            self._words = words
            self._tell()

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
