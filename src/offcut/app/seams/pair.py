"""The large picture: the pair when parked on a seam, one picture anywhere else."""

from __future__ import annotations

from itertools import pairwise

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from offcut.app.marks import draw_mark
from offcut.app.player.pictures import Pictures
from offcut.app.player.playing import Playing
from offcut.app.seams.seam_list import pair_frames
from offcut.app.session import Session
from offcut.app.theme import SMALL, WELL, WELL_DEEP, WELL_FAINT, WELL_TEXT, font
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.project import Seam
from offcut.core.model.shots import Shot, is_counted

MARGIN, HEAD = 10, 24


class PairView(QWidget):
    """Draws the last frame before and the first after a seam side by side, its mark between."""

    def __init__(self, session: Session, pictures: Pictures, playing: Playing) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures
        self._playing = playing
        self._last: QImage | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Picture")
        session.moved.connect(self._want)
        session.changed.connect(self._want)
        session.selection_changed.connect(self._want)
        session.film_changed.connect(self._forget)
        playing.changed.connect(self._want)
        pictures.arrived.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(700, 300)

    def minimumSizeHint(self) -> QSize:
        return QSize(360, 170)

    def _forget(self) -> None:
        self._last = None

    def seam_shown(self) -> Seam | None:
        """Return the seam whose pair is shown, None when one picture is."""
        return None if self._playing.speed else self._session.seam_here()

    def _cells(self) -> list[QRectF]:
        room = QRectF(self.rect()).adjusted(MARGIN, HEAD, -MARGIN, -MARGIN)
        if self.seam_shown() is None:
            return [room]
        half = (room.width() - 12) / 2
        return [
            QRectF(room.x(), room.y(), half, room.height()),
            QRectF(room.right() - half, room.y(), half, room.height()),
        ]

    def _frames(self) -> list[int]:
        source = self._session.source
        seam = self.seam_shown()
        if source is None:
            return []
        if seam is None:
            return [self._session.playhead]
        return list(pair_frames(seam, source.media.frames))

    def _size(self, cell: QRectF) -> tuple[int, int]:
        source = self._session.source
        assert source is not None
        scale = self.devicePixelRatioF()
        wide, high = fit(
            *shown_size(source.media), int(cell.width() * scale), int(cell.height() * scale)
        )
        return wide // 2 * 2, high // 2 * 2

    def _want(self) -> None:
        if self._session.source is not None and self.width() > 60:
            self._pictures.want("large", self._frames(), *self._size(self._cells()[0]))
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._want()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(WELL)
        painter.drawRoundedRect(self.rect(), 6, 6)
        source = self._session.source
        if source is None:
            painter.setPen(WELL_TEXT)
            painter.setFont(font(13))
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "Open a film with Ctrl+O, or drop one here",
            )
            return
        seam = self.seam_shown()
        cells = self._cells()
        for cell, frame in zip(cells, self._frames(), strict=True):
            self._draw_picture(painter, cell, frame, moving=seam is None)
        self._draw_heads(painter, seam)
        if seam is not None:
            x = self.width() / 2
            span = min(40.0, float(seam.end - seam.start)) / 2
            draw_mark(
                painter,
                seam,
                is_counted(seam, source),
                x,
                x - 4 - span / 3,
                x + 4 + span / 3,
                HEAD + 2,
                self.height() - MARGIN - 2,
                scale=1.25,
            )

    def _draw_picture(self, painter: QPainter, cell: QRectF, frame: int, *, moving: bool) -> None:
        size = self._size(cell)
        image = self._pictures.picture(frame, *size)
        if image is not None and moving:
            self._last = image
        shown = image or (self._last if moving else None)
        scale = self.devicePixelRatioF()
        wide, high = size[0] / scale, size[1] / scale
        place = QRectF(
            cell.x() + (cell.width() - wide) / 2, cell.y() + (cell.height() - high) / 2, wide, high
        )
        if shown is None:
            painter.fillRect(place, WELL_DEEP)
        else:
            painter.drawImage(place, shown)

    def _draw_heads(self, painter: QPainter, seam: Seam | None) -> None:
        painter.setFont(font(SMALL))
        painter.setPen(WELL_FAINT)
        top = QRectF(MARGIN + 2, 2, self.width() - 2 * MARGIN - 4, HEAD - 3)
        here = self._session.shot_here()
        if seam is None:
            words = here.title if here else "Outside the range"
            painter.drawText(top, Qt.AlignmentFlag.AlignVCenter, words)
            return
        before, after = "Before the seam", "After the seam"
        shots = self._session.shots
        for earlier, later in pairwise(shots):
            if later.opened_by is not None and later.opened_by.id == seam.id:
                before, after = f"Last of {_said(earlier)}", f"First of {_said(later)}"
        painter.drawText(top, Qt.AlignmentFlag.AlignVCenter, before)
        painter.drawText(top, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, after)


def _said(shot: Shot) -> str:
    return shot.words.name or f"shot {shot.number}"
