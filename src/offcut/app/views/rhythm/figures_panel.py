"""The figures, each with what it is a click away: a sentence, its formula, its source."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QContextMenuEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from offcut.app.theme import BODY, SMALL, WAX, font, theme
from offcut.app.theme.parts import label, plain
from offcut.app.views.rhythm.chart_look import stroke_of
from offcut.app.views.rhythm.study import Study
from offcut.core.rhythm.figures import Figures
from offcut.core.rhythm.rows import KIND_ROWS, ROWS, FigureRow, detail_of

LINE_HIGH = 23
BAR = 10
"""The bar at the side takes so much of the width; it is always there."""
OTHER = 66
"""Room for the figures of what is beside."""


class FigureLine(QAbstractButton):
    """One figure: its words, its value, and the value of what is beside."""

    def __init__(self, row: FigureRow) -> None:
        super().__init__()
        self.row = row
        self._told = ("", "", "")
        self.setCheckable(True)
        self.setFixedHeight(LINE_HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def tell(self, words: str, value: str, other: str) -> None:
        """Say the figures."""
        if self._told != (words, value, other):
            self._told = words, value, other
            self.setAccessibleName(f"{words}: {value}" + (f", beside: {other}" if other else ""))
            self.update()

    @property
    def words(self) -> tuple[str, str, str]:
        """What it says: words, value, and value beside."""
        return self._told

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        look = theme()
        words, value, other = self._told
        room = QRectF(self.rect()).adjusted(16, 0, -16, -1)
        if self.underMouse() or self.isChecked():
            painter.fillRect(self.rect(), look.colour("bench"))
        painter.setPen(look.colour("line"))
        painter.drawLine(room.bottomLeft(), room.bottomRight())
        if self.hasFocus():
            painter.fillRect(QRectF(room.left(), room.bottom() - 1, room.width(), 2), WAX)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(BODY, strong=self.isChecked()))
        painter.setPen(look.colour("text"))
        painter.drawText(room, middle | Qt.AlignmentFlag.AlignLeft, words)
        right = middle | Qt.AlignmentFlag.AlignRight
        if other:
            painter.setFont(font(SMALL, mono=True))
            painter.setPen(look.colour("faint"))
            painter.drawText(room, right, other)
            room.setRight(room.right() - OTHER)
            painter.setPen(look.colour("text"))
        long = len(value) > 10 and bool(other)
        painter.setFont(font(SMALL if long else BODY, mono=True))
        painter.drawText(room, right, value)


class _Heads(QWidget):
    """The heads of the columns: this, and what is beside with its stroke."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(26)
        self._other, self._place = "", 0

    def tell(self, other: str, place: int) -> None:
        """Say what is beside, and at which place it stands there."""
        self._other, self._place = other, place
        self.setToolTip(plain(other))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(self.rect()).adjusted(16, 0, -16 - BAR, 0)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(13, strong=True))
        painter.setPen(theme().colour("text"))
        painter.drawText(room, middle, "Figures")
        if not self._other:
            return
        painter.setFont(font(SMALL))
        painter.setPen(theme().colour("faint"))
        metrics = painter.fontMetrics()
        words = metrics.elidedText(self._other, Qt.TextElideMode.ElideMiddle, OTHER - 4)
        painter.drawText(room, middle | Qt.AlignmentFlag.AlignRight, words)
        pen: QPen = stroke_of(self._place)
        painter.setPen(pen)
        y = room.bottom() - 2
        painter.drawLine(int(room.right() - OTHER + 14), int(y), int(room.right()), int(y))
        room.setRight(room.right() - OTHER)
        painter.setPen(theme().colour("faint"))
        painter.drawText(room, middle | Qt.AlignmentFlag.AlignRight, "this")


class FiguresPanel(QWidget):
    """All figures in order; a click tells what one is. ``menu_asked`` where a menu is wanted.

    Attributes: ``lines`` by the figures' ids; ``other`` the place beside whose figures are shown.
    """

    menu_asked = Signal(QPoint)

    def __init__(self, study: Study) -> None:
        super().__init__()
        self._study = study
        self.other = 0
        self._heads = _Heads()
        self.lines: dict[str, FigureLine] = {}
        self.explained = QLabel()
        self.explained.setWordWrap(True)
        self.explained.setTextFormat(Qt.TextFormat.RichText)
        self.explained.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.explained.setContentsMargins(16, 4, 16, 9)
        self.explained.hide()
        self.differs = label("", "")
        self.differs.setWordWrap(True)
        self.differs.setContentsMargins(16, 8, 16, 4)
        self.differs.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        inside = QWidget()
        self._column = QVBoxLayout(inside)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        for row in ROWS:
            if row.id in KIND_ROWS:
                continue
            line = FigureLine(row)
            line.clicked.connect(lambda _on, n=row.id: self.explain(n))
            self.lines[row.id] = line
            self._column.addWidget(line)
        self._column.addWidget(self.explained)
        self._column.addWidget(self.differs)
        self._column.addStretch(1)
        area = QScrollArea()
        area.setObjectName("plain")
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        area.setWidget(inside)
        self._area = area
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(2)
        column.addWidget(self._heads)
        column.addWidget(area, 1)
        self._open = ""

    def refresh(self) -> None:
        """Show the figures as they are now."""
        whole = self._study.whole
        self.other = max(0, min(len(whole.beside) - 1, self.other))
        beside = whole.beside[self.other] if whole.beside else None
        self._heads.tell(beside.lengths.name if beside else "", self.other)
        for line in self.lines.values():
            row = line.row
            other = row.shown(beside.figures) if beside is not None else ""
            line.tell(row.label(whole.figures), row.shown(whole.figures), other)
        self._tell_open(whole.figures)

    def tell_difference(self) -> None:
        """Say in words how what is beside differs; this takes a moment longer than the figures."""
        beside = self._study.whole.beside
        words = beside[self.other].compared.words if self.other < len(beside) else ""
        if self.differs.text() != words:
            self.differs.setText(words)
            self.differs.setVisible(bool(words))

    def show_beside(self, place: int) -> None:
        """Show the figures of what stands at a place beside."""
        self.other = place
        self.refresh()
        self.tell_difference()

    def explain(self, name: str) -> None:
        """Say under a figure what it is; once more hides it."""
        self._open = "" if self._open == name else name
        for line in self.lines.values():
            line.setChecked(line.row.id == self._open)
        self.explained.setVisible(bool(self._open))
        if self._open:
            self._column.removeWidget(self.explained)
            line = self.lines[self._open]
            self._column.insertWidget(self._column.indexOf(line) + 1, self.explained)
            self._tell_open(self._study.whole.figures)
            QTimer.singleShot(0, self._show_explained)

    def _show_explained(self) -> None:
        self._area.ensureWidgetVisible(self.explained, 0, 0)
        self._area.ensureWidgetVisible(self.lines[self._open] if self._open else self, 0, 0)

    def _tell_open(self, figures: Figures) -> None:
        if not self._open:
            return
        row = self.lines[self._open].row
        faint = theme().faint
        parts = [row.sentence, row.why_none(figures), detail_of(row, figures)]
        told = "".join(f"<p style='margin:0 0 5px 0'>{_safe(p)}</p>" for p in parts if p)
        small = f"font-size:{SMALL}px; color:{faint}"
        told += (
            f"<p style='margin:0 0 5px 0; {small}; color:{theme().text}'>{_safe(row.formula)}</p>"
        )
        told += f"<p style='margin:0; {small}'>{_safe(row.source)}</p>"
        if self.explained.text() != told:
            self.explained.setText(told)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Ask for a menu."""
        self.menu_asked.emit(event.globalPos())


def _safe(words: str) -> str:
    return words.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
