"""The list of seams, most doubtful first, each with its pair and a plain reason."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.seam_actions import SeamActions
from offcut.app.session.session import Session
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.wax_marks import draw_mark, mark_words
from offcut.app.theme import SMALL, WELL, font, theme
from offcut.app.theme.parts import label
from offcut.core.judge.camera_stops import is_stop
from offcut.core.judge.reasons import STOP
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.seam import Certainty, Origin, Seam, Standing
from offcut.core.model.seam_groups import seam_groups
from offcut.core.model.verbs.judging import strike_seams

ROW_HIGH = 74
THUMB = (68, 40)
_Index = QModelIndex | QPersistentModelIndex


def pair_frames(seam: Seam, whole: int) -> tuple[int, int]:
    """Return the last clean frame before a seam and the first clean one after it."""
    return max(0, seam.start - 1), min(whole - 1, seam.end)


def plain_reason(seam: Seam, counted: bool) -> tuple[str, bool]:
    """Return the one sentence to show for a seam and whether it speaks against it."""
    if seam.standing is Standing.STRUCK:
        return "struck", False
    if seam.standing is Standing.KEPT:
        return "kept", False
    if seam.origin is Origin.LISTED and seam.certainty is Certainty.DOUBTFUL:
        return "listed, the picture does not change", True
    if seam.origin is not Origin.FOUND:
        return seam.origin.value, False
    against = [r for r in seam.reasons if r.against]
    if against and (seam.certainty is not Certainty.SURE or not counted):
        return max(against, key=lambda r: r.weight).text, True
    if is_stop(seam):
        return next(r.text for r in seam.reasons if r.code == STOP), False
    if seam.certainty is Certainty.SURE:
        return "sure", False
    return (seam.reasons[0].text if seam.reasons else seam.certainty.value), False


class SeamModel(QAbstractListModel):
    """The seams in order of doubt, as Qt wants them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.seams: tuple[Seam, ...] = ()
        self.counted: frozenset[int] = frozenset()
        self._rows: dict[int, int] = {}
        session.changed.connect(self._take)

    def _take(self) -> None:
        seams = self._session.doubts
        self.counted = self._session.counted_ids
        if len(seams) == len(self.seams) and [s.id for s in seams] == [s.id for s in self.seams]:
            self.seams = seams
            if seams:
                self.dataChanged.emit(self.index(0), self.index(len(seams) - 1))
            return
        self.beginResetModel()
        self.seams = seams
        self._rows = {s.id: i for i, s in enumerate(seams)}
        self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.seams)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        seam = self.seams[index.row()]
        counted = seam.id in self.counted
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            reason, _ = plain_reason(seam, counted)
            return f"{self._session.words_of(seam.frame)} {mark_words(seam, counted)}, {reason}"
        if role == Qt.ItemDataRole.UserRole:
            return seam
        return None

    def row_of(self, seam_id: int) -> int:
        """Return the row of a seam, -1 when it is not listed."""
        return self._rows.get(seam_id, -1)


class _Rows(QStyledItemDelegate):
    def __init__(self, session: Session, pictures: PicturesInHand, model: SeamModel) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures
        self._model = model

    def sizeHint(self, option: QStyleOptionViewItem, index: _Index) -> QSize:
        return QSize(270, ROW_HIGH)

    def thumb(self) -> tuple[int, int]:
        """Return the size of the small pictures."""
        source = self._session.source
        if source is None:
            return THUMB
        return fit(*shown_size(source.media), *THUMB)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        seam: Seam = index.data(Qt.ItemDataRole.UserRole)
        source = self._session.source
        if seam is None or source is None:
            return
        look = theme()
        counted = seam.id in self._model.counted
        rect = QRectF(option.rect).adjusted(8, 3, -8, -3)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        if chosen:
            painter.setPen(QPen(look.colour("text"), 1.5))
            painter.setBrush(look.colour("raised"))
            painter.drawRoundedRect(rect, 6, 6)
        left, top = rect.x() + 22, rect.y() + 8
        draw_mark(
            painter,
            seam,
            counted,
            rect.x() + 13,
            rect.x() + 6,
            rect.x() + 20,
            top + 3,
            top + 39,
            colour=look.colour("text"),
            scale=0.9,
        )
        wide, high = self.thumb()
        for i, frame in enumerate(pair_frames(seam, source.media.frames)):
            place = QRectF(left + 6 + i * (THUMB[0] + 3), top, THUMB[0], THUMB[1])
            painter.fillRect(place, WELL)
            image = self._pictures.picture(frame, wide, high)
            if image is not None:
                x, y = place.x() + (THUMB[0] - wide) / 2, place.y() + (THUMB[1] - high) / 2
                painter.drawImage(QRectF(x, y, wide, high), image)
        text = left + 6 + 2 * (THUMB[0] + 3) + 6
        quiet = seam.judged
        painter.setPen(look.colour("faint" if quiet else "text"))
        painter.setFont(font(SMALL, mono=True))
        painter.drawText(
            QRectF(text, top, rect.right() - text - 2, 18),
            Qt.AlignmentFlag.AlignVCenter,
            self._session.words_of(seam.frame),
        )
        painter.setFont(font(SMALL))
        painter.setPen(look.colour("faint"))
        word = seam.kind.value if counted or seam.judged else f"{seam.kind.value}, faint"
        painter.drawText(
            QRectF(text, top + 19, rect.right() - text - 2, 18), Qt.AlignmentFlag.AlignVCenter, word
        )
        reason, against = plain_reason(seam, counted)
        painter.setPen(look.colour("warn") if against else QColor(look.faint))
        room = QRectF(left + 6, top + THUMB[1] + 1, rect.right() - left - 12, 18)
        fitted = painter.fontMetrics().elidedText(
            reason, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, fitted)
        painter.restore()


class SeamList(QWidget):
    """The list with its head: how many, how many still to judge.

    ``menu_wanted`` tells of what kind of thing a menu is asked for, and where on the screen.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(
        self, session: Session, pictures: PicturesInHand, seam_actions: SeamActions
    ) -> None:
        super().__init__()
        self.setObjectName("list")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self._pictures = pictures
        self._seam_actions = seam_actions
        self._following = False
        self._head = label("Seams", "head")
        self.order = QToolButton()
        self.order.setObjectName("faint")
        self.order.setToolTip("What comes first in the list, and by Enter and D")
        self.order.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        orders = QMenu(self)
        for words, first in (("most doubtful first", False), ("camera stops first", True)):
            orders.addAction(words).triggered.connect(partial(self._set_order, first))
        self.order.setMenu(orders)
        self._left = label("", "faint")
        self.alike = QToolButton()
        self.alike.setText("Groups ▾")
        self.alike.setToolTip("Strike or select every seam of a certainty or with a reason")
        self.alike.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.groups = QMenu(self)
        self.groups.aboutToShow.connect(self._fill_groups)
        self.alike.setMenu(self.groups)
        heads = QHBoxLayout()
        heads.setContentsMargins(16, 12, 16, 0)
        heads.setSpacing(9)
        heads.addWidget(self._head)
        heads.addWidget(self.order)
        heads.addStretch()
        below = QHBoxLayout()
        below.setContentsMargins(16, 0, 8, 2)
        below.addWidget(self._left)
        below.addStretch()
        below.addWidget(self.alike)
        self.model = SeamModel(session)
        # a table: it knows where a row lies without asking the model about all those before it
        self.view = QTableView()
        self.view.setModel(self.model)
        self._rows = _Rows(session, pictures, self.model)
        self.view.setItemDelegate(self._rows)
        self.view.setShowGrid(False)
        self.view.horizontalHeader().hide()
        self.view.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.view.verticalHeader().hide()
        self.view.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.view.verticalHeader().setDefaultSectionSize(ROW_HIGH)
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.view.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.view.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setAccessibleName("Seams, most doubtful first")
        self.view.setMouseTracking(True)
        self.view.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.view.customContextMenuRequested.connect(self._ask_menu)
        self.view.selectionModel().selectionChanged.connect(self._selection_changed)
        self.view.verticalScrollBar().valueChanged.connect(self._want)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(heads)
        box.addLayout(below)
        box.addWidget(self.view)
        session.changed.connect(self._recount)
        session.selection_changed.connect(self._show_selected)
        pictures.came.connect(self.view.viewport().update)

    def _ask_menu(self, place: QPoint) -> None:
        if self.view.indexAt(place).isValid():
            self.menu_wanted.emit("seam", self.view.viewport().mapToGlobal(place))

    def _selection_changed(self) -> None:
        """Take over what was selected in the list by hand."""
        if self._following:
            return
        rows = [i.row() for i in self.view.selectionModel().selectedIndexes()]
        ids = [self.model.seams[r].id for r in rows if 0 <= r < len(self.model.seams)]
        current = self.view.currentIndex().row()
        here = self.model.seams[current].id if 0 <= current < len(self.model.seams) else None
        self._following = True
        if len(ids) == 1:
            self._session.select(ids[0])
        elif ids:
            ids.sort(key=lambda i: i != here)
            self._session.select_many(ids)
        self._following = False

    def _fill_groups(self) -> None:
        self.groups.clear()
        groups = seam_groups(self.model.seams)
        doubted = [g for g in groups if g.against]
        if not groups:
            self.groups.addAction("Every seam is judged").setEnabled(False)
            return
        if doubted:
            self.groups.addAction("Strike every open seam with").setEnabled(False)
        for group in doubted:
            words = f"{group.words}: {len(group.ids)}"
            self.groups.addAction(words).triggered.connect(partial(self._strike, group.ids))
        if doubted:
            self.groups.addSeparator()
        self.groups.addAction("Select every open seam that is or has").setEnabled(False)
        for group in groups:
            words = f"{group.words}: {len(group.ids)}"
            self.groups.addAction(words).triggered.connect(partial(self._select, group.ids))

    def _strike(self, ids: tuple[int, ...], _on: bool = False) -> None:
        seams = [s for s in self.model.seams if s.id in set(ids)]
        self._seam_actions.judge_many(strike_seams, "Strike", seams)

    def _select(self, ids: tuple[int, ...], _on: bool = False) -> None:
        self._session.select_many(ids)

    def _set_order(self, stops_first: bool, _on: bool = False) -> None:
        self._session.set_stops_first(stops_first)

    def _recount(self) -> None:
        words = "camera stops" if self._session.stops_first else "most doubtful"
        self.order.setText(f"{words} first ▾")
        open_ones = len(self._session.open_doubts)
        whole = len(self.model.seams)
        self._left.setText(f"{open_ones} of {whole} to judge" if whole else "")
        self._show_selected()
        self._want()

    def _show_selected(self) -> None:
        if self._following:
            return
        rows = [r for i in self._session.selected if (r := self.model.row_of(i)) >= 0]
        selection = self.view.selectionModel()
        if rows and [i.row() for i in selection.selectedIndexes()] == rows:
            self.view.scrollTo(self.model.index(rows[0]))
            return
        self._following = True
        if not rows:
            selection.clear()
        else:
            chosen = QItemSelection()
            for row in rows:
                chosen.select(self.model.index(row), self.model.index(row))
            selection.select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)
            first = self.model.index(rows[0])
            selection.setCurrentIndex(first, QItemSelectionModel.SelectionFlag.NoUpdate)
            self.view.scrollTo(first)
        self._following = False
        self._want()

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self._want()

    def _want(self) -> None:
        source = self._session.source
        if source is None:
            return
        first = self.view.verticalScrollBar().value() // ROW_HIGH
        rows = self.view.height() // ROW_HIGH + 2
        frames: list[int] = []
        for seam in self.model.seams[first : first + rows]:
            frames += pair_frames(seam, source.media.frames)
        self._pictures.want("list", frames, *self._rows.thumb())
