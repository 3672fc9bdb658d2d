"""Two rolls tied together: the old version above, the new one below, a band for every shot."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)

from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import SMALL, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.app.views.tally.band_rolls import HEAD, HIGH, LOWER, ROLL, SIDE, UPPER, BandRolls
from offcut.app.views.tally.version_tally import VersionTally
from offcut.core.media.probe import shown_size
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source
from offcut.core.tally.versions.changes import Change, Span
from offcut.core.timecode import length_words

_MOST_PICTURES = 160


class Rolls(BandRolls):
    """Draws both versions and the bands between them; a click looks at a shot."""

    _tally: VersionTally

    def __init__(self, tally: VersionTally, pictures: ShotPictures) -> None:
        super().__init__(tally, "Both versions, and what became of each shot")
        self._pictures = pictures
        tally.changed.connect(self.refresh)
        pictures.arrived.connect(self.update)

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

    def edges(self, side: int, span: Span) -> tuple[float, float]:
        """Return the left and right edge of frames of the old version, or of the new one."""
        source = self._tally.new if side else self._tally.old
        return self._across(source, *span) if source is not None else (0.0, 0.0)

    def pairs(self) -> Sequence[Change]:
        """Return what became of each shot."""
        return self._tally.comparison.changes

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
            self.paint_bands(painter, self._tally.comparison.changes)

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

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()


def _rounded(frame: int, start: int, end: int) -> int:
    """Return a frame near another that is asked for again and again: every twelfth."""
    near = round(frame / 12) * 12
    return near if start <= near < end else max(start, min(end - 1, frame))
