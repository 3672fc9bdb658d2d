"""The Intake view put together: shelf, picture, ticket."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.actions import Actions
from offcut.app.shared.film_pictures import FilmPictures
from offcut.app.theme import SMALL, font, theme
from offcut.app.theme.parts import in_line, label, pane, stacked
from offcut.app.views.description import ViewContext, ViewPage
from offcut.app.views.intake.live_view import LiveView
from offcut.app.views.intake.shelf import Shelf
from offcut.app.views.intake.ticket_panel import TicketPanel
from offcut.app.views.intake.under_way import UnderWayPanel
from offcut.core.media.labels import ORDERS, running_time
from offcut.core.media.proxy import slow_because
from offcut.core.model.source import Source
from offcut.core.model.verbs.ticket import set_like
from offcut.core.words import many


class DropPlace(QWidget):
    """Says what can be dropped; the whole window takes it."""

    clicked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(64)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Drop films, folders or runs of stills here, or press Ctrl+O")

    def mouseReleaseEvent(self, event: object) -> None:
        self.clicked.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        painter.setPen(QPen(look.colour("faint"), 1.2, Qt.PenStyle.DashLine))
        area = self.rect().adjusted(16, 2, -16, -2)
        painter.drawRoundedRect(area, 6, 6)
        painter.setFont(font())
        painter.setPen(look.colour("text"))
        top = area.adjusted(0, 9, 0, -area.height() // 2)
        painter.drawText(top, Qt.AlignmentFlag.AlignCenter, "Drop films, folders or stills here")
        painter.setFont(font(SMALL))
        painter.setPen(look.colour("faint"))
        foot = area.adjusted(0, area.height() // 2, 0, -9)
        words = "or Ctrl+O; numbered pictures come in as one film"
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, words)


class IntakeView(ViewPage):
    """Bring in, say what is true of films, put them to work."""

    takes_keys = True

    def __init__(self, context: ViewContext, table: Actions) -> None:
        super().__init__()
        self._s = session = context.session
        self._search = context.search
        self._settings = context.settings
        self._proxied: dict[int, bool] = {}
        self._looking = False
        session.project_changed.connect(self._proxied.clear)
        session.proxy_changed.connect(self._proxies_changed)
        self.films = FilmPictures(session.pictures)
        self.shelf = Shelf(session, context.search, self.films)
        self.shelf.menu_wanted.connect(self.menu_wanted)
        self.live = LiveView(session, context.player, context.large, context.small, self.films)
        self.ticket = TicketPanel(session)
        self.under_way = UnderWayPanel(session, context.search)
        self._count = label("", "monofaint")
        self.order = QComboBox()
        self.order.setAccessibleName("Order of the films")
        for name, words in ORDERS.items():
            self.order.addItem(words, name)
        self.order.activated.connect(self._set_order)
        self.find_all = QPushButton("Find seams in all")
        self.find_all.setObjectName("main")
        self.find_all.clicked.connect(lambda: self.find_seams(self._unsearched()))
        self.make_proxies = QPushButton()
        self.make_proxies.clicked.connect(lambda: self._search.make_proxies(self._wanting()))
        self.find_chosen = QPushButton()
        self.find_chosen.setObjectName("main")
        self.find_chosen.clicked.connect(self.find_in_chosen)
        self.alike = QPushButton()
        self.alike.setToolTip("Set of all films what is set of this one, but for start and reel")
        self.alike.clicked.connect(self.same_for_all)
        self._lay_out(table)
        self.ticket.framing_wanted.connect(table.by_id["framing"].trigger)
        self.ticket.searched_again.connect(self.find_seams)
        self.live.searched_again.connect(self.find_seams)
        session.changed.connect(self._show)
        session.chosen_changed.connect(self._show)
        session.film_changed.connect(self._show)
        context.search.changed.connect(self._show)
        context.search.finished.connect(lambda _words: self._films_finished())
        remembered = str(self._settings.value("shelf-order", "came"))
        self.order.setCurrentIndex(max(0, self.order.findData(remembered)))
        self.shelf.set_order(str(self.order.currentData()))
        self._show()

    def _lay_out(self, table: Actions) -> None:
        left = pane("list")
        left.setFixedWidth(378)
        head = QHBoxLayout()
        head.setContentsMargins(16, 10, 12, 4)
        head.setSpacing(10)
        head.addWidget(label("Films", "head"))
        head.addWidget(self._count)
        head.addStretch()
        head.addWidget(self.order)
        drop = DropPlace()
        drop.clicked.connect(table.by_id["open-film"].trigger)
        both = QHBoxLayout()
        both.setContentsMargins(16, 4, 16, 8)
        both.setSpacing(10)
        for button in (self.find_all, self.make_proxies):
            button.setMinimumHeight(32)
            both.addWidget(button, 1)
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.shelf, 1)
        column.addWidget(drop)
        column.addLayout(both)
        column.addWidget(self.under_way)
        middle, row = in_line((0, 0, 0, 0), look="bench")
        row.addWidget(self.live)
        right = pane("side")
        right.setFixedWidth(262)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inside, room = stacked((16, 12, 16, 8))
        room.addWidget(self.ticket)
        room.addStretch()
        area.setWidget(inside)
        side = QVBoxLayout(right)
        side.setContentsMargins(0, 0, 0, 12)
        side.setSpacing(8)
        side.addWidget(area, 1)
        for button in (self.find_chosen, self.alike):
            button.setMinimumHeight(32)
            line = QHBoxLayout()
            line.setContentsMargins(16, 0, 16, 0)
            line.addWidget(button)
            side.addLayout(line)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(left)
        box.addWidget(middle, 1)
        box.addWidget(right)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show()
        self.shelf.setFocus()

    def take_keys(self) -> None:
        """Take the keys."""
        self.shelf.setFocus()

    def restyle(self) -> None:
        """Take the theme in force."""
        self.shelf.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.under_way.refresh()

    def close_pictures(self) -> None:
        """Stop what works for this view in the background."""
        self.films.close()

    # showing

    def _show(self) -> None:
        if not self.isVisible():
            return
        sources = self._s.project.sources
        seconds = sum(s.media.frames / s.media.rate for s in sources)
        whole = running_time(round(seconds), Fraction(1))
        self._count.setText(f"{len(sources)}, {whole}" if sources else "")
        unsearched, wanting = self._unsearched(), self._wanting()
        self.find_all.setEnabled(bool(unsearched))
        self.make_proxies.setEnabled(bool(wanting))
        count = f", {many(len(wanting), 'film')}" if wanting else ""
        self.make_proxies.setText(f"Make proxies{count}")
        chosen = self._s.chosen_sources
        again = " again" if chosen and all(s.searched for s in chosen) else ""
        what = "this film" if len(chosen) == 1 else many(len(chosen), "film")
        self.find_chosen.setText(f"Find seams in {what}{again}" if chosen else "Find seams")
        self.find_chosen.setEnabled(bool(chosen))
        count = f" {len(sources)}" if len(sources) > 1 else ""
        self.alike.setText(f"The same for all{count}")
        self.alike.setEnabled(len(sources) > 1)

    def _unsearched(self) -> list[int]:
        queued = {*self._search.waiting_ids, self._search.finding_id}
        sources = self._s.project.sources
        return [s.id for s in sources if not s.searched and s.id not in queued]

    def _wanting(self) -> list[int]:
        """Return the films that play slowly and have no proxy under way."""
        queued = {*self._search.waiting_ids, self._search.finding_id}
        return [s.id for s in self._s.project.sources if s.id not in queued and self._is_slow(s)]

    def _is_slow(self, source: Source) -> bool:
        film = self._s.bench_of(source.id).film
        if not slow_because(source.media, film.index if film is not None else None):
            return False
        if source.id not in self._proxied and not self._looking:
            self._look_for_proxies()
        return not self._proxied.get(source.id, True)

    def _proxies_changed(self, source_id: int) -> None:
        self._proxied.pop(source_id, None)
        self._show()

    def _look_for_proxies(self) -> None:
        """Ask the folder of proxies which films have one; a slow disk holds nothing up."""
        medias = {s.id: s.media for s in self._s.project.sources}
        self._looking = True

        def found(there: dict[int, bool]) -> None:
            self._proxied = there

        def ended() -> None:
            self._looking = False
            self._show()

        self._s.work(
            "Looking for proxies",
            lambda _job: {i: self._search.has_proxy(media) for i, media in medias.items()},
            found, failed=lambda _words: found(dict.fromkeys(medias, False)), ended=ended,
            quick=True,
        )  # fmt: skip

    def _set_order(self, _place: int) -> None:
        name = str(self.order.currentData())
        self._settings.setValue("shelf-order", name)
        self.shelf.set_order(name)

    def _films_finished(self) -> None:
        self.films.forget()
        self.shelf.refresh()

    # doing

    def find_seams(self, source_ids: Iterable[int]) -> None:
        """Find the seams of films, one after another."""
        self._search.find_all(list(source_ids))

    def find_in_chosen(self) -> None:
        """Find the seams of the chosen films."""
        self.find_seams([s.id for s in self._s.chosen_sources])

    def same_for_all(self) -> None:
        """Set of all films what is set of the one in hand."""
        like = self._s.source
        if like is None:
            return
        sources = self._s.project.sources
        ids = [s.id for s in sources if s.id != like.id]

        words = many(len(ids), "film")
        before = {s.id: (s.framing, s.ticket.stops, s.ticket.flash) for s in sources}
        if self._s.edit_project(lambda p: set_like(p, like.id, ids), f"The same for {words}"):
            now = self._s.project.sources
            self.find_seams(
                s.id
                for s in now
                if s.searched and before[s.id] != (s.framing, s.ticket.stops, s.ticket.flash)
            )
