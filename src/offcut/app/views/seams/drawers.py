"""The right-hand panel: three drawers, for the film and its shot, for slivers, for ranges."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.range_and_markers import RangeAndMarkers
from offcut.app.session.session import Session
from offcut.app.theme import BODY, WAX, font, theme
from offcut.app.views.seams.film_drawer import FilmDrawer
from offcut.app.views.seams.range_drawer import RangeDrawer
from offcut.app.views.seams.sliver_drawer import SliverDrawer

NAMES = ("Film", "Slivers", "Ranges")


class DrawerTab(QToolButton):
    """The name of a drawer; the open one is underlined."""

    def __init__(self, words: str) -> None:
        super().__init__()
        self.setText(words)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setAccessibleName(f"Drawer: {words}")
        self.setFixedHeight(30)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        painter.setFont(font(BODY, strong=self.isChecked()))
        painter.setPen(look.colour("text" if self.isChecked() or self.underMouse() else "faint"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text())
        if self.isChecked() or self.hasFocus():
            painter.setPen(QPen(WAX, 2.4 if self.isChecked() else 1.2))
            painter.drawLine(8, self.height() - 3, self.width() - 8, self.height() - 4)


class Drawers(QWidget):
    """One drawer open at a time."""

    def __init__(
        self, session: Session, ranges: RangeAndMarkers, actions: dict[str, QAction]
    ) -> None:
        super().__init__()
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.film = FilmDrawer(session)
        self.slivers = SliverDrawer(session)
        self.ranges = RangeDrawer(session, ranges, actions)
        self.stack = QStackedWidget()
        self.tabs = [DrawerTab(name) for name in NAMES]
        row = QHBoxLayout()
        row.setContentsMargins(12, 4, 12, 0)
        row.setSpacing(2)
        for i, (tab, drawer) in enumerate(
            zip(self.tabs, (self.film, self.slivers, self.ranges), strict=True)
        ):
            tab.clicked.connect(lambda _on=False, at=i: self.open(at))
            row.addWidget(tab, 1)
            self.stack.addWidget(_scrolled(drawer))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(row)
        box.addWidget(self.stack, 1)
        self.open(0)

    def open(self, at: int) -> None:
        """Open a drawer by its place."""
        self.stack.setCurrentIndex(at)
        self.tabs[at].setChecked(True)

    def name_shot(self) -> None:
        """Put the cursor into the shot's name."""
        self.open(0)
        self._reach(self.film.name)
        self.film.name.setFocus()
        self.film.name.selectAll()

    def next_sliver(self) -> None:
        """Open the slivers, and go to the next one."""
        was = self.stack.currentIndex()
        self.open(1)
        if was == 1 or self.slivers.list.count():
            self.slivers.next()

    def show_marker(self, marker_id: int) -> None:
        """Open the ranges on a marker."""
        self.open(2)
        self._reach(self.ranges.name)
        self.ranges.show_marker(marker_id)

    def _reach(self, field: QWidget) -> None:
        """Scroll the open drawer so that a field can be seen."""
        area = self.stack.currentWidget()
        if isinstance(area, QScrollArea):
            area.ensureWidgetVisible(field)


def _scrolled(drawer: QWidget) -> QScrollArea:
    """Put a drawer where it can be scrolled when the window is low."""
    area = QScrollArea()
    area.setWidget(drawer)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area
