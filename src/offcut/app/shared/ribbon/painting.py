"""What lies on the ribbon and stays while only the playhead moves, and the playhead itself."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from offcut.app.session.session import Session
from offcut.app.shared.marker_pegs import draw_peg
from offcut.app.shared.ribbon.columns import crowd_image, trace_image
from offcut.app.shared.ribbon.stretch import Stretch
from offcut.app.shared.wax_marks import draw_cut, draw_mark
from offcut.app.theme import SMALL, WAX, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.core.model.kinds import spans
from offcut.core.model.seam import Seam

SIDE = 16
RULER_TOP, RULER_HIGH = 37, 18
ROW_HIGH, ROW_GAP = 42, 3
ROW_A = RULER_TOP + RULER_HIGH + 2
ROW_B = ROW_A + ROW_HIGH + ROW_GAP
TRACE_TOP = ROW_B + ROW_HIGH + 6
TRACE_HIGH = 26
HIGH = TRACE_TOP + TRACE_HIGH + 6
PEG = 25
TRACE_GREY = QColor("#7E7E7E")
CLEAR = 26.0
"""Where marks lie nearer to each other than so many pixels, their strokes are cut short."""
CROWD = 400
"""More shots or seams than these on show are drawn plainly: there is no room for more."""
CROWD_HIGH = 21
"""The tallest bar of a crowd of seams."""


def frame_of(seam: Seam) -> int:
    """Return the frame of a seam, for searching among seams."""
    return seam.frame


@dataclass(frozen=True)
class Ground:
    """What is drawn on: the film, the stretch shown, its room and the widget's width in pixels."""

    session: Session
    stretch: Stretch
    room: float
    width: int

    def x_of(self, frame: float) -> float:
        """Return where a frame lies on the widget."""
        return SIDE + self.stretch.x_of(frame)

    def across(self, start: float, end: float) -> tuple[float, float]:
        """Return left edge and width of frames [start, end), cut to what is shown."""
        x = max(0.0, self.stretch.x_of(start))
        last = min(self.room, self.stretch.x_of(end))
        return SIDE + x, max(0.0, last - x)


def paint_ruler(painter: QPainter, ground: Ground) -> None:
    """Draw ticks and timecodes."""
    source = ground.session.source
    assert source is not None
    painter.setFont(font(SMALL, mono=True))
    for frame in ground.stretch.ticks(source.media.rate):
        x = ground.x_of(frame)
        painter.fillRect(QRectF(x, RULER_TOP + RULER_HIGH - 4, 1, 4), WELL_FAINT)
        if x < ground.width - 90:
            painter.setPen(WELL_FAINT)
            painter.drawText(QPointF(x + 4, RULER_TOP + 12), ground.session.words_of(frame))


def paint_trace(painter: QPainter, ground: Ground) -> None:
    """Draw the change per frame, the highest of each column."""
    trace, start = ground.session.trace, ground.session.trace_start
    foot = TRACE_TOP + TRACE_HIGH
    painter.fillRect(QRectF(SIDE, foot, ground.room, 1), WELL_LINE)
    if not len(trace):
        return
    columns = int(ground.room)
    edges = ground.stretch.left + np.arange(columns + 1) / ground.stretch.scale - start
    at = np.clip(edges.astype(np.int64), 0, len(trace) - 1)
    inside = (edges[:-1] < len(trace)) & (edges[1:] >= 0)
    highest = np.maximum.reduceat(trace, at[:-1])
    highest = np.where(inside, np.maximum(highest, trace[at[:-1]]), 0.0)
    tall = np.minimum(1.0, highest / 32.0) * TRACE_HIGH
    painter.drawImage(SIDE, TRACE_TOP, trace_image(tall, TRACE_HIGH, TRACE_GREY))


def paint_range(painter: QPainter, ground: Ground) -> None:
    """Veil what lies outside the range."""
    source = ground.session.source
    assert source is not None
    veil = QColor(20, 20, 20, 150)
    left, right = ground.stretch.x_of(source.start), ground.stretch.x_of(source.end)
    if left > 0:
        painter.fillRect(QRectF(SIDE, ROW_A, left, HIGH - ROW_A), veil)
    if right < ground.room:
        painter.fillRect(QRectF(SIDE + right, ROW_A, ground.room - right, HIGH - ROW_A), veil)


def paint_zones(painter: QPainter, ground: Ground) -> None:
    """Draw the zones as bands under the trace."""
    source = ground.session.source
    assert source is not None
    for zone in source.zones:
        x, wide = ground.across(zone.start, zone.end)
        if not wide:
            continue
        place = QRectF(x, TRACE_TOP, wide, TRACE_HIGH + 1)
        hushed = zone.sensitivity is None
        pattern = Qt.BrushStyle.BDiagPattern if hushed else Qt.BrushStyle.NoBrush
        painter.fillRect(place, QColor(20, 20, 20, 120 if hushed else 40))
        painter.fillRect(place, QBrush(WELL_FAINT, pattern))
        painter.setPen(QPen(WELL_TEXT, 1))
        for edge in (place.left(), place.right()):
            painter.drawLine(QPointF(edge, TRACE_TOP), QPointF(edge, HIGH - 4))
        if wide > 30:
            words = "hushed" if hushed else f"sensitivity {zone.sensitivity}"
            painter.setFont(font(SMALL))
            wanted = painter.fontMetrics().horizontalAdvance(words)
            if wanted + 10 > wide:
                words = "" if hushed else str(zone.sensitivity)
                wanted = painter.fontMetrics().horizontalAdvance(words)
            if words:
                under = QRectF(x + 3, TRACE_TOP + 4, wanted + 8, 16)
                painter.fillRect(under, WELL)
                painter.drawText(under, Qt.AlignmentFlag.AlignCenter, words)


def paint_marked(painter: QPainter, ground: Ground) -> None:
    """Draw the marked range as a bar over the rolls."""
    marked = ground.session.marked
    if marked is None:
        return
    x, wide = ground.across(*marked)
    painter.fillRect(QRectF(x, ROW_A - 2, wide, TRACE_TOP - ROW_A), QColor(255, 255, 255, 26))
    painter.fillRect(QRectF(x, ROW_A - 5, wide, 3), WAX)
    for frame in marked:
        at = ground.x_of(frame)
        painter.fillRect(QRectF(at - 1, ROW_A - 5, 2, 12), WAX)


def paint_markers(painter: QPainter, ground: Ground) -> None:
    """Draw the markers as pegs on the ruler, their heads by their colours."""
    source = ground.session.source
    assert source is not None
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(font(SMALL))
    free = -1000.0
    starts = [m.start for m in source.markers]
    for marker, after in zip(source.markers, [*starts[1:], source.media.frames * 2], strict=False):
        x = ground.x_of(marker.start)
        last = ground.x_of(marker.end)
        if last < 0 or x > ground.width:
            continue
        painter.setPen(QPen(WELL_TEXT, 1.6))
        painter.drawLine(QPointF(x, PEG + 4), QPointF(x, RULER_TOP + 1))
        painter.drawLine(QPointF(x, ROW_A - 8), QPointF(x, ROW_A - 2))
        if not marker.point:
            painter.drawLine(QPointF(x, ROW_A - 2), QPointF(last, ROW_A - 2))
        draw_peg(painter, marker.colour, x, PEG + 3.5, WELL_TEXT)
        room = min(110, int(ground.x_of(after) - x) - 18)
        words = painter.fontMetrics().elidedText(marker.name, Qt.TextElideMode.ElideRight, room)
        wide = painter.fontMetrics().horizontalAdvance(words)
        if words and room > 18 and x > free and ground.stretch.scale * source.media.frames > 600:
            under = QRectF(x + 6, PEG - 2, wide + 6, 14)
            painter.fillRect(under, WELL)
            painter.setPen(WELL_TEXT)
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, words)
            free = x + wide + 20
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)


def paint_marks(painter: QPainter, ground: Ground, rolled: tuple[Seam, int] | None) -> None:
    """Draw the seams; ``rolled`` is the one in hand, and the frame it is at."""
    source = ground.session.source
    assert source is not None
    low = bisect_left(source.seams, ground.stretch.left - 80, key=frame_of)
    high = bisect_left(source.seams, ground.stretch.right + 80, key=frame_of)
    if high - low > CROWD:
        paint_crowd(painter, ground, source.seams[low:high])
        return
    counts = ground.session.counted_ids
    on_show = sum(s.id in counts for s in source.seams[low:high])
    apart = ground.room / max(1, on_show)
    dense = high - low > CROWD // 3 or apart < CLEAR
    top, foot = ROW_A - 3, ROW_B + ROW_HIGH + 3
    if apart < CLEAR:  # short strokes leave the pictures to be seen above and below them
        reach = round(max(CROWD_HIGH / 2, (foot - top) / 2 * apart / CLEAR))
        middle = ROW_B - round(ROW_GAP / 2)
        top, foot = middle - reach, middle + reach
    for seam in source.seams[low:high]:
        counted = seam.id in counts
        if not counted and not seam.judged and (seam.score < 8 or dense):
            continue
        by = rolled[1] - seam.frame if rolled is not None and seam == rolled[0] else 0
        x = ground.x_of(seam.frame + by)
        if not 0 <= x <= ground.width:
            continue
        if not spans(seam.kind):
            draw_cut(painter, seam, counted, x, top, foot)
        else:
            first, last = ground.x_of(seam.start + by), ground.x_of(seam.end + by)
            draw_mark(painter, seam, counted, x, first, last, top, foot)


def paint_crowd(painter: QPainter, ground: Ground, seams: Sequence[Seam]) -> None:
    """Draw so many seams that only how dense they lie can be told, between the pictures."""
    counted = ground.session.counted_ids
    frames = np.array([s.frame for s in seams if s.id in counted], np.int64)
    wide, stretch = int(ground.room), ground.stretch
    bars = crowd_image(frames, stretch.left, stretch.scale, wide, CROWD_HIGH, WAX)
    painter.drawImage(QPointF(SIDE, ROW_B - (ROW_GAP + CROWD_HIGH) / 2), bars)


def paint_chosen(painter: QPainter, ground: Ground) -> None:
    """Lay a light over the selected seams."""
    for seam in ground.session.selected_seams[:CROWD]:
        x, first, last = (ground.x_of(f) for f in (seam.frame, seam.start, seam.end))
        if 0 <= x <= ground.width:
            place = QRectF(min(first, x - 6), ROW_A - 3, max(12, last - first), TRACE_TOP - ROW_A)
            painter.fillRect(place, QColor(245, 197, 24, 56))


def paint_playhead(painter: QPainter, ground: Ground) -> None:
    """Draw the playhead."""
    x = ground.x_of(ground.session.playhead)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor("#FFFFFF"), 1.2))
    painter.drawLine(QPointF(x, RULER_TOP + 4), QPointF(x, HIGH - 2))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor("#FFFFFF"))
    painter.drawPolygon(
        QPolygonF([QPointF(x - 5, RULER_TOP), QPointF(x + 5, RULER_TOP), QPointF(x, RULER_TOP + 8)])
    )
