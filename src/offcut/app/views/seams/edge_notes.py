"""Edge notes: what was found in the film, in lanes under the rolls, from frame to frame.

Each stands in a sign drawn from the thing itself; what is not sure is dotted.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.session import Session
from offcut.app.shared.ribbon.painting import SIDE
from offcut.app.shared.ribbon.stretch import Stretch
from offcut.app.theme import SMALL, WAX, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.app.views.seams.note_signs import draw_sign
from offcut.core.facts.fact import Fact, Sort
from offcut.core.facts.fact_words import fact_words

LANE, TOP = 23, 3
LANES: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("camera", (Sort.CAMERA, Sort.STEADINESS)),
    ("light", (Sort.LIGHT,)),
    ("faces", (Sort.FACES,)),
    ("sound", (Sort.SOUND,)),
)
_LEAST = 5.0
"""Pixels that a sign takes at least, however short the stretch."""
_SILENT = {
    (Sort.CAMERA, "still"),
    (Sort.STEADINESS, "steady"),
    (Sort.STEADINESS, "slight"),
    (Sort.FACES, 0),
}


class _Laid(NamedTuple):
    room: QRectF
    fact: Fact


class EdgeNotes(QWidget):
    """A click goes to where a note begins, a double click marks its range."""

    def __init__(self, session: Session, facts: FactsInHand) -> None:
        super().__init__()
        self._s = session
        self._facts = facts
        self._laid: list[_Laid] = []
        self.setFixedHeight(2 * TOP + LANE * len(LANES))
        self.setMouseTracking(True)
        self.setAccessibleName("Edge notes: what is in the film")
        self._drawn = QPixmap()
        self._stale = True
        for told in (
            facts.came, session.film_changed, session.project_changed, session.stretch_changed,
        ):  # fmt: skip
            told.connect(self._forget)
        for told in (session.moved, session.marked_changed):
            told.connect(self.update)

        session.changed.connect(self._changed)

    def _changed(self) -> None:
        """Say anew why there is nothing, while there is nothing."""
        if not self._facts.facts:
            self._forget()

    def _forget(self) -> None:
        self._stale = True
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._stale = True
        super().resizeEvent(event)

    def _stretch(self) -> Stretch:
        whole = self._s.source.media.frames if self._s.source is not None else 1
        left, right = self._s.bench.stretch or (0, whole)
        return Stretch(left, right, whole, max(1, self.width() - 2 * SIDE))

    def _lay(self, sorts: Iterable[str], top: float, stretch: Stretch) -> None:
        for fact in self._facts.facts:
            if fact.sort not in sorts or (fact.sort, fact.value) in _SILENT:
                continue
            if fact.end <= stretch.left or fact.start >= stretch.right:
                continue
            x, end = SIDE + stretch.x_of(fact.start), SIDE + stretch.x_of(fact.end)
            self._laid.append(_Laid(QRectF(x, top, max(_LEAST, end - x), LANE), fact))

    def _draw(self, stretch: Stretch) -> None:
        """Draw the notes once: while the film plays only the playhead moves over them."""
        scale = self.devicePixelRatioF()
        self._drawn = QPixmap(self.size() * scale)
        self._drawn.setDevicePixelRatio(scale)
        self._drawn.fill(WELL)
        self._stale = False
        self._laid.clear()
        painter = QPainter(self._drawn)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(SMALL))
        for place, (_, sorts) in enumerate(LANES):
            top = TOP + place * LANE
            painter.fillRect(QRectF(SIDE, top + LANE - 1, stretch.width, 1), WELL_LINE)
            self._lay(sorts, top, stretch)
        painter.setClipRect(QRectF(SIDE, 0, stretch.width, self.height()))
        for room, fact in self._laid:
            draw_sign(painter, fact, room)
        painter.setClipping(False)
        self._paint_words(painter)
        painter.end()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._s.source is None:
            painter.fillRect(self.rect(), WELL)
            return
        stretch = self._stretch()
        if self._stale or self._drawn.width() != int(self.width() * self.devicePixelRatioF()):
            self._draw(stretch)
        painter.drawPixmap(0, 0, self._drawn)
        painter.setClipRect(QRectF(SIDE, 0, stretch.width, self.height()))
        self._paint_marked(painter)
        x = SIDE + stretch.x_of(self._s.playhead)
        painter.setPen(QPen(QColor("#FFFFFF"), 1.6))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    def _paint_marked(self, painter: QPainter) -> None:
        """Frame the note whose range is marked."""
        for room, fact in self._laid:
            if self._s.marked == (fact.start, fact.end):
                painter.setPen(QPen(WAX, 1.6))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(room.adjusted(0, 2, 0, -3), 3, 3)

    def _paint_words(self, painter: QPainter) -> None:
        """Name the lanes, over what stands there; and say why there is nothing."""
        for place, (name, _) in enumerate(LANES):
            wide = painter.fontMetrics().horizontalAdvance(name) + 8
            room = QRectF(0, TOP + place * LANE + 3, wide + 8, LANE - 7)
            painter.fillRect(room, WELL)
            painter.setPen(WELL_FAINT)
            painter.drawText(room.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
        if not self._facts.facts:
            painter.setPen(WELL_TEXT)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._why_not())

    def _why_not(self) -> str:
        source = self._s.source
        if source is None or not source.searched:
            return "What is in the film is looked for once its seams are found"
        return "Looking what is in the film; this takes about as long as finding its seams"

    def note_at(self, place: QPointF) -> Fact | None:
        """Return the note under a place, None where there is none."""
        for room, fact in reversed(self._laid):
            if room.contains(place):
                return fact
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        fact = self.note_at(event.position())
        if event.button() == Qt.MouseButton.LeftButton and self._s.source is not None:
            at = self._stretch().frame_of(event.position().x() - SIDE)
            self._s.go_to(fact.start if fact is not None else at)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        fact = self.note_at(event.position())
        if fact is not None:
            self._s.mark(fact.start, fact.end)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            fact = self.note_at(QPointF(event.pos()))
            words = fact_words(fact) if fact is not None else ""
            QToolTip.showText(event.globalPos(), words[:1].upper() + words[1:], self)
            return True
        return super().event(event)
