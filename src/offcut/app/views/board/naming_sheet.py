"""Naming many shots at once: by a pattern, or by find and replace; the outcome is shown before."""

from __future__ import annotations

from PySide6.QtCore import QSettings, Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.theme.parts import label, number, plain
from offcut.app.views.board.shot_actions import ShotActions
from offcut.core.board.naming import FIELDS, Renamed, named_by_pattern, renamed_by_words
from offcut.core.board.rows import BoardRow
from offcut.core.errors import OffcutError
from offcut.core.words import many

SHOWN = 500


class NamingSheet(QDialog):
    """Acts on the rows it was opened with, in their order."""

    def __init__(
        self,
        session: Session,
        actions: ShotActions,
        rows: tuple[BoardRow, ...],
        settings: QSettings,
        owner: QWidget,
    ) -> None:
        super().__init__(owner)
        self._s = session
        self._actions = actions
        self._rows = rows
        self._settings = settings
        self.renamed: tuple[Renamed, ...] = ()
        self.setWindowTitle("Name shots")
        self.resize(620, 560)
        self.by_pattern, self.by_words = (
            QRadioButton("By a pattern"),
            QRadioButton("Find and replace"),
        )
        self.pattern = QLineEdit(str(settings.value("board-pattern", "{scene}_{number}")))
        self.pattern.setObjectName("monofield")
        self.pattern.setAccessibleName("Pattern of the names")
        self.first = number(0, 99_999, "Counted from")
        self.first.setValue(1)
        self.step = number(1, 1000, "In steps of")
        self.digits = number(1, 8, "Digits")
        self.digits.setValue(2)
        self.sought, self.put_in = QLineEdit(), QLineEdit()
        self.sought.setAccessibleName("Find")
        self.put_in.setAccessibleName("Put in its place")
        self.capitals = QCheckBox("Capitals matter")
        self.table = QTableWidget(0, 2)
        self.table.setHorizontalHeaderLabels(["Now", "Then"])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.told = label("", "faint")
        self.told.setWordWrap(True)
        self.go = QPushButton()
        self.go.setObjectName("main")
        self.go.clicked.connect(self._do)
        self._lay_out()
        self.by_pattern.setChecked(True)
        for signal in (
            self.by_pattern.toggled, self.pattern.textChanged, self.first.valueChanged,
            self.step.valueChanged, self.digits.valueChanged, self.sought.textChanged,
            self.put_in.textChanged, self.capitals.toggled,
        ):  # fmt: skip
            signal.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 18, 20, 16)
        box.setSpacing(8)
        box.addWidget(label(f"Name {many(len(self._rows), 'shot')}", "large"))
        ways = QHBoxLayout()
        ways.addWidget(self.by_pattern)
        ways.addWidget(self.by_words)
        ways.addStretch()
        box.addLayout(ways)
        self._pattern_box = QWidget()
        grid = QGridLayout(self._pattern_box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.addWidget(self.pattern, 0, 0, 1, 6)
        fields = label("  ".join(f"{{{f}}}" for f in FIELDS), "faint")
        fields.setToolTip(plain("\n".join(f"{{{f}}}: {words}" for f, words in FIELDS.items())))
        grid.addWidget(fields, 1, 0, 1, 6)
        for n, (words, field) in enumerate(
            (("from", self.first), ("in steps of", self.step), ("digits", self.digits))
        ):
            grid.addWidget(label(words), 2, 2 * n, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(field, 2, 2 * n + 1)
        box.addWidget(self._pattern_box)
        self._words_box = QWidget()
        grid = QGridLayout(self._words_box)
        grid.setContentsMargins(0, 0, 0, 0)
        for n, (words, line) in enumerate((("Find", self.sought), ("Put instead", self.put_in))):
            grid.addWidget(label(words), n, 0)
            grid.addWidget(line, n, 1)
        grid.addWidget(self.capitals, 2, 1)
        box.addWidget(self._words_box)
        box.addWidget(self.table, 1)
        box.addWidget(self.told)
        buttons = QHBoxLayout()
        buttons.addStretch()
        leave = QPushButton("Leave as it is")
        leave.clicked.connect(self.reject)
        buttons.addWidget(leave)
        buttons.addWidget(self.go)
        box.addLayout(buttons)

    def refresh(self) -> None:
        """Show what the names would be."""
        by_pattern = self.by_pattern.isChecked()
        self._pattern_box.setVisible(by_pattern)
        self._words_box.setVisible(not by_pattern)
        problem = ""
        try:
            if by_pattern:
                self.renamed = named_by_pattern(
                    self._s.project, self._rows, self.pattern.text(), first=self.first.value(),
                    step=self.step.value(), digits=self.digits.value(),
                )  # fmt: skip
            else:
                self.renamed = renamed_by_words(
                    self._rows, self.sought.text(), self.put_in.text(),
                    capitals=self.capitals.isChecked(),
                )  # fmt: skip
        except OffcutError as error:
            self.renamed, problem = (), str(error)
        changing = [r for r in self.renamed if r.before != r.after]
        self.table.setRowCount(min(SHOWN, len(changing)))
        for n, renamed in enumerate(changing[:SHOWN]):
            self.table.setItem(n, 0, QTableWidgetItem(renamed.before or "no name"))
            self.table.setItem(n, 1, QTableWidgetItem(renamed.after))
        names = [r.after for r in changing if r.after]
        doubles = len(names) - len(set(names))
        words = problem[:1].upper() + problem[1:]
        if not problem and doubles:
            words = f"{many(doubles, 'name')} would be there twice"
        self.told.setText(words)
        self.go.setText(f"Name {many(len(changing), 'shot')}")
        self.go.setEnabled(bool(changing))

    def _do(self) -> None:
        self._settings.setValue("board-pattern", self.pattern.text())
        self._actions.name_all({r.ref: r.after for r in self.renamed if r.before != r.after})
        self.accept()
