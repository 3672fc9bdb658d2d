"""Lists: a list held against the found seams, join by join, a place to work."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.shared.offset_field import OffsetField
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import label, stacked
from offcut.app.views.description import ViewContext
from offcut.app.views.tally.list_rolls import ListRolls
from offcut.app.views.tally.list_tally import ListTally
from offcut.app.views.tally.tally_page import TallyPage, counts_grid, list_asked_for
from offcut.core.tally.against_list import Said
from offcut.core.words import many


class ListsPage(TallyPage):
    """A film held against a list; ``two_wanted`` asks for the page of two lists."""

    two_wanted = Signal()
    section = "lists"
    tally: ListTally

    def __init__(self, context: ViewContext, table: Actions, pictures: ShotPictures) -> None:
        tally = ListTally(context.session)
        super().__init__(context.session, tally, pictures)
        self.rolls = ListRolls(tally)
        self.choose = QPushButton("Read a list…")
        self.choose.clicked.connect(self.ask_list)
        buttons = [
            ActionButton(table, "tally-agree", "The list’s", main=True),
            ActionButton(table, "tally-film", "The film’s"),
            ActionButton(table, "tally-doubt", "Next open one"),
            ActionButton(table, "tally-open", "Show in Seams"),
        ]
        self.lay_out(self.rolls, self._top(), self._panel(), buttons, self._offers())

    def _top(self) -> QWidget:
        made, column = stacked((14, 2, 12, 0), 4)
        box = QHBoxLayout()
        column.addLayout(box)
        self.name = label("", "faint")
        box.addWidget(self.name, 1)
        other = QPushButton("Another list…")
        other.clicked.connect(self.ask_list)
        box.addWidget(other)
        line = QHBoxLayout()
        two = QPushButton("Two lists, without a film…")
        two.clicked.connect(self.two_wanted)
        line.addWidget(two)
        column.addLayout(line)
        return made

    def _offers(self) -> QWidget:
        made = QWidget()
        column = QVBoxLayout(made)
        column.addWidget(self.choose)
        two = QPushButton("Two lists, without a film…")
        two.clicked.connect(self.two_wanted)
        column.addWidget(two)
        return made

    def _panel(self) -> QWidget:
        made, box = stacked((16, 12, 16, 12), 6)
        box.addWidget(label("What both say", "head"))
        grid, self.counts = counts_grid({said: said.value for said in Said})
        box.addLayout(grid)
        line = QHBoxLayout()
        line.addWidget(label("Offset of the list", "faint"))
        self.offset = OffsetField("Offset of the list", lambda: self._s.clock)
        self.offset.valueChanged.connect(self.tally.set_offset)
        line.addWidget(self.offset, 1)
        box.addLayout(line)
        self.steady = label("", "warning")
        self.steady.setWordWrap(True)
        box.addWidget(self.steady)
        self.laid = QCheckBox("Lay the list so")
        self.laid.toggled.connect(self.tally.set_laid)
        box.addWidget(self.laid)
        box.addSpacing(8)
        box.addWidget(label("All of a sort", "head"))
        self.all_buttons: dict[tuple[Said, bool], QPushButton] = {}
        for said, by_list, words in (
            (Said.OFF, True, "Roll to the list"),
            (Said.OFF, False, "Keep where the film has them"),
            (Said.LISTED, True, "Place what only the list has"),
            (Said.FOUND, True, "Strike what only was found"),
            (Said.FOUND, False, "Keep what only was found"),
            (Said.AGREES, True, "Keep what agrees"),
        ):
            button = QPushButton(words)
            button.clicked.connect(partial(self.take_all, said, by_list))
            self.all_buttons[said, by_list] = button
            box.addWidget(button)
        box.addStretch()
        return made

    # showing

    def refresh(self) -> None:
        """Show what list and film say now."""
        self.tally.refresh()

    def why_nothing(self) -> str:
        """Return why there is nothing to show, empty where there is."""
        tally, source = self.tally, self._s.source
        if source is None:
            return "Bring a film in, and find its seams; then a list can be held against them"
        if tally.trouble:
            return f"{tally.trouble[:1].upper()}{tally.trouble[1:]}"
        if tally.listed is None:
            return "Read a list that came with this film; each of its joins is held against it"
        return ""

    def head_words(self) -> str:
        """Return how many joins differ."""
        counts = self.tally.counts
        differ = sum(n for said, n in counts.items() if said is not Said.AGREES)
        return f"{many(differ, 'join')} differ" if differ else "All joins agree"

    def aside_words(self) -> str:
        """Return how many joins agree."""
        return f"{self.tally.counts.get(Said.AGREES, 0)} agree"

    def tell(self) -> None:
        """Show the figures."""
        tally = self.tally
        self.choose.setVisible(self._s.source is not None)
        self.name.setText(tally.listed.name if tally.listed is not None else "")
        counts = tally.counts
        for said, shown in self.counts.items():
            shown.setText(str(counts.get(said, 0)))
        for (said, _), button in self.all_buttons.items():
            button.setEnabled(counts.get(said, 0) > 0)
        if not self.offset.hasFocus() or self.offset.value() != tally.offset:
            self.offset.show_value(tally.offset)
        words = tally.steady_words
        self.steady.setText("\n".join(words))
        self.steady.setVisible(bool(words))
        self.laid.setVisible(bool(words))
        if self.laid.isChecked() != tally.laid:
            self.laid.setChecked(tally.laid)

    # doing

    def ask_list(self) -> None:
        """Ask for a list."""
        path = list_asked_for(self, "A list to hold against the film", self._s)
        if path:
            self.tally.read(path)

    def agree(self) -> None:
        """Take the list's side here, and go on."""
        row = self.tally.join
        if row is not None and self.tally.take_list([row]):
            self.next_doubt()

    def take_film(self) -> None:
        """Take the film's side here, and go on."""
        row = self.tally.join
        if row is not None and not self.tally.take_film([row]):
            self._s.said.emit("The film has no seam here; nothing is changed")
        self.next_doubt()

    def take_all(self, said: Said, by_list: bool, _on: bool = False) -> None:
        """Take the list's side, or the film's, for all joins of a sort."""
        rows = self.tally.of_sort(said)
        done = self.tally.take_list(rows) if by_list else self.tally.take_film(rows)
        if done:
            self._s.said.emit(f"{many(len(rows), 'join')} settled, one undo for all")

    def untie(self) -> None:
        """Take the film's side here."""
        self.take_film()

    def take_back(self) -> None:
        """Take back what was done last."""
        self._s.undo()

    def keep_list(self) -> None:
        """Show the lists that can be handed over."""
        self._s.view_wanted.emit("turnover")
