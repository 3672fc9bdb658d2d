"""The top bar: the project and its menu, the views there are, the work under way."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QAction, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.theme import WAX, theme
from offcut.app.theme.parts import in_line, in_menu, label, plain
from offcut.app.theme.progress_line import ProgressLine
from offcut.app.views.description import View
from offcut.core.words import time_left

WORDS_EVERY = 1.0
"""Seconds between two words of how long work still takes."""
FILMS = 40
"""So many films are listed in the menu."""


class ViewTab(QToolButton):
    """The name of a view; a wax stroke under the one that is open."""

    def __init__(self, words: str, number: int) -> None:
        super().__init__()
        self.setText(words)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setToolTip(plain(f"{words}  (Ctrl+{number})"))
        self.setFixedHeight(38)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        face = self.font()
        face.setPixelSize(13)
        if self.isChecked():
            face.setBold(True)
        painter.setFont(face)
        painter.setPen(look.colour("text" if self.isChecked() or self.underMouse() else "faint"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text())
        if self.isChecked() or self.hasFocus():
            pen = QPen(WAX, 3 if self.isChecked() else 1.5)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            wide = painter.fontMetrics().horizontalAdvance(self.text()) / 2
            x, y = self.width() / 2, self.height() - 6
            painter.drawLine(int(x - wide), int(y + 1), int(x + wide), int(y - 1))


_BETWEEN, _LEAST_WORDS = 60, 70
"""Pixels between what stands beside the tabs, and those that words under way always have."""


class TopBar(QWidget):
    """The bar over everything. ``view_chosen`` tells which view, ``recent_chosen`` which file."""

    view_chosen = Signal(str)
    recent_chosen = Signal(str)

    def __init__(
        self,
        session: Session,
        actions: dict[str, QAction],
        views: Sequence[View],
        recent: Callable[[], list[str]],
    ) -> None:
        super().__init__()
        self.setObjectName("topbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(44)
        self._session = session
        self._actions = actions
        self._recent = recent
        self._told: Job | None = None
        self._words_told = 0.0
        self._clock = QTimer(self)
        self._clock.setInterval(2000)
        self._clock.timeout.connect(self._tell_how_long)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 0, 12, 0)
        row.addWidget(self._left(), 1)
        self.tabs: dict[str, ViewTab] = {}
        for view in views:
            tab = self.tabs[view.id] = ViewTab(view.title, view.place)
            tab.clicked.connect(partial(self._choose_view, view.id))
            row.addWidget(tab)
        row.addWidget(self._right(), 1)
        session.changed.connect(self._show)
        session.film_changed.connect(self._show)
        session.jobs.changed.connect(self._show_jobs)
        self._show()
        self._show_jobs()

    def _choose_view(self, view_id: str, _on: bool = False) -> None:
        self.view_chosen.emit(view_id)

    def _left(self) -> QWidget:
        self._project = QToolButton()
        self._project.setObjectName("head")
        self._project.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._project.setToolTip("Open, save, write, undo")
        self._project.setAccessibleName("Project menu")
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_menu)
        self._project.setMenu(self._menu)
        self._edited = label("", "faint")
        self._film = label("", "faint")
        left, row = in_line((0, 0, 0, 0))
        row.addWidget(self._project)
        row.addWidget(self._film)
        row.addWidget(self._edited)
        row.addStretch()
        return left

    def _right(self) -> QWidget:
        right, row = in_line((0, 0, 0, 0))
        row.addStretch()
        self._job_words = label("", "faint")
        self._job_bar = ProgressLine("Work under way")
        self._job_bar.setFixedWidth(90)
        self._job_stop = QToolButton()
        self._job_stop.setText("Stop")
        self._job_stop.setToolTip(self._actions["stop"].toolTip())
        self._job_stop.clicked.connect(self._actions["stop"].trigger)
        for part in (self._job_words, self._job_bar, self._job_stop):
            row.addWidget(part)
        self._finder = QToolButton()
        self._finder.setText("Find a command")
        self._finder.setToolTip(self._actions["finder"].toolTip())
        self._finder.clicked.connect(self._actions["finder"].trigger)
        row.addWidget(self._finder)
        return right

    def _fill_menu(self) -> None:
        menu, a = self._menu, self._actions
        menu.clear()
        menu.addActions([a["open-film"], a["open-project"], a["new-project"]])
        recent = menu.addMenu("Recent")
        for path in self._recent():
            opening = recent.addAction(in_menu(Path(path).name))
            opening.setToolTip(plain(path))
            opening.triggered.connect(partial(self._choose_recent, path))
        recent.setEnabled(bool(self._recent()))
        self._add_films(menu.addMenu("Films"))
        menu.addSeparator()
        menu.addActions([a["save"], a["save-as"]])
        menu.addSeparator()
        menu.addActions([a["framing"], a["by-list"]])
        menu.addActions([a["cuts-out"], a["cuts-merge"], a["cuts-replace"]])
        menu.addSeparator()
        menu.addAction(a["view-turnover"])
        menu.addSeparator()
        menu.addActions([a["undo"], a["redo"]])
        menu.addSeparator()
        menu.addActions([a["theme"], a["keys"], a["settings"]])
        menu.addSeparator()
        menu.addAction(a["quit"])

    def _add_films(self, menu: QMenu) -> None:
        """List the films of the project, the one in hand ticked."""
        s = self._session
        for source in s.project.sources[:FILMS]:
            action = menu.addAction(in_menu(Path(source.media.path).name))
            action.setCheckable(True)
            action.setChecked(source.id == s.in_hand)
            action.setToolTip(plain(source.media.path))
            action.triggered.connect(partial(self._take_in_hand, source.id))
        more = len(s.project.sources) - FILMS
        if more > 0:
            menu.addAction(f"and {more} more: step to them by key").setEnabled(False)
        menu.addSeparator()
        a = self._actions
        menu.addActions([a["film-before"], a["film-after"], a["take-film-out"]])
        menu.setEnabled(bool(s.project.sources))

    def _take_in_hand(self, source_id: int, _on: bool = False) -> None:
        self._session.take_in_hand(source_id)

    def _choose_recent(self, path: str, _on: bool = False) -> None:
        self.recent_chosen.emit(path)

    def _show(self) -> None:
        s = self._session
        name = s.project.name if s.source else "Offcut"
        self._project.setText(f"{name}  ▾")
        ids = [x.id for x in s.project.sources]
        many_films = len(ids) > 1 and s.in_hand in ids
        film = Path(s.source.media.path).name if many_films and s.source is not None else ""
        self._film.setText(f"film {ids.index(s.in_hand) + 1} of {len(ids)}" if film else "")
        self._film.setToolTip(plain(film))
        self._edited.setText("" if s.history.saved or s.source is None else "edited")

    def _show_jobs(self) -> None:
        jobs = self._session.jobs.running
        for part in (self._job_words, self._job_bar, self._job_stop):
            part.setVisible(bool(jobs))
        job = jobs[-1] if jobs else None
        if job is self._told:
            return
        if self._told is not None:
            self._told.progressed.disconnect(self._progress)
        self._told = job
        self._words_told = 0.0
        if job is not None:
            self._say(job.words)
            self._job_bar.set_share(0.0)
            job.progressed.connect(self._progress)
            self._clock.start()
        else:
            self._clock.stop()

    def _tell_how_long(self) -> None:
        """Say how long work has taken that does not say how far it is."""
        job = self._told
        if job is not None and not self._words_told:
            taken = round(time.monotonic() - job.began)
            self._say(job.words, f", {taken} s so far")

    def _progress(self, done: int, whole: int) -> None:
        job = self._told
        if job is None:
            return
        self._job_bar.set_share(done / max(1, whole))
        now = time.monotonic()
        if now - self._words_told < WORDS_EVERY:
            return  # other words lay the bar out anew
        self._words_told = now
        left = time_left((now - job.began) / max(1, done) * (whole - done))
        self._say(job.words, f", {left}" if left else "")

    def _say(self, words: str, time: str = "") -> None:
        """Say what is under way in the room beside the tabs, which stay where they are."""
        self._job_words.setToolTip(plain(words + time))
        metrics = self._job_words.fontMetrics()
        beside = sum(part.sizeHint().width() for part in (self._job_stop, self._finder))
        tabs = sum(tab.sizeHint().width() for tab in self.tabs.values())
        room = (self.width() - tabs) // 2 - beside - self._job_bar.width() - _BETWEEN
        room = max(_LEAST_WORDS, room - metrics.horizontalAdvance(time))
        shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, room)
        self._job_words.setText(shown + time)
