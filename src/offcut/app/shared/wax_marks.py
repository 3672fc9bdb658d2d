"""Wax-pencil marks: how a seam is drawn wherever it is drawn.

A cut is one stroke, a dissolve two crossing lines, a fade two Vs point to point, a wipe one
slanted line. Certainty is the stroke (solid, thinner, dashed, a short dotted stub when faint);
standing and origin are its head (dot kept, cross at the foot struck, square placed, triangle
listed).
"""

from __future__ import annotations

from collections import OrderedDict

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from offcut.app.theme import WAX
from offcut.core.model.kinds import KINDS, spans
from offcut.core.model.seam import Certainty, Origin, Seam, Standing

_CUTS: OrderedDict[tuple[object, ...], QPixmap] = OrderedDict()
_ASIDE = 9


def draw_cut(painter: QPainter, seam: Seam, counted: bool, x: float, top: int, foot: int) -> None:
    """Draw the mark of a cut from a store of drawn ones: a film has thousands, all of few looks."""
    scale = painter.device().devicePixelRatioF()
    look = (
        _lean(seam), counted, seam.certainty, seam.standing, seam.origin, foot - top, scale
    )  # fmt: skip
    drawn = _CUTS.get(look)
    if drawn is None:
        drawn = QPixmap(int(2 * _ASIDE * scale), int((foot - top + 12) * scale))
        drawn.setDevicePixelRatio(scale)
        drawn.fill(Qt.GlobalColor.transparent)
        inner = QPainter(drawn)
        draw_mark(inner, seam, counted, _ASIDE, _ASIDE, _ASIDE, 6, foot - top + 6)
        inner.end()
        _CUTS[look] = drawn
        if len(_CUTS) > 200:
            _CUTS.popitem(last=False)
    painter.drawPixmap(
        round(x) - _ASIDE, top - 6, drawn
    )  # between pixels it takes ten times as long


def _lean(seam: Seam) -> int:
    """Return how a stroke leans, -2 to 2: drawn by a hand, not by a ruler."""
    return (seam.id * 7919) % 5 - 2


def draw_mark(
    painter: QPainter,
    seam: Seam,
    counted: bool,
    x: float,
    first: float,
    last: float,
    top: float,
    foot: float,
    *,
    colour: QColor = WAX,
    head: bool = True,
    scale: float = 1.0,
) -> None:
    """Draw a seam at ``x`` between two heights; a gradual one over ``first`` to ``last``."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    faint = not counted and seam.standing is not Standing.STRUCK
    painter.setPen(_pen(seam, faint, colour, scale))
    if faint:
        painter.drawLine(QPointF(x, foot - (foot - top) * 0.22), QPointF(x, foot))
        painter.restore()
        return
    wide = spans(seam.kind)
    if wide and last - first < 9 * scale:
        middle = (first + last) / 2
        first, last = middle - 4.5 * scale, middle + 4.5 * scale
    painter.drawPath(_stroke(seam, x, first, last, top, foot))
    if head:
        _draw_head(painter, seam, x, top, foot, colour, scale)
    painter.restore()


def _pen(seam: Seam, faint: bool, colour: QColor, scale: float) -> QPen:
    tint = QColor(colour)
    width = 2.6
    style = Qt.PenStyle.SolidLine
    if faint:
        width, style = 1.8, Qt.PenStyle.DotLine
    elif seam.standing is Standing.STRUCK:
        width = 1.4
        tint.setAlpha(150)
    elif not seam.judged and seam.certainty is Certainty.LIKELY:
        width = 1.5
    pen = QPen(tint, width * scale, style, Qt.PenCapStyle.RoundCap)
    if not faint and not seam.judged and seam.certainty is Certainty.DOUBTFUL:
        pen = QPen(tint, 2.2 * scale)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        pen.setDashPattern([2.6, 2.0])
    return pen


def _stroke(
    seam: Seam, x: float, first: float, last: float, top: float, foot: float
) -> QPainterPath:
    path = QPainterPath()
    for line in KINDS[seam.kind].strokes:
        points = [
            QPointF(first + (last - first) * along, foot - (foot - top) * up) for along, up in line
        ]
        path.moveTo(points[0])
        for point in points[1:]:
            path.lineTo(point)
    if not spans(seam.kind):
        lean = _lean(seam) * 0.22
        path.moveTo(x + lean, top)
        path.quadTo(x - lean, (top + foot) / 2, x + lean * 0.4, foot)
    return path


def _draw_head(
    painter: QPainter, seam: Seam, x: float, top: float, foot: float, colour: QColor, scale: float
) -> None:
    r = 4.2 * scale
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(colour))
    if seam.standing is Standing.STRUCK:
        painter.setPen(QPen(colour, 1.8 * scale, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for way in (-1, 1):
            painter.drawLine(QPointF(x - r, foot + way * r - r), QPointF(x + r, foot - way * r - r))
    elif seam.origin is Origin.PLACED:
        painter.drawRect(QRectF(x - r, top - r, 2 * r, 2 * r))
    elif seam.origin is Origin.LISTED:
        painter.drawPolygon(
            QPolygonF(
                [QPointF(x - r * 1.2, top - r), QPointF(x + r * 1.2, top - r), QPointF(x, top + r)]
            )
        )
    elif seam.standing is Standing.KEPT:
        painter.drawEllipse(QPointF(x, top), r, r)


def mark_words(seam: Seam, counted: bool) -> str:
    """Say a mark in words, for tooltips and screen readers."""
    if seam.standing is not Standing.OPEN:
        standing = seam.standing.value
    elif seam.origin is not Origin.FOUND:
        standing = seam.origin.value
    else:
        standing = seam.certainty.value if counted else "faint"
    return f"{seam.kind.value}, {standing}"
