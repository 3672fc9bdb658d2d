"""The command finder: type a few letters of what is to be done."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.actions import Actions, Command
from offcut.app.theme import theme
from offcut.app.theme.parts import label


def matching(commands: list[Command], typed: str) -> list[Command]:
    """Return the commands whose words hold every typed word, those that begin with it first."""
    parts = typed.lower().split()
    found = [c for c in commands if all(p in f"{c.words} {c.group}".lower() for p in parts)]
    return sorted(found, key=lambda c: not c.words.lower().startswith(typed.lower()))


class Finder(QDialog):
    """Type a few letters, Enter does it."""

    def __init__(
        self, actions: Actions, allowed: Callable[[Command], bool], parent: QWidget
    ) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._actions = actions
        self._allowed = allowed
        self.setFixedSize(520, 380)
        self.field = QLineEdit()
        self.field.setPlaceholderText("What do you want to do?")
        self.field.setAccessibleName("Find a command")
        self.list = QListWidget()
        self.list.setStyleSheet(
            "QListWidget { background: transparent; border: 0; outline: 0; }"
            f"QListWidget::item:selected {{ background: {theme().bar}; border-radius: 4px; }}"
        )
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 12, 12, 12)
        box.addWidget(self.field)
        box.addWidget(self.list)
        self.field.textChanged.connect(self._fill)
        self.field.returnPressed.connect(self._do)
        self.list.itemActivated.connect(lambda _item: self._do())
        self.list.itemClicked.connect(lambda _item: self._do())
        self.field.installEventFilter(self)
        self._fill("")

    def _fill(self, typed: str) -> None:
        self.list.clear()
        for command in matching(self._actions.commands, typed):
            if not self._allowed(command):
                continue
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.UserRole, command)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, command.words)
            row = QWidget()
            row.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            line = QHBoxLayout(row)
            line.setContentsMargins(8, 4, 8, 4)
            line.addWidget(label(command.words))
            line.addStretch()
            line.addWidget(label(self._actions.shown_keys(command), "monofaint"))
            item.setSizeHint(row.sizeHint())
            self.list.addItem(item)
            self.list.setItemWidget(item, row)
        self.list.setCurrentRow(0)

    def _do(self) -> None:
        item = self.list.currentItem()
        self.close()
        if item is not None:
            item.data(Qt.ItemDataRole.UserRole).run()

    def eventFilter(self, watched: Any, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None:
                row = self.list.currentRow() + step
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, row)))
                return True
        return super().eventFilter(watched, event)
