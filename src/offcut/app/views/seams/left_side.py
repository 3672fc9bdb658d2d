"""The left side of Seams: the seams most doubtful first, or what was found in the film."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from offcut.app.theme.parts import pane
from offcut.app.views.seams.drawer_tab import DrawerTab
from offcut.app.views.seams.found_list import FoundList
from offcut.app.views.seams.seam_list import SeamList


class LeftSide(QWidget):
    """One of two lists; ``turned`` tells whether it is what was found."""

    turned = Signal(bool)

    def __init__(self, seams: SeamList, found: FoundList) -> None:
        super().__init__()
        self.seams, self.found = seams, found
        whole = pane("list")
        self.stack = QStackedWidget()
        row = QHBoxLayout()
        row.setContentsMargins(12, 4, 12, 0)
        row.setSpacing(2)
        self.tabs = [DrawerTab("Seams", "List"), DrawerTab("Found", "List")]
        for place, (tab, part) in enumerate(zip(self.tabs, (seams, found), strict=True)):
            tab.clicked.connect(lambda _on=False, at=place: self.turn(bool(at)))
            row.addWidget(tab, 1)
            self.stack.addWidget(part)
        inner = QVBoxLayout(whole)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(0)
        inner.addLayout(row)
        inner.addWidget(self.stack, 1)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(whole)
        self.tabs[0].setChecked(True)

    @property
    def shows_found(self) -> bool:
        """True where it lists what was found."""
        return self.stack.currentWidget() is self.found

    def turn(self, to_found: bool) -> None:
        """List what was found, or the seams."""
        self.tabs[to_found].setChecked(True)
        if to_found != self.shows_found:
            self.stack.setCurrentIndex(int(to_found))
            self.turned.emit(to_found)
