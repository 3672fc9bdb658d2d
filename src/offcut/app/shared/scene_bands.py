"""Scenes as bands: a pattern that carries which one it is, and a tint that helps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPixmap

from offcut.core.model.project import Project
from offcut.core.model.scene_look import TINT_RGB, Pattern, Tint, strokes_of
from offcut.core.model.shots import Shot

TINTS = {tint: QColor(*rgb) for tint, rgb in TINT_RGB.items()}
_STROKE = QColor(20, 20, 20, 205)
_STEP = 5.5
_STRIP = 1100
"""So many pixels of a band are drawn at once; twice the step goes into it."""


def paint_band(painter: QPainter, area: QRectF, pattern: Pattern, tint: Tint) -> None:
    """Fill an area with a scene's tint and its pattern."""
    device = painter.device()
    ratio = device.devicePixelRatio() if device is not None else 1.0
    strip = _strip(pattern, tint, max(1, round(area.height() * 2)), ratio)
    x = area.left()
    while x < area.right():
        wide = min(float(_STRIP), area.right() - x)
        part = QRectF(0, 0, wide * ratio, strip.height())
        painter.drawPixmap(QRectF(x, area.top(), wide, area.height()), strip, part)
        x += _STRIP


@lru_cache(maxsize=128)
def _strip(pattern: Pattern, tint: Tint, halves: int, ratio: float) -> QPixmap:
    """Return a long band of a pattern, ``halves`` half pixels high; bands are cut from it."""
    high = halves / 2
    strip = QPixmap(round(_STRIP * ratio), max(1, round(high * ratio)))
    strip.setDevicePixelRatio(ratio)
    strip.fill(TINTS[tint])
    painter = QPainter(strip)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for x, y, to_x, to_y, thick in strokes_of(pattern, _STRIP, high, _STEP):
        painter.setPen(QPen(QBrush(_STROKE), thick, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        painter.drawLine(QPointF(x, y), QPointF(to_x, to_y))
    painter.end()
    return strip


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
