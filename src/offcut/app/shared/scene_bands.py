"""Scenes as bands: a pattern that carries which one it is, and a tint that helps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap

from offcut.core.model.project import Project
from offcut.core.model.scene_look import TINT_RGB, Pattern, Tint
from offcut.core.model.shots import Shot

TINTS = {tint: QColor(*rgb) for tint, rgb in TINT_RGB.items()}
_STROKE = QColor(20, 20, 20, 205)


def paint_band(painter: QPainter, area: QRectF, pattern: Pattern, tint: Tint) -> None:
    """Fill an area with a scene's tint and its pattern."""
    painter.save()
    painter.setClipRect(area, Qt.ClipOperation.IntersectClip)
    painter.fillRect(area, TINTS[tint])
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(_STROKE, 1.4))
    left, right, top, foot = area.left(), area.right(), area.top(), area.bottom()
    step = 6.0
    if pattern in (Pattern.SLANT, Pattern.CHECK, Pattern.CROSS):
        step = 6.0 if pattern is Pattern.SLANT else 5.0
        x = left - area.height()
        while x < right:
            if pattern is not Pattern.CROSS:
                painter.drawLine(QPointF(x, foot), QPointF(x + area.height(), top))
            if pattern is Pattern.CHECK:
                painter.drawLine(QPointF(x, top), QPointF(x + area.height(), foot))
            if pattern is Pattern.CROSS:
                painter.drawLine(QPointF(x + area.height(), top), QPointF(x + area.height(), foot))
            x += step
        if pattern is Pattern.CROSS:
            painter.drawLine(QPointF(left, area.center().y()), QPointF(right, area.center().y()))
    elif pattern is Pattern.BAR:
        x = left + 3
        while x < right:
            painter.fillRect(QRectF(x, top, 3, area.height()), _STROKE)
            x += 12
    elif pattern is Pattern.DOTS:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(_STROKE)
        y, odd = top + 2, False
        while y < foot + 2:
            x = left + (2 if odd else 4.5)
            while x < right:
                painter.drawEllipse(QPointF(x, y), 1.1, 1.1)
                x += 5
            y, odd = y + 4, not odd
    elif pattern is Pattern.LEVEL:
        y = top + 1.5
        while y < foot:
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            y += 4
    elif pattern is Pattern.HALF:
        painter.fillRect(QRectF(left, area.center().y(), area.width(), area.height() / 2), _STROKE)
    painter.restore()


def swatch_of(pattern: Pattern, tint: Tint, wide: int, high: int) -> QPixmap:
    """Return a small picture of a pattern and tint."""
    pixmap = QPixmap(wide * 2, high * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    paint_band(painter, QRectF(0, 0, wide, high), pattern, tint)
    painter.setPen(QPen(QColor(70, 70, 70), 1))
    painter.drawRect(QRectF(0.5, 0.5, wide - 1, high - 1))
    painter.end()
    return pixmap


def paint_scenes(
    painter: QPainter,
    project: Project,
    shots: Sequence[Shot],
    across: Callable[[int, int], tuple[float, float]],
    top: float,
    high: float,
) -> None:
    """Draw the scenes of a film as bands; ``across`` gives left edge and width of frames."""
    scenes = {s.id: s for s in project.scenes}
    if not scenes:
        return
    for scene_id, group in groupby(shots, key=lambda s: s.card.scene):
        scene = scenes.get(scene_id)
        if scene is None:
            continue
        held = list(group)
        x, wide = across(held[0].start, held[-1].end)
        if wide > 0.3:
            area = QRectF(x + 0.5, top, max(1.0, wide - 1), high)
            paint_band(painter, area, scene.pattern, scene.tint)
