"""Pegs: what a marker looks like, a shape for each colour that a list may have given it.

Nothing near a picture is coloured, so a colour is carried by the shape of the head and by its name.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from offcut.app.theme import WELL, theme
from offcut.core.model.source import Marker, MarkerColour

RADIUS = 4.2


def draw_peg(
    painter: QPainter,
    colour: MarkerColour,
    x: float,
    y: float,
    ink: QColor,
    ground: QColor = WELL,
    radius: float = RADIUS,
) -> None:
    """Draw the head of a marker's peg about a point, in ink on a ground."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(x, y)
    painter.scale(radius, radius)
    open_head = colour in (MarkerColour.WHITE, MarkerColour.PINK)
    pen = QPen(ink if open_head else ground, 0.36 if open_head else 0.2)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    painter.setPen(pen)
    painter.setBrush(ground if open_head else ink)
    painter.drawPath(_head(colour))
    painter.restore()


@cache
def _head(colour: MarkerColour) -> QPainterPath:
    """Return the outline of a head about the origin, about one across from its middle."""
    path = QPainterPath()
    if colour in (MarkerColour.NONE, MarkerColour.WHITE):
        path.addEllipse(QPointF(0, 0), 0.95, 0.95)
    elif colour is MarkerColour.BLACK:
        path.addEllipse(QPointF(0, 0), 1.3, 0.8)
    elif colour is MarkerColour.RED:
        path.addRect(QRectF(-0.9, -0.9, 1.8, 1.8))
    elif colour is MarkerColour.ORANGE:
        path.moveTo(1.15, 0.75)
        path.arcTo(QRectF(-1.15, -0.95, 2.3, 3.4), 0, 180)  # a dome
        path.closeSubpath()
    elif colour in (MarkerColour.YELLOW, MarkerColour.GREEN):
        path = _around(3, 1.25, 90 if colour is MarkerColour.YELLOW else -90)
    elif colour in (MarkerColour.BLUE, MarkerColour.PINK):
        path = _around(4, 1.2, 0)
    elif colour is MarkerColour.CYAN:
        path.addRect(QRectF(-0.5, -1.2, 1.0, 2.4))
    elif colour is MarkerColour.PURPLE:
        path = _cross(0)
    else:
        path = _cross(45)
    return path


def _around(corners: int, radius: float, turned: float) -> QPainterPath:
    angles = (math.radians(turned + 360 * n / corners) for n in range(corners))
    return _outline((radius * math.cos(a), radius * math.sin(a)) for a in angles)


def _cross(turned: float) -> QPainterPath:
    thin, long = 0.42, 1.25
    corners = [
        (-thin, -long), (thin, -long), (thin, -thin), (long, -thin), (long, thin), (thin, thin),
        (thin, long), (-thin, long), (-thin, thin), (-long, thin), (-long, -thin), (-thin, -thin),
    ]  # fmt: skip
    cos, sin = math.cos(math.radians(turned)), math.sin(math.radians(turned))
    return _outline((x * cos - y * sin, x * sin + y * cos) for x, y in corners)


def _outline(points: Iterable[tuple[float, float]]) -> QPainterPath:
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(x, y) for x, y in points]))
    path.closeSubpath()
    return path


def peg_icon(colour: MarkerColour, scale: float = 2.0) -> QIcon:
    """Return the head as an icon in the theme's ink."""
    size = 16
    drawn = QPixmap(int(size * scale), int(size * scale))
    drawn.setDevicePixelRatio(scale)
    drawn.fill(Qt.GlobalColor.transparent)
    painter = QPainter(drawn)
    look = theme()
    draw_peg(painter, colour, 8, 8, look.colour("text"), look.colour("raised"), 4.6)
    painter.end()
    return QIcon(drawn)


def peg_words(marker: Marker) -> str:
    """Return what a peg stands for: its name, its colour's, what it marks, and its note."""
    parts = [marker.name or "unnamed marker", marker.colour.value]
    parts.append("" if marker.point else f"{marker.end - marker.start} frames")
    return ", ".join(p for p in parts if p) + (f"\n{marker.note}" if marker.note else "")
