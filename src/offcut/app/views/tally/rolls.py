"""Two rolls tied together: the old version above, the new one below, a band for every shot."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import SMALL, WAX, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font, theme
from offcut.app.views.tally.version_tally import VersionTally
from offcut.core.media.probe import shown_size
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source
from offcut.core.tally.versions.changes import Change, What
from offcut.core.timecode import length_words

HIGH = 196
SIDE = 16
HEAD, ROLL = 20, 44
UPPER = HEAD + 2
LOWER = HIGH - HEAD - ROLL - 2
BAND = QColor("#5C5C5C")
QUIET = QColor("#474747")
_MOST_PICTURES = 160


class Rolls(QWidget):
    """Draws both versions and the bands between them; a click looks at a shot.

    ``menu_asked`` tells where on the screen a menu is asked for.
    """

    menu_asked = Signal(object)

    def __init__(self, tally: VersionTally, pictures: ShotPictures) -> None:
        super().__init__()
        self._tally = tally
        self._pictures = pictures
        self.setFixedHeight(HIGH)
        self.setAccessibleName("Both versions, and what became of each shot")
        tally.changed.connect(self.refresh)
        tally.chosen_changed.connect(self.update)
        pictures.arrived.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(900, HIGH)

    # where things lie

    @property
    def _scale(self) -> float:
        """Pixels a second: the longer version fills the width."""
        seconds = [
            float((s.end - s.start) / s.media.rate)
            for s in (self._tally.old, self._tally.new)
            if s is not None
        ]
        return (self.width() - 2 * SIDE) / max(0.001, *seconds, 0.001)

    def _across(self, source: Source, start: int, end: int) -> tuple[float, float]:
        """Return the left and right edge of frames of a version."""
        each = self._scale / float(source.media.rate)
        return SIDE + (start - source.start) * each, SIDE + (end - source.start) * each

    def refresh(self) -> None:
        """Ask for the pictures that are shown."""
        self._pictures.want("tally-rolls", [w for _, w, _ in self._shown_pictures()])
        self.update()

    def _shown_pictures(self) -> Iterator[tuple[QRectF, Wanted, QRectF]]:
        """Yield where pictures lie, which they are, and the room of the shot each is cut off at."""
        for source, top in ((self._tally.old, UPPER), (self._tally.new, LOWER)):
            if source is None:
                continue
            wide, high = shown_size(source.media)
            each = ROLL * wide / high
            drawn = 0
            for shot in shots_of(source):
                left, right = self._across(source, shot.start, shot.end)
                if right - left < 6 or drawn > _MOST_PICTURES:
                    continue
                x = left
                while x < right - 2 and drawn <= _MOST_PICTURES:
                    frame = shot.start + int((x + min(each, right - x) / 2 - left) / (right - left)
                                             * shot.length)  # fmt: skip
                    place = QRectF(x, top, each, ROLL)
                    room = QRectF(left, top, right - left, ROLL)
                    yield place, Wanted(source, _rounded(frame, shot.start, shot.end)), room
                    x += each
                    drawn += 1

    # drawing

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), WELL)
        for source, top, words_at in (
            (self._tally.old, UPPER, 0),
            (self._tally.new, LOWER, HIGH - HEAD),
        ):
            if source is not None:
                self._paint_roll(painter, source, top, words_at)
        old, new = self._tally.old, self._tally.new
        if old is not None and new is not None:
            for change in self._tally.comparison.changes:
                self._paint_band(painter, change, old, new)
            here = self._tally.change
            if here is not None:
                self._paint_band(painter, here, old, new, chosen=True)

    def _paint_roll(self, painter: QPainter, source: Source, top: int, words_at: int) -> None:
        shots = shots_of(source)
        name = source.media.path.rsplit("/", 1)[-1]
        which = "old" if source is self._tally.old else "new"
        line = QRectF(SIDE, words_at, self.width() - 2 * SIDE, HEAD)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(SMALL))
        painter.setPen(WELL_TEXT)
        painter.drawText(line, middle, f"{which}   {name}")
        painter.setFont(font(SMALL, mono=True))
        painter.setPen(WELL_FAINT)
        length = length_words(source.end - source.start, source.media.rate)
        right = middle | Qt.AlignmentFlag.AlignRight
        painter.drawText(line, right, f"{len(shots)} shots  {length}")
        left, last = self._across(source, source.start, source.end)
        painter.fillRect(QRectF(left, top, last - left, ROLL), WELL_LINE)
        for place, wanted, room in self._shown_pictures():
            if room.top() == top:
                painter.save()
                painter.setClipRect(room)
                self._pictures.draw(painter, place, wanted)
                painter.restore()
        pen = QPen(WELL, 1.0)
        painter.setPen(pen)
        for shot in shots[1:]:
            x, _ = self._across(source, shot.start, shot.end)
            painter.drawLine(QPointF(x, top), QPointF(x, top + ROLL))

    def _paint_band(
        self, painter: QPainter, change: Change, old: Source, new: Source, chosen: bool = False
    ) -> None:
        above = self._across(old, *change.old) if change.old is not None else None
        below = self._across(new, *change.new) if change.new is not None else None
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
        old, new = self._tally.old, self._tally.new
        if old is None or new is None:
            return None
        above = place.y() < (UPPER + ROLL + LOWER) / 2
        for change in self._tally.comparison.changes:
            source, span = (old, change.old) if above else (new, change.new)
            if span is not None:
                left, right = self._across(source, *span)
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

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def restyle(self) -> None:
        """Take the theme in force; the well is the same in both."""
        theme()
        self.update()


def _rounded(frame: int, start: int, end: int) -> int:
    """Return a frame near another that is asked for again and again: every twelfth."""
    near = round(frame / 12) * 12
    return near if start <= near < end else max(start, min(end - 1, frame))
