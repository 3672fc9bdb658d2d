"""The list of shots that can be put into another running order, by hand or by keys."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QDropEvent, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListWidget,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from offcut.app.theme import SMALL, font, theme

Index = QModelIndex | QPersistentModelIndex
LENGTH = Qt.ItemDataRole.UserRole + 1


class _Row(QStyledItemDelegate):
    """A shot's number and name, and its length at the right."""

    def initStyleOption(self, option: QStyleOptionViewItem, index: Index) -> None:
        super().initStyleOption(option, index)
        ticked = option.features & QStyleOptionViewItem.ViewItemFeature.HasCheckIndicator
        taken = 92 if ticked else 68
        option.text = option.fontMetrics.elidedText(
            option.text, Qt.TextElideMode.ElideRight, option.rect.width() - taken
        )

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)
        painter.setFont(font(SMALL, mono=True))
        painter.setPen(theme().colour("faint"))
        where = option.rect.adjusted(0, 0, -8, 0)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(where, side, str(index.data(LENGTH) or ""))


class RunningOrderList(QListWidget):
    """``reordered`` tells that a row was moved, by dragging or by Alt with an arrow key."""

    reordered = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setUniformItemSizes(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setItemDelegate(_Row(self))
        self._moving = False

    def let_move(self, on: bool) -> None:
        """Let rows be moved, or not."""
        self._moving = on
        mode = QAbstractItemView.DragDropMode
        self.setDragDropMode(mode.InternalMove if on else mode.NoDragDrop)

    def dropEvent(self, event: QDropEvent) -> None:
        super().dropEvent(event)
        self.reordered.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        alt = event.modifiers() & Qt.KeyboardModifier.AltModifier
        if not (self._moving and step and alt):
            super().keyPressEvent(event)
            return
        row = self.currentRow()
        to = row + step
        if row >= 0 and 0 <= to < self.count():
            self.insertItem(to, self.takeItem(row))
            self.setCurrentRow(to)
            self.reordered.emit()
