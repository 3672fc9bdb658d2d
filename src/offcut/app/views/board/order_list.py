"""The running orders of the project: their names, how long they play, and their pictures."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QColor, QDropEvent, QPainter, QPen
from PySide6.QtWidgets import QListWidgetItem, QStyleOptionViewItem

from offcut.app.session.session import Session
from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import BODY, SMALL, font, theme
from offcut.app.theme.parts import plain
from offcut.app.views.board.board_shots import ORDER, BoardShots
from offcut.app.views.board.dragged import unpacked
from offcut.app.views.board.group_list import time_of
from offcut.app.views.board.names_list import RIGHT, Index, NameRow, NamesList, index_of
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_painting import wanted_at
from offcut.core.board.rows import BoardRow, rows_of_order
from offcut.core.words import many

TILE = (26, 15)
_ORDER = Qt.ItemDataRole.UserRole


class _OrderRow(NameRow):
    """Draws one running order: its name, how long it plays, and a picture of each of its shots."""

    high = 48
    field = (8, 2, -8, -18)

    def __init__(self, owner: OrderList, session: Session, pictures: ShotPictures) -> None:
        super().__init__(owner)
        self._orders = owner
        self._s = session
        self._pictures = pictures

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        painter.save()
        area = self.paint_frame(painter, option, index)
        look, order_id = theme(), index.data(_ORDER)
        rows = self._orders.rows.get(order_id, ())
        inside = area.adjusted(9, 5, -10, 0)
        painter.setFont(font(BODY, strong=order_id == self._s.order_id))
        painter.setPen(look.colour("text"))
        line = QRectF(inside.left(), inside.top(), inside.width(), 16)
        self.elided(painter, line.adjusted(0, 0, -50, 0), str(index.data() or ""))
        painter.setFont(font(SMALL, mono=True))
        painter.setPen(look.colour("faint"))
        painter.drawText(line, RIGHT, time_of(r.seconds for r in rows))
        y, x = inside.top() + 20, inside.left()
        for row in rows[: int(inside.width() // (TILE[0] + 1))]:
            place = QRectF(x, y, *TILE)
            painter.fillRect(place, QColor("#1C1C1C"))
            if row.source is not None and row.shot is not None:
                frame = self._orders.shots.frame_of(row)
                self._pictures.draw(painter, place, wanted_at(row, frame, place))
            else:
                painter.setPen(QPen(QColor("#D06A58"), 1.4))
                painter.drawLine(place.bottomLeft(), place.topRight())
            x += TILE[0] + 1
        painter.restore()


class OrderList(NamesList):
    """The running orders. One that is chosen is in hand, and shown; shots can be dropped on it."""

    def __init__(
        self, session: Session, shots: BoardShots, actions: ShotActions, pictures: ShotPictures
    ) -> None:
        super().__init__("Running orders")
        self._s = session
        self.shots = shots
        self._actions = actions
        self._pictures = pictures
        self.rows: dict[int, tuple[BoardRow, ...]] = {}
        self.setItemDelegate(_OrderRow(self, session, pictures))
        self.customContextMenuRequested.connect(self._ask_menu)
        self.currentItemChanged.connect(self._turned)
        self.itemClicked.connect(self._turned)
        self.itemChanged.connect(self._renamed)
        pictures.arrived.connect(self.viewport().update)
        shots.changed.connect(self.refresh)
        shots.renamed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the running orders as they are now."""
        project, order_id = self._s.project, self._s.order_id
        told = (project.orders, project.sources, order_id, self.shots.group)
        if not self.isVisible() or not self.is_news(*told):
            return
        self.rows = {o.id: rows_of_order(project, o) for o in project.orders}

        def fill(item: QListWidgetItem, n: int) -> None:
            order = project.orders[n]
            item.setText(order.name)
            item.setData(_ORDER, order.id)
            item.setToolTip(plain(f"{order.name}: {many(len(order.uses), 'shot')}"))
            flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
            item.setFlags(flags | Qt.ItemFlag.ItemIsEditable)

        ids = [o.id for o in project.orders]
        chosen = index_of(ids, order_id) if self.shots.group == ORDER else -1
        self.show_lines(len(ids), fill, chosen)
        self._want()

    def _want(self) -> None:
        wanted: list[Wanted] = []
        for rows in list(self.rows.values())[:8]:
            for row in rows[:9]:
                if row.source is not None and row.shot is not None:
                    wanted.append(wanted_at(row, self.shots.frame_of(row), QRectF(0, 0, *TILE)))
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
            self._told = ()
            self.refresh()

    def rename_here(self) -> None:
        """Begin to type another name for the running order that is shown."""
        self.rename_current()

    def _ask_menu(self, place: QPoint) -> None:
        item = self.itemAt(place)
        if item is not None:
            self._actions.show_order(item.data(_ORDER))
            self.menu_wanted.emit("board-order", self.viewport().mapToGlobal(place))

    def dropEvent(self, event: QDropEvent) -> None:
        held = unpacked(event.mimeData())
        n = self.row_at(event.position().toPoint())
        self._drop_over(-1)
        if held is None:
            return
        if n >= 0:
            self._s.take_order(self.item(n).data(_ORDER))
            self._actions.put_in_order()
        else:
            self._actions.new_order()
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
