"""The key sheet (F1): all keys, a page a view; click a line and press another key to change it."""

from __future__ import annotations

from PySide6.QtCore import QKeyCombination, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.actions import Actions, Command
from offcut.app.theme.parts import label

_BARE = (
    Qt.Key.Key_Shift,
    Qt.Key.Key_Control,
    Qt.Key.Key_Alt,
    Qt.Key.Key_Meta,
    Qt.Key.Key_AltGr,
    Qt.Key.Key_unknown,
)
COLUMNS = 3
TALLEST = 640
"""The most pixels a page is high; more is scrolled to."""


class KeyLine(QPushButton):
    """The keys of one command; pressed, it waits for other ones."""

    def __init__(self, actions: Actions, command: Command) -> None:
        super().__init__()
        self.setObjectName("keyline")
        self.setCheckable(True)
        self.setAutoExclusive(False)
        self._actions = actions
        self.command = command
        self.setAccessibleName(f"Keys of: {command.words}")
        self.setToolTip("Press to change, then the new key; Backspace takes it away")
        self.toggled.connect(self.tell)
        self.tell()

    def tell(self) -> None:
        """Show the keys in force, or that one is waited for."""
        told = self._actions.shown_keys(self.command) or "none"
        self.setText("press a key" if self.isChecked() else told)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if not self.isChecked() or key in _BARE:
            super().keyPressEvent(event)
            return
        if key == Qt.Key.Key_Backspace:
            self._actions.set_keys(self.command, ())
        elif key != Qt.Key.Key_Escape:
            self._actions.set_keys(self.command, (key_words(event),))
        self.setChecked(False)

    def focusOutEvent(self, event: object) -> None:
        self.setChecked(False)
        super().focusOutEvent(event)  # type: ignore[arg-type]


def key_words(event: QKeyEvent) -> str:
    """Return the words of the keys that are pressed, as the table writes them."""
    key = Qt.Key(event.key())
    modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
    text = event.text()
    if len(text) == 1 and text.isprintable() and not text.isalnum() and text != " ":
        modifiers &= ~Qt.KeyboardModifier.ShiftModifier  # Shift only made the sign
    combined = QKeyCombination(modifiers, key)
    return QKeySequence(combined).toString(QKeySequence.SequenceFormat.PortableText)


class KeySheet(QDialog):
    """All keys, group by group; a view that has keys of its own has a page for them."""

    def __init__(self, actions: Actions, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self._actions = actions
        self.lines: dict[str, KeyLine] = {}
        self.pages = QTabWidget()
        self.pages.setObjectName("keypages")
        self.pages.setDocumentMode(True)
        views = dict.fromkeys(c.view for c in actions.commands)
        for view in views:
            name = view.capitalize() if view else "Every view"
            self.pages.addTab(self._page(view), name)
        foot = QHBoxLayout()
        self._told = label("Click a key to change it; Backspace takes it away", "faint")
        reset = QPushButton("Give all their first keys back")
        reset.clicked.connect(actions.reset_keys)
        foot.addWidget(self._told)
        foot.addStretch()
        foot.addWidget(reset)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 16, 24, 16)
        box.addWidget(self.pages, 1)
        box.addLayout(foot)
        actions.keys_changed.connect(self._show)

    def _page(self, view: str) -> QScrollArea:
        """Return the keys that are in force in one view alone, or in every view for ""."""
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 12, 8, 8)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(1)
        groups: dict[str, list[Command]] = {}
        for command in self._actions.commands:
            if command.view == view:
                groups.setdefault(command.group, []).append(command)
        tall = [0] * COLUMNS
        for name, members in sorted(groups.items(), key=lambda item: -len(item[1])):
            column = tall.index(min(tall))
            grid.addWidget(label(name, "head"), tall[column], 2 * column, 1, 2)
            for i, command in enumerate(members, start=1):
                line = self.lines[command.id] = KeyLine(self._actions, command)
                grid.addWidget(line, tall[column] + i, 2 * column)
                grid.addWidget(label(command.words), tall[column] + i, 2 * column + 1)
            tall[column] += len(members) + 2
            grid.setRowMinimumHeight(tall[column] - 1, 10)
        grid.setRowStretch(max(tall), 1)
        area = QScrollArea()
        area.setObjectName("plain")
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setMinimumSize(
            inside.sizeHint().width() + 24, min(inside.sizeHint().height() + 12, TALLEST)
        )
        return area

    def show_view(self, view: str) -> None:
        """Show the keys of a view first, where it has any of its own."""
        for n in range(self.pages.count()):
            if self.pages.tabText(n).lower() == view:
                self.pages.setCurrentIndex(n)

    def _show(self) -> None:
        for line in self.lines.values():
            line.tell()
