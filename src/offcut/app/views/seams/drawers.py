"""The right-hand panel: drawers for the film and its shot, what is in it, slivers, ranges."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.range_and_markers import RangeAndMarkers
from offcut.app.session.session import Session
from offcut.app.views.seams.contents_drawer import ContentsDrawer
from offcut.app.views.seams.drawer_tab import DrawerTab
from offcut.app.views.seams.film_drawer import FilmDrawer
from offcut.app.views.seams.range_drawer import RangeDrawer
from offcut.app.views.seams.sliver_drawer import SliverDrawer

NAMES = ("Film", "In it", "Slivers", "Ranges")
FILM, CONTENTS, SLIVERS, RANGES = range(4)


class Drawers(QWidget):
    """One drawer open at a time."""

    def __init__(
        self,
        session: Session,
        ranges: RangeAndMarkers,
        actions: dict[str, QAction],
        contents: ContentsDrawer,
    ) -> None:
        super().__init__()
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.film = FilmDrawer(session)
        self.contents = contents
        self.slivers = SliverDrawer(session)
        self.ranges = RangeDrawer(session, ranges, actions)
        self.stack = QStackedWidget()
        self.tabs = [DrawerTab(name) for name in NAMES]
        row = QHBoxLayout()
        row.setContentsMargins(12, 4, 12, 0)
        row.setSpacing(2)
        drawers = (self.film, self.contents, self.slivers, self.ranges)
        for i, (tab, drawer) in enumerate(zip(self.tabs, drawers, strict=True)):
            tab.clicked.connect(lambda _on=False, at=i: self.open(at))
            row.addWidget(tab, 1)
            self.stack.addWidget(_scrolled(drawer))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(row)
        box.addWidget(self.stack, 1)
        self.open(FILM)

    def open(self, at: int) -> None:
        """Open a drawer by its place."""
        self.stack.setCurrentIndex(at)
        self.tabs[at].setChecked(True)

    def name_shot(self) -> None:
        """Put the cursor into the shot's name."""
        self.open(FILM)
        self._reach(self.film.name)
        self.film.name.setFocus()
        self.film.name.selectAll()

    def next_sliver(self) -> None:
        """Open the slivers, and go to the next one."""
        was = self.stack.currentIndex()
        self.open(SLIVERS)
        if was == SLIVERS or self.slivers.list.count():
            self.slivers.next()

    def show_marker(self, marker_id: int) -> None:
        """Open the ranges on a marker."""
        self.open(RANGES)
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
