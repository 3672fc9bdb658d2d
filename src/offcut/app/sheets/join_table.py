"""The joins of a list, each with the pair of pictures at its place and what the film says."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from offcut.app.session.session import Session
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.wax_marks import draw_mark
from offcut.app.theme import BODY, SMALL, WELL, font, theme
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.seam import Certainty, Origin, Seam
from offcut.core.tally.fitting import Verdict
from offcut.core.words import many

THUMB, ROW_HIGH = (76, 44), 58
_Index = QModelIndex | QPersistentModelIndex


def verdict_words(verdict: Verdict, frames: int) -> tuple[str, bool]:
    """Return what the film says to a join, and whether it is a difference."""
    if not 0 < verdict.frame < frames:
        return "outside the film", True
    if verdict.seam is None:
        return "the film has no seam there", True
    if verdict.off == 0:
        return "agrees", False
    off = many(abs(verdict.off), "frame")
    return f"{off} {'later' if verdict.off > 0 else 'earlier'} than the film’s seam", True


class JoinModel(QAbstractListModel):
    """The verdicts that are shown."""

    def __init__(self) -> None:
        super().__init__()
        self.shown: tuple[Verdict, ...] = ()

    def show(self, shown: tuple[Verdict, ...]) -> None:
        """Show other ones."""
        if len(shown) == len(self.shown):
            self.shown = shown
            if shown:
                self.dataChanged.emit(self.index(0), self.index(len(shown) - 1))
            return
        self.beginResetModel()
        self.shown = shown
        self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.shown)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        verdict = self.shown[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            event = verdict.join.event
            return f"event {event.number if event else ''}: {verdict_words(verdict, 1 << 40)[0]}"
        return verdict if role == Qt.ItemDataRole.UserRole else None


class _Rows(QStyledItemDelegate):
    def __init__(self, session: Session, pictures: PicturesInHand) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures

    def sizeHint(self, option: QStyleOptionViewItem, index: _Index) -> QSize:
        return QSize(560, ROW_HIGH)

    def thumb(self) -> tuple[int, int]:
        """Return the size of the small pictures."""
        source = self._session.source
        return fit(*shown_size(source.media), *THUMB) if source else THUMB

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        verdict: Verdict = index.data(Qt.ItemDataRole.UserRole)
        source = self._session.source
        if source is None:
            return
        look = theme()
        rect = QRectF(option.rect).adjusted(6, 2, -6, -2)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(look.colour("text"), 1.5))
            painter.setBrush(look.colour("raised"))
            painter.drawRoundedRect(rect, 6, 6)
        join = verdict.join
        self._draw_join(painter, verdict, rect)
        wide, high = self.thumb()
        x = rect.x() + 34
        for k, frame in enumerate(pair_at(verdict, source.media.frames)):
            place = QRectF(x + k * (THUMB[0] + 3), rect.y() + 5, *THUMB)
            painter.fillRect(place, WELL)
            image = self._pictures.picture(frame, wide, high)
            if image is not None:
                left = place.x() + (THUMB[0] - wide) / 2
                top = place.y() + (THUMB[1] - high) / 2
                painter.drawImage(QRectF(left, top, wide, high), image)
        x += 2 * (THUMB[0] + 3) + 10
        painter.setPen(look.colour("text"))
        painter.setFont(font(BODY, mono=True))
        left_part = QRectF(x, rect.y() + 6, 104, 20)
        inside = 0 <= verdict.frame < source.media.frames
        words = self._session.words_of(verdict.frame) if inside else "–"
        painter.drawText(left_part, Qt.AlignmentFlag.AlignVCenter, words)
        number = join.event.number if join.event else "gap"
        painter.setFont(font(SMALL))
        painter.setPen(look.colour("faint"))
        below = QRectF(x, rect.y() + 26, 104, 20)
        kind = f", {join.kind.value}" if join.end > join.start else ""
        painter.drawText(below, Qt.AlignmentFlag.AlignVCenter, f"event {number}{kind}")
        x += 112
        name = join.event.clip if join.event else ""
        said, differs = verdict_words(verdict, source.media.frames)
        right = rect.right() - x - 10
        painter.setPen(look.colour("text"))
        painter.setFont(font(BODY))
        shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(right))
        painter.drawText(QRectF(x, rect.y() + 6, right, 20), Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setFont(font(SMALL))
        painter.setPen(look.colour("warn" if differs else "faint"))
        painter.drawText(QRectF(x, rect.y() + 26, right, 20), Qt.AlignmentFlag.AlignVCenter, said)
        painter.restore()

    def _draw_join(self, painter: QPainter, verdict: Verdict, rect: QRectF) -> None:
        join = verdict.join
        seam = Seam(
            0, join.frame, join.start, join.end, join.kind,
            certainty=Certainty.SURE, origin=Origin.LISTED,
        )  # fmt: skip
        x = rect.x() + 18
        draw_mark(
            painter, seam, True, x, x - 7, x + 7, rect.y() + 13, rect.bottom() - 7,
            colour=theme().colour("text"), scale=0.9,
        )  # fmt: skip


def pair_at(verdict: Verdict, frames: int) -> list[int]:
    """Return the last frame before and the first after a join, kept inside the film."""
    gradual = verdict.join.end > verdict.join.start
    back = verdict.join.frame - verdict.join.start if gradual else 0
    on = verdict.join.end - verdict.join.frame if gradual else 0
    pair = (verdict.frame - back - 1, verdict.frame + on)
    return [max(0, min(frames - 1, f)) for f in pair]


class JoinTable(QTableView):
    """The table; choosing a row goes to its frame."""

    def __init__(self, session: Session, pictures: PicturesInHand) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures
        self.joins = JoinModel()
        self.setModel(self.joins)
        self._rows = _Rows(session, pictures)
        self.setItemDelegate(self._rows)
        self.setShowGrid(False)
        self.horizontalHeader().hide()
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(ROW_HIGH)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Joins of the list")
        self.verticalScrollBar().valueChanged.connect(self.want)
        self.selectionModel().currentChanged.connect(self._go)
        pictures.came.connect(self.viewport().update)

    def _go(self, now: QModelIndex, _before: QModelIndex) -> None:
        if now.isValid():
            self._session.go_to(self.joins.shown[now.row()].frame)

    def show_verdicts(self, shown: tuple[Verdict, ...]) -> None:
        """Show other verdicts."""
        self.joins.show(shown)
        self.want()

    def want(self) -> None:
        """Ask for the pictures of the rows on show."""
        source = self._session.source
        if source is None:
            return
        first = self.verticalScrollBar().value() // ROW_HIGH
        rows = self.height() // ROW_HIGH + 2
        frames = [
            f
            for v in self.joins.shown[first : first + rows]
            for f in pair_at(v, source.media.frames)
        ]
        self._pictures.want("joins", frames, *self._rows.thumb())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.want()
