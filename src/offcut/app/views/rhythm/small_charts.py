"""The small charts: spread, echo, pulse, and length against movement or light."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Signal
from PySide6.QtGui import QColor

from offcut.app.theme import SMALL, WAX, font, theme
from offcut.app.views.rhythm.chart_look import (
    Chart,
    LengthScale,
    block_colour,
    columns_item,
    curve_item,
    ink,
    pen,
    stroke_of,
)
from offcut.app.views.rhythm.study import Study
from offcut.core.rhythm.comparing import p_words, seconds_words
from offcut.core.rhythm.curves import kinship_of, pulse_of, spread_of
from offcut.core.rhythm.figures import FEW_ECHO
from offcut.core.rhythm.scales import stretched

MINUS = "−"


class SpreadChart(Chart):
    """How lengths are spread: a histogram, the fitted curve, the median."""

    def __init__(self, study: Study) -> None:
        super().__init__("How lengths are spread")
        self._study = study
        self.setAxisItems({"bottom": LengthScale("bottom")})
        self.getAxis("bottom").log = True
        self.hideAxis("left")
        self._columns = self.add(columns_item(), 0)
        self._curve = self.add(curve_item(ink(1.8)), 2)
        self._median = self.add(pg.InfiniteLine(angle=90), 3)
        self._words = self.add(pg.TextItem(anchor=(0, 0)), 4)
        self.restyle()

    def refresh(self) -> tuple[str, str]:
        """Draw it; return what stands beside its title, and why there is nothing to draw."""
        lengths, figures = self._study.whole.lengths, self._study.whole.figures
        spread = spread_of(lengths, figures)
        if not len(spread.counts) or figures.median is None:
            return "", "There is no shot to tell anything of"
        edges = np.log10(spread.edges)
        edge = pen(theme().raised)
        self._columns.setOpts(
            x0=edges[:-1], x1=edges[1:], y0=np.zeros(len(spread.counts)), height=spread.counts,
            pen=edge, brush=block_colour(),
        )  # fmt: skip
        curved = len(spread.points) > 0
        self._curve.setVisible(curved)
        if curved:
            self._curve.setPen(ink(1.8))
            self._curve.setData(np.log10(spread.points), spread.curve)
        top = float(spread.counts.max()) * 1.25
        if curved:
            top = max(top, float(spread.curve.max()) * 1.12)
        at = float(np.log10(figures.median))
        self._median.setPen(pen(WAX, 2))
        self._median.setPos(at)
        self._words.setText(f"median {seconds_words(figures.median)}", theme().colour("text"))
        self._words.setFont(font(SMALL))
        self._words.setPos(at, top)
        wide = float(edges[-1] - edges[0]) * 0.06
        self.show_along(float(edges[0]) - wide, float(edges[-1]) + wide)
        self.show_high(0, top)
        aside = f"log-normal, p {p_words(figures.fit.p)}" if figures.fit else "seconds"
        return aside, ""


class EchoChart(Chart):
    """Whether a length follows its like: autocorrelation with its bounds."""

    def __init__(self, study: Study) -> None:
        super().__init__("Does a length follow a like one?")
        self._study = study
        self.getAxis("left").setWidth(36)
        self._plain = self.add(columns_item(), 0)
        self._dark = self.add(columns_item(), 1)
        self._bounds = [self.add(curve_item(ink(1)), 2) for _ in range(2)]
        self._level = self.add(pg.InfiniteLine(angle=0), 3)

    def refresh(self) -> tuple[str, str]:
        """Draw it; return what stands beside its title, and why there is nothing to draw."""
        figures = self._study.whole.figures
        echo = figures.echo
        if figures.shots < FEW_ECHO:
            return "", f"It takes {FEW_ECHO} shots to tell; there are {figures.shots}"
        if echo is None:
            return "", "All shots are equally long"
        count = min(12, len(echo.values))
        values, bounds = echo.values[:count], echo.bounds[:count]
        lags = np.arange(1, count + 1, dtype=np.float64)
        beyond = np.abs(values) > bounds
        for item, which, colour in (
            (self._plain, ~beyond, block_colour()),
            (self._dark, beyond, theme().colour("text")),
        ):
            item.setOpts(
                x0=lags[which] - 0.33, x1=lags[which] + 0.33, y0=np.zeros(int(which.sum())),
                height=values[which], pen=None, brush=colour,
            )  # fmt: skip
            item.setVisible(bool(which.any()))
        edges = np.append(lags - 0.5, count + 0.5)
        for way, item in zip((1, -1), self._bounds, strict=True):
            dashes = pen(theme().faint, 1)
            dashes.setDashPattern([4, 3])
            item.setPen(dashes)
            item.setData(np.repeat(edges, 2)[1:-1], np.repeat(way * bounds, 2))
        self._level.setPen(pen(theme().text, 1))
        reach = max(0.2, float(np.abs(values).max()), float(bounds.max())) * 1.12
        self.show_high(-reach, reach)
        self.show_along(0.3, count + 0.7)
        self.getAxis("bottom").setTicks([[(k, str(k)) for k in range(1, count + 1)]])
        step = 0.2 if reach < 0.7 else 0.5
        marks = [k * step for k in range(-int(reach / step), int(reach / step) + 1)]
        shown = [(m, f"{m:.1f}".replace("-", MINUS) if m else "0") for m in marks]
        self.getAxis("left").setTicks([shown])
        return "autocorrelation, by lag", ""


class PulseChart(Chart):
    """Cuts in a sliding minute, along the axis."""

    def __init__(self, study: Study) -> None:
        super().__init__("Pulse, cuts in a sliding minute", time=True)
        self._study = study
        self.getAxis("left").setWidth(36)
        self._curve = self.add(
            pg.PlotCurveItem(antialias=True, fillLevel=0.0, skipFiniteCheck=True), 1
        )
        self._beside: list[pg.PlotCurveItem] = []

    def refresh(self) -> tuple[str, str]:
        """Draw it; return what stands beside its title, and why there is nothing to draw."""
        whole = self._study.whole
        pulse = pulse_of(whole.lengths, whole.manner.window)
        if not len(pulse.moments):
            return "", "It takes two shots to have a cut"
        wash = block_colour()
        wash.setAlpha(110)
        self._curve.setBrush(wash)
        self._curve.setPen(ink(1.6))
        self._curve.setData(pulse.moments, pulse.per_minute)
        most = float(pulse.per_minute.max())
        while len(self._beside) < len(whole.beside):
            self._beside.append(self.add(curve_item(ink()), 2))
        for n, item in enumerate(self._beside):
            item.setVisible(n < len(whole.beside))
            if n < len(whole.beside):
                other = whole.beside[n].lengths
                held = pulse_of(other, whole.manner.window or pulse.window)
                item.setPen(stroke_of(n, 1.2))
                item.setData(stretched(whole, other, held.moments), held.per_minute)
                if len(held.moments):
                    most = max(most, float(held.per_minute.max()))
        self.show_along(float(pulse.moments[0]), float(pulse.moments[-1]))
        self.show_high(0, max(1.0, most * 1.1))
        wide = "minute" if pulse.window == 60 else f"{pulse.window:g} s"
        return f"cuts a minute, in a sliding {wide}", ""


class PointsChart(Chart):
    """Lengths of shots against their movement or light. ``pointed`` tells the shot under it."""

    pointed = Signal(int)
    chosen = Signal(int)

    def __init__(self, study: Study, which: str) -> None:
        super().__init__(f"Length against {which}", lengths=True)
        self._study = study
        self._which = which
        self.getAxis("left").log = True
        self.getAxis("left").setWidth(36)
        self._places: list[int] = []
        self._dots = self.add(pg.ScatterPlotItem(size=6, pen=None, hoverable=True), 1)
        self._here = self.add(pg.ScatterPlotItem(size=10), 2)
        self._dots.sigHovered.connect(self._point)
        self._dots.sigClicked.connect(self._press)

    def refresh(self) -> tuple[str, str]:
        """Draw it; return what stands beside its title, and why there is nothing to draw."""
        whole = self._study.whole
        lengths, lanes = whole.lengths, whole.lanes
        if lanes is None:
            return "", "There are no pictures to tell it by"
        values = lanes.a_shot(getattr(lanes, self._which), len(lengths))
        known = np.isfinite(values) & lengths.counted
        if int(known.sum()) < 2:
            return "", "Its light and movement are not known yet"
        self._places = np.flatnonzero(known).tolist()
        x, y = values[known], np.log10(lengths.seconds[known])
        dot = QColor(theme().text)
        dot.setAlpha(150 if len(x) < 500 else 70)
        self._dots.setData(x=x, y=y, data=self._places, brush=dot, pen=None)
        far = float(x.max() - x.min()) or 1.0
        self.show_along(float(x.min()) - far * 0.05, float(x.max()) + far * 0.05)
        tall = float(y.max() - y.min()) or 1.0
        self.show_high(float(y.min()) - tall * 0.14, float(y.max()) + tall * 0.14)
        kin = kinship_of(lengths.seconds[known], x)
        if kin is None:
            return "too few to tell", ""
        rho = f"{kin.rho:.2f}".replace("-", MINUS)
        return f"rank correlation {rho}, p {p_words(kin.p)}", ""

    def show_here(self, place: int) -> None:
        """Mark the dot of a shot."""
        if place not in self._places:
            self._here.setData([], [])
            return
        spot = self._dots.points()[self._places.index(place)].pos()
        self._here.setData([spot.x()], [spot.y()], brush=QColor(WAX), pen=pen(theme().text, 1.2))

    def _point(self, _item: object, spots: list[pg.SpotItem], _event: object) -> None:
        self.pointed.emit(int(spots[0].data()) if len(spots) else -1)

    def _press(self, _item: object, spots: list[pg.SpotItem], _event: object) -> None:
        if len(spots):
            self.chosen.emit(int(spots[0].data()))
