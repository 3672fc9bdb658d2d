"""The right of Tally: how many shots what happened to, carrying over, and the change list."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from offcut.app.theme.parts import in_line, label
from offcut.app.views.tally.tally_page import counts_grid
from offcut.app.views.tally.version_tally import VersionTally
from offcut.core.tally.versions.carrying import Carry
from offcut.core.words import many

_CARRIED = {
    Carry.WORDS: "names, notes and scenes",
    Carry.JUDGED: "what was judged",
    Carry.MARKERS: "markers",
    Carry.ORDERS: "running orders",
    Carry.ORIGINALS: "originals",
}


class OutcomePanel(QWidget):
    """``carry_wanted`` and ``keep_wanted`` ask for what its buttons do."""

    carry_wanted = Signal()
    keep_wanted = Signal()

    def __init__(self, tally: VersionTally) -> None:
        super().__init__()
        self._tally = tally
        self.boxes: dict[Carry, QCheckBox] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 12, 16, 12)
        box.setSpacing(6)
        box.addWidget(label("What came of it", "head"))
        grid, self.counts = counts_grid({words: words for words in tally.comparison.counts})
        box.addLayout(grid)
        self.facts = label("", "faint")
        self.facts.setWordWrap(True)
        box.addWidget(self.facts)
        box.addSpacing(8)
        box.addWidget(label("Carry over to the new one", "head"))
        for carry, words in _CARRIED.items():
            made = QCheckBox(words)
            made.setChecked(True)
            self.boxes[carry] = made
            box.addWidget(made)
        box.addSpacing(4)
        self.carry = QPushButton("Carry over")
        self.carry.setObjectName("main")
        self.carry.setMinimumHeight(32)
        self.carry.clicked.connect(self.carry_wanted)
        box.addWidget(self.carry)
        self.keep = QPushButton("Keep the change list…")
        self.keep.setMinimumHeight(30)
        self.keep.clicked.connect(self.keep_wanted)
        box.addWidget(self.keep)
        self.left = label("", "faint")
        self.left.setWordWrap(True)
        self.left.hide()
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        inside, lines = in_line((0, 4, 0, 0))
        lines.addWidget(self.left)
        scroll.setWidget(inside)
        box.addWidget(scroll, 1)
        tally.changed.connect(self.refresh)

    @property
    def wanted(self) -> list[Carry]:
        """What is to be carried over."""
        return [carry for carry, box in self.boxes.items() if box.isChecked()]

    def refresh(self) -> None:
        """Show the figures as they are now."""
        comparison, tells = self._tally.comparison, self._tally.tells
        for words, count in comparison.counts.items():
            self.counts[words].setText(str(count) if tells else "–")
        facts = [f"{f[:1].upper()}{f[1:]}." for f in comparison.facts]
        self.facts.setText(" ".join(facts))
        self.facts.setVisible(bool(facts))
        tied = sum(c.old is not None and c.new is not None for c in comparison.changes)
        self.carry.setText(
            f"Carry over to {many(tied, 'shot')}" if tied and tells else "Carry over"
        )
        self.carry.setEnabled(tied > 0 and tells)
        self.keep.setEnabled(bool(comparison.changes) and tells)

    def tell_left(self, sentences: tuple[str, ...]) -> None:
        """Tell what could not be placed."""
        shown = "\n".join(sentences[:60])
        more = len(sentences) - 60
        if more > 0:
            shown += f"\nand {more} more"
        self.left.setText(f"Stays with the old version:\n{shown}" if sentences else "")
        self.left.setVisible(bool(sentences))
