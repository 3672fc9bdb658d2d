"""A list of names at the left of the Board: chosen, renamed in place, dropped onto."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDragLeaveEvent, QDragMoveEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from offcut.app.theme import WAX, theme
from offcut.app.views.board.dragged import unpacked

Index = QModelIndex | QPersistentModelIndex
LEFT = Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class NameRow(QStyledItemDelegate):
    """Draws what lines have in common: a frame where one is chosen, pointed at or dropped on.

    ``high`` is its height, ``field`` the room of the field it is renamed in, as margins.
    """

    high = 29
    field = (30, 1, -8, -1)

    def __init__(self, owner: NamesList) -> None:
        super().__init__(owner)
        self._owner = owner

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(180, self.high)

    def paint_frame(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> QRectF:
        """Draw the frame and return the room inside."""
        look = theme()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(option.rect).adjusted(6, 1, -6, -1)
        frame = area.adjusted(1, 1, -1, -1)
        if self._owner.dropping == index.row():
            painter.setPen(QPen(WAX, 2.5))
            painter.drawRoundedRect(frame, 5, 5)
        elif option.state & QStyle.StateFlag.State_Selected:
            painter.setBrush(look.colour("raised"))
            painter.setPen(QPen(WAX if self._owner.hasFocus() else look.colour("ink"), 1.5))
            painter.drawRoundedRect(frame, 5, 5)
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawRoundedRect(frame, 5, 5)
        return area

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        return QLineEdit(parent)

    def updateEditorGeometry(
        self, editor: QWidget, option: QStyleOptionViewItem, index: Index
    ) -> None:
        editor.setGeometry(option.rect.adjusted(*self.field))

    @staticmethod
    def elided(painter: QPainter, room: QRectF, words: str) -> None:
        """Draw words, cut off where they are too long."""
        shown = painter.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, LEFT, shown)


class NamesList(QListWidget):
    """``menu_wanted`` tells of what kind of thing a menu is asked for, and where.

    Attributes: ``dropping`` the row that a drag is over, -1 for none.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.dropping = -1
        self._quiet = False
        self._told: tuple[object, ...] = ()
        self.setObjectName("plainlist")
        self.setFrameShape(QListWidget.Shape.NoFrame)
        self.setAccessibleName(name)
        self.setMouseTracking(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        triggers = QAbstractItemView.EditTrigger
        self.setEditTriggers(triggers.DoubleClicked | triggers.EditKeyPressed)
        self.setAcceptDrops(True)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)

    def is_news(self, *told: object) -> bool:
        """Tell whether anything differs from what was shown last, and remember it."""
        same = len(told) == len(self._told) and all(
            a is b for a, b in zip(told, self._told, strict=True)
        )
        self._told = told
        return not same

    def show_lines(
        self, count: int, fill: Callable[[QListWidgetItem, int], None], chosen: int
    ) -> None:
        """Show so many lines, each filled in, the chosen one current; -1 for none."""
        self._quiet = True
        while self.count() > count:
            self.takeItem(self.count() - 1)
        for n in range(count):
            if n >= self.count():
                self.addItem(QListWidgetItem())
            fill(self.item(n), n)
        self.setCurrentRow(chosen)
        if chosen < 0:
            self.clearSelection()
        self._quiet = False
        self.viewport().update()

    def rename_current(self) -> None:
        """Begin to type another name for the current line."""
        item = self.currentItem()
        if item is not None and self.state() != self.State.EditingState:
            self.editItem(item)

    def row_at(self, place: QPoint) -> int:
        """Return the row at a place, -1 for none."""
        return self.indexAt(place).row()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if unpacked(event.mimeData()) is not None or event.source() is self:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self._drop_over(self.row_at(event.position().toPoint()))
        event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._drop_over(-1)

    def _drop_over(self, row: int) -> None:
        self.dropping = row
        self.viewport().update()


def index_of(values: Sequence[object], value: object) -> int:
    """Return where a value stands, -1 for nowhere."""
    return next((n for n, v in enumerate(values) if v == value), -1)
