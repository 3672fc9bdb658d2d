"""The left of Rhythm: what is studied, what is beside it, how it is shown."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, QRectF, QSettings, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QFocusEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QCheckBox,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QRadioButton,
    QScrollArea,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.session.session import Session
from offcut.app.theme import BODY, WAX, font, theme
from offcut.app.theme.parts import label, plain, stacked
from offcut.app.views.rhythm.chart_look import stroke_of
from offcut.app.views.rhythm.lanes_well import NAMES
from offcut.app.views.rhythm.study import Study
from offcut.core.rhythm.subjects import Offered, offered
from offcut.core.rhythm.usual import SMOOTHEST

WIDE = 222
SHOWN = {
    "pace": "Pace, smoothed",
    "joins": "Gradual joins",
    "light": "Light and colours",
    "scenes": "Scenes",
    "movement": "Movement",
    "loudness": "Loudness",
    "camera": "Camera moves",
    "faces": "Faces",
    "speech": "Speech",
}


class SubjectList(QWidget):
    """What can be studied, one of it chosen."""

    def __init__(self, session: Session, study: Study) -> None:
        super().__init__()
        self._s = session
        self._study = study
        self._told: list[Offered] = []
        self.buttons: dict[str, QRadioButton] = {}
        self._group = QButtonGroup(self)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(16, 0, 10, 0)
        self._column.setSpacing(3)

    def refresh(self) -> None:
        """Show what there is now."""
        source = self._s.source
        entries = []
        if source is not None:
            marked = self._s.marked is not None
            entries = offered(self._s.project, source, self._s.chosen, marked)
        if entries != self._told:
            self._told = entries
            for button in self.buttons.values():
                self._group.removeButton(button)
                self._column.removeWidget(button)
                button.deleteLater()
            self.buttons = {e.subject.key: self._button(e) for e in entries}
        now = self.buttons.get(self._study.subject.key)
        if now is not None:
            now.setChecked(True)

    def _button(self, entry: Offered) -> QRadioButton:
        button = QRadioButton()
        metrics = self.fontMetrics()
        elided = metrics.elidedText(entry.words, Qt.TextElideMode.ElideRight, WIDE - 58)
        button.setText(elided.replace("&", "&&"))
        button.setToolTip(plain(entry.why_not or entry.words))
        button.setEnabled(not entry.why_not)
        button.clicked.connect(lambda _on: self._study.choose(entry.subject))
        self._group.addButton(button)
        self._column.addWidget(button)
        return button

    def step(self, way: int) -> None:
        """Study what stands before or after in the list."""
        keys = [e.subject.key for e in self._told if not e.why_not]
        here = self._study.subject.key
        at = keys.index(here) if here in keys else 0
        if keys:
            key = keys[max(0, min(len(keys) - 1, at + way))]
            self._study.choose(next(e.subject for e in self._told if e.subject.key == key))


class BesideLine(QAbstractButton):
    """One thing beside: its stroke and its name."""

    menu_asked = Signal(QPoint)

    def __init__(self, place: int, words: str) -> None:
        super().__init__()
        self._place, self._words = place, words
        self.setCheckable(True)
        self.setFixedHeight(25)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(words)
        self.setToolTip(plain(f"{words}\nA click shows its figures, Del takes it away"))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        look = theme()
        if self.underMouse():
            painter.fillRect(self.rect(), look.colour("bench"))
        painter.setPen(stroke_of(self._place, 1.8))
        y = self.height() // 2
        painter.drawLine(16, y, 46, y)
        painter.setPen(look.colour("text"))
        painter.setFont(font(BODY, strong=self.isChecked()))
        room = QRectF(54, 0, self.width() - 62, self.height())
        shown = painter.fontMetrics().elidedText(
            self._words, Qt.TextElideMode.ElideMiddle, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
        if self.hasFocus():
            painter.fillRect(QRectF(54, self.height() - 2, room.width(), 2), WAX)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Where the keys are, there is what they act on."""
        super().focusInEvent(event)
        if not self.isChecked():
            self.click()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Ask for a menu."""
        self.menu_asked.emit(event.globalPos())


class OfWhat(QWidget):
    """The whole left side. ``beside_chosen`` tells the place beside whose figures are wanted.

    ``shown_changed`` tells that other curves or lanes are wanted; ``menu_wanted`` as of views.
    Attributes: ``show_boxes`` the check boxes by their names; ``beside_here`` the place beside that
    was clicked on last.
    """

    beside_chosen = Signal(int)
    shown_changed = Signal()
    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, study: Study, settings: QSettings, table: Actions) -> None:
        super().__init__()
        self.setObjectName("list")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDE)
        self._s = session
        self._study = study
        self._settings = settings
        self.subjects = SubjectList(session, study)
        self.beside_lines: list[BesideLine] = []
        self.beside_here = 0
        self._beside = QVBoxLayout()
        self._beside.setSpacing(0)
        self._hint = label("Another film, list or version, to see what differs", "faint")
        self._hint.setWordWrap(True)
        self._hint.setContentsMargins(16, 0, 12, 2)
        self.add_button = ActionButton(table, "rhythm-beside", "Add beside")
        self.add_button.setMinimumHeight(28)
        self.true_time = QCheckBox("In its own time")
        self.true_time.setToolTip(
            "What is beside lies in its own seconds; else it is stretched to the same width"
        )
        self.show_boxes: dict[str, QCheckBox] = {}
        self.log_box = QCheckBox("Logarithmic lengths")
        self.aside_box = QCheckBox("Count what is set aside")
        self.smoothing = QSlider(Qt.Orientation.Horizontal)
        self.smoothing.setRange(1, SMOOTHEST)
        self.smoothing.setAccessibleName("How many shots wide the pace is smoothed")
        self.smoothing_words = label("", "faint")
        self.limit = QDoubleSpinBox()
        self.limit.setRange(0.04, 600)
        self.limit.setDecimals(2)
        self.limit.setSingleStep(0.25)
        self.limit.setSuffix(" s")
        self.limit.setAccessibleName("Shots under so many seconds are short")
        self.limit.lineEdit().setTextMargins(4, 0, 0, 0)
        self.limit.setKeyboardTracking(False)
        self.page_button = ActionButton(table, "rhythm-page", "Keep the page", main=True)
        self.keep_button = QPushButton("Keep or copy…")
        self.keep_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.keep_button.setMinimumHeight(30)
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        inside, column = stacked((0, 12, 0, 8), 4)

        def head(words: str) -> None:
            told: QLabel = label(words, "head")
            told.setContentsMargins(16, 0, 0, 2)
            column.addWidget(told)

        def line(*parts: QWidget) -> None:
            row = QHBoxLayout()
            row.setContentsMargins(16, 0, 14, 0)
            row.setSpacing(8)
            for part in parts:
                row.addWidget(part, 1 if part is parts[0] else 0)
            column.addLayout(row)

        head("Of what")
        column.addWidget(self.subjects)
        column.addSpacing(10)
        head("Beside it")
        column.addWidget(self._hint)
        column.addLayout(self._beside)
        line(self.true_time)
        line(self.add_button)
        column.addSpacing(10)
        head("Show")
        for name, words in SHOWN.items():
            box = QCheckBox(words)
            box.setChecked(self._settings.value(f"rhythm-shows-{name}", True, type=bool) is True)
            box.toggled.connect(partial(self._toggled, name))
            self.show_boxes[name] = box
            line(box)
            if name == "pace":
                line(self.smoothing, self.smoothing_words)
        line(self.log_box)
        line(self.aside_box)
        line(label("Short is under"), self.limit)
        column.addStretch(1)
        area = QScrollArea()
        area.setObjectName("plain")
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inside)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 12)
        whole.setSpacing(7)
        whole.addWidget(area, 1)
        for button in (self.page_button, self.keep_button):
            row = QHBoxLayout()
            row.setContentsMargins(16, 0, 16, 0)
            row.addWidget(button)
            whole.addLayout(row)

    def _connect(self) -> None:
        study = self._study
        self.true_time.toggled.connect(lambda on: study.set_manner(true_time=on))
        self.log_box.toggled.connect(lambda on: study.set_manner(log=on))
        self.aside_box.toggled.connect(study.set_aside)
        self.smoothing.valueChanged.connect(lambda n: study.set_manner(smoothing=n))
        self.limit.valueChanged.connect(lambda v: study.set_manner(limit=v))
        self.keep_button.clicked.connect(self._ask_keep)

    def _ask_keep(self) -> None:
        corner = self.keep_button.mapToGlobal(QPoint(0, 0))
        self.menu_wanted.emit("rhythm-keep", corner - QPoint(0, 8))

    def _toggled(self, name: str, on: bool) -> None:
        self._settings.setValue(f"rhythm-shows-{name}", on)
        self.shown_changed.emit()

    def shows(self, name: str) -> bool:
        """Tell whether a curve or lane is wanted."""
        return self.show_boxes[name].isChecked()

    @property
    def lanes(self) -> set[str]:
        """The lanes that are wanted."""
        return {name for name in NAMES if self.shows(name)}

    def refresh(self) -> None:
        """Show everything as it is now."""
        study, manner = self._study, self._study.manner
        self.subjects.refresh()
        _quietly(self.true_time, lambda: self.true_time.setChecked(manner.true_time))
        _quietly(self.log_box, lambda: self.log_box.setChecked(manner.log))
        _quietly(self.aside_box, lambda: self.aside_box.setChecked(study.aside))
        _quietly(self.smoothing, lambda: self.smoothing.setValue(manner.smoothing))
        _quietly(self.limit, lambda: self.limit.setValue(manner.limit))
        wide = manner.smoothing
        self.smoothing_words.setText("as cut" if wide <= 1 else f"{wide} shots")
        self.true_time.setVisible(bool(study.beside))

    def place_beside(self) -> None:
        """Show what is beside as it is now."""
        for line in self.beside_lines:
            self._beside.removeWidget(line)
            line.deleteLater()
        self.beside_lines = []
        for place, held in enumerate(self._study.beside):
            line = BesideLine(place, held.lengths.name)
            line.clicked.connect(partial(self._choose_beside, place))
            line.menu_asked.connect(partial(self._ask_beside, place))
            self.beside_lines.append(line)
            self._beside.addWidget(line)
        self._hint.setVisible(not self.beside_lines)
        self._choose_beside(min(self.beside_here, max(0, len(self.beside_lines) - 1)))

    def _choose_beside(self, place: int, _on: bool = True) -> None:
        self.beside_here = place
        for n, line in enumerate(self.beside_lines):
            line.setChecked(n == place)
        self.beside_chosen.emit(place)

    def _ask_beside(self, place: int, at: QPoint) -> None:
        self._choose_beside(place)
        self.menu_wanted.emit("rhythm-beside", at)


def _quietly(widget: QWidget, do: Callable[[], object]) -> None:
    """Change a field without its being heard."""
    was = widget.blockSignals(True)
    do()
    widget.blockSignals(was)
