"""What plays stretches back to back: over the middle of a view, until it ends."""

from __future__ import annotations

from bisect import bisect_right
from fractions import Fraction
from itertools import accumulate

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from offcut.app.session.session import Session
from offcut.app.shared.back_to_back import BackToBack, PlayedStretch
from offcut.app.theme import BODY, HEAD, SMALL, WAX, WELL_FAINT, WELL_TEXT, font
from offcut.core.timecode import timecode_from_frame

FOOT = 56


class PlayingPane(QWidget):
    """Shows pictures as they come, and where it stands. ``over`` tells the end.

    Attributes: ``player`` what plays; ``frame`` and ``stretch`` what is shown.
    """

    over = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._s = session
        self.player = BackToBack(self)
        self.player.shown.connect(self._show)
        self.player.ended.connect(self.over)
        self.player.said.connect(session.said)
        self._image = QImage()
        self.stretch = self.frame = 0
        self._told_silent = False
        self.setAccessibleName("What plays")

    def play(self, stretches: list[PlayedStretch]) -> None:
        """Play stretches one after another."""
        self._image = QImage()
        self.stretch = self.frame = 0
        scale = self.devicePixelRatioF()
        wide, high = max(320, self.width() - 32), max(180, self.height() - FOOT - 24)
        self.player.play(stretches, (round(wide * scale), round(high * scale)))
        self.update()

    def _show(self, image: QImage, stretch: int, frame: int) -> None:
        self._image, self.stretch, self.frame = image, stretch, frame
        if self.player.sound.missing and not self._told_silent:
            self._told_silent = True
            self._s.said.emit("There is no sound device: playing without sound")
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go on from the stretch that is clicked on in the bar."""
        player = self.player
        bar = self._bar()
        if event.position().y() < bar.top() - 8 or not player.stretches:
            self.player.stop()
            return
        share = max(0.0, min(1.0, (event.position().x() - bar.left()) / bar.width()))
        ends = list(accumulate(s.seconds for s in player.stretches))
        at = bisect_right(ends, Fraction(share) * player.whole)
        rest = player.stretches[min(at, len(ends) - 1) :]
        self.player.blockSignals(True)
        self.player.stop()
        self.player.blockSignals(False)
        self.play(list(rest))

    def _bar(self) -> QRectF:
        return QRectF(16, self.height() - 18, self.width() - 32, 5)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor("#1C1C1C"))
        room = QRectF(16, 12, self.width() - 32, self.height() - FOOT - 24)
        if not self._image.isNull():
            shape = self._image.width() / self._image.height()
            wide = min(room.width(), room.height() * shape)
            place = QRectF(0, 0, wide, wide / shape)
            place.moveCenter(room.center())
            painter.drawImage(place, self._image)
        player = self.player
        if not player.stretches:
            return
        stretch = player.stretches[min(self.stretch, len(player.stretches) - 1)]
        media = stretch.source.media
        y = self.height() - 34
        painter.setFont(font(HEAD, strong=True))
        painter.setPen(WELL_TEXT)
        line = QRectF(16, y - 14, self.width() - 32, 18)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, stretch.title)
        painter.setFont(font(BODY, mono=True))
        frame = max(self.frame, stretch.start)
        words = timecode_from_frame(media.start + frame, media.rate, media.drop)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(line, middle | Qt.AlignmentFlag.AlignHCenter, words)
        painter.setFont(font(SMALL))
        painter.setPen(WELL_FAINT)
        count = f"{self.stretch + 1} of {len(player.stretches)}   Space stops"
        painter.drawText(line, middle | Qt.AlignmentFlag.AlignRight, count)
        self._paint_bar(painter)

    def _paint_bar(self, painter: QPainter) -> None:
        player, bar = self.player, self._bar()
        whole = float(player.whole) or 1.0
        x = bar.left()
        painter.setPen(Qt.PenStyle.NoPen)
        for n, stretch in enumerate(player.stretches):
            wide = bar.width() * float(stretch.seconds) / whole
            painter.setBrush(QColor("#6A6A6A" if n % 2 else "#4E4E4E"))
            painter.drawRect(QRectF(x, bar.top(), max(0.8, wide - 0.6), bar.height()))
            x += wide
        at = bar.left() + bar.width() * min(1.0, float(player.moment) / whole)
        painter.setBrush(WAX)
        painter.drawRoundedRect(QRectF(at - 1.5, bar.top() - 4, 3, bar.height() + 8), 1.5, 1.5)
