"""The strip: the frames just before and after a seam, the change under each; roll by dragging."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from offcut.app.marks import draw_mark
from offcut.app.player.pictures import Pictures
from offcut.app.session import Session
from offcut.app.theme import SMALL, WAX, WELL, WELL_DEEP, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.project import Seam
from offcut.core.model.verbs import roll_seam_to

SIDE = 10
TALL = 128


class Strip(QWidget):
    """Frames around the playhead; on a seam, frame 0 is the first of the new shot."""

    def __init__(self, session: Session, pictures: Pictures) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures
        self._centre = 0
        self._dragged: Seam | None = None
        self._drag_frame = 0
        self.setFixedHeight(TALL)
        self.setMouseTracking(True)
        self.setAccessibleName("Strip of frames around the seam")
        session.moved.connect(self._follow)
        session.changed.connect(self._follow)
        session.selection_changed.connect(self._follow)
        pictures.arrived.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(700, TALL)

    def _tile(self) -> tuple[int, int]:
        source = self._session.source
        if source is None:
            return 100, 60
        return fit(*shown_size(source.media), max(60, (self.width() - 2 * SIDE) // 8 - 3), 62)

    def _count(self) -> int:
        return max(4, int((self.width() - 2 * SIDE) // (self._tile()[0] + 3)) // 2 * 2)

    def _left(self) -> float:
        return (self.width() - self._count() * (self._tile()[0] + 3)) / 2

    def _follow(self) -> None:
        if self._dragged is None:
            self._centre = self._session.playhead
        self._want()
        self.update()

    def _first(self) -> int:
        return self._centre - self._count() // 2

    def _want(self) -> None:
        source = self._session.source
        if source is None:
            return
        first = self._first()
        frames = [f for f in range(first, first + self._count()) if 0 <= f < source.media.frames]
        self._pictures.want("strip", frames, *self._tile())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._want()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(WELL)
        painter.drawRoundedRect(self.rect(), 6, 6)
        source = self._session.source
        if source is None:
            return
        wide, high = self._tile()
        left, first = self._left(), self._first()
        trace, begin = self._session.trace, self._session.trace_start
        for i in range(self._count()):
            frame = first + i
            if not 0 <= frame < source.media.frames:
                continue
            place = QRectF(left + i * (wide + 3), 10, wide, high)
            image = self._pictures.picture(frame, wide, high)
            if image is None:
                painter.fillRect(place, WELL_DEEP)
            else:
                painter.drawImage(place, image)
            offset = frame - self._centre
            painter.setFont(font(SMALL, mono=True))
            painter.setPen(WELL_TEXT if offset else QColor("#FFFFFF"))
            label = f"{offset:+d}" if offset else "0"
            row = QRectF(place.x(), 12 + high, wide, 16)
            painter.drawText(row, Qt.AlignmentFlag.AlignCenter, label)
            if 0 <= frame - begin < len(trace):
                self._draw_change(painter, place, float(trace[frame - begin]))
        self._draw_marks(painter, left, first, wide + 3)

    def _draw_change(self, painter: QPainter, place: QRectF, change: float) -> None:
        foot = TALL - 24.0
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(WAX if change > 14 else WELL_LINE.lighter(140))
        tall = min(15.0, change * 0.5)
        painter.drawRoundedRect(QRectF(place.x() - 3.5, foot - tall + 2, 4, tall + 1), 1, 1)
        painter.setPen(WELL_FAINT)
        painter.drawText(
            QRectF(place.x(), foot + 1, place.width(), 15),
            Qt.AlignmentFlag.AlignCenter,
            f"{change:.1f}",
        )

    def _draw_marks(self, painter: QPainter, left: float, first: int, step: float) -> None:
        source = self._session.source
        assert source is not None
        counted = {s.opened_by.id for s in self._session.shots if s.opened_by is not None}
        end = first + self._count()
        for seam in source.seams:
            known = seam.id in counted or seam.judged or seam.id in self._session.selected
            if not known or seam.end < first or seam.start > end:
                continue
            frame = (
                self._drag_frame if self._dragged and seam.id == self._dragged.id else seam.frame
            )
            x, a, b = (left - 1.5 + (f - first) * step for f in (frame, seam.start, seam.end))
            draw_mark(painter, seam, seam.id in counted, x, a, b, 6, TALL - 30.0)
            if seam.id in self._session.selected or frame == self._centre:
                painter.setPen(QPen(WELL, 1.5))
                painter.setBrush(WAX)
                painter.drawEllipse(QRectF(x - 8, TALL / 2 - 12, 16, 16))
                painter.setPen(QPen(QColor("#1C1C1C"), 1.6))
                y = TALL / 2 - 4
                for way in (-1, 1):
                    painter.drawLine(int(x + way * 5), int(y), int(x + way * 2), int(y - 3))
                    painter.drawLine(int(x + way * 5), int(y), int(x + way * 2), int(y + 3))

    # hands

    def _frame_edge(self, x: float) -> int:
        return self._first() + round((x - self._left()) / (self._tile()[0] + 3))

    def _seam_at(self, x: float) -> Seam | None:
        source = self._session.source
        if source is None:
            return None
        step = self._tile()[0] + 3
        for seam in source.seams:
            place = self._left() - 1.5 + (seam.frame - self._first()) * step
            if abs(place - x) < 10:
                return seam
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self._session.source is None:
            return
        seam = self._seam_at(event.position().x())
        if seam is not None:
            self._dragged, self._drag_frame = seam, seam.frame
            return
        x = event.position().x() - self._left()
        frame = self._first() + int(x // (self._tile()[0] + 3))
        self._session.go_to(frame)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is None:
            near = self._seam_at(event.position().x()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.ArrowCursor)
            return
        self._drag_frame = self._frame_edge(event.position().x())
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        seam, self._dragged = self._dragged, None
        if seam is None:
            return
        if self._drag_frame == seam.frame:
            self._session.select(seam.id)
            return
        to = self._drag_frame
        words = f"Roll the seam to {self._session.words_of(to)}"
        self._session.edit(lambda p: roll_seam_to(p, seam.id, to), words, seam.frame)
        self._session.select(seam.id)
