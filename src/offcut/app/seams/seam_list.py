"""The list of seams, most doubtful first, each with its pair and a plain reason."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QRectF,
    QSize,
    Qt,
)
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from offcut.app.marks import draw_mark, mark_words
from offcut.app.player.pictures import Pictures
from offcut.app.session import Session
from offcut.app.theme import SMALL, WELL, font, theme
from offcut.app.theme.parts import label
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.project import Certainty, Origin, Seam, Standing
from offcut.core.model.shots import counted_seams

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
    if seam.origin is not Origin.FOUND:
        return seam.origin.value, False
    if seam.standing is Standing.KEPT:
        return "kept", False
    against = [r for r in seam.reasons if r.against]
    if against and (seam.certainty is not Certainty.SURE or not counted):
        return max(against, key=lambda r: r.weight).text, True
    if seam.certainty is Certainty.SURE:
        return "sure", False
    return (seam.reasons[0].text if seam.reasons else seam.certainty.value), False


class SeamModel(QAbstractListModel):
    """The seams in order of doubt, as Qt wants them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.seams: tuple[Seam, ...] = ()
        self.counted: set[int] = set()
        session.changed.connect(self._take)

    def _take(self) -> None:
        source = self._session.source
        self.beginResetModel()
        self.seams = self._session.doubts
        self.counted = {s.id for s in counted_seams(source)} if source else set()
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
        return next((i for i, s in enumerate(self.seams) if s.id == seam_id), -1)


class _Rows(QStyledItemDelegate):
    def __init__(self, session: Session, pictures: Pictures, model: SeamModel) -> None:
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
        painter.drawText(
            QRectF(left + 6, top + THUMB[1] + 1, rect.right() - left - 12, 18),
            Qt.AlignmentFlag.AlignVCenter,
            reason,
        )
        painter.restore()


class SeamList(QWidget):
    """The list with its head: how many, how many still to judge."""

    def __init__(self, session: Session, pictures: Pictures) -> None:
        super().__init__()
        self.setObjectName("list")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self._pictures = pictures
        self._head = label("Seams", "head")
        self._order = label("most doubtful first", "faint")
        self._left = label("", "faint")
        heads = QHBoxLayout()
        heads.setContentsMargins(16, 12, 16, 4)
        heads.setSpacing(9)
        heads.addWidget(self._head)
        heads.addWidget(self._order)
        heads.addStretch()
        heads.addWidget(self._left)
        self.model = SeamModel(session)
        self.view = QListView()
        self.view.setModel(self.model)
        self._rows = _Rows(session, pictures, self.model)
        self.view.setItemDelegate(self._rows)
        self.view.setUniformItemSizes(True)
        self.view.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setAccessibleName("Seams, most doubtful first")
        self.view.setMouseTracking(True)
        self.view.clicked.connect(lambda index: self._pick(index.row()))
        self.view.verticalScrollBar().valueChanged.connect(self._want)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(heads)
        box.addWidget(self.view)
        session.changed.connect(self._recount)
        session.selection_changed.connect(self._show_selected)
        pictures.arrived.connect(self.view.viewport().update)

    def _pick(self, row: int) -> None:
        if 0 <= row < len(self.model.seams):
            self._session.select(self.model.seams[row].id)

    def _recount(self) -> None:
        open_ones = sum(not s.judged for s in self.model.seams)
        whole = len(self.model.seams)
        self._left.setText(f"{open_ones} of {whole} to judge" if whole else "")
        self._show_selected()
        self._want()

    def _show_selected(self) -> None:
        chosen = self._session.selected
        row = self.model.row_of(chosen[0]) if chosen else -1
        selection = self.view.selectionModel()
        if row < 0:
            selection.clear()
            return
        index = self.model.index(row)
        selection.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self.view.scrollTo(index)
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
