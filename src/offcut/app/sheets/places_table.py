"""What a list marks or names, a row each."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from offcut.app.theme import SMALL, font


class PlacesTable(QTableWidget):
    """Three columns of words: where, what, and how that is known."""

    def __init__(self) -> None:
        super().__init__(0, 3)
        self.setAccessibleName("What the list marks or names")
        self.horizontalHeader().hide()
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(24)
        mode = QHeaderView.ResizeMode
        for column, fits in enumerate((mode.ResizeToContents, mode.Stretch, mode.ResizeToContents)):
            self.horizontalHeader().setSectionResizeMode(column, fits)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)

    def show_rows(self, rows: Sequence[tuple[str, str, str]]) -> None:
        """Show other ones."""
        self.setRowCount(len(rows))
        for row, cells in enumerate(rows):
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if column == 0:
                    item.setFont(font(SMALL, mono=True))
                self.setItem(row, column, item)
