"""The signs of edge notes, each drawn from the thing itself."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from offcut.app.theme import WELL_TEXT
from offcut.core.facts.fact import Fact, FactCertainty, Sort

_RING = {"far": 2.5, "whole": 4.0, "half": 5.5, "close": 7.0, "very close": 8.5}
_HEAD = 3.5
_DARKEST, _LIGHTEST = -5.0, 2.5
"""Stops that are drawn as the darkest and the lightest grey."""


def draw_sign(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw the sign of a fact into its room."""
    pen = QPen(WELL_TEXT, 1.5)
    if fact.certainty is not FactCertainty.SURE:
        pen.setDashPattern([1, 2])
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    inner = room.adjusted(1.5, 3.5, -1.5, -4.5)
    _SIGNS[fact.sort](painter, fact, inner)


def _camera(painter: QPainter, fact: Fact, room: QRectF) -> None:
    kind, _, way = str(fact.figures.get("way", fact.value)).partition(" ")
    if kind == "pan":
        rows = (-4.5, 0.0, 4.5) if fact.value == "whip" else (0.0,)
        for off in rows:
            _arrow(painter, room, room.center().y() + off, way == "right")
    elif kind == "tilt":
        _upright(painter, room, way == "up")
    elif kind == "zoom":
        _frames(painter, room, way == "in")
    else:
        _turn(painter, room, way == "right")


def _arrow(painter: QPainter, room: QRectF, y: float, right: bool) -> None:
    """Draw an arrow as long as the pan."""
    tail, head = (room.left(), room.right()) if right else (room.right(), room.left())
    back = -_HEAD if right else _HEAD
    painter.drawLine(QPointF(tail, y), QPointF(head, y))
    _pointed(
        painter, QPointF(head, y), QPointF(head + back, y - _HEAD), QPointF(head + back, y + _HEAD)
    )


def _pointed(painter: QPainter, tip: QPointF, one: QPointF, other: QPointF) -> None:
    painter.save()
    painter.setPen(QPen(painter.pen().color(), 1.5))
    painter.drawPolyline(QPolygonF([one, tip, other]))
    painter.restore()


def _upright(painter: QPainter, room: QRectF, up: bool) -> None:
    """Draw a line as long as the tilt, and an arrow the way it goes."""
    x = room.center().x()
    foot, head = (room.bottom(), room.top()) if up else (room.top(), room.bottom())
    painter.drawLine(QPointF(room.left(), foot), QPointF(room.right(), foot))
    painter.drawLine(QPointF(x, foot), QPointF(x, head))
    back = _HEAD if up else -_HEAD
    _pointed(
        painter, QPointF(x, head), QPointF(x - _HEAD, head + back), QPointF(x + _HEAD, head + back)
    )


def _frames(painter: QPainter, room: QRectF, inward: bool) -> None:
    """Draw frames within frames, one after another as the zoom goes on."""
    share = (1.0, 0.68, 0.4) if inward else (0.4, 0.68, 1.0)
    wide = min(room.width(), 4 * room.height())
    left = room.center().x() - wide / 2
    for place, size in enumerate(share):
        high = room.height() * size
        across = min(wide, high * 1.7)
        x = left + (wide - across) * place / 2
        painter.drawRect(QRectF(x, room.center().y() - high / 2, across, high))


def _turn(painter: QPainter, room: QRectF, right: bool) -> None:
    """Draw a line as long as the roll, and a horizon that leans its way."""
    y, x = room.center().y(), room.center().x()
    painter.drawLine(QPointF(room.left(), room.bottom()), QPointF(room.right(), room.bottom()))
    reach = min(9.0, room.width() / 2)
    lean = reach * 0.5 * (1 if right else -1)
    painter.drawLine(QPointF(x - reach, y - lean), QPointF(x + reach, y + lean))


def _shake(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw a jagged line at the foot, higher for a hand that shakes more."""
    high = 3.0 if fact.value == "medium" else 6.0
    steps = max(2, int(room.width() / 5))
    points = [
        QPointF(
            room.left() + room.width() * i / steps, room.bottom() + 3 - (high if i % 2 else 0.0)
        )
        for i in range(steps + 1)
    ]
    painter.drawPolyline(QPolygonF(points))


def _light(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw the grey that the light has, and name what is out of the usual where there is room."""
    share = (fact.number("stops") - _DARKEST) / (_LIGHTEST - _DARKEST)
    grey = round(34 + 206 * min(1.0, max(0.0, share)))
    block = room.adjusted(-0.5, 0, 0.5, 1)
    painter.fillRect(block, QColor(grey, grey, grey))
    words = str(fact.value)
    if words != "normal" and painter.fontMetrics().horizontalAdvance(words) < room.width() - 8:
        painter.setPen(QColor("#1C1C1C" if grey > 130 else "#E4E4E4"))
        painter.drawText(block, Qt.AlignmentFlag.AlignCenter, words)


def _faces(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw a ring a face, up to three, as large as the largest, on a line as long as it is seen."""
    radius = min(_RING.get(str(fact.figures.get("size")), 3.0), max(2.0, room.width() / 2))
    count = min(3, int(str(fact.value)))
    foot = room.bottom() + 2
    painter.drawLine(QPointF(room.left(), foot), QPointF(room.right(), foot))
    wide = count * 2 * radius + (count - 1) * 2
    if wide > room.width():
        count, wide = 1, 2 * radius
    for place in range(count):
        x = room.center().x() - wide / 2 + radius + place * (2 * radius + 2)
        painter.drawEllipse(QPointF(x, room.center().y()), radius, radius)


def _sound(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw a wave for speech, and a level line for silence."""
    y = room.center().y()
    if fact.value == "silence":
        painter.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
        return
    steps = max(3, int(room.width() / 3))
    points = [
        QPointF(
            room.left() + room.width() * i / steps,
            y + (room.height() / 2) * math.sin(2.4 * i) * (0.45 + 0.55 * abs(math.sin(0.7 * i))),
        )
        for i in range(steps + 1)
    ]
    painter.drawPolyline(QPolygonF(points))


def _focus(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw an edge that runs out into nothing, as long as the picture is soft."""
    pen = painter.pen()
    for step in range(4):
        colour = QColor(WELL_TEXT)
        colour.setAlpha(200 - 45 * step)
        painter.setPen(QPen(colour, 1.2))
        y = room.center().y() - 4.5 + 3 * step
        painter.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
    painter.setPen(pen)


def _colours(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw the colours that hold most, side by side."""
    told = fact.figures.get("colours")
    block = room.adjusted(-0.5, 0, 0.5, 1)
    shades = told if isinstance(told, tuple) else ()
    most = max(1, int(block.width() // 3))
    for place, shade in enumerate(shades[:most]):
        wide = block.width() / min(most, len(shades))
        left = block.left() + place * wide
        painter.fillRect(QRectF(left, block.top(), wide, block.height()), QColor(shade))


def _text(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw lines of writing where the letters stand: high, in the middle, low."""
    where = fact.figures.get("where")
    y = {"head": room.top() + 2, "foot": room.bottom() - 2}.get(str(where), room.center().y())
    at = room.left()
    wide = (5.0, 9.0, 3.0, 7.0)
    step = 0
    while at < room.right() - 2:
        end = min(room.right(), at + wide[step % len(wide)])
        painter.drawLine(QPointF(at, y), QPointF(end, y))
        at, step = end + 3, step + 1
    painter.drawLine(QPointF(room.left(), room.bottom()), QPointF(room.right(), room.bottom()))


def _part(painter: QPainter, fact: Fact, room: QRectF) -> None:
    """Draw a bar that is struck through, and name it where there is room."""
    block = room.adjusted(0, 1, 0, 0)
    painter.drawRect(block)
    words = str(fact.value)
    if painter.fontMetrics().horizontalAdvance(words) < block.width() - 8:
        painter.drawText(block, Qt.AlignmentFlag.AlignCenter, words)
    else:
        painter.drawLine(block.bottomLeft(), block.topRight())


_SIGNS = {
    Sort.CAMERA: _camera,
    Sort.STEADINESS: _shake,
    Sort.LIGHT: _light,
    Sort.FACES: _faces,
    Sort.SOUND: _sound,
    Sort.FOCUS: _focus,
    Sort.COLOUR: _colours,
    Sort.TEXT: _text,
    Sort.PART: _part,
}
