"""A card with a chart in it: its title, or titles to choose from, and what stands beside them."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QStackedLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.theme import SMALL, font, theme
from offcut.app.theme.parts import label, plain, stacked


class _Aside(QLabel):
    """Words at the right, cut short where there is too little room."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setObjectName("faint")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(font(SMALL))
        painter.setPen(theme().colour("faint"))
        room = self.rect().adjusted(8, 0, 0, 0)
        elide = Qt.TextElideMode.ElideRight
        words = painter.fontMetrics().elidedText(self.text(), elide, room.width())
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(room, right, words)


class ChartCard(QFrame):
    """A chart under its title. ``menu_asked`` tells where a menu is asked for.

    With several names each is a page; ``turned`` tells the one that is shown. Attributes: ``aside``
    what stands at the right of the title; ``names`` of the pages.
    """

    menu_asked = Signal(QPoint)
    turned = Signal(str)

    def __init__(self, titles: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self.setObjectName("card")
        self.names = [name for name, _ in titles]
        self.aside = _Aside()
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QToolButton] = {}
        head = QHBoxLayout()
        head.setContentsMargins(14, 8, 14, 0)
        head.setSpacing(2)
        for name, title in titles:
            if len(titles) == 1:
                head.addWidget(label(title, "head"))
                continue
            button = QToolButton()
            button.setObjectName("choice")
            button.setText(title)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _on, n=name: self.turn(n))
            self._group.addButton(button)
            self._buttons[name] = button
            head.addWidget(button)
        head.addWidget(self.aside, 1)
        self._pages = QStackedLayout()
        self._empty = label()
        self._empty.setObjectName("faint")
        self._empty.setWordWrap(True)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._widgets: dict[str, QWidget] = {}
        self._shown = self.names[0]
        self._why: dict[str, str] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(1, 1, 1, 6)
        column.setSpacing(4)
        column.addLayout(head)
        column.addLayout(self._pages, 1)
        self._pages.addWidget(self._empty)

    def put(self, name: str, chart: QWidget) -> None:
        """Put a chart on its page."""
        page, inside = stacked((6, 0, 14, 2))
        inside.addWidget(chart)
        self._widgets[name] = page
        if name in self._buttons:
            self._buttons[name].setToolTip(plain(chart.accessibleName()))
        self._pages.addWidget(page)
        if name == self._shown:
            self.turn(name)

    @property
    def shown(self) -> str:
        """The name of the chart that is shown."""
        return self._shown

    def turn(self, name: str) -> None:
        """Show a page."""
        if name not in self.names:
            return
        self._shown = name
        if name in self._buttons:
            self._buttons[name].setChecked(True)
        self._show()
        self.turned.emit(name)

    def tell(self, name: str, aside: str, why_not: str = "") -> None:
        """Say what stands beside a chart's title; ``why_not`` is said in place of the chart."""
        self._why[name] = why_not
        if name == self._shown:
            self.aside.setText("" if why_not else aside)
            self.aside.setToolTip(plain(aside))
            self._show()

    def _show(self) -> None:
        why = self._why.get(self._shown, "")
        self._empty.setText(why)
        page = self._widgets.get(self._shown)
        self._pages.setCurrentWidget(self._empty if why or page is None else page)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Ask for a menu."""
        self.menu_asked.emit(event.globalPos())
