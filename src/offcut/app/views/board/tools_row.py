"""The row over the Board's shots: finding, the three layouts, their order, their size."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QSlider,
    QToolButton,
    QWidget,
)

from offcut.app.theme.parts import plain
from offcut.app.views.board.shot_tiles import BIN, SHEET
from offcut.core.board.rows import SORTS
from offcut.core.facts.query import FLAGS

TABLE, OWN = "table", "own"
LAYOUTS = {BIN: "Bin", SHEET: "Sheet", TABLE: "Table"}
FIND_HINT = (
    "Words in names, notes, scenes, reels and film names\n"
    "-word without it, “two words” in a row\n"
    "> 3 s, < 12 f by length\n"
    "scene: name: note: reel: film: in one of these alone\n"
    "cut, dissolve, fade, wipe, whip by how it is joined\n" + ", ".join(FLAGS)
)


class FindField(QLineEdit):
    """The one field of finding; Down goes on to what was found, Esc empties it.

    ``left`` tells that what was found is gone on to, ``entered`` that something will be typed.
    """

    left = Signal()
    entered = Signal()

    def event(self, event: QEvent) -> bool:
        override = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if override and event.key() == Qt.Key.Key_Escape and self.text():  # type: ignore[attr-defined]
            event.accept()  # it empties the field before it stops anything
            return True
        return super().event(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.entered.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.left.emit()
        elif event.key() == Qt.Key.Key_Escape and self.text():
            self.clear()
        else:
            super().keyPressEvent(event)


class ToolsRow(QWidget):
    """``layout_wanted`` another layout is asked for by its name, ``sort_wanted`` another order."""

    layout_wanted = Signal(str)
    sort_wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(46)
        self.find_field = FindField()
        self.everywhere = QToolButton()
        self.layouts: dict[str, QToolButton] = {}
        self.sort = QComboBox()
        self.size_slider = QSlider(Qt.Orientation.Horizontal)
        self._lay_out()

    def _lay_out(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 0)
        row.setSpacing(4)
        self.find_field.setPlaceholderText("Find: words, > 3 s, dissolve, scene:")
        self.find_field.setToolTip(plain(FIND_HINT))
        self.find_field.setAccessibleName("Find shots")
        self.find_field.setClearButtonEnabled(False)
        self.find_field.setMinimumWidth(96)
        row.addWidget(self.find_field, 1)
        self.everywhere.setText("Everywhere")
        self.everywhere.setObjectName("choice")
        self.everywhere.setCheckable(True)
        self.everywhere.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.everywhere.setToolTip("Find in every project saved on this machine")
        row.addWidget(self.everywhere)
        row.addSpacing(8)
        group = QButtonGroup(self)
        for name, words in LAYOUTS.items():
            button = self.layouts[name] = QToolButton()
            button.setText(words)
            button.setObjectName("choice")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            group.addButton(button)
            button.clicked.connect(lambda _on=False, n=name: self.layout_wanted.emit(n))
            row.addWidget(button)
        row.addSpacing(8)
        for name, words in SORTS.items():
            self.sort.addItem(words, name)
        self.sort.setAccessibleName("Order of the shots")
        self.sort.activated.connect(self._sort_chosen)
        self.sort.setMinimumWidth(104)
        self.sort.setMaximumWidth(120)
        self.sort.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        row.addWidget(self.sort)
        row.addSpacing(8)
        self.size_slider.setMinimumWidth(48)
        self.size_slider.setMaximumWidth(84)
        self.size_slider.setToolTip("Size of the pictures (Ctrl with the wheel, Ctrl and + or -)")
        self.size_slider.setAccessibleName("Size of the pictures")
        row.addWidget(self.size_slider)

    def _sort_chosen(self) -> None:
        if self.sort.currentData() != OWN:
            self.sort_wanted.emit(str(self.sort.currentData()))

    @property
    def layout_name(self) -> str:
        """The layout that is chosen."""
        return next((n for n, b in self.layouts.items() if b.isChecked()), BIN)

    def show_everywhere(self, on: bool) -> None:
        """Leave only what makes sense where all projects are searched."""
        for part in (*self.layouts.values(), self.sort):
            part.setVisible(not on)

    def show_sort(self, sort: str, *, own: bool) -> None:
        """Show how shots are ordered; ``own`` True for a running order, which has its own."""
        self.sort.setEnabled(not own)
        at = self.sort.findData(OWN)
        if at >= 0:
            self.sort.removeItem(at)
        if own or sort not in SORTS:
            self.sort.addItem("Own order" if own else f"By {sort}", OWN)
        self.sort.setCurrentIndex(self.sort.findData(sort if not own and sort in SORTS else OWN))

    def show_size(self, sizes: tuple[int, int, int] | None, now: int = 0) -> None:
        """Show the size of pictures, None where they have none to choose."""
        self.size_slider.setVisible(sizes is not None)
        if sizes is not None:
            self.size_slider.blockSignals(True)
            self.size_slider.setRange(sizes[0], sizes[2])
            self.size_slider.setValue(now)
            self.size_slider.blockSignals(False)
