"""The name of one part of a side; the open one is underlined."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolButton

from offcut.app.theme import BODY, WAX, font, theme


class DrawerTab(QToolButton):
    """A name that opens its part; ``kind`` is what kind of part that is."""

    def __init__(self, words: str, kind: str = "Drawer") -> None:
        super().__init__()
        self.setText(words)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setAccessibleName(f"{kind}: {words}")
        self.setFixedHeight(30)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        painter.setFont(font(BODY, strong=self.isChecked()))
        painter.setPen(look.colour("text" if self.isChecked() or self.underMouse() else "faint"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text())
        if self.isChecked() or self.hasFocus():
            painter.setPen(QPen(WAX, 2.4 if self.isChecked() else 1.2))
            painter.drawLine(8, self.height() - 3, self.width() - 8, self.height() - 4)
