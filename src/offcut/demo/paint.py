"""Brushes: the things the demo film is made of, drawn as layers with QPainter."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QImage,
    QLinearGradient,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QRadialGradient,
)

WIDE, HIGH = 1320, 760
Pixels = NDArray[np.uint8]


@dataclass
class Layer:
    """One sheet of the multiplane: premultiplied RGBA uint8, larger than the picture.

    ``depth`` 0 is at the lens, 1 at the horizon (it then hardly moves with the camera);
    ``drift`` is its own movement in pixels a second; ``glow`` adds its light instead of covering.
    """

    pixels: Pixels
    depth: float
    drift: tuple[float, float] = (0.0, 0.0)
    glow: bool = False
    growth: float = 0.0
    sway: float = 0.0
    wraps: bool = False


def sheet(draw: Callable[[QPainter], None], texture: float = 0.0, seed: int = 0) -> Pixels:
    """Draw on an empty transparent sheet; ``texture`` roughens it like paint on a board."""
    image = QImage(WIDE, HIGH, QImage.Format.Format_RGBA8888_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    draw(painter)
    painter.end()
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(HIGH, WIDE, 4).copy()
    if texture:
        rng = np.random.default_rng(seed)
        rough = np.ones((HIGH, WIDE), np.float32)
        for cell, part in ((6, 0.35), (24, 0.35), (90, 0.3)):
            noise = rng.standard_normal((HIGH // cell + 2, WIDE // cell + 2)).astype(np.float32)
            rough += texture * part * cv2.resize(noise, (WIDE, HIGH), interpolation=cv2.INTER_CUBIC)
        rgb = pixels[..., :3] * np.clip(rough, 0.3, 1.7)[..., None]
        pixels[..., :3] = np.minimum(rgb, pixels[..., 3:4]).astype(np.uint8)
    return pixels


def gradient(painter: QPainter, stops: Sequence[str], top: float = 0, bottom: float = HIGH) -> None:
    """Fill everything between two heights with a vertical run of colours."""
    brush = QLinearGradient(0, top, 0, bottom)
    for i, colour in enumerate(stops):
        brush.setColorAt(i / max(1, len(stops) - 1), QColor(colour))
    painter.fillRect(QRectF(0, top, WIDE, bottom - top), brush)


def glow(
    painter: QPainter, x: float, y: float, radius: float, colour: str, peak: int = 255
) -> None:
    """A soft round light."""
    tint = QColor(colour)
    brush = QRadialGradient(QPointF(x, y), radius)
    for stop, share in ((0.0, 1.0), (0.15, 0.62), (0.45, 0.2), (1.0, 0.0)):
        tint.setAlpha(int(peak * share))
        brush.setColorAt(stop, tint)
    painter.fillRect(QRectF(x - radius, y - radius, 2 * radius, 2 * radius), brush)


def ridge(
    painter: QPainter, base: float, rise: float, colour: str, seed: int, step: int = 60
) -> None:
    """A line of hills or clouds of foliage."""
    rng = np.random.default_rng(seed)
    path = QPainterPath(QPointF(-20, HIGH))
    x, y = -20.0, base
    path.lineTo(x, y)
    while x < WIDE + 20:
        nx, ny = x + step, base - rise * rng.random()
        path.cubicTo(x + step / 2, y, nx - step / 2, ny, nx, ny)
        x, y = nx, ny
    path.lineTo(WIDE + 20, HIGH)
    painter.fillPath(path, QColor(colour))


def houses(
    painter: QPainter,
    ground: float,
    tall: tuple[float, float],
    colours: Sequence[str],
    seed: int,
    lit: float = 0.2,
    wide: tuple[float, float] = (60, 120),
    lamp: str = "#ffd98a",
    dark: str = "#1c2230",
) -> None:
    """A row of gabled harbour houses; ``lit`` is the share of windows with a lamp behind."""
    rng = np.random.default_rng(seed)
    x = -30.0
    while x < WIDE + 30:
        w = rng.uniform(*wide)
        h = rng.uniform(*tall)
        body = QColor(colours[int(rng.integers(len(colours)))])
        roof = rng.uniform(0.15, 0.4) * w
        painter.setBrush(body)
        if rng.random() < 0.7:
            painter.drawPolygon(
                QPolygonF(
                    [
                        QPointF(x, ground),
                        QPointF(x, ground - h),
                        QPointF(x + w / 2, ground - h - roof),
                        QPointF(x + w, ground - h),
                        QPointF(x + w, ground),
                    ]
                )
            )
            painter.setBrush(body.darker(150))
            painter.drawPolygon(
                QPolygonF(
                    [
                        QPointF(x - 3, ground - h),
                        QPointF(x + w / 2, ground - h - roof - 3),
                        QPointF(x + w + 3, ground - h),
                        QPointF(x + w / 2, ground - h - roof + 7),
                    ]
                )
            )
        else:
            painter.drawRect(QRectF(x, ground - h, w, h))
            painter.fillRect(QRectF(x - 2, ground - h, w + 4, 6), body.darker(140))
        cell = max(13.0, w / max(2, int(w // 24)))
        for row in range(int(h // (cell * 1.5))):
            for column in range(int(w // cell)):
                bright = rng.random() < lit
                tint = QColor(lamp) if bright else QColor(dark)
                if bright:
                    tint = tint.darker(int(rng.uniform(100, 145)))
                painter.fillRect(
                    QRectF(
                        x + column * cell + cell * 0.28,
                        ground - h + row * cell * 1.5 + cell * 0.6,
                        cell * 0.46,
                        cell * 0.78,
                    ),
                    tint,
                )
        x += w + rng.uniform(-2, 5)


def tram_side(painter: QPainter, x: float, rail: float, size: float, lit: bool = True) -> None:
    """Car 7 seen from the side: red below, cream above, seven windows."""
    long, high = 620 * size, 190 * size
    top = rail - high - 26 * size
    shade = QLinearGradient(0, top, 0, top + high)
    for stop, colour in ((0, "#e9dcc0"), (0.52, "#d9c8a4"), (0.54, "#8f2a20"), (1, "#5f1a15")):
        shade.setColorAt(stop, QColor(colour))
    painter.setBrush(QBrush(shade))
    painter.drawRoundedRect(QRectF(x, top, long, high), 26 * size, 26 * size)
    painter.setBrush(QColor("#4b4440"))
    painter.drawRoundedRect(
        QRectF(x + 24 * size, top - 16 * size, long - 48 * size, 22 * size), 9, 9
    )
    painter.fillRect(QRectF(x + 6, top + high * 0.53, long - 12, 5 * size), QColor("#c9a54e"))
    for i in range(7):
        pane = QRectF(x + (34 + i * 80) * size, top + 30 * size, 62 * size, 62 * size)
        light = QLinearGradient(pane.topLeft(), pane.bottomLeft())
        light.setColorAt(0, QColor("#fff0be" if lit else "#7f95a8"))
        light.setColorAt(1, QColor("#e4a94e" if lit else "#46586c"))
        painter.setBrush(QBrush(light))
        painter.drawRoundedRect(pane, 7 * size, 7 * size)
        if i % 3 != 1:
            painter.setBrush(QColor(40, 26, 20, 190))
            painter.drawEllipse(
                QRectF(pane.x() + 18 * size, pane.y() + 22 * size, 20 * size, 24 * size)
            )
            painter.drawRoundedRect(
                QRectF(pane.x() + 10 * size, pane.y() + 44 * size, 38 * size, 20 * size), 6, 6
            )
    painter.setBrush(QColor("#1b1816"))
    painter.drawRect(QRectF(x + 50 * size, rail - 28 * size, long - 100 * size, 12 * size))
    for place in (0.16, 0.26, 0.72, 0.82):
        painter.setBrush(QColor("#16130f"))
        painter.drawEllipse(QPointF(x + long * place, rail - 16 * size), 19 * size, 19 * size)
        painter.setBrush(QColor("#6b645a"))
        painter.drawEllipse(QPointF(x + long * place, rail - 16 * size), 8 * size, 8 * size)
    painter.setPen(QPen(QColor("#2a2624"), 5 * size))
    painter.drawLine(
        QPointF(x + long * 0.46, top - 14 * size), QPointF(x + long * 0.34, top - 96 * size)
    )
    painter.drawLine(
        QPointF(x + long * 0.34, top - 96 * size), QPointF(x + long * 0.43, top - 130 * size)
    )
    painter.setPen(Qt.PenStyle.NoPen)


def tram_front(painter: QPainter, x: float, rail: float, size: float, lamps: bool = True) -> None:
    """Car 7 coming towards us."""
    w, h = 300 * size, 360 * size
    top = rail - h
    painter.setBrush(QColor(0, 0, 0, 90))
    painter.drawEllipse(QRectF(x - w * 0.62, rail - 16 * size, w * 1.24, 34 * size))
    body = QLinearGradient(x - w / 2, 0, x + w / 2, 0)
    for stop, colour in ((0, "#b9a684"), (0.25, "#efe3c8"), (0.7, "#d8c6a0"), (1, "#8d7c60")):
        body.setColorAt(stop, QColor(colour))
    painter.setBrush(QBrush(body))
    painter.drawRoundedRect(QRectF(x - w / 2, top, w, h - 24 * size), 46 * size, 46 * size)
    red = QLinearGradient(x - w / 2, 0, x + w / 2, 0)
    for stop, colour in ((0, "#571712"), (0.3, "#a5342a"), (0.7, "#8c281f"), (1, "#43110d")):
        red.setColorAt(stop, QColor(colour))
    painter.fillRect(QRectF(x - w / 2, top + h * 0.52, w, h * 0.41), QBrush(red))
    painter.fillRect(QRectF(x - w / 2, top + h * 0.5, w, 7 * size), QColor("#c9a54e"))
    glass = QLinearGradient(0, top + 70 * size, 0, top + 180 * size)
    glass.setColorAt(0, QColor("#b8c9cf"))
    glass.setColorAt(0.5, QColor("#5d7480"))
    glass.setColorAt(1, QColor("#2c3a44"))
    for left, wide in ((-0.44, 0.26), (-0.15, 0.3), (0.18, 0.26)):
        painter.setBrush(QBrush(glass))
        painter.drawRoundedRect(QRectF(x + left * w, top + 66 * size, wide * w, 104 * size), 9, 9)
    painter.setBrush(QColor(28, 22, 22, 220))
    painter.drawEllipse(QPointF(x - 4 * size, top + 122 * size), 21 * size, 25 * size)
    painter.drawRoundedRect(QRectF(x - 40 * size, top + 140 * size, 74 * size, 32 * size), 14, 14)
    painter.drawRect(QRectF(x - 28 * size, top + 92 * size, 48 * size, 10 * size))
    painter.setBrush(QColor("#16130f"))
    painter.drawRoundedRect(QRectF(x - 44 * size, top + 16 * size, 88 * size, 42 * size), 7, 7)
    painter.setPen(QPen(QColor("#ffe7a6"), 7 * size))
    painter.drawPolyline(
        QPolygonF(
            [
                QPointF(x - 14 * size, top + 25 * size),
                QPointF(x + 14 * size, top + 25 * size),
                QPointF(x - 3 * size, top + 50 * size),
            ]
        )
    )
    painter.setPen(Qt.PenStyle.NoPen)
    for side in (-0.33, 0.33):
        painter.setBrush(QColor("#fff6d2" if lamps else "#8d8a7c"))
        painter.drawEllipse(QPointF(x + side * w, top + h * 0.68), 25 * size, 25 * size)
        if lamps:
            glow(painter, x + side * w, top + h * 0.68, 150 * size, "#ffe9a8", 190)
    painter.setBrush(QColor("#1b1816"))
    painter.drawRoundedRect(QRectF(x - w * 0.46, rail - 46 * size, w * 0.92, 30 * size), 9, 9)


def rails(painter: QPainter, vanish: tuple[float, float], ground: str, metal: str) -> None:
    """Ground with two rails and sleepers running to a vanishing point."""
    vx, vy = vanish
    brush = QLinearGradient(0, vy, 0, HIGH)
    brush.setColorAt(0, QColor(ground).lighter(130))
    brush.setColorAt(1, QColor(ground).darker(140))
    painter.fillRect(QRectF(0, vy, WIDE, HIGH - vy), QBrush(brush))
    for side in (-1, 1):
        near = vx + side * 330.0
        painter.setBrush(QColor(metal))
        painter.drawPolygon(
            QPolygonF(
                [
                    QPointF(vx + side * 3, vy),
                    QPointF(vx + side * 5, vy),
                    QPointF(near + 17, HIGH),
                    QPointF(near - 17, HIGH),
                ]
            )
        )


def figure(
    painter: QPainter, x: float, foot: float, tall: float, coat: str, skin: str = "#b98a6a"
) -> None:
    """A person in a coat, standing."""
    head = tall * 0.075
    painter.setBrush(QColor(coat))
    painter.drawPolygon(
        QPolygonF(
            [
                QPointF(x - tall * 0.13, foot - tall * 0.8),
                QPointF(x + tall * 0.13, foot - tall * 0.8),
                QPointF(x + tall * 0.17, foot - tall * 0.24),
                QPointF(x - tall * 0.17, foot - tall * 0.24),
            ]
        )
    )
    painter.drawRect(QRectF(x - tall * 0.09, foot - tall * 0.26, tall * 0.07, tall * 0.26))
    painter.drawRect(QRectF(x + tall * 0.02, foot - tall * 0.26, tall * 0.07, tall * 0.26))
    painter.setBrush(QColor(skin))
    painter.drawEllipse(QPointF(x, foot - tall * 0.88), head, head * 1.15)
    if head > 12:
        features(painter, QPointF(x, foot - tall * 0.88), head, QColor(skin))
    painter.setBrush(QColor(coat).darker(150))
    painter.drawRect(QRectF(x - head * 1.4, foot - tall * 0.94, head * 2.8, head * 0.35))
    painter.drawRect(QRectF(x - head, foot - tall * 1.0, head * 2, head * 0.95))


def features(painter: QPainter, middle: QPointF, head: float, skin: QColor) -> None:
    """The face of a head that is near enough to have one."""
    x, y = middle.x(), middle.y()
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    round_ = QRadialGradient(QPointF(x - head * 0.2, y - head * 0.1), head * 1.3)
    round_.setColorAt(0, skin.lighter(128))
    round_.setColorAt(0.55, skin.lighter(108))
    round_.setColorAt(1, skin.darker(155))
    painter.setBrush(QBrush(round_))
    painter.drawEllipse(middle, head, head * 1.15)
    shade = skin.darker(150)
    soft = QColor(shade)
    soft.setAlpha(120)
    for side in (-1, 1):
        eye = x + side * head * 0.37
        painter.setBrush(soft)
        painter.drawEllipse(QPointF(eye, y - head * 0.02), head * 0.28, head * 0.2)
        painter.setBrush(QColor("#e9ddcb"))
        painter.drawEllipse(QPointF(eye, y), head * 0.16, head * 0.08)
        painter.setBrush(QColor("#241b17"))
        painter.drawEllipse(QPointF(eye, y), head * 0.08, head * 0.09)
        painter.drawRect(QRectF(eye - head * 0.17, y - head * 0.1, head * 0.34, head * 0.035))
        painter.setBrush(shade.darker(130))
        painter.drawRoundedRect(
            QRectF(eye - head * 0.22, y - head * 0.27, head * 0.44, head * 0.07), 2, 2
        )
    painter.setBrush(soft)
    painter.drawEllipse(QPointF(x + head * 0.04, y + head * 0.33), head * 0.16, head * 0.12)
    painter.setBrush(shade)
    painter.drawEllipse(QPointF(x, y + head * 0.41), head * 0.14, head * 0.05)
    painter.setBrush(QColor("#9a5248"))
    painter.drawEllipse(QPointF(x, y + head * 0.68), head * 0.27, head * 0.09)
    painter.setBrush(QColor("#5d2a25"))
    painter.drawRect(QRectF(x - head * 0.25, y + head * 0.665, head * 0.5, head * 0.03))
    painter.setBrush(soft)
    painter.drawEllipse(QPointF(x, y + head * 0.86), head * 0.2, head * 0.05)
    painter.restore()


def water(
    painter: QPainter, top: float, stops: Sequence[str], seed: int, glint: str, many: int = 420
) -> None:
    """Sea with glints that grow towards us."""
    gradient(painter, stops, top, HIGH)
    rng = np.random.default_rng(seed)
    for _ in range(many):
        near = rng.random() ** 1.7
        y = top + 4 + near * (HIGH - top)
        tint = QColor(glint)
        tint.setAlpha(int(rng.uniform(25, 120)))
        painter.setBrush(tint)
        painter.drawEllipse(
            QRectF(rng.uniform(0, WIDE), y, 8 + 60 * near * rng.random(), 1.2 + 3 * near)
        )
