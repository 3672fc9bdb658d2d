"""What counts as shaky, dark and soft: the limits of grades, each a figure of one's own."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QDialog,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.theme.parts import label
from offcut.core.errors import OffcutError
from offcut.core.facts.grades import NAMES, USUAL, Grades, checked, grades_in_force, keep_grades

_LINES = (
    (
        "The camera’s path strays, of the picture’s width",
        "slight",
        "shaky, slightly, from",
        " %",
        2,
    ),
    ("", "medium", "shaky from", " %", 2),
    ("", "strong", "shaky, strongly, from", " %", 2),
    ("Mean light, in stops about 18 % grey", "dark", "dark under", "", 1),
    ("", "low", "low light under", "", 1),
    ("", "bright", "bright over", "", 1),
    ("Tones that are clipped", "burnt", "burnt out from", " %", 0),
    ("Fine detail beside coarse", "soft", "out of focus under", "", 2),
)


class GradesSheet(QDialog):
    """One field a limit; ``changed`` tells that others are in force."""

    changed = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("What counts as shaky, dark, soft")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.fields: dict[str, QDoubleSpinBox] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(7)
        row = 0
        now = grades_in_force()
        for head, name, words, unit, digits in _LINES:
            if head:
                if row:
                    grid.setRowMinimumHeight(row, 10)
                    row += 1
                grid.addWidget(label(head, "head"), row, 0, 1, 3)
                row += 1
            field = self.fields[name] = QDoubleSpinBox()
            field.setRange(-12, 100)
            field.setDecimals(digits)
            field.setSingleStep(10**-digits if digits else 1)
            field.setSuffix(unit)
            field.setAccessibleName(words)
            field.lineEdit().setTextMargins(4, 0, 0, 0)
            field.setFixedWidth(100)
            field.setKeyboardTracking(False)
            field.setValue(getattr(now, name))
            field.valueChanged.connect(self._changed)
            grid.addWidget(label(words), row, 0)
            grid.addWidget(field, row, 1)
            usual = f"usually {getattr(USUAL, name):g}{unit}"
            grid.addWidget(label(usual, "faint"), row, 2)
            row += 1
        grid.setColumnStretch(2, 1)
        self.trouble = label("", "warning")
        self.trouble.setWordWrap(True)
        self.usual = QPushButton("As usual")
        self.usual.clicked.connect(self._as_usual)
        done = QPushButton("Done")
        done.setDefault(True)
        done.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.addWidget(self.usual)
        foot.addStretch()
        foot.addWidget(done)
        box = QVBoxLayout(self)
        box.setContentsMargins(26, 20, 26, 18)
        box.setSpacing(10)
        box.addLayout(grid)
        box.addWidget(self.trouble)
        box.addLayout(foot)
        self.setMinimumWidth(440)

    def _changed(self) -> None:
        """Put in force what the fields say, where it makes sense."""
        try:
            self._put({name: round(self.fields[name].value(), 4) for name in NAMES})
            self.trouble.setText("")
        except OffcutError as error:
            words = str(error)
            self.trouble.setText(
                f"{words[:1].upper()}{words[1:]}; the limits before stay in force."
            )

    def _put(self, told: dict[str, object]) -> None:
        wanted = checked(told)
        if wanted != grades_in_force():
            keep_grades(wanted)
            self.changed.emit()

    def _as_usual(self) -> None:
        for name, field in self.fields.items():
            field.blockSignals(True)
            field.setValue(getattr(Grades(), name))
            field.blockSignals(False)
        self._changed()
