"""The command finder (Ctrl+K) and the shortcut sheet (F1), both read off the table of actions."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from offcut.app.actions import Command, shown_keys
from offcut.app.theme import theme
from offcut.app.theme.parts import label


def matching(commands: list[Command], typed: str) -> list[Command]:
    """Return the commands whose words hold every typed word, those that begin with it first."""
    parts = typed.lower().split()
    found = [c for c in commands if all(p in f"{c.words} {c.group}".lower() for p in parts)]
    return sorted(found, key=lambda c: not c.words.lower().startswith(typed.lower()))


class Finder(QDialog):
    """Type a few letters, Enter does it."""

    def __init__(self, commands: list[Command], allowed: Any, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._commands = commands
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
        for command in matching(self._commands, typed):
            if not self._allowed(command):
                continue
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.UserRole, command)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, command.words)
            row = QWidget()
            row.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            line = QHBoxLayout(row)
            line.setContentsMargins(8, 4, 8, 4)
            line.addWidget(QLabel(command.words))
            line.addStretch()
            line.addWidget(label(shown_keys(command), "monofaint"))
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


class ShortcutSheet(QDialog):
    """All keys on one page, group by group."""

    def __init__(self, commands: list[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        grid = QGridLayout(self)
        grid.setContentsMargins(26, 20, 26, 22)
        grid.setHorizontalSpacing(16)
        groups: dict[str, list[Command]] = {}
        for command in commands:
            if command.keys:
                groups.setdefault(command.group, []).append(command)
        columns = 3
        tall = [0] * columns
        for name, members in groups.items():
            column = tall.index(min(tall))
            grid.addWidget(label(name, "head"), tall[column], 2 * column, 1, 2)
            for i, command in enumerate(members, start=1):
                keys = shown_keys(command)
                grid.addWidget(
                    label(keys, "mono"),
                    tall[column] + i,
                    2 * column,
                    Qt.AlignmentFlag.AlignTop,
                )
                grid.addWidget(QLabel(command.words), tall[column] + i, 2 * column + 1)
            tall[column] += len(members) + 2
            grid.setRowMinimumHeight(tall[column] - 1, 14)
