"""Rhythm put together: what is studied, the skyline with its lanes, charts, and figures."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QGuiApplication, QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QMenu,
    QSplitter,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.actions import Actions
from offcut.app.session.soon import soon
from offcut.app.shared.asking import ANY, ask_files, ask_folder
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import in_line, label, pane, stacked
from offcut.app.views.description import ViewContext, ViewPage
from offcut.app.views.rhythm.chart_card import ChartCard
from offcut.app.views.rhythm.figures_panel import FiguresPanel
from offcut.app.views.rhythm.keeping import Keeping
from offcut.app.views.rhythm.lanes_well import LanesWell
from offcut.app.views.rhythm.of_what import OfWhat
from offcut.app.views.rhythm.shot_pane import ShotPane
from offcut.app.views.rhythm.skyline import Skyline
from offcut.app.views.rhythm.small_charts import EchoChart, PointsChart, PulseChart, SpreadChart
from offcut.app.views.rhythm.study import Study
from offcut.core.lists.registry import reading_endings
from offcut.core.media.arrivals import MOVIES
from offcut.core.rhythm.lengths import name_of
from offcut.core.rhythm.subjects import StudyOf, Subject
from offcut.core.store.project_file import SUFFIX

RIGHT = 268
SOON = 40
WINDOWS = (10.0, 30.0, 60.0, 120.0)


class RhythmView(ViewPage):
    """How a film is paced.
    Attributes: ``chart_here`` the chart that a menu was asked for last.
    """

    takes_keys = True

    def __init__(self, context: ViewContext, table: Actions) -> None:
        super().__init__()
        self._s = session = context.session
        self._settings = context.settings
        self.chart_here = "skyline"
        self.study = Study(session, context.settings)
        self.study.alive = self.isVisible
        self.pictures = ShotPictures(session)
        self.left = OfWhat(session, self.study, context.settings, table)
        self.skyline = Skyline(session, self.study)
        self.lanes = LanesWell(self.study, context.facts)
        self.spread, self.echo = SpreadChart(self.study), EchoChart(self.study)
        self.pulse = PulseChart(self.study)
        self.points = {n: PointsChart(self.study, n) for n in ("movement", "light")}
        self.figures = FiguresPanel(self.study)
        self.shot = ShotPane(session, self.study, self.pictures, context.facts)
        self.keeping = Keeping(
            session, self.study, context.settings, self, lambda: self.skyline.picked_places
        )
        self.sky_card = ChartCard([("skyline", "How long each shot is held")])
        self.near_card = ChartCard([("spread", "Spread"), ("pulse", "Pulse")])
        self.far_card = ChartCard([("echo", "Echo"), ("movement", "Movement"), ("light", "Light")])
        self._empty = label("", "faint")
        self._soon = soon(self, SOON, self._draw_small)
        self._lay_out()
        self._connect()

    # laying out

    def _lay_out(self) -> None:
        self.sky_card.put("skyline", self.skyline)
        self.near_card.put("spread", self.spread)
        self.near_card.put("pulse", self.pulse)
        self.far_card.put("echo", self.echo)
        for name, chart in self.points.items():
            self.far_card.put(name, chart)
        below, pair = in_line((0, 0, 0, 0), 12)
        pair.addWidget(self.near_card, 1)
        pair.addWidget(self.far_card, 1)
        upper, over = stacked((0, 0, 0, 0), 10)
        over.addWidget(self.sky_card, 1)
        over.addWidget(self.lanes)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.setChildrenCollapsible(False)
        self.split.setHandleWidth(10)
        self.split.addWidget(upper)
        self.split.addWidget(below)
        self.split.setStretchFactor(0, 3)
        self.split.setStretchFactor(1, 2)
        upper_high = _whole(self._settings.value("rhythm-upper"), 408)
        self.split.setSizes([upper_high, 640 - upper_high])
        middle, inside = stacked((14, 12, 14, 12), look="bench")
        inside.addWidget(self.split)
        right = pane("side")
        right.setFixedWidth(RIGHT)
        side = QVBoxLayout(right)
        side.setContentsMargins(0, 0, 0, 8)
        side.setSpacing(4)
        side.addWidget(self.figures, 1)
        side.addWidget(self.shot)
        whole, box = in_line((0, 0, 0, 0), 0)
        box.addWidget(self.left)
        box.addWidget(middle, 1)
        box.addWidget(right)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._pages = QStackedLayout(self)
        self._pages.addWidget(whole)
        self._pages.addWidget(self._empty)

    def _connect(self) -> None:
        study = self.study
        study.changed.connect(self._show)
        study.laid.connect(self._lay)
        study.signals_came.connect(self._show_signals)
        study.placed.connect(self.left.place_beside)
        self.skyline.moved.connect(self.lanes.show_between)
        self.skyline.pointed.connect(self._point)
        self.lanes.pressed.connect(self.skyline.go_to)
        self.lanes.wheeled.connect(self.skyline.zoom)
        self.lanes.pushed.connect(self.skyline.push)
        self.left.shown_changed.connect(self._show_wanted)
        self.left.beside_chosen.connect(self.figures.show_beside)
        self.left.menu_wanted.connect(self.menu_wanted)
        self.figures.menu_asked.connect(partial(self.menu_wanted.emit, "rhythm-figures"))
        for card in (self.sky_card, self.near_card, self.far_card):
            card.menu_asked.connect(partial(self._ask_chart_menu, card))
            card.turned.connect(lambda _name: self._draw_small())
        for chart in (self.skyline, self.spread, self.echo, self.pulse, *self.points.values()):
            chart.area.menu_asked.connect(partial(self._ask_menu_in, chart))
        for points in self.points.values():
            points.pointed.connect(self._point)
            points.chosen.connect(self._go_to_shot)
        for name in ("near", "far"):
            card = self.near_card if name == "near" else self.far_card
            card.turn(str(self._settings.value(f"rhythm-{name}-chart", card.names[0])))
        self._s.moved.connect(lambda _frame: self._follow())

    # showing

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.pictures.set_ratio(self.devicePixelRatioF())
        self.study.signals.try_again()
        self.refresh()
        self.skyline.setFocus()

    def take_keys(self) -> None:
        """Take the keys."""
        self.skyline.setFocus()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.DevicePixelRatioChange:
            self.pictures.set_ratio(self.devicePixelRatioF())
            self.restyle()
        return super().event(event)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._settings.setValue("rhythm-near-chart", self.near_card.shown)
        self._settings.setValue("rhythm-far-chart", self.far_card.shown)
        upper, lower = self.split.sizes()
        self._settings.setValue("rhythm-upper", round(640 * upper / max(1, upper + lower)))

    def refresh(self) -> None:
        """Show everything as it is now."""
        self.study.refresh()
        self._lay()
        self._show()

    def restyle(self) -> None:
        """Take the theme in force."""
        for chart in (self.skyline, self.spread, self.echo, self.pulse, *self.points.values()):
            chart.restyle()
        self.left.page_button.restyle()
        self.left.add_button.restyle()
        self._show()

    def close_pictures(self) -> None:
        """Stop what works for this view in the background."""
        self.study.signals.close()
        self.pictures.close()

    def _lay(self) -> None:
        self.skyline.lay()
        self.lanes.refresh()

    def _show(self) -> None:
        if not self.isVisible():
            return
        source = self._s.source
        searched = source is not None and (source.searched or len(self._s.shots) > 1)
        self._pages.setCurrentIndex(0 if searched else 1)
        self._empty.setText(
            "Bring a film in, and find its seams; its rhythm will be shown here"
            if source is None
            else "Its seams are not found yet; once they are, its rhythm will be shown here"
        )
        whole = self.study.whole
        self.left.refresh()
        self.figures.refresh()
        self._show_wanted()
        why = "" if len(whole.lengths) else "There are no shots here"
        self.sky_card.tell("skyline", self._axis_words(), why)
        self._follow()
        self._draw_soon()

    def _axis_words(self) -> str:
        whole = self.study.whole
        scale = "seconds, logarithmic" if whole.manner.log else "seconds"
        if not whole.lengths.film:
            return f"{scale}, shots end to end"
        shots = whole.figures.shots
        part = self.study.subject.what is StudyOf.RANGE
        return f"{scale}, {shots} shots in the range" if part else f"{scale}, over the film"

    def _draw_soon(self) -> None:
        """Draw the small charts in a moment: while a hand moves, figures come first."""
        if not self._soon.isActive():
            self._soon.start()

    def _draw_small(self) -> None:
        """Draw the small charts that are seen."""
        if not self.isVisible():
            return
        for card, charts in (
            (self.near_card, {"spread": self.spread, "pulse": self.pulse}),
            (self.far_card, {"echo": self.echo, **self.points}),
        ):
            aside, why = charts[card.shown].refresh()
            card.tell(card.shown, aside, why)
        for points in self.points.values():
            points.show_here(self.skyline.here)
        self.figures.tell_difference()

    def _show_wanted(self) -> None:
        """Draw the skyline and the lanes with what is wanted of them."""
        self.skyline.shows_pace = self.left.shows("pace")
        self.skyline.shows_joins = self.left.shows("joins")
        self.skyline.refresh()
        self.lanes.set_wanted(self.left.lanes)

    def _show_signals(self) -> None:
        self.lanes.refresh()
        self._draw_soon()

    def _point(self, place: int) -> None:
        self.shot.show_shot(place if place >= 0 else self.skyline.here)

    def _follow(self) -> None:
        if self.isVisible():
            here = self.skyline.here
            self.shot.show_shot(here)
            for points in self.points.values():
                if points.isVisible():
                    points.show_here(here)

    def _go_to_shot(self, place: int) -> None:
        axis = self.study.axis
        if 0 <= place < len(axis):
            self.skyline.go_to(float(axis.begins[place]))

    # doing

    def smooth(self, way: int) -> None:
        """Smooth the pace over more shots, or fewer."""
        now = self.study.manner.smoothing
        self.left.smoothing.setValue(now + way * max(1, now // 5))

    def pick_here(self) -> None:
        """Choose the shot that is shown, so that its picture goes on the page, or not."""
        place = self.shot.place
        if place < 0 or self.skyline.ref_at(place) is None:
            self._s.said.emit("Point at a shot first")
            return
        self.skyline.pick(place)
        count = len(self.skyline.picked_places)
        words = "1 picture" if count == 1 else f"{count} pictures"
        self._s.said.emit(f"{words} on the page" if count else "The page gets a few pictures")

    def next_window(self) -> None:
        """Count the pulse in the next wider window, and after the widest in the usual one."""
        now = self.study.manner.window
        wider = next((w for w in WINDOWS if w > now), 0.0)
        self.study.set_manner(window=wider)
        words = f"of {wider:g} s" if wider else "as wide as usual"
        self._s.said.emit(f"The pulse is counted in a window {words}")

    def next_charts(self) -> None:
        """Show the next charts in both cards below."""
        for card in (self.near_card, self.far_card):
            card.turn(card.names[(card.names.index(card.shown) + 1) % len(card.names)])

    def _ask_chart_menu(self, card: ChartCard, place: QPoint) -> None:
        self.chart_here = card.shown
        kind = "rhythm-skyline" if card is self.sky_card else "rhythm-chart"
        self.menu_wanted.emit(kind, place)

    def _ask_menu_in(self, chart: QWidget, place: QPoint) -> None:
        for card in (self.sky_card, self.near_card, self.far_card):
            if card.isAncestorOf(chart):
                self._ask_chart_menu(card, place)

    def keep_chart(self, form: str) -> None:
        """Ask for a folder, and keep the chart that a menu was asked for."""
        words = f"Keep {self.chart_here}.{form} in"
        folder = ask_folder(self, self._s, "study", words)
        if folder:
            self.keeping.keep_charts(folder, form, [self.chart_here])

    def copy(self) -> None:
        """Copy what is selected of an explanation, or else the figures."""
        selected = self.figures.explained.selectedText()
        if selected:
            QGuiApplication.clipboard().setText(selected)
        else:
            self.keeping.copy_figures()

    def copy_chart(self) -> None:
        """Copy the chart that a menu was asked for, or else the skyline."""
        self.keeping.copy_chart(self.chart_here)

    # beside

    def beside_menu(self) -> QMenu:
        """Return what can be put beside: of the project, and from files."""
        menu = QMenu(self)
        project, held = self._s.project, {b.key for b in self.study.beside}
        own = self.study.subject
        parts = [
            *((Subject(StudyOf.FILM, s.id), name_of(s)) for s in project.sources),
            *((Subject(StudyOf.SCENE, s.id), f"Scene: {s.name}") for s in project.scenes),
            *((Subject(StudyOf.ORDER, o.id), f"Order: {o.name}") for o in project.orders),
        ]
        for subject, words in parts:
            if subject.key in held or subject == own:
                continue
            action = menu.addAction(words.replace("&", "&&"))
            action.triggered.connect(partial(self._hold, subject))
        if not menu.isEmpty():
            menu.addSeparator()
        menu.addAction("A film, a list or another project…").triggered.connect(self.ask_file)
        return menu

    def _hold(self, subject: Subject, _on: bool = False) -> None:
        self.study.hold_subject(subject)

    def ask_beside(self) -> None:
        """Show what can be put beside."""
        menu = self.beside_menu()
        button: QWidget = self.left.add_button
        menu.exec(button.mapToGlobal(QPoint(0, button.height() + 2)))

    def ask_file(self) -> None:
        """Ask for files to put beside."""
        endings = [*reading_endings(), ".json", SUFFIX, *sorted(MOVIES)]
        kinds = " ".join(f"*{e}" for e in dict.fromkeys(endings))
        forms = f"Films, lists, projects ({kinds});;{ANY}"
        for path in ask_files(self, self._s, "beside", "Put beside", forms):
            self.study.hold_file(path)


def _whole(value: object, otherwise: int) -> int:
    """Return a remembered share of 640 pixels, whatever the settings say."""
    try:
        return max(120, min(520, int(str(value))))
    except ValueError:
        return otherwise
