"""The look of charts on screen: scales, pens and colours, for pyqtgraph."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QGuiApplication, QPainter, QPen, QWheelEvent
from PySide6.QtWidgets import QFrame, QGraphicsItem, QWidget

from offcut.app.theme import SMALL, font, theme
from offcut.core.rhythm.comparing import running_words
from offcut.core.rhythm.scales import STROKES, length_tick, nice_ticks

SCALE_WIDE = 44
"""Room for the scale at the left of charts that lie over each other."""
_STEPS = (0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200)
Floats = NDArray[np.float64]


def ink(wide: float = 1.5) -> QPen:
    """Return the pen that curves are drawn with."""
    return pen(theme().text, wide)


def pen(colour: str | QColor, wide: float = 1.0) -> QPen:
    """Return a pen as wide on every scale of a chart, and on every screen."""
    screen = QGuiApplication.primaryScreen()
    ratio = screen.devicePixelRatio() if screen is not None else 1.0
    made = QPen(QColor(colour), wide * ratio)
    made.setCosmetic(True)
    made.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    made.setCapStyle(Qt.PenCapStyle.FlatCap)  # square ends would fill the gaps of short dashes
    return made


def stroke_of(place: int, wide: float = 1.4) -> QPen:
    """Return the pen of what stands at a place beside; the same dashes as on paper."""
    made = pen(theme().text, wide)
    made.setDashPattern(list(STROKES[place % len(STROKES)]))
    return made


def block_colour() -> QColor:
    """Return the grey of blocks and columns."""
    return QColor("#5C5C5C") if theme().name == "night" else QColor("#C6C6C6")


def pale_colour() -> QColor:
    """Return the grey of what does not count."""
    return QColor("#3E3E3E") if theme().name == "night" else QColor("#EDEDED")


class TimeScale(pg.AxisItem):
    """A scale of minutes and seconds."""

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Return where labels stand, at least 64 pixels apart."""
        wide = max(1e-6, high - low)
        step = next((s for s in _STEPS if s / wide * size >= 64), wide)
        first = math.ceil(low / step - 1e-9)
        count = int((high - low) / step) + 2
        return [(step, [k * step for k in range(first, first + count) if k * step <= high])]

    def tickStrings(self, values: list[float], _scale: float, spacing: float) -> list[str]:
        """Return the labels."""
        if spacing < 1:
            return [f"{running_words(v)}.{round(v % 1 * 10) % 10}" for v in values]
        return [running_words(v) for v in values]


class LengthScale(pg.AxisItem):
    """A scale of lengths in seconds; where ``log`` is set its values are logarithms.

    Nothing is written under ``foot``.
    """

    log = False
    foot = -1e9

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Return where labels stand."""
        if not self.log:
            wide = max(1e-9, high)
            step = next((s for s in _STEPS if s / wide * size >= 30), wide)
            return [(step, [k * step for k in range(1, int(high / step) + 1)])]
        room = max(2, int(size / (34 if self.orientation == "bottom" else 22)))
        ticks = nice_ticks(10 ** max(low, self.foot), 10**high, room)
        return [(1.0, [math.log10(t) for t in ticks])]

    def tickStrings(self, values: list[float], _scale: float, _spacing: float) -> list[str]:
        """Return the labels."""
        return [length_tick(float(f"{10**v:.4g}") if self.log else v) for v in values]


class ChartArea(pg.ViewBox):
    """What is dragged and clicked on: a drag tells two places, a click one, the wheel zooms.

    ``dragged`` tells both ends of a drag along the scale; ``pressed`` where a click was and
    whether Ctrl was held; ``wheeled`` by how much to zoom, about where; ``pushed`` by how much to
    move, in shares of what is shown.
    """

    dragged = Signal(float, float)
    pressed = Signal(object, bool)
    wheeled = Signal(float, float)
    pushed = Signal(float)
    menu_asked = Signal(object)

    def __init__(self) -> None:
        super().__init__(enableMenu=False, defaultPadding=0.0)
        self.setMouseEnabled(False, False)

    def mouseDragEvent(self, event: Any, axis: int | None = None) -> None:
        """Tell both ends of a drag with the left button."""
        if event.button() != Qt.MouseButton.LeftButton:
            event.ignore()
            return
        event.accept()
        first = self.mapToView(event.buttonDownPos()).x()
        self.dragged.emit(first, self.mapToView(event.pos()).x())

    def mouseClickEvent(self, event: Any) -> None:
        """Tell where a click was."""
        event.accept()
        if event.button() == Qt.MouseButton.RightButton:
            self.menu_asked.emit(event.screenPos().toPoint())
            return
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self.pressed.emit(self.mapToView(event.pos()), control)

    def wheelEvent(self, event: Any, axis: int | None = None) -> None:
        """Zoom about the pointer; with Shift, or sideways, move."""
        event.accept()
        delta = event.delta()
        shift = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        if event.orientation() == Qt.Orientation.Horizontal or shift:
            self.pushed.emit(-delta / 1200)
        else:
            self.wheeled.emit(1.0018**delta, self.mapToView(event.pos()).x())


class Chart(pg.PlotWidget):
    """One chart in our look. ``area`` is what a pointer acts on."""

    def __init__(self, name: str, *, time: bool = False, lengths: bool = False) -> None:
        self.area = ChartArea()
        self._high = (0.0, 0.0)
        axes: dict[str, pg.AxisItem] = {}
        if time:
            axes["bottom"] = TimeScale("bottom")
        if lengths:
            axes["left"] = LengthScale("left")
        super().__init__(viewBox=self.area, axisItems=axes, background=None)
        self.setAccessibleName(name)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.plotItem.hideButtons()
        self.plotItem.layout.setContentsMargins(0, 7 if time or lengths else 0, 0, 0)
        self.setStyleSheet("background: transparent; border: 0;")
        self.viewport().setAutoFillBackground(False)
        self.plotItem.setMenuEnabled(False)
        self.area.setBorder(None)
        self.restyle()

    def restyle(self) -> None:
        """Take the theme in force."""
        for side in ("left", "bottom"):
            axis = self.getAxis(side)
            axis.setTickFont(font(SMALL))
            axis.setTextPen(theme().faint)
            axis.setPen(pen(theme().line))
            axis.setStyle(tickLength=0 if side == "left" else 3, tickTextOffset=6)
        for call in ("setPen", "setTickPen"):
            getattr(self.getAxis("left"), call)(pg.mkPen(None))

    def add(self, item: QGraphicsItem, order: float = 0.0) -> Any:
        """Put an item onto the chart, drawn after those of a lower order."""
        item.setZValue(order)
        self.addItem(item, ignoreBounds=True)
        return item

    def show_along(self, first: float, last: float) -> None:
        """Show a part of the scale below; worked out at once, so that it is painted only once."""
        self.setXRange(first, last, padding=0)
        self.area.updateMatrix()

    def show_high(self, low: float, high: float) -> None:
        """Show a part of the scale at the left."""
        if (low, high) != self._high:
            self._high = low, high
            self.setYRange(low, high, padding=0)
            self.area.updateMatrix()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Let the scene have the wheel, and nobody else."""
        super().wheelEvent(event)
        event.accept()

    def leaveEvent(self, event: QEvent) -> None:
        """Tell those who follow the pointer that it is gone."""
        self.scene().sigMouseMoved.emit(QPointF(-1e6, -1e6))
        super().leaveEvent(event)


def columns_item() -> pg.BarGraphItem:
    """Return an empty row of columns."""
    return pg.BarGraphItem(x0=[0.0], x1=[0.0], y0=[0.0], height=[0.0], pen=None, brush=None)


def curve_item(curve_pen: QPen) -> pg.PlotCurveItem:
    """Return an empty curve."""
    item = pg.PlotCurveItem(pen=curve_pen, antialias=True, skipFiniteCheck=True)
    item.setSegmentedLineMode("off")
    return item


class StrokesItem(pg.GraphicsObject):
    """Straight strokes, drawn one by one: a path of so many takes several times as long."""

    def __init__(self) -> None:
        super().__init__()
        self._lines: list[QLineF] = []
        self._bounds = QRectF()
        self._pen = QPen()

    def set_strokes(self, ends: Floats, stroke_pen: QPen) -> None:
        """Draw other strokes: their ends, float64 (n, 4), x, y, x, y on the chart's scales."""
        self.prepareGeometryChange()
        self._pen = stroke_pen
        self._lines = [QLineF(*row) for row in ends.tolist()]
        self._bounds = QRectF()
        if len(ends):
            x, y = ends[:, ::2], ends[:, 1::2]
            corner = QPointF(float(x.min()), float(y.min()))
            self._bounds = QRectF(corner, QPointF(float(x.max()), float(y.max())))
        self.update()

    def boundingRect(self) -> QRectF:
        """Return what they cover."""
        return self._bounds

    def paint(self, painter: QPainter, *_args: object) -> None:
        """Draw them."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(self._pen)
        painter.drawLines(self._lines)


class WellFrame(QWidget):
    """A dark well in which lanes lie."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("well")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
