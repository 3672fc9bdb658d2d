"""The lanes under the skyline: light and colours, movement, what is in shots, on the same axis."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.shared.note_signs import draw_sign
from offcut.app.shared.scene_bands import paint_band
from offcut.app.theme import SMALL, WELL_FAINT, font
from offcut.app.views.rhythm.chart_look import SCALE_WIDE, Chart, WellFrame
from offcut.app.views.rhythm.study import Study
from offcut.core.facts.in_shot import InShots
from offcut.core.rhythm.noted import NOTED, Note, notes_along

NAMES = {
    "light": "light", "scenes": "scene", "movement": "move", "loudness": "loud", "camera": "camera",
    "faces": "faces", "speech": "speech",
}  # fmt: skip
_HIGH = {
    "light": 30, "scenes": 17, "movement": 27, "loudness": 27, "camera": 21, "faces": 21,
    "speech": 17,
}  # fmt: skip
_LEAST = 3.0
"""Pixels that a sign takes at least."""
_GAP = 4
_FILL = 0xFF9C9C9C
QUIET, LOUD = -50.0, -5.0
"""Loudness is drawn between these, in LUFS."""


class _SceneBands(pg.GraphicsObject):
    """Scenes as bands along the axis; patterns keep their size on every scale."""

    def __init__(self, study: Study) -> None:
        super().__init__()
        self._study = study
        self.top = 0.0

    def boundingRect(self) -> QRectF:
        """Return what it covers."""
        return QRectF(0, self.top, max(1.0, self._study.axis.whole), _HIGH["scenes"])

    def paint(self, painter: QPainter, *_args: object) -> None:
        """Draw the bands in pixels."""
        scenes, axis = self._study.whole.scenes, self._study.axis
        to = painter.transform()
        painter.save()
        painter.resetTransform()
        device = painter.device()
        ratio = device.devicePixelRatio() if device is not None else 1.0
        painter.scale(ratio, ratio)
        wide = painter.viewport().width()
        foot = self.top + _HIGH["scenes"]
        for scene_id, begin, end in axis.scenes:
            scene = scenes.get(scene_id)
            if scene is None:
                continue
            first = to.map(QPointF(float(axis.begins[begin]), self.top)) / ratio
            last = to.map(QPointF(float(axis.ends[end - 1]), foot)) / ratio
            left, right = max(-4.0, first.x() + 0.5), min(wide + 4.0, last.x() - 0.5)
            if right - left > 0.3:
                area = QRectF(left, first.y(), right - left, last.y() - first.y())
                paint_band(painter, area, scene.pattern, scene.tint)
        painter.restore()


class _Notes(pg.GraphicsObject):
    """What is in the shots, in the signs of edge notes, one lane of it."""

    def __init__(self, study: Study, facts: FactsInHand, lane: str) -> None:
        super().__init__()
        self._study, self._facts, self._lane = study, facts, lane
        self.laid: list[Note] = []
        self.top = 0.0

    def boundingRect(self) -> QRectF:
        """Return what it covers."""
        return QRectF(0, self.top, max(1.0, self._study.axis.whole), _HIGH[self._lane])

    def paint(self, painter: QPainter, *_args: object) -> None:
        """Draw the signs in pixels."""
        to = painter.transform()
        painter.save()
        painter.resetTransform()
        device = painter.device()
        ratio = device.devicePixelRatio() if device is not None else 1.0
        painter.scale(ratio, ratio)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide, high = painter.viewport().width(), _HIGH[self._lane]
        for begin, end, fact in self.laid:
            left = to.map(QPointF(begin, self.top)) / ratio
            right = to.map(QPointF(end, self.top)) / ratio
            if right.x() >= 0 and left.x() <= wide:
                width = max(_LEAST, right.x() - left.x())
                draw_sign(painter, fact, QRectF(left.x(), left.y(), width, high))
        painter.restore()

    def lay(self) -> None:
        """Take what there is to draw, as (from, to) on the axis and the fact."""
        self.laid = list(notes_along(self._study.axis, self._study.project, self._in, self._lane))

    def _in(self, film: int) -> InShots:
        return self._facts.of(self._study.project.source(film))


class _Labels(QWidget):
    """The names of the lanes, each at the middle of its own."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(SCALE_WIDE)
        self.rows: list[tuple[str, int]] = []

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(font(SMALL))
        painter.setPen(WELL_FAINT)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for name, top in self.rows:
            painter.drawText(QRectF(0, top, SCALE_WIDE - 7, _HIGH[name]), right, NAMES[name])


class LanesWell(WellFrame):
    """Lanes that go along with the skyline. ``pressed`` tells where on the axis a click was."""

    pressed = Signal(float)
    wheeled = Signal(float, float)
    pushed = Signal(float)

    def __init__(self, study: Study, facts: FactsInHand) -> None:
        super().__init__()
        self._study = study
        self._shown = (0.0, 1.0)
        self._wanted = set(NAMES)
        self.shown_lanes: list[str] = []
        self._tops: dict[str, int] = {}
        self._labels = _Labels()
        self.chart = Chart(
            "Light, scenes, movement, loudness, camera, faces and speech along the film"
        )
        self.chart.hideAxis("left")
        self.chart.hideAxis("bottom")
        self.chart.area.invertY(True)
        area = self.chart.area
        area.pressed.connect(lambda place, _control: self.pressed.emit(place.x()))
        area.dragged.connect(lambda _first, last: self.pressed.emit(last))
        area.wheeled.connect(self.wheeled)
        area.pushed.connect(self.pushed)
        self._bands = self.chart.add(_SceneBands(study))
        self._images = {
            name: self.chart.add(pg.ImageItem(axisOrder="row-major"))
            for name in ("light", "movement", "loudness")
        }
        self._notes = {lane: self.chart.add(_Notes(study, facts, lane)) for lane in NOTED}
        facts.known_changed.connect(self._facts_came)
        line = QHBoxLayout(self)
        line.setContentsMargins(8, 7, 16, 7)
        line.setSpacing(0)
        line.addWidget(self._labels)
        line.addWidget(self.chart, 1)

    def set_wanted(self, names: set[str]) -> None:
        """Say which lanes are shown, of those there are."""
        if names != self._wanted:
            self._wanted = names
            self.refresh()

    def _facts_came(self) -> None:
        if self.isVisible() or self._study.alive():
            self.refresh()

    def there(self) -> set[str]:
        """Return the lanes that there is something for."""
        whole, lanes = self._study.whole, self._study.whole.lanes
        known = any(scene in whole.scenes for scene, _, _ in self._study.axis.scenes)
        found = {"scenes"} if known else set()
        found |= {lane for lane, notes in self._notes.items() if notes.laid}
        if lanes is not None:
            found |= {"light"} if lanes.seen else set()
            found |= {"movement"} if lanes.moves else set()
            found |= {"loudness"} if lanes.heard else set()
        return found

    def refresh(self) -> None:
        """Show what there is now."""
        for notes in self._notes.values():
            notes.lay()
        there = self.there()
        self.shown_lanes = [name for name in NAMES if name in there and name in self._wanted]
        self.setVisible(bool(self.shown_lanes))
        top, self._tops = 0, {}
        for name in self.shown_lanes:
            self._tops[name] = top
            top += _HIGH[name] + _GAP
        high = max(1, top - _GAP)
        self._labels.rows = list(self._tops.items())
        self._labels.update()
        self.chart.setFixedHeight(high)
        self.chart.show_high(0, high)
        self._bands.setVisible("scenes" in self._tops)
        self._bands.prepareGeometryChange()
        self._bands.top = float(self._tops.get("scenes", 0))
        self._bands.update()
        for lane, notes in self._notes.items():
            notes.setVisible(lane in self._tops)
            notes.prepareGeometryChange()
            notes.top = float(self._tops.get(lane, 0))
            notes.update()
        for name, image in self._images.items():
            image.setVisible(name in self._tops)
        self.show_between(*self._shown)

    def show_between(self, first: float, last: float) -> None:
        """Show a part of the axis."""
        self._shown = first, last
        lanes = self._study.whole.lanes
        if not self.isVisible():
            return
        self.chart.show_along(first, last)
        if lanes is None or last <= first:
            return
        ratio = self.devicePixelRatioF()
        columns = lanes.columns(first, last, max(60, round((self.chart.width()) * ratio)))
        if "light" in self._tops:
            self._put("light", np.ascontiguousarray(columns.colours.transpose(1, 0, 2)))
        if "movement" in self._tops:
            movement = np.nan_to_num(columns.movement) / lanes.most_movement
            self._put("movement", _hills(movement, round(_HIGH["movement"] * ratio)))
        if "loudness" in self._tops:
            loudness = (np.nan_to_num(columns.loudness, nan=QUIET) - QUIET) / (LOUD - QUIET)
            self._put("loudness", _hills(loudness, round(_HIGH["loudness"] * ratio)))

    def _put(self, name: str, pixels: NDArray[np.uint8]) -> None:
        first, last = self._shown
        image = self._images[name]
        image.setImage(pixels, autoLevels=False, levels=None)
        image.setRect(QRectF(first, self._tops[name], last - first, _HIGH[name]))

    def resizeEvent(self, event: object) -> None:
        """Work columns out for the new width."""
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.show_between(*self._shown)

    def showEvent(self, event: object) -> None:
        """Work columns out once it is seen."""
        super().showEvent(event)  # type: ignore[arg-type]
        self.show_between(*self._shown)


def _hills(values: NDArray[np.floating], high: int) -> NDArray[np.uint8]:
    """Return a filled curve as RGBA (high, n, 4), from the top down; ``values`` are 0 to 1."""
    tall = np.clip(values, 0, 1).astype(np.float32) * high
    rows = np.arange(high, 0, -1, dtype=np.float32)[:, None] - 0.5
    filled = np.where(rows < tall[None, :], np.uint32(_FILL), np.uint32(0)).astype(np.uint32)
    return filled.view(np.uint8).reshape(high, len(values), 4)
