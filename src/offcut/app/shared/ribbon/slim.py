"""The slim ribbon: the A and B roll of the whole film, its seams and the playhead, and no more."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent
from PySide6.QtWidgets import QWidget

from offcut.app.session.session import Session
from offcut.app.shared.ribbon.columns import crowd_image, rolls_image
from offcut.app.shared.scene_bands import paint_scenes
from offcut.app.shared.wax_marks import draw_mark
from offcut.app.theme import WAX, WELL, WELL_FAINT, WELL_TEXT, font
from offcut.core.model.shots import counted_seams

HIGH = 52
SIDE = 16
TOP, ROW = 5, 20
GREY = QColor("#5C5C5C")
CROWD = 260
"""More seams than these are drawn as a crowd: there is no room for more strokes."""


class SlimRibbon(QWidget):
    """A click or a drag moves the playhead."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._s = session
        self._film = QPixmap()
        self._stale = True
        self.setFixedHeight(HIGH)
        self.setAccessibleName("The film, its shots on roll A and roll B")
        session.changed.connect(self._changed)
        session.film_changed.connect(self._changed)
        session.moved.connect(self.update)
        session.stretch_changed.connect(self.update)

    def _changed(self) -> None:
        self._stale = True
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._stale = True
        super().resizeEvent(event)

    def _room(self) -> int:
        return max(1, self.width() - 2 * SIDE)

    def _draw_film(self) -> None:
        source = self._s.source
        scale = self.devicePixelRatioF()
        self._film = QPixmap(int(self.width() * scale), int(HIGH * scale))
        self._film.setDevicePixelRatio(scale)
        self._film.fill(WELL)
        self._stale = False
        if source is None:
            return
        painter = QPainter(self._film)
        room, whole = self._room(), max(1, source.media.frames)
        starts = np.array([s.start for s in self._s.shots], np.int64)
        end = self._s.shots[-1].end if self._s.shots else 0
        rolls = rolls_image(starts, end, 0.0, room / whole, room, GREY)
        painter.drawImage(QRectF(SIDE, TOP, room, 2 * ROW), rolls)
        counted = counted_seams(source)
        if len(counted) > CROWD:
            frames = np.array([s.frame for s in counted], np.int64)
            crowd = crowd_image(frames, 0.0, room / whole, room, 2 * ROW, WAX)
            painter.drawImage(QPointF(SIDE, TOP), crowd)
        else:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for seam in counted:
                x = SIDE + seam.frame / whole * room
                first, last = (SIDE + f / whole * room for f in (seam.start, seam.end))
                draw_mark(painter, seam, True, x, first, last, TOP, TOP + 2 * ROW)
        paint_scenes(
            painter, self._s.project, self._s.shots,
            lambda a, b: (SIDE + a / whole * room, (b - a) / whole * room), TOP + 2 * ROW + 1, 5,
        )  # fmt: skip
        painter.end()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._stale or self._film.width() != int(self.width() * self.devicePixelRatioF()):
            self._draw_film()
        painter.drawPixmap(0, 0, self._film)
        source = self._s.source
        if source is None:
            painter.setPen(WELL_FAINT)
            painter.setFont(font(12))
            words = "The film will lie here, its shots on roll A and roll B"
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        self._paint_stretch(painter, source.media.frames)
        x = SIDE + self._s.playhead / max(1, source.media.frames) * self._room()
        painter.setPen(QPen(QColor("#FFFFFF"), 1.6))
        painter.drawLine(QPointF(x, 2), QPointF(x, HIGH - 3))

    def _paint_stretch(self, painter: QPainter, whole: int) -> None:
        """Draw a frame around what is shown of the film, where that is not all of it."""
        left, right = self._s.bench.stretch or (0, whole)
        if right - left >= whole:
            return
        scale = self._room() / max(1, whole)
        painter.setPen(QPen(WELL_TEXT, 1))
        painter.setBrush(QColor(255, 255, 255, 22))
        wide = max(3.0, (right - left) * scale)
        painter.drawRect(QRectF(SIDE + left * scale, 2.5, wide, HIGH - 6))

    def _go(self, event: QMouseEvent) -> None:
        source = self._s.source
        if source is not None and event.buttons() & Qt.MouseButton.LeftButton:
            share = (event.position().x() - SIDE) / self._room()
            self._s.go_to(int(share * source.media.frames))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._go(event)
