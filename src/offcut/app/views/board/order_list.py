"""The running orders of the project: their names, how long they play, and their pictures."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QPainter,
    QPen,
)
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

from offcut.app.session.session import Session
from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import BODY, SMALL, WAX, font, theme
from offcut.app.views.board.board_shots import ORDER, BoardShots
from offcut.app.views.board.dragged import unpacked
from offcut.app.views.board.group_list import time_of
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_painting import frame_of_sheet, wanted_at
from offcut.core.board.rows import BoardRow, rows_of_order

HIGH = 48
TILE = (26, 15)
_ORDER = Qt.ItemDataRole.UserRole


class _OrderRow(QStyledItemDelegate):
    """Draws one running order: its name, how long it plays, and a picture of each of its shots."""

    def __init__(self, owner: OrderList, session: Session, pictures: ShotPictures) -> None:
        super().__init__(owner)
        self._owner = owner
        self._s = session
        self._pictures = pictures

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(180, HIGH)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        look = theme()
        order_id = index.data(_ORDER)
        rows = self._owner.rows.get(order_id, ())
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(option.rect).adjusted(6, 1, -6, -1)
        if self._owner.dropping == index.row():
            painter.setPen(QPen(WAX, 2.5))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 5, 5)
        elif option.state & QStyle.StateFlag.State_Selected:
            painter.setBrush(look.colour("raised"))
            painter.setPen(QPen(WAX if self._owner.hasFocus() else look.colour("ink"), 1.5))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 5, 5)
        inside = area.adjusted(9, 5, -10, 0)
        in_hand = order_id == self._s.order_id
        painter.setFont(font(BODY, strong=in_hand))
        painter.setPen(look.colour("text"))
        room = QRectF(inside.left(), inside.top(), inside.width() - 50, 16)
        shown = painter.fontMetrics().elidedText(
            str(index.data() or ""), Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setFont(font(SMALL, mono=True))
        painter.setPen(look.colour("faint"))
        right = QRectF(inside.left(), inside.top(), inside.width(), 16)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(right, side, time_of(list(rows)))
        y, x = inside.top() + 20, inside.left()
        for row in rows[: int(inside.width() // (TILE[0] + 1))]:
            place = QRectF(x, y, *TILE)
            painter.fillRect(place, QColor("#1C1C1C"))
            if row.source is not None and row.shot is not None:
                self._pictures.draw(painter, place, wanted_at(row, frame_of_sheet(row), place))
            else:
                painter.setPen(QPen(QColor("#D06A58"), 1.4))
                painter.drawLine(place.bottomLeft(), place.topRight())
            x += TILE[0] + 1
        painter.restore()

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index) -> QWidget:  # type: ignore[no-untyped-def]
        return QLineEdit(parent)

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        editor.setGeometry(option.rect.adjusted(8, 2, -8, -18))


class OrderList(QListWidget):
    """The running orders. One that is chosen is in hand, and shown; shots can be dropped on it.

    ``menu_wanted`` tells of what kind of thing a menu is asked for.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(
        self, session: Session, shots: BoardShots, actions: ShotActions, pictures: ShotPictures
    ) -> None:
        super().__init__()
        self._s = session
        self._b = shots
        self._actions = actions
        self._pictures = pictures
        self._quiet = False
        self._told: tuple[object, ...] = (None,) * 4
        self.dropping = -1
        self.rows: dict[int, tuple[BoardRow, ...]] = {}
        self.setObjectName("plainlist")
        self.setFrameShape(QListWidget.Shape.NoFrame)
        self.setAccessibleName("Running orders")
        self.setItemDelegate(_OrderRow(self, session, pictures))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked
                             | QAbstractItemView.EditTrigger.EditKeyPressed)  # fmt: skip
        self.setAcceptDrops(True)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._ask_menu)
        self.currentItemChanged.connect(self._turned)
        self.itemClicked.connect(self._turned)
        self.itemChanged.connect(self._renamed)
        pictures.arrived.connect(self.viewport().update)
        shots.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the running orders as they are now."""
        if not self.isVisible():
            return
        project = self._s.project
        told = (project.orders, project.sources, self._s.order_id, self._b.group)
        if all(a is b for a, b in zip(told, self._told, strict=True)):
            return
        self._told = told
        self.rows = {o.id: rows_of_order(project, o) for o in project.orders}
        self._quiet = True
        while self.count() > len(project.orders):
            self.takeItem(self.count() - 1)
        for n, order in enumerate(project.orders):
            if n >= self.count():
                self.addItem(QListWidgetItem())
            item = self.item(n)
            item.setText(order.name)
            item.setData(_ORDER, order.id)
            item.setToolTip(f"{order.name}: {len(order.uses)} shots")
            item.setFlags(
                Qt.ItemFlag.ItemIsEnabled
                | Qt.ItemFlag.ItemIsSelectable
                | Qt.ItemFlag.ItemIsEditable
            )
        now = -1
        if self._b.group == ORDER:
            ids = [o.id for o in project.orders]
            now = ids.index(self._s.order_id) if self._s.order_id in ids else -1
        if now >= 0:
            self.setCurrentRow(now)
        else:
            self.setCurrentRow(-1)
            self.clearSelection()
        self._quiet = False
        self._want()
        self.viewport().update()

    def _want(self) -> None:
        wanted: list[Wanted] = []
        for rows in list(self.rows.values())[:8]:
            for row in rows[:9]:
                if row.source is not None and row.shot is not None:
                    wanted.append(wanted_at(row, frame_of_sheet(row), QRectF(0, 0, *TILE)))
        self._pictures.want("orders", wanted)

    def _turned(self, item: QListWidgetItem | None) -> None:
        if item is not None and not self._quiet:
            self._actions.show_order(item.data(_ORDER))

    def _renamed(self, item: QListWidgetItem) -> None:
        order_id = item.data(_ORDER)
        if self._quiet or order_id is None:
            return
        order = next((o for o in self._s.project.orders if o.id == order_id), None)
        if order is not None and item.text().strip() != order.name:
            self._actions.rename_order(order_id, item.text())
            self._told = (None,) * 4
            self.refresh()

    def rename_here(self) -> None:
        """Begin to type another name for the running order in hand."""
        if self.currentItem() is not None and self.state() != self.State.EditingState:
            self.editItem(self.currentItem())

    def _ask_menu(self, place: QPoint) -> None:
        item = self.itemAt(place)
        if item is not None:
            self._actions.show_order(item.data(_ORDER))
            self.menu_wanted.emit("board-order", self.viewport().mapToGlobal(place))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if unpacked(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self.dropping = self.indexAt(event.position().toPoint()).row()
        self.viewport().update()
        event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self.dropping = -1
        self.viewport().update()

    def dropEvent(self, event: QDropEvent) -> None:
        held = unpacked(event.mimeData())
        n, self.dropping = self.indexAt(event.position().toPoint()).row(), -1
        self.viewport().update()
        if held is None:
            return
        if n >= 0:
            self._s.take_order(self.item(n).data(_ORDER))
            self._actions.put_in_order(None, held.refs)
        else:
            self._actions.new_order(held.refs)
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
