"""The strip: the frames just before and after a seam, the change under each; mend by dragging."""

from __future__ import annotations

from bisect import bisect_left

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QHideEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
)
from PySide6.QtWidgets import QWidget

from offcut.app.commands.seam_actions import SeamActions
from offcut.app.session.session import Session
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.wax_marks import draw_mark
from offcut.app.theme import SMALL, WAX, WELL, WELL_DEEP, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.seam import Seam
from offcut.core.model.verbs.rolling import roll_limits, roll_seam_to

SIDE = 10
TALL = 128
LONGEST = 300
"""A gradual seam may reach so far from its frame and still be found when drawing."""


class Strip(QWidget):
    """Frames around the playhead; on a seam, frame 0 is the first of the new shot.

    The round handle rolls the seam; on a gradual one the two bars move the ends of its span. A
    long span is shown whole: every second, third ... frame then has a picture.
    """

    def __init__(
        self, session: Session, pictures: PicturesInHand, seam_actions: SeamActions
    ) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures
        self._seam_actions = seam_actions
        self._centre = 0
        self._dragged: Seam | None = None
        self._part = ""
        self._drag_frame = 0
        self._stride = 1
        self.setFixedHeight(TALL)
        self.setMouseTracking(True)
        self.setAccessibleName("Strip of frames around the seam")
        session.moved.connect(self._follow)
        session.changed.connect(self._follow)
        session.selection_changed.connect(self._follow)
        pictures.came.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(700, TALL)

    # where things lie

    def _tile(self) -> tuple[int, int]:
        source = self._session.source
        if source is None:
            return 100, 60
        return fit(*shown_size(source.media), max(60, (self.width() - 2 * SIDE) // 8 - 3), 62)

    def _step(self) -> float:
        return self._tile()[0] + 3.0

    def _count(self) -> int:
        return max(4, int((self.width() - 2 * SIDE) // self._step()) // 2 * 2)

    def _left(self) -> float:
        return (self.width() - self._count() * self._step()) / 2

    def _first(self) -> int:
        return self._centre - self._count() // 2 * self._stride

    def _frames(self) -> range:
        """The frames that have a picture, from left to right."""
        return range(self._first(), self._first() + self._count() * self._stride, self._stride)

    def x_of(self, frame: int) -> float:
        """Return where the gap before a frame lies."""
        return self._left() - 1.5 + (frame - self._first()) * self._step() / self._stride

    def frame_edge(self, x: float) -> int:
        """Return the frame whose gap lies nearest to a place."""
        return self._first() + round((x - self._left()) / self._step() * self._stride)

    def _follow(self) -> None:
        if self._dragged is None:
            self._centre = self._session.playhead
            seam = self._session.seam_here()
            span = seam.end - seam.start + 4 if seam is not None and seam.gradual else 0
            self._stride = max(1, -(-span // self._count()))
        self._want()
        self.update()

    def _want(self) -> None:
        source = self._session.source
        if source is None or not self.isVisible():
            return
        frames = [f for f in self._frames() if 0 <= f < source.media.frames]
        middle = self._centre
        self._pictures.want("strip", sorted(frames, key=lambda f: abs(f - middle)), *self._tile())

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._follow()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._pictures.want("strip", [], 2, 2)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._want()

    def _seams_near(self) -> tuple[Seam, ...]:
        source = self._session.source
        if source is None:
            return ()
        frames = self._frames()
        low = bisect_left(source.seams, frames.start - LONGEST, key=lambda s: s.frame)
        high = bisect_left(source.seams, frames.stop + LONGEST, key=lambda s: s.frame)
        return source.seams[low:high]

    def _shown(self, seam: Seam) -> tuple[int, int, int]:
        """Return frame, start and end of a seam as a drag under way would have them."""
        if self._dragged is None or seam.id != self._dragged.id:
            return seam.frame, seam.start, seam.end
        to = self._drag_frame
        if self._part == "start":
            start = min(to, seam.end - 1)
            return (start + seam.end) // 2, start, seam.end
        if self._part == "end":
            end = max(to, seam.start + 1)
            return (seam.start + end) // 2, seam.start, end
        by = to - seam.frame
        return to, seam.start + by, seam.end + by

    # painting

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
        trace, begin = self._session.trace, self._session.trace_start
        for i, frame in enumerate(self._frames()):
            if not 0 <= frame < source.media.frames:
                continue
            place = QRectF(self._left() + i * self._step(), 10, wide, high)
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
        self._draw_marks(painter)

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

    def _draw_marks(self, painter: QPainter) -> None:
        painter.save()
        painter.setClipRect(QRectF(self.rect()).adjusted(3, 0, -3, 0))
        counted = self._session.counted_ids
        first, end = self._frames().start, self._frames().stop
        for seam in self._seams_near():
            known = seam.id in counted or seam.judged or seam.id in self._session.selected
            if not known or seam.end < first or seam.start > end:
                continue
            frame, start, clean = self._shown(seam)
            x, a, b = self.x_of(frame), self.x_of(start), self.x_of(clean)
            draw_mark(painter, seam, seam.id in counted, x, a, b, 6, TALL - 30.0)
            if seam.id in self._session.selected or frame == self._centre:
                if seam.gradual:
                    for edge in (a, b):
                        self._draw_bar(painter, edge)
                self._draw_handle(painter, x)
        painter.restore()

    def _draw_handle(self, painter: QPainter, x: float) -> None:
        painter.setPen(QPen(WELL, 1.5))
        painter.setBrush(WAX)
        painter.drawEllipse(QRectF(x - 8, TALL / 2 - 12, 16, 16))
        painter.setPen(QPen(QColor("#1C1C1C"), 1.6))
        y = TALL / 2 - 4
        for way in (-1, 1):
            for up in (-3, 3):
                painter.drawLine(QPointF(x + way * 5, y), QPointF(x + way * 2, y + up))

    def _draw_bar(self, painter: QPainter, x: float) -> None:
        painter.setPen(QPen(WELL, 1))
        painter.setBrush(WAX)
        painter.drawRoundedRect(QRectF(x - 3, TALL / 2 - 18, 6, 28), 3, 3)

    # by hand

    def _grip_at(self, x: float) -> tuple[Seam, str] | None:
        """Return the seam under a place, and whether the hand is on it or on an end of its span."""
        chosen = set(self._session.selected)
        near = sorted(
            self._seams_near(), key=lambda s: s.id not in chosen and s.frame != self._centre
        )
        for seam in near:
            if abs(self.x_of(seam.frame) - x) < 10:
                return seam, "seam"
            if seam.gradual and (seam.id in chosen or seam.frame == self._centre):
                for part, frame in (("start", seam.start), ("end", seam.end)):
                    if abs(self.x_of(frame) - x) < 9:
                        return seam, part
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self._session.source is None:
            return
        grip = self._grip_at(event.position().x())
        if grip is not None:
            self._dragged, self._part = grip
            seam = self._dragged
            self._drag_frame = {"start": seam.start, "end": seam.end}.get(self._part, seam.frame)
            return
        x = event.position().x() - self._left()
        self._session.go_to(self._first() + int(x // self._step()) * self._stride)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is None:
            near = self._grip_at(event.position().x()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.ArrowCursor)
            return
        source = self._session.source
        to = self.frame_edge(event.position().x())
        if source is not None:
            low, high = roll_limits(source, self._dragged.id)
            to = max(low, min(high + (self._part == "end"), to))
        if to != self._drag_frame:
            self._drag_frame = to
            self._session.dragging.emit(self._shown(self._dragged))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        seam, self._dragged = self._dragged, None
        if seam is None:
            return
        self._session.dragging.emit(None)
        to = self._drag_frame
        if to == {"start": seam.start, "end": seam.end}.get(self._part, seam.frame):
            self._session.select(seam.id)
        elif self._part == "start":
            self._seam_actions.set_span(seam, to, seam.end)
        elif self._part == "end":
            self._seam_actions.set_span(seam, seam.start, to)
        else:
            words = f"Roll the seam to {self._session.words_of(to)}"
            self._session.edit(lambda p, s: roll_seam_to(p, s, seam.id, to), words, seam.frame)
            self._session.select(seam.id)
