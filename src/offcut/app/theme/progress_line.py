"""A thin line that says how far work is, painted along with what else changed.

Qt's own progress bar paints itself and everything under it at once, at every word: while films are
searched that takes as long as all else the window does.
"""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from offcut.app.theme import WAX, theme

HIGH = 4


class ProgressLine(QWidget):
    """How far work is, 0 to 1; nothing filled where that is not known."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._share = 0.0
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HIGH)

    @property
    def share(self) -> float:
        """How far the work is."""
        return self._share

    def set_share(self, share: float) -> None:
        """Show how far it is; painted only where that can be seen."""
        share = max(0.0, min(1.0, share))
        moved = round(share * self.width()) != round(self._share * self.width())
        self._share = share
        if moved:
            self.setAccessibleDescription(f"{share:.0%}")
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(90, HIGH)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        painter.setPen(look.colour("bar"))
        painter.setBrush(look.colour("bar"))
        line = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.drawRoundedRect(line, 1.5, 1.5)
        if self._share > 0:
            line.setWidth(max(float(HIGH), line.width() * self._share))
            painter.setPen(WAX)
            painter.setBrush(WAX)
            painter.drawRoundedRect(line, 1.5, 1.5)
