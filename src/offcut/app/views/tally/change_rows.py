"""The list of what changed, most doubtful first, each with its picture and plain words."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import BODY, SMALL, WAX, WELL, font, theme
from offcut.app.theme.parts import plain
from offcut.app.views.tally.paired import Paired, RowTold
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.tally.versions.changes import Change, What

ROW_HIGH = 82
THUMB = (76, 46)
_Index = QModelIndex | QPersistentModelIndex


class ChangeModel(QAbstractListModel):
    """What changed, as Qt wants it."""

    def __init__(self, tally: Paired) -> None:
        super().__init__()
        self._tally = tally
        self._rows: list[Change] = []

    def refresh(self) -> None:
        """Take the rows as they are now."""
        if self._tally.rows != self._rows:
            self.beginResetModel()
            self._rows = list(self._tally.rows)
            self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._rows)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not 0 <= index.row() < len(self._rows):
            return None
        change = self._rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            told = self._tally.told(change)
            return ", ".join(w for w in (told.title, told.words, told.why) if w)
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain(_inside(self._tally, self._tally.told(change)))
        return change if role == Qt.ItemDataRole.UserRole else None


class _RowLook(QStyledItemDelegate):
    def __init__(self, tally: Paired, pictures: ShotPictures) -> None:
        super().__init__()
        self._tally = tally
        self._pictures = pictures

    def sizeHint(self, option: QStyleOptionViewItem, index: _Index) -> QSize:
        return QSize(260, ROW_HIGH)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        change: Change = index.data(Qt.ItemDataRole.UserRole)
        if change is None:
            return
        rect = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        t = theme()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(t.colour("text"), 1.5))
            painter.setBrush(t.colour("raised"))
            painter.drawRoundedRect(rect.adjusted(6, 2, -6, -2), 5, 5)
        told = self._tally.told(change)
        room = QRectF(rect.left() + 42, rect.top() + 8, *(THUMB if told.source else (0, 46)))
        if told.signed:
            draw_sign(painter, QPointF(rect.left() + 24, rect.top() + 26), change)
        if told.source is not None:
            painter.fillRect(room, WELL)
            size = fit(*shown_size(told.source.media), *THUMB)
            place = QRectF(0, 0, *size)
            place.moveCenter(room.center())
            self._pictures.draw(painter, place, Wanted(told.source, told.frame))
        x = room.right() + (10 if told.source is not None else 0)
        wide = rect.right() - 12 - x
        elide = Qt.TextElideMode.ElideRight
        painter.setPen(t.colour("text"))
        painter.setFont(font(BODY, strong=True))
        name = painter.fontMetrics().elidedText(told.title, elide, int(wide))
        painter.drawText(QPointF(x, rect.top() + 20), name)
        painter.setFont(font(BODY, mono=True))
        painter.drawText(QPointF(x, rect.top() + 38), told.timecode)
        painter.setFont(font(SMALL))
        whole = rect.right() - 12 - room.left()
        inside = _inside(self._tally, told)
        both = "; ".join(w for w in (told.words, inside) if w)
        words = painter.fontMetrics().elidedText(both, elide, int(whole))
        painter.drawText(QPointF(room.left(), rect.top() + 68), words)
        if told.why:
            painter.setPen(t.colour("warn" if told.warned else "faint"))
            why = painter.fontMetrics().elidedText(told.why, elide, int(wide))
            painter.drawText(QPointF(x, rect.top() + 53), why)
        painter.restore()


def _inside(tally: Paired, told: RowTold) -> str:
    return tally.shows(told.source, told.frame) if told.source is not None else ""


def draw_sign(painter: QPainter, at: QPointF, change: Change) -> None:
    """Draw what happened as a shape: a cross for gone, a plus for new, a box for another picture, a
    block with an arrow out of it or into it for an end that changed, an arrow for another place, a
    tick for the same.
    """
    painter.setPen(QPen(theme().colour("text"), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    x, y = at.x(), at.y()

    def line(*ends: float) -> None:
        painter.drawLine(QPointF(x + ends[0], y + ends[1]), QPointF(x + ends[2], y + ends[3]))

    if change.what is What.GONE:
        line(-6, -6, 6, 6)
        line(-6, 6, 6, -6)
    elif change.what is What.NEW:
        line(-7, 0, 7, 0)
        line(0, -7, 0, 7)
    elif change.what is What.OTHER:
        painter.drawRect(QRectF(x - 7, y - 5, 14, 10))
    elif change.what in (What.SHORTER, What.LONGER):
        side = -1 if change.head and not change.tail else 1
        painter.fillRect(QRectF(x - (7 if side > 0 else 0), y - 6, 7, 12), theme().colour("text"))
        tip, foot = (10, 2) if change.what is What.LONGER else (2, 10)
        back = tip + (-3 if tip > foot else 3)
        line(side * foot, 0, side * tip, 0)
        line(side * tip, 0, side * back, -3)
        line(side * tip, 0, side * back, 3)
    elif change.moved:
        line(-7, 4, 5, -4)
        line(5, -4, -1, -5)
        line(5, -4, 3, 2)
    else:
        line(-6, 0, -2, 5)
        line(-2, 5, 6, -5)
    if change.by_hand:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(WAX)
        painter.drawEllipse(QPointF(x, y + 16), 3, 3)


class ChangeRows(QListView):
    """The list; ``menu_asked`` tells where a menu is asked for."""

    menu_asked = Signal(QPoint)

    def __init__(self, tally: Paired, pictures: ShotPictures) -> None:
        super().__init__()
        self._tally = tally
        self._pictures = pictures
        self._model = ChangeModel(tally)
        self.setModel(self._model)
        self._look = _RowLook(tally, pictures)
        self.setItemDelegate(self._look)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setUniformItemSizes(True)
        self.setAccessibleName("What changed, most doubtful first")
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(
            lambda place: self.menu_asked.emit(self.viewport().mapToGlobal(place))
        )
        self.selectionModel().currentChanged.connect(lambda now, _: tally.choose(now.row()))
        self.verticalScrollBar().valueChanged.connect(lambda _: self._want())
        tally.changed.connect(self.refresh)
        tally.chosen_changed.connect(self._follow)
        pictures.arrived.connect(self.viewport().update)

    def refresh(self) -> None:
        """Show the rows as they are now."""
        self._model.refresh()
        self._follow()
        self._want()
        self.viewport().update()

    def _follow(self) -> None:
        index = self._model.index(self._tally.row)
        if index.isValid() and index != self.currentIndex():
            self.setCurrentIndex(index)
            self.scrollTo(index)

    def _want(self) -> None:
        """Ask for the pictures of the rows on show and of some beyond."""
        first = max(0, self.verticalScrollBar().value() // ROW_HIGH - 2)
        rows = self._tally.rows[first : first + self.height() // ROW_HIGH + 8]
        told = [self._tally.told(c) for c in rows]
        wanted = [Wanted(t.source, t.frame) for t in told if t.source is not None]
        self._pictures.want(f"rows-{id(self)}", wanted)
