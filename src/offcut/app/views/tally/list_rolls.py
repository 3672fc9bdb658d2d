"""The list above and the film below, a line from each join of the one to that of the other."""

from __future__ import annotations

from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from offcut.app.theme import SMALL, WAX, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.app.views.tally.band_rolls import HEAD, HIGH, LOWER, ROLL, SIDE, UPPER
from offcut.app.views.tally.list_tally import ListTally
from offcut.core.model.source import Source
from offcut.core.tally.against_list import Said

_GREYS = (QColor("#6A6A6A"), QColor("#585858"))


class ListRolls(QWidget):
    """Draws the shots of both and the joins between them; a click looks at a join."""

    def __init__(self, tally: ListTally) -> None:
        super().__init__()
        self._tally = tally
        self.setFixedHeight(HIGH)
        self.setAccessibleName("The list and the film, join by join")
        tally.changed.connect(self.update)
        tally.chosen_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(900, HIGH)

    def _x(self, source: Source, frame: int) -> float:
        each = (self.width() - 2 * SIDE) / max(1, source.end - source.start)
        return SIDE + (min(max(frame, source.start), source.end) - source.start) * each

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), WELL)
        source, tally = self._tally.new, self._tally
        if source is None or tally.listed is None:
            return
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(SMALL))
        painter.setPen(WELL_TEXT)
        for y, words in (
            (0, f"list   {tally.listed.name}"),
            (HIGH - HEAD, f"film   {source.media.path.rsplit('/', 1)[-1]}"),
        ):
            painter.drawText(QRectF(SIDE, y, self.width() - 2 * SIDE, HEAD), middle, words)
        joins = tally.joins_shown
        listed = sorted(r.frame for r in joins if r.frame is not None)
        seen = sorted(r.seam.frame for r in joins if r.seam is not None)
        for frames, top in ((listed, UPPER), (seen, LOWER)):
            edges = [source.start, *frames, source.end]
            for n, (a, b) in enumerate(pairwise(edges)):
                left, right = self._x(source, a), self._x(source, b)
                row = top + (n % 2) * ROLL / 2
                painter.fillRect(QRectF(left, row, right - left, ROLL / 2 - 1), _GREYS[n % 2])
        here = tally.join
        for row_shown in joins:
            above = self._x(source, row_shown.frame) if row_shown.frame is not None else None
            below = self._x(source, row_shown.seam.frame) if row_shown.seam is not None else None
            agrees = row_shown.said is Said.AGREES
            colour = QColor("#FFFFFF") if row_shown is here else WELL_LINE if agrees else WAX
            painter.setPen(QPen(colour, 2.5 if row_shown is here else 1.6))
            head, foot = UPPER + ROLL + 1.0, LOWER - 1.0
            if above is not None and below is not None:
                painter.drawLine(QPointF(above, head), QPointF(below, foot))
            elif above is not None:
                painter.drawLine(QPointF(above, head), QPointF(above, head + 18))
                self._cross(painter, QPointF(above, head + 24))
            elif below is not None:
                painter.drawLine(QPointF(below, foot - 18), QPointF(below, foot))
                painter.drawEllipse(QPointF(below, foot - 22), 4, 4)
        painter.setPen(WELL_FAINT)

    def _cross(self, painter: QPainter, at: QPointF) -> None:
        painter.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4))
        painter.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        source = self._tally.new
        if source is None or not self._tally.rows:
            return
        x = event.position().x()
        joins = self._tally.joins_shown
        near = min(range(len(joins)), key=lambda n: abs(self._x(source, joins[n].at) - x))
        self._tally.choose(near)
