"""Damage on the ribbon: stretches whose pictures could not be read, hatched both ways."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen

GROUND, LINE = QColor(20, 20, 20, 170), QColor("#E08A7A")
LEAST = 5.0
"""A stretch is drawn at least so wide, so that one bad frame in an hour can be seen."""


def paint_damage(
    painter: QPainter,
    damaged: Iterable[tuple[int, int]],
    across: Callable[[float, float], tuple[float, float]],
    inside: Callable[[float], bool],
    top: float,
    high: float,
) -> None:
    """Hatch the damaged stretches; ``across`` gives left edge and width of frames shown,
    ``inside`` tells whether a frame is."""
    for start, end in damaged:
        x, wide = across(start, end)
        if not wide and (start < end or not inside(start)):
            continue
        place = QRectF(x - max(0.0, LEAST - wide) / 2, top, max(LEAST, wide), high)
        painter.fillRect(place, GROUND)
        painter.fillRect(place, QBrush(LINE, Qt.BrushStyle.DiagCrossPattern))
        painter.setPen(QPen(LINE, 1))
        for edge in (place.left(), place.right()):
            painter.drawLine(QPointF(edge, top), QPointF(edge, top + high))


def damage_words(damaged: Iterable[tuple[int, int]], frame: int, slack: float) -> str:
    """Return what to say of a frame near damage, empty elsewhere."""
    for start, end in damaged:
        if start - slack <= frame < end + slack:
            many = end - start
            if not many:
                return f"Pictures are missing from the film before frame {start}"
            if many == 1:
                return f"The picture of frame {start} could not be read; the one before stands in"
            return (
                f"The pictures of frames {start} to {end - 1} could not be read; "
                "the last good one stands in"
            )
    return ""
