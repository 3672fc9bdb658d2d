"""The right side of Turnover: what the check found, what will be written; later, the report."""

from __future__ import annotations

from PySide6.QtCore import Qt, QUrl, Signal
from PySide6.QtGui import QColor, QDesktopServices
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from offcut.app.theme import SMALL, font, theme
from offcut.app.theme.parts import label, plain, stacked
from offcut.core.turnover.checks import Remark, Weight
from offcut.core.turnover.plan import Plan
from offcut.core.turnover.writing import Report
from offcut.core.words import many, size_words

_HELD = Qt.ItemDataRole.UserRole
_SIGNS = {Weight.STOP: "✕", Weight.LOOK: "!", Weight.SAID: "·"}
TOLD = 6
"""So many sentences on what did not go as it should are shown under the report."""
SHOWN = 500
"""No more than so many files are listed; all are written."""


class Outcome(QWidget):
    """``wanted`` hands over, ``back`` goes to a frame of a film, ``ask_folder`` asks for one."""

    wanted = Signal()
    back = Signal(int, int)
    ask_folder = Signal()
    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.report: Report | None = None
        self.stack = QStackedWidget()
        self.stack.addWidget(self._check_page())
        self.stack.addWidget(self._report_page())
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.stack)

    def _check_page(self) -> QWidget:
        page, box = stacked((18, 14, 18, 14), 6)
        box.addWidget(label("Check", "head"))
        self.remarks = QListWidget()
        self.remarks.setAccessibleName("What the check found")
        self.remarks.setWordWrap(True)
        self.remarks.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.remarks.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.remarks.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.remarks.itemActivated.connect(self._go_back)
        self.remarks.itemClicked.connect(self._go_back)
        box.addWidget(self.remarks, 3)
        row = QHBoxLayout()
        row.addWidget(label("What will be written", "head"))
        row.addStretch()
        self._sum = label("", "faint")
        row.addWidget(self._sum)
        box.addLayout(row)
        self.files = _table("What will be written")
        box.addWidget(self.files, 4)
        row = QHBoxLayout()
        self.folder = QLineEdit()
        self.folder.setPlaceholderText("Folder")
        self.folder.setAccessibleName("Folder to write to")
        self.folder.textChanged.connect(self.changed)
        choose = QPushButton("Choose…")
        choose.clicked.connect(self.ask_folder)
        row.addWidget(self.folder, 1)
        row.addWidget(choose)
        box.addLayout(row)
        self.over = QCheckBox("Write over files that are there")
        self.over.toggled.connect(self._show_button)
        self.over.hide()
        box.addWidget(self.over)
        self.go = QPushButton("Hand over")
        self.go.setObjectName("main")
        self.go.setMinimumHeight(36)
        self.go.clicked.connect(self.wanted)
        box.addWidget(self.go)
        self._can = self._needs_word = False
        self.go.setEnabled(False)
        return page

    def _report_page(self) -> QWidget:
        page, box = stacked((18, 14, 18, 14), 6)
        self.done = label("", "large")
        self.done.setWordWrap(True)
        self.about = label("", "faint")
        self.about.setWordWrap(True)
        self.trouble = label("", "warning")
        self.trouble.setWordWrap(True)
        box.addWidget(self.done)
        box.addWidget(self.about)
        box.addWidget(self.trouble)
        self.written = _table("What was written")
        box.addWidget(self.written, 1)
        self.open_folder = QPushButton("Open the folder")
        self.open_folder.clicked.connect(self._open)
        self.more = QPushButton("Back to choosing")
        self.more.clicked.connect(self.show_check)
        row = QHBoxLayout()
        row.addWidget(self.open_folder, 1)
        row.addWidget(self.more, 1)
        box.addLayout(row)
        return page

    # the check

    def show_check(self) -> None:
        """Show the check again."""
        self.stack.setCurrentIndex(0)
        self.changed.emit()

    def show_plan(self, plan: Plan, remarks: tuple[Remark, ...]) -> None:
        """Show what was found, and what will be written."""
        self.remarks.clear()
        look = theme()
        for remark in remarks:
            way = "  →" if remark.frame >= 0 else ""
            item = QListWidgetItem(f"{_SIGNS[remark.weight]}  {remark.words}{way}")
            item.setData(_HELD, (remark.source, remark.frame))
            if remark.weight is Weight.STOP:
                item.setForeground(look.colour("warn"))
            elif remark.weight is Weight.SAID:
                item.setForeground(QColor(look.faint))
            if remark.frame >= 0:
                item.setToolTip("Click to go there")
            self.remarks.addItem(item)
        if not remarks:
            self.remarks.addItem("Nothing to say: it is all in order")
        _fill(self.files, [(o.name, o.what, size_words(o.size)) for o in plan.outputs])
        files = len(plan.outputs)
        self._sum.setText(f"{many(files, 'file')}, about {size_words(plan.size)}" if files else "")
        exists = any(f.code == "exists" for f in remarks)
        self.over.setVisible(exists)
        if not exists:
            self.over.setChecked(False)
        self._can = not any(f.weight is Weight.STOP for f in remarks)
        self._needs_word = exists
        shots = len(plan.items)
        self.go.setText(
            f"Hand over {many(shots, 'shot')}: {many(files, 'file')}" if files else "Hand over"
        )
        self._show_button()

    def wait(self) -> None:
        """Let nothing be handed over until the next plan is shown."""
        self.go.setEnabled(False)

    def _show_button(self) -> None:
        self.go.setEnabled(self._can and (not self._needs_word or self.over.isChecked()))

    def _go_back(self, item: QListWidgetItem) -> None:
        source, frame = item.data(_HELD) or (0, -1)
        if frame >= 0:
            self.back.emit(source, frame)

    # the report

    def show_report(self, report: Report) -> None:
        """Say what was written, where, and how long it took."""
        self.report = report
        files = many(len(report.written), "file")
        self.done.setText(f"{files} {'so far: stopped' if report.stopped else 'written'}")
        self.about.setText(
            f"{size_words(report.size)} in {report.seconds:.1f} s, to {report.folder}"
        )
        told = (*report.problems, *report.notes)
        more = f"\nand {len(told) - TOLD} more" if len(told) > TOLD else ""
        self.trouble.setText("\n".join(told[:TOLD]) + more)
        self.trouble.setVisible(bool(told))
        _fill(self.written, [(name, "", size_words(size)) for name, size in report.written])
        self.stack.setCurrentIndex(1)

    def _open(self) -> None:
        if self.report is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.report.folder)))


def _table(name: str) -> QTableWidget:
    made = QTableWidget(0, 2)
    made.setAccessibleName(name)
    made.horizontalHeader().hide()
    made.verticalHeader().hide()
    made.verticalHeader().setDefaultSectionSize(20)
    made.horizontalHeader().setSectionResizeMode(0, made.horizontalHeader().ResizeMode.Stretch)
    made.horizontalHeader().setSectionResizeMode(
        1, made.horizontalHeader().ResizeMode.ResizeToContents
    )
    made.setShowGrid(False)
    made.setWordWrap(False)
    made.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    made.setSelectionMode(QTableWidget.SelectionMode.NoSelection)
    made.setTextElideMode(Qt.TextElideMode.ElideMiddle)
    return made


def _fill(table: QTableWidget, rows: list[tuple[str, str, str]]) -> None:
    shown = rows[:SHOWN]
    table.setRowCount(len(shown) + (len(rows) > SHOWN))
    mono = font(SMALL, mono=True)
    for row, (name, what, size) in enumerate(shown):
        first = QTableWidgetItem(name)
        first.setFont(mono)
        first.setToolTip(plain(f"{name}\n{what}" if what else name))
        second = QTableWidgetItem(size)
        second.setFont(mono)
        second.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        table.setItem(row, 0, first)
        table.setItem(row, 1, second)
    if len(rows) > SHOWN:
        table.setItem(SHOWN, 0, QTableWidgetItem(f"and {len(rows) - SHOWN} more"))
