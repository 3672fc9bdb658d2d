"""How text fields behave: Return gives the keys back to the pictures, Ctrl+Z goes through."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemView,
    QAbstractSpinBox,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

_UNDO = QKeySequence.StandardKey.Undo
_REDO = QKeySequence.StandardKey.Redo


class FieldManners(QObject):
    """Watches the field that has the keys, and no other widget.

    Return takes what was typed and gives the keys back. A field with nothing of its own to undo
    lets Ctrl+Z through to the project, and so for what is done again. Fields in a list are left
    alone, and those of other windows.
    """

    def __init__(self, window: QWidget, give_back: Callable[[], object]) -> None:
        super().__init__(window)
        self._window = window
        self._give_back = give_back
        self._field: QWidget | None = None

    def watch(self, now: QWidget | None) -> None:
        """Watch the widget that has the keys now."""
        if self._field is now:
            return
        if self._field is not None:
            self._field.removeEventFilter(self)
        self._field = now if now is not None and self._is_field(now) else None
        if self._field is not None:
            self._field.installEventFilter(self)
            self._field.destroyed.connect(self._forget)

    def _forget(self, _gone: QObject | None = None) -> None:
        self._field = None

    def _is_field(self, widget: QWidget) -> bool:
        if not isinstance(widget, QLineEdit | QPlainTextEdit | QAbstractSpinBox):
            return False
        parent = widget.parentWidget()
        while parent is not None and parent is not self._window:
            if isinstance(parent, QAbstractItemView) or parent.isWindow():
                return False
            parent = parent.parentWidget()
        return parent is self._window

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is not self._field or not isinstance(event, QKeyEvent):
            return False
        if event.type() == QEvent.Type.ShortcutOverride and self._is_the_projects(event):
            event.ignore()
            return True
        returned = event.type() == QEvent.Type.KeyPress and event.key() in _RETURN
        if returned and not isinstance(watched, QPlainTextEdit):
            QTimer.singleShot(0, self, lambda: self._taken(watched))
        return False

    def _is_the_projects(self, event: QKeyEvent) -> bool:
        """Tell whether undoing or doing again is not the field's own."""
        back, again = _own_steps(self._field)
        return (event.matches(_UNDO) and not back) or (event.matches(_REDO) and not again)

    def _taken(self, field: QObject) -> None:
        if field is not self._field or not self._field.hasFocus():
            return
        self._give_back()
        if isinstance(field, QLineEdit):
            field.setText(field.text())  # what was typed before is no step of the field any more


_RETURN = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


def _own_steps(field: QWidget | None) -> tuple[bool, bool]:
    """Tell whether a field has something of its own to undo, and to do again."""
    if isinstance(field, QAbstractSpinBox):
        field = field.lineEdit()
    if isinstance(field, QLineEdit):
        return field.isUndoAvailable(), field.isRedoAvailable()
    if isinstance(field, QPlainTextEdit):
        return field.document().isUndoAvailable(), field.document().isRedoAvailable()
    return False, False
