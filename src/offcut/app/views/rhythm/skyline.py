"""The skyline: a block a shot, as wide and as high as it is long, and the pace drawn over it."""

from __future__ import annotations

import math

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor

from offcut.app.session.session import Session
from offcut.app.theme import WAX, theme
from offcut.app.views.rhythm.chart_look import (
    SCALE_WIDE,
    Chart,
    StrokesItem,
    block_colour,
    columns_item,
    curve_item,
    ink,
    pale_colour,
    pen,
    stroke_of,
)
from offcut.app.views.rhythm.study import Study
from offcut.core.model.orders import ref_of, shots_meant
from offcut.core.model.project import ShotRef
from offcut.core.model.shots import shot_at, shots_of
from offcut.core.rhythm.curves import pace_of, thinned
from offcut.core.rhythm.lengths import Floats, ShotLengths, places_of
from offcut.core.rhythm.scales import join_strokes, stretched

FOOT = 0.07
"""The share of the height under the blocks in which joins are drawn."""
PARTED = 420
"""Of more blocks than these none has an edge of its own."""
POINTS, DASHED_POINTS = 900, 300
"""A curve is drawn with so many points at most; a dashed one with fewer, its dashes would drown."""
LEAST = 1.0
"""No less than so many seconds are shown."""


class Skyline(Chart):
    """Shows the blocks of the study in hand; zoomed and moved with the ribbon.

    ``pointed`` tells the place of the shot under the pointer, -1 for none; ``moved`` that another
    part of the axis is shown, by its ends in seconds.
    """

    pointed = Signal(int)
    moved = Signal(float, float)

    def __init__(self, session: Session, study: Study) -> None:
        super().__init__("Skyline, how long each shot is held", time=True, lengths=True)
        self._s = session
        self._study = study
        self.shows_pace = self.shows_joins = True
        self.shown = self._ends = (0.0, 1.0)
        self._under = -1
        self.getAxis("left").setWidth(SCALE_WIDE)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self._pale = self.add(columns_item(), 0)
        self._blocks = self.add(columns_item(), 1)
        self._here = self.add(columns_item(), 2)
        self._hover = self.add(columns_item(), 3)
        self._picked = self.add(columns_item(), 3)
        self._range = self.add(pg.LinearRegionItem(movable=False), -1)
        self._foot = self.add(pg.InfiniteLine(angle=0), 4)
        self._joins = self.add(StrokesItem(), 5)
        self._pace = self.add(curve_item(ink(2.2)), 7)
        self._beside: list[pg.PlotCurveItem] = []
        self._curves: list[tuple[pg.PlotCurveItem, Floats, Floats]] = []
        self._head = self.add(pg.InfiniteLine(angle=90), 9)
        self.area.dragged.connect(self._drag)
        self.area.pressed.connect(self._press)
        self.area.wheeled.connect(self.zoom)
        self.area.pushed.connect(self.push)
        self.scene().sigMouseMoved.connect(self._point)
        session.moved.connect(self.follow)
        session.stretch_changed.connect(self._take_stretch)
        session.picked_changed.connect(self._show_picked)

    # showing

    @property
    def _lengths(self) -> ShotLengths:
        return self._study.whole.lengths

    def lay(self) -> None:
        """Show other shots, all of them, or as much of the film as the ribbon shows."""
        axis = self._study.axis
        self._under = -1
        first = float(axis.begins[0]) if len(axis) and axis.film else 0.0
        self._ends = first, max(first + LEAST, axis.whole)
        stretch = self._s.bench.stretch if axis.film == self._s.in_hand else None
        if stretch is not None and self._s.source is not None:
            rate = float(self._s.source.media.rate)
            self._show(stretch[0] / rate, stretch[1] / rate)
        else:
            self._show(*self._ends)

    def up(self, seconds: Floats) -> Floats:
        """Return how high lengths lie on the scale in force."""
        if not self._study.manner.log:
            return seconds
        return np.asarray(np.log10(np.maximum(seconds, 1e-3)), np.float64)

    def refresh(self) -> None:
        """Draw the study as it is now."""
        lengths, study = self._lengths, self._study
        scale = self.getAxis("left")
        scale.log = study.manner.log
        low, high = self._heights()
        scale.foot = low
        room = (high - low) * FOOT
        self.show_high(low - room, high)
        counted = lengths.counted
        edge = pen(theme().raised) if len(lengths) <= PARTED else None
        self._columns(self._blocks, counted, block_colour(), edge)
        self._columns(self._pale, ~counted, pale_colour(), edge)
        self._foot.setPen(pen(theme().text))
        self._foot.setPos(low)
        self._take_curves()
        self._draw_curves()
        self._draw_joins(low, room)
        self._show_range()
        self._head.setPen(pen(theme().text if theme().name == "day" else "#FFFFFF", 1.4))
        self.follow()
        self._show_picked()
        scale.picture = None
        scale.update()

    def _heights(self) -> tuple[float, float]:
        held = self._lengths.seconds
        if not len(held):
            return 0.0, 1.0
        low, high = float(held.min()), float(held.max())
        if self._study.manner.log:
            return math.log10(max(1e-3, low * 0.7)), math.log10(max(low * 1.4, high * 1.25))
        return 0.0, high * 1.06

    def _columns(
        self, item: pg.BarGraphItem, which: NDArray[np.bool_], colour: QColor, edge: object
    ) -> None:
        lengths = self._lengths
        foot, _ = self._heights()
        held = self.up(lengths.seconds[which])
        item.setOpts(
            x0=lengths.begins[which],
            x1=lengths.ends[which],
            y0=np.full(len(held), foot),
            height=held - foot,
            pen=edge,
            brush=colour,
        )
        item.setVisible(bool(len(held)))

    def _one(self, item: pg.BarGraphItem, place: int, colour: QColor, edge: object) -> None:
        which = np.zeros(len(self._lengths), np.bool_)
        if 0 <= place < len(which):
            which[place] = True
        self._columns(item, which, colour, edge)

    def _draw_joins(self, low: float, room: float) -> None:
        """Draw gradual joins under the blocks as pencil strokes, as long as they last."""
        least = (self.shown[1] - self.shown[0]) * 0.004
        ends = join_strokes(self._lengths, least)
        ends[:, 1::2] = low - room * (0.86 - 0.68 * ends[:, 1::2])
        self._joins.set_strokes(ends, ink(1.6))
        self._joins.setVisible(self.shows_joins and bool(len(ends)))

    def _take_curves(self) -> None:
        """Work out the pace of the study and of all that is beside it."""
        whole = self._study.whole
        x, y = pace_of(whole.lengths, whole.manner.smoothing)
        self._curves = [(self._pace, x, self.up(y))]
        self._pace.setPen(ink(2.2))
        while len(self._beside) < len(whole.beside):
            self._beside.append(self.add(curve_item(ink()), 6))
        for n, item in enumerate(self._beside):
            item.setVisible(n < len(whole.beside) and self.shows_pace)
            if n < len(whole.beside):
                other = whole.beside[n].lengths
                x, y = pace_of(other, whole.manner.smoothing)
                item.setPen(stroke_of(n))
                self._curves.append((item, stretched(whole, other, x), self.up(y)))
        self._pace.setVisible(self.shows_pace and len(whole.lengths.held) > 1)

    def _draw_curves(self) -> None:
        """Draw of the curves what is seen."""
        first, last = self.shown
        for item, x, y in self._curves:
            solid = item is self._pace
            seen = thinned(x, y, first, last, POINTS if solid else DASHED_POINTS)
            # many points are drawn stroke by stroke, which is faster; dashes need one line
            item.setSegmentedLineMode("on" if solid and len(seen[0]) > DASHED_POINTS else "off")
            item.setData(*seen)

    def _show_range(self) -> None:
        marked = self._study.marked
        self._range.setVisible(marked is not None)
        if marked is not None:
            wash = QColor(WAX)
            wash.setAlpha(46 if theme().name == "day" else 34)
            self._range.setBrush(wash)
            for line in self._range.lines:
                line.setPen(pen(WAX, 1.5))
            self._range.setRegion(marked)

    def follow(self, _frame: int = 0) -> None:
        """Show where the playhead is, and its shot."""
        moment = self.moment_here()
        self._head.setVisible(moment is not None)
        place = -1
        if moment is not None:
            self._head.setPos(moment)
            place = self._lengths.at(moment)
        self._one(self._here, place, QColor(WAX), pen(theme().text, 1.2))

    def moment_here(self) -> float | None:
        """Return where the playhead is on the axis, None where its film is not on it."""
        return self._study.axis.moment_of(self._s.in_hand, self._s.playhead)

    @property
    def here(self) -> int:
        """The place of the shot under the playhead, -1 for none."""
        moment = self.moment_here()
        return self._lengths.at(moment) if moment is not None else -1

    # zooming

    def _show(self, first: float, last: float) -> None:
        self.shown = first, last
        self._draw_curves()
        self.show_along(first, last)
        self.moved.emit(first, last)

    def show_between(self, first: float, last: float) -> None:
        """Show a part of the axis, kept inside it; on a film's axis the ribbon follows."""
        low, high = self._ends
        long = max(LEAST, min(high - low, last - first))
        first = max(low, min(high - long, first))
        axis = self._study.axis
        self.shown = first, first + long
        if axis.film and axis.film == self._s.in_hand and self._s.source is not None:
            rate = float(self._s.source.media.rate)
            whole = long >= high - low - 1e-9
            frames = self._s.source.media.frames
            self._s.show_stretch(*((0, frames) if whole else (first * rate, (first + long) * rate)))
        self._show(first, first + long)

    def _take_stretch(self) -> None:
        """Show what the ribbon shows."""
        stretch, axis, source = self._s.bench.stretch, self._study.axis, self._s.source
        if stretch is None or source is None or axis.film != source.id:
            return
        rate = float(source.media.rate)
        first, last = max(self._ends[0], stretch[0] / rate), min(self._ends[1], stretch[1] / rate)
        apart = abs(first - self.shown[0]) + abs(last - self.shown[1])
        if last - first > 0 and apart * rate > 0.01 and self.isVisible():
            self._show(first, last)

    def zoom(self, factor: float, about: float | None = None) -> None:
        """Zoom in by a factor above 1, out below it, about a moment of the axis."""
        first, last = self.shown
        held = about
        if held is None:
            here = self.moment_here()
            held = here if here is not None and first <= here <= last else (first + last) / 2
        long = (last - first) / factor
        low, high = self._ends
        long = max(LEAST, min(high - low, long))
        share = (held - first) / max(1e-9, last - first)
        self.show_between(held - share * long, held + (1 - share) * long)

    def push(self, share: float) -> None:
        """Move by a share of what is shown."""
        first, last = self.shown
        by = (last - first) * share
        self.show_between(first + by, last + by)

    def show_all(self) -> None:
        """Show all of the axis."""
        self.show_between(*self._ends)

    # by hand

    def _point(self, place: QPointF) -> None:
        if not self.isVisible():
            return
        under = -1
        if self.area.sceneBoundingRect().contains(place):
            under = self._lengths.at(self.area.mapSceneToView(place).x())
        if under != self._under:
            self._under = under
            edge = QColor(WAX)
            edge.setAlpha(70)
            self._one(self._hover, under, edge, pen(theme().text, 1))
            self.pointed.emit(under)

    def _drag(self, first: float, last: float) -> None:
        first, last = min(first, last), max(first, last)
        if last - first > 0:
            self._study.mark_part(max(self._ends[0], first), min(self._ends[1], last))

    def _press(self, place: QPointF, control: bool) -> None:
        at = self._lengths.at(place.x())
        if at < 0:
            return
        if control:
            self.pick(at)
        else:
            self.go_to(place.x())

    def go_to(self, moment: float) -> None:
        """Move the playhead to a moment of the axis, in the film it is of."""
        found = self._study.axis.frame_at(moment)
        if found is not None:
            self._s.take_in_hand(found[0])
            self._s.go_to(found[1])

    # pictures for the page

    def ref_at(self, place: int) -> ShotRef | None:
        """Return the shot at a place by the name that stays, None where it is of no film."""
        if not 0 <= place < len(self._study.axis):
            return None
        one = self._study.axis.shots[place]
        if not self._s.project.holds(one.source):
            return None
        source = self._s.project.source(one.source)
        shot = shot_at(shots_of(source), one.start)
        return ref_of(source, shot) if shot is not None else None

    def pick(self, place: int) -> None:
        """Choose a shot, so that its picture goes on the page; or choose it no more."""
        ref = self.ref_at(place)
        if ref is not None:
            picked = self._s.picked
            self._s.pick([r for r in picked if r != ref] if ref in picked else [*picked, ref])

    @property
    def picked_places(self) -> list[int]:
        """The places of the chosen shots, in order."""
        return places_of(self._study.axis, shots_meant(self._s.project, self._s.picked))

    def _show_picked(self) -> None:
        if not self.isVisible():
            return
        places = self.picked_places
        low, high = self._heights()
        tall = (high - low) * 0.018
        lengths = self._lengths
        begins, ends = lengths.begins[places], lengths.ends[places]
        self._picked.setOpts(
            x0=begins, x1=ends, y0=np.full(len(places), low), height=np.full(len(places), tall),
            pen=None, brush=QColor(theme().text),
        )  # fmt: skip
        self._picked.setVisible(bool(places))
