"""Bands: what became of each shot, drawn from one roll to the other, and pointed at."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QHelpEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QToolTip, QWidget

from offcut.app.theme import WAX, WELL
from offcut.app.views.tally.paired import Paired
from offcut.core.tally.versions.changes import Change, Span, What

HIGH = 196
SIDE = 16
HEAD, ROLL = 20, 44
UPPER = HEAD + 2
LOWER = HIGH - HEAD - ROLL - 2
BAND = QColor("#5C5C5C")
QUIET = QColor("#474747")


class BandRolls(QWidget):
    """Two rolls with a band for every pair; a click looks at one.

    ``menu_asked`` tells where on the screen a menu is asked for.
    """

    menu_asked = Signal(object)

    def __init__(self, tally: Paired, name: str) -> None:
        super().__init__()
        self._tally = tally
        self.setFixedHeight(HIGH)
        self.setAccessibleName(name)
        tally.changed.connect(self.update)
        tally.chosen_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(900, HIGH)

    def edges(self, side: int, span: Span) -> tuple[float, float]:
        """Return the left and right edge of frames of a side, 0 or 1."""
        return 0.0, 0.0

    def pairs(self) -> Sequence[Change]:
        """Return what became of each shot."""
        return ()

    def paint_bands(self, painter: QPainter, changes: Sequence[Change]) -> None:
        """Draw a band for every pair, the one that is looked at last."""
        for change in changes:
            self._paint_band(painter, change)
        here = self._tally.change
        if here is not None:
            self._paint_band(painter, here, chosen=True)

    def _paint_band(self, painter: QPainter, change: Change, chosen: bool = False) -> None:
        above = self.edges(0, change.old) if change.old is not None else None
        below = self.edges(1, change.new) if change.new is not None else None
        top, foot = UPPER + ROLL + 2.0, LOWER - 2.0
        if above is not None and below is not None:
            told = not change.alike
            colour = WAX if told and change.what is not What.SAME else BAND if told else QUIET
            band = QPolygonF(
                [
                    QPointF(above[0] + 1, top), QPointF(above[1] - 1, top),
                    QPointF(below[1] - 1, foot), QPointF(below[0] + 1, foot),
                ]
            )  # fmt: skip
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawPolygon(band)
            if change.what is What.OTHER:
                self._hatch(painter, band)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if change.what is What.GONE and above is not None:
            box = QRectF(above[0], UPPER, above[1] - above[0], ROLL)
            painter.setPen(QPen(QColor("#E0604C"), 2))
            painter.drawRect(box)
            painter.drawLine(box.bottomLeft(), box.topRight())
        elif change.what is What.NEW and below is not None:
            painter.setPen(QPen(WAX, 2))
            painter.drawRect(QRectF(below[0], LOWER, below[1] - below[0], ROLL))
            x, y = (below[0] + below[1]) / 2, LOWER - 12.0
            painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
            painter.drawLine(QPointF(x, y - 6), QPointF(x, y + 6))
        elif not change.alike and below is not None and change.what is not What.SAME:
            painter.setPen(QPen(WAX, 2))
            painter.drawRect(QRectF(below[0], LOWER, below[1] - below[0], ROLL))
        if chosen:
            painter.setPen(QPen(QColor("#FFFFFF"), 2))
            for edges, at in ((above, UPPER), (below, LOWER)):
                if edges is not None:
                    painter.drawRect(QRectF(edges[0], at, edges[1] - edges[0], ROLL))

    def _hatch(self, painter: QPainter, band: QPolygonF) -> None:
        """Strike a band across, so that another picture is told without its colour."""
        painter.save()
        painter.setPen(QPen(WELL, 1.5))
        box = band.boundingRect()
        painter.setClipRect(box)
        painter.drawLine(band.at(0), band.at(2))
        painter.drawLine(band.at(1), band.at(3))
        painter.restore()

    # pointing

    def change_at(self, place: QPointF) -> Change | None:
        """Return what became of the shot at a place, None where there is none."""
        side = 0 if place.y() < (UPPER + ROLL + LOWER) / 2 else 1
        for change in self.pairs():
            span = change.new if side else change.old
            if span is not None:
                left, right = self.edges(side, span)
                if left <= place.x() < right:
                    return change
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        change = self.change_at(event.position())
        if change is not None:
            self._tally.look_at(change)
        if event.button() is Qt.MouseButton.RightButton:
            self.menu_asked.emit(event.globalPosition().toPoint())

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            change = self.change_at(QPointF(event.pos()))
            if change is not None:
                QToolTip.showText(event.globalPos(), change.words, self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)
