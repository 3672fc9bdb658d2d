"""The lanes under the skyline: light and colours, scenes, movement, loudness, on the same axis."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from offcut.app.shared.scene_bands import paint_band
from offcut.app.theme.parts import label
from offcut.app.views.rhythm.chart_look import SCALE_WIDE, Chart, WellFrame, pen
from offcut.app.views.rhythm.study import Study
from offcut.core.rhythm.lengths import scenes_along

NAMES = {"light": "light", "scenes": "scene", "movement": "move", "loudness": "loud"}
_HIGH = {"light": 30, "scenes": 17, "movement": 27, "loudness": 27}
_FILL = QColor("#9C9C9C")
QUIET, LOUD = -50.0, -5.0
"""Loudness is drawn between these, in LUFS."""


class _SceneBands(pg.GraphicsObject):
    """Scenes as bands along the axis, from 0 to 1 in height; patterns keep their size."""

    def __init__(self, study: Study) -> None:
        super().__init__()
        self._study = study

    def boundingRect(self) -> QRectF:
        """Return what it covers."""
        return QRectF(0, 0, max(1.0, self._study.axis.whole), 1)

    def paint(self, painter: QPainter, *_args: object) -> None:
        """Draw the bands in pixels, so that a pattern looks the same on every scale."""
        scenes, axis = self._study.whole.scenes, self._study.axis
        if not scenes:
            return
        to = painter.transform()
        painter.save()
        painter.resetTransform()
        ratio = painter.device().devicePixelRatio() if painter.device() is not None else 1.0
        painter.scale(ratio, ratio)
        window = QRectF(painter.viewport())
        for scene_id, begin, end in scenes_along(axis):
            scene = scenes.get(scene_id)
            if scene is None:
                continue
            first = to.map(QPointF(float(axis.begins[begin]), 1.0)) / ratio
            last = to.map(QPointF(float(axis.ends[end - 1]), 0.0)) / ratio
            left, right = max(-4.0, first.x() + 0.5), min(window.width() + 4, last.x() - 0.5)
            if right - left > 0.3:
                high = abs(last.y() - first.y())
                area = QRectF(left, min(first.y(), last.y()), right - left, high)
                paint_band(painter, area, scene.pattern, scene.tint)
        painter.restore()


class LanesWell(WellFrame):
    """Lanes that go along with the skyline. ``pressed`` tells where on the axis a click was."""

    pressed = Signal(float)
    wheeled = Signal(float, float)
    pushed = Signal(float)

    def __init__(self, study: Study) -> None:
        super().__init__()
        self._study = study
        self._shown = (0.0, 1.0)
        self._wanted = set(NAMES)
        self.charts: dict[str, Chart] = {}
        self._rows: dict[str, QWidget] = {}
        self._image = pg.ImageItem(axisOrder="row-major")
        self._curves: dict[str, pg.PlotCurveItem] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 7, 16, 7)
        column.setSpacing(4)
        for name, words in NAMES.items():
            column.addWidget(self._row(name, words))
        self.charts["light"].add(self._image)
        self.charts["scenes"].add(_SceneBands(study))
        for name in ("movement", "loudness"):
            curve = pg.PlotCurveItem(
                [0.0, 1.0],
                [0.0],
                pen=None,
                brush=_FILL,
                fillLevel=0.0,
                stepMode="center",
                antialias=False,
            )
            self._curves[name] = self.charts[name].add(curve)

    def _row(self, name: str, words: str) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        told: QLabel = label(words, "wellfaint")
        told.setFixedWidth(SCALE_WIDE)
        told.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        told.setContentsMargins(0, 0, 7, 0)
        chart = Chart(f"{name} along the film")
        chart.setFixedHeight(_HIGH[name])
        chart.hideAxis("left")
        chart.hideAxis("bottom")
        chart.setYRange(0, 1, padding=0)
        chart.area.pressed.connect(lambda place, _control: self.pressed.emit(place.x()))
        chart.area.dragged.connect(lambda _first, last, _over: self.pressed.emit(last))
        chart.area.wheeled.connect(self.wheeled)
        chart.area.pushed.connect(self.pushed)
        self.charts[name] = chart
        self._rows[name] = row
        line.addWidget(told)
        line.addWidget(chart, 1)
        return row

    def set_wanted(self, names: set[str]) -> None:
        """Say which lanes are shown, of those there are."""
        self._wanted = names
        self.refresh()

    def there(self) -> set[str]:
        """Return the lanes that there is something for."""
        whole, lanes = self._study.whole, self._study.whole.lanes
        found = {"scenes"} if whole.scenes and scenes_along(self._study.axis) else set()
        if lanes is not None:
            if lanes.seen:
                found.add("light")
            if bool(np.isfinite(lanes.movement).any()):
                found.add("movement")
            if lanes.heard:
                found.add("loudness")
        return found

    def refresh(self) -> None:
        """Show what there is now."""
        shown = self._wanted & self.there()
        for name, row in self._rows.items():
            row.setVisible(name in shown)
        self.setVisible(bool(shown))
        lanes = self._study.whole.lanes
        self._most = 1.0
        if lanes is not None and bool(np.isfinite(lanes.movement).any()):
            self._most = max(1.0, float(np.nanpercentile(lanes.movement, 99.5)))
        self.show_between(*self._shown)

    _most = 1.0

    def show_between(self, first: float, last: float) -> None:
        """Show a part of the axis."""
        self._shown = first, last
        if not self.isVisible():
            return
        for chart in self.charts.values():
            chart.setXRange(first, last, padding=0)
        lanes = self._study.whole.lanes
        if lanes is None or last <= first:
            return
        width = max(60, round((self.width() - SCALE_WIDE - 24) * self.devicePixelRatioF()))
        columns = lanes.columns(first, last, width)
        self._image.setImage(
            np.ascontiguousarray(columns.colours[:, ::-1].transpose(1, 0, 2)), autoLevels=False,
            levels=None,
        )  # fmt: skip
        self._image.setRect(QRectF(first, 0, last - first, 1))
        edges = np.linspace(first, last, width + 1)
        movement = np.clip(np.nan_to_num(columns.movement) / self._most, 0, 1) * 0.97
        loudness = np.clip(
            (np.nan_to_num(columns.loudness, nan=QUIET) - QUIET) / (LOUD - QUIET), 0, 1
        )
        for name, values in (("movement", movement), ("loudness", loudness)):
            self._curves[name].setData(edges, values.astype(np.float64))
            self._curves[name].setPen(pen(_FILL, 0.5))

    def resizeEvent(self, event: object) -> None:
        """Work columns out for the new width."""
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.show_between(*self._shown)

    def showEvent(self, event: object) -> None:
        """Work columns out once it is seen."""
        super().showEvent(event)  # type: ignore[arg-type]
        self.show_between(*self._shown)
