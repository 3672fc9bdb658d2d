"""Two lists as rolls: the old one's events above, the new one's below, a band for each."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent

from offcut.app.theme import SMALL, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.app.views.tally.band_rolls import HEAD, HIGH, LOWER, ROLL, SIDE, UPPER, BandRolls
from offcut.app.views.tally.two_lists import TwoLists
from offcut.core.tally.versions.changes import Change, Span

_NAMED = 46


class TwoListsRolls(BandRolls):
    """Draws both lists and the bands between them; a click looks at an event."""

    _tally: TwoLists

    def __init__(self, tally: TwoLists) -> None:
        super().__init__(tally, "Both lists, and what became of each event")

    def pairs(self) -> Sequence[Change]:
        """Return what became of each event."""
        return self._tally.comparison.changes

    def _seconds(self, side: int) -> float:
        one = self._tally.sides[side]
        return self._tally.length(side) / float(one.rate) if one is not None else 0.0

    def edges(self, side: int, span: Span) -> tuple[float, float]:
        """Return the left and right edge of frames of the old list, or of the new one."""
        one = self._tally.sides[side]
        if one is None:
            return 0.0, 0.0
        long = max(0.001, self._seconds(0), self._seconds(1))
        each = (self.width() - 2 * SIDE) / long / float(one.rate)
        return SIDE + span[0] * each, SIDE + span[1] * each

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), WELL)
        for side, (top, words_at) in enumerate(((UPPER, 0), (LOWER, HIGH - HEAD))):
            self._paint_list(painter, side, top, words_at)
        self.paint_bands(painter, self.pairs())

    def _paint_list(self, painter: QPainter, side: int, top: int, words_at: int) -> None:
        one, tally = self._tally.sides[side], self._tally
        if one is None:
            return
        line = QRectF(SIDE, words_at, self.width() - 2 * SIDE, HEAD)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(SMALL))
        painter.setPen(WELL_TEXT)
        painter.drawText(line, middle, f"{tally.names[side]}   {one.path.name}")
        painter.setPen(WELL_FAINT)
        painter.drawText(line, middle | Qt.AlignmentFlag.AlignRight, tally.words_of(side))
        for change in self.pairs():
            span = change.new if side else change.old
            if span is None:
                continue
            left, right = self.edges(side, span)
            room = QRectF(left, top, max(1.0, right - left - 1), ROLL)
            painter.fillRect(room, WELL_LINE)
            event = tally.event_of(change, side)
            if event is not None and right - left > _NAMED:
                painter.setPen(WELL_TEXT)
                inside = room.adjusted(5, 3, -3, -3)
                name = event.clip or event.reel
                elide = Qt.TextElideMode.ElideRight
                words = painter.fontMetrics().elidedText(name, elide, int(inside.width()))
                painter.drawText(inside, Qt.AlignmentFlag.AlignTop, words)
                painter.setPen(WELL_FAINT)
                words = painter.fontMetrics().elidedText(event.number, elide, int(inside.width()))
                painter.drawText(inside, Qt.AlignmentFlag.AlignBottom, words)
