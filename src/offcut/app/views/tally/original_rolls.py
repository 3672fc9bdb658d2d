"""The film above, and below each shot the original it was made from."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import SMALL, WAX, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.app.views.tally.band_rolls import HEAD, HIGH, LOWER, ROLL, SIDE, UPPER
from offcut.app.views.tally.original_tally import OriginalTally
from offcut.core.media.probe import shown_size
from offcut.core.model.seam import Certainty
from offcut.core.model.source import Source
from offcut.core.tally.versions.changes import Change
from offcut.core.words import many

_LEAST = 5.0


class OriginalRolls(QWidget):
    """Draws shots and their originals; a click looks at a shot.

    The line between them is solid where it is sure, thinner where it is likely, dashed where it
    is in doubt; a cross stands where there is none, a dot where it is on the shot's card.
    """

    menu_asked = Signal(object)

    def __init__(self, tally: OriginalTally, pictures: ShotPictures) -> None:
        super().__init__()
        self._tally = tally
        self._pictures = pictures
        self.setFixedHeight(HIGH)
        self.setAccessibleName("The film, and the original of each shot")
        tally.changed.connect(self.refresh)
        tally.chosen_changed.connect(self.update)
        pictures.arrived.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(900, HIGH)

    def _across(self, source: Source, start: int, end: int) -> tuple[float, float]:
        each = (self.width() - 2 * SIDE) / max(1, source.end - source.start)
        return SIDE + (start - source.start) * each, SIDE + (end - source.start) * each

    def _original_of(self, change: Change) -> Wanted | None:
        """Return the picture of a shot's original, from the middle of what is used of it."""
        clip = self._tally.clip_of(change)
        if clip is None or change.old is None:
            return None
        source = Source(0, clip, 0, clip.frames)
        return Wanted(source, min(clip.frames - 1, max(0, sum(change.old) // 2)))

    def refresh(self) -> None:
        """Ask for the pictures that are shown."""
        source = self._tally.new
        wanted = []
        for change in self._tally.rows if source is not None else ():
            assert change.new is not None
            assert source is not None
            left, right = self._across(source, *change.new)
            if right - left < _LEAST:
                continue
            wanted.append(Wanted(source, sum(change.new) // 2))
            original = self._original_of(change)
            if original is not None:
                wanted.append(original)
        self._pictures.want("original-rolls", wanted)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), WELL)
        source = self._tally.new
        if source is None:
            return
        self._paint_words(painter, source)
        for change in self._tally.rows:
            assert change.new is not None
            left, right = self._across(source, *change.new)
            inside = max(1.0, right - left - 1)
            above, below = QRectF(left, UPPER, inside, ROLL), QRectF(left, LOWER, inside, ROLL)
            painter.fillRect(above, WELL_LINE)
            if right - left >= _LEAST:
                self._paint_picture(painter, above, Wanted(source, sum(change.new) // 2))
            original = self._original_of(change)
            if original is not None and right - left >= _LEAST:
                self._paint_picture(painter, below, original)
            self._paint_tie(painter, change, (left + right) / 2, original is not None)
            if change is self._tally.change:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(QColor("#FFFFFF"), 2))
                painter.drawRect(above)
                painter.drawRect(below)

    def _paint_words(self, painter: QPainter, source: Source) -> None:
        middle = Qt.AlignmentFlag.AlignVCenter
        name = source.media.path.rsplit("/", 1)[-1]
        conform = self._tally.conform
        files = many(len(conform.clips), "file") if conform is not None else ""
        for y, words in ((0, f"film   {name}"), (HIGH - HEAD, f"originals   {files}")):
            painter.setFont(font(SMALL))
            painter.setPen(WELL_TEXT)
            painter.drawText(QRectF(SIDE, y, self.width() - 2 * SIDE, HEAD), middle, words)

    def _paint_picture(self, painter: QPainter, room: QRectF, wanted: Wanted) -> None:
        wide, high = shown_size(wanted.source.media)
        place = QRectF(0, 0, ROLL * wide / high, ROLL)
        place.moveCenter(room.center())
        painter.save()
        painter.setClipRect(room)
        self._pictures.draw(painter, place, wanted)
        painter.restore()

    def _paint_tie(self, painter: QPainter, change: Change, x: float, there: bool) -> None:
        top, foot = UPPER + ROLL + 4.0, LOWER - 4.0
        if not there:
            painter.setPen(QPen(QColor("#E0604C"), 2))
            y = (top + foot) / 2
            painter.drawLine(QPointF(x - 5, y - 5), QPointF(x + 5, y + 5))
            painter.drawLine(QPointF(x - 5, y + 5), QPointF(x + 5, y - 5))
            return
        colour = WELL_FAINT if change.certainty is Certainty.SURE else WAX
        pen = QPen(colour, 1.2 if change.certainty is Certainty.LIKELY else 2.2)
        if change.certainty is Certainty.DOUBTFUL:
            pen.setDashPattern([3, 3])
        painter.setPen(pen)
        painter.drawLine(QPointF(x, top), QPointF(x, foot))
        if change.by_hand:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(WELL_TEXT)
            painter.drawEllipse(QPointF(x, (top + foot) / 2), 4, 4)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        source = self._tally.new
        for n, change in enumerate(self._tally.rows if source is not None else ()):
            assert change.new is not None
            assert source is not None
            left, right = self._across(source, *change.new)
            if left <= event.position().x() < right:
                self._tally.choose(n)
                break
        if event.button() is Qt.MouseButton.RightButton:
            self.menu_asked.emit(event.globalPosition().toPoint())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()
