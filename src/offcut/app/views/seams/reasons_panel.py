"""What speaks for and against the seam the playhead is parked on, as bars with words."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from offcut.app.session.session import Session
from offcut.app.theme import BODY, font, theme
from offcut.core.model.seam import Reason

ROW = 23


class Reasons(QWidget):
    """Two columns: for on the left, against on the right."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setMinimumHeight(ROW * 4 + 4)
        self.setMaximumHeight(ROW * 5 + 4)
        session.changed.connect(self.update)
        session.moved.connect(self.update)
        session.selection_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(700, ROW * 4 + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        seam = self._session.seam_here()
        painter = QPainter(self)
        look = theme()
        painter.setFont(font(BODY))
        if seam is None:
            painter.setPen(look.colour("faint"))
            words = (
                "Up and down go from seam to seam, D to the next doubtful one, + places a cut here"
                if self._session.source is not None
                else ""
            )
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        half = self.width() / 2 - 14
        kind = seam.kind.value
        sides = (
            (f"What speaks for a {kind}", [r for r in seam.reasons if not r.against], 0.0),
            ("What speaks against", [r for r in seam.reasons if r.against], half + 28),
        )
        for head, reasons, left in sides:
            painter.setFont(font(BODY, strong=True))
            painter.setPen(look.colour("text"))
            painter.drawText(QRectF(left + 4, 0, half, ROW), Qt.AlignmentFlag.AlignVCenter, head)
            painter.setFont(font(BODY))
            if not reasons:
                painter.setPen(look.colour("faint"))
                painter.drawText(
                    QRectF(left + 4, ROW, half, ROW), Qt.AlignmentFlag.AlignVCenter, "nothing"
                )
            for i, reason in enumerate(reasons[:3]):
                self._draw(painter, reason, left, ROW * (i + 1), half)

    def _draw(
        self, painter: QPainter, reason: Reason, left: float, top: float, wide: float
    ) -> None:
        look = theme()
        painter.setPen(look.colour("text"))
        bar = min(130.0, wide * 0.34)
        metrics = painter.fontMetrics()
        words = reason.text[:1].upper() + reason.text[1:]
        room, slot = wide - bar - 10, QRectF(left + wide - bar, top + 7, bar, 9)
        if metrics.horizontalAdvance(words) > room - 4:  # the words want the row, the bar its foot
            room, slot = wide - 4, QRectF(left + 4, top + ROW - 4, wide - 8, 3)
        words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(room - 4))
        painter.drawText(QRectF(left + 4, top, room, ROW), Qt.AlignmentFlag.AlignVCenter, words)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("bar"))
        painter.drawRoundedRect(slot, 2, 2)
        painter.setBrush(look.colour("warn" if reason.against else "ink"))
        slot.setWidth(max(3.0, slot.width() * reason.weight))
        painter.drawRoundedRect(slot, 2, 2)
