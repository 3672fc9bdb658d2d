"""Two lists: both read from files, what became of each event, and the change list of them."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.shared.asking import ask_place
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import label, plain, stacked
from offcut.app.views.description import ViewContext
from offcut.app.views.tally.tally_page import TallyPage, counts_grid, list_asked_for
from offcut.app.views.tally.two_lists import TwoLists
from offcut.app.views.tally.two_lists_rolls import TwoListsRolls
from offcut.core.reports.change_list import write_change_list
from offcut.core.words import many

FORMS = {"Every event (*.csv)": ".csv", "On paper (*.pdf)": ".pdf"}


class TwoListsPage(TallyPage):
    """A list held against another; ``film_wanted`` asks for the page of a list and the film."""

    film_wanted = Signal()
    section = "two-lists"
    tally: TwoLists

    def __init__(self, context: ViewContext, table: Actions, pictures: ShotPictures) -> None:
        tally = TwoLists(context.session)
        super().__init__(context.session, tally, pictures)
        self.rolls = TwoListsRolls(tally)
        buttons = [
            ActionButton(table, "tally-after", "Next change", main=True),
            ActionButton(table, "tally-along", "Next event"),
            ActionButton(table, "tally-keep", "Keep the change list…"),
        ]
        self.lay_out(self.rolls, self._top(), self._panel(), buttons, self._offers())
        self.look_row.hide()
        self.rolls.menu_asked.connect(partial(self.menu_wanted.emit, "tally-two-lists"))

    def _top(self) -> QWidget:
        made = QWidget()
        grid = QGridLayout(made)
        grid.setContentsMargins(14, 2, 12, 0)
        grid.setVerticalSpacing(4)
        self.names = (label(), label())
        for side, (words, name) in enumerate(zip(self.tally.names, self.names, strict=True)):
            grid.addWidget(label(words, "faint"), side, 0)
            grid.addWidget(name, side, 1)
            button = QPushButton("Another…")
            button.clicked.connect(partial(self.ask_list, side))
            grid.addWidget(button, side, 2)
        grid.setColumnStretch(1, 1)
        back = QPushButton("A list and the film…")
        back.clicked.connect(self.film_wanted)
        grid.addWidget(back, 2, 0, 1, 3)
        return made

    def _offers(self) -> QWidget:
        made = QWidget()
        column = QVBoxLayout(made)
        row = QHBoxLayout()
        self.chosen = (QPushButton("The old list…"), QPushButton("The new list…"))
        for side, button in enumerate(self.chosen):
            button.setMinimumWidth(190)
            button.clicked.connect(partial(self.ask_list, side))
            row.addWidget(button)
        column.addLayout(row)
        back = QPushButton("Rather a list and the film")
        back.setObjectName("quiet")
        back.clicked.connect(self.film_wanted)
        column.addWidget(back, 0, Qt.AlignmentFlag.AlignHCenter)
        return made

    def _panel(self) -> QWidget:
        made, box = stacked((16, 12, 16, 12), 6)
        box.addWidget(label("What came of it", "head"))
        grid, self.counts = counts_grid({words: words for words in self.tally.comparison.counts})
        box.addLayout(grid)
        self.facts = label("", "faint")
        self.facts.setWordWrap(True)
        box.addWidget(self.facts)
        swap = QPushButton("The other one is the new list")
        swap.setMinimumHeight(30)
        swap.clicked.connect(self.tally.swap)
        box.addWidget(swap)
        box.addStretch()
        return made

    # showing

    def why_nothing(self) -> str:
        """Return why there is nothing to show, empty where there is."""
        tally = self.tally
        if tally.trouble:
            return f"{tally.trouble[:1].upper()}{tally.trouble[1:]}"
        if None in tally.sides:
            return "Read two lists of the same film; what became of each event is told without it"
        return ""

    def head_words(self) -> str:
        """Return how many things changed."""
        changed = sum(not c.alike for c in self.tally.comparison.changes)
        return f"{many(changed, 'thing')} changed" if changed else "Nothing changed"

    def aside_words(self) -> str:
        """Return how many events are the same."""
        same = sum(c.alike for c in self.tally.comparison.changes)
        return f"{many(same, 'event')} the same"

    def tell(self) -> None:
        """Show the figures, and which lists they are."""
        tally = self.tally
        for words, count in tally.comparison.counts.items():
            self.counts[words].setText(str(count))
        self.facts.setText("\n".join(f"{f}." for f in tally.facts))
        elide = Qt.TextElideMode.ElideMiddle
        for shown, offer, one, words in zip(
            self.names, self.chosen, tally.sides, tally.names, strict=True
        ):
            name = one.path.name if one is not None else ""
            shown.setText(shown.fontMetrics().elidedText(name, elide, 120))
            shown.setToolTip(plain(str(one.path) if one is not None else ""))
            offer.setText(f"{words}: {name}" if name else f"The {words} list…")

    # doing

    def ask_list(self, side: int, _on: bool = False) -> None:
        """Ask for one of the lists."""
        path = list_asked_for(self, f"The {self.tally.names[side]} list", self._s)
        if path:
            self.tally.read(side, path)

    def agree(self) -> None:
        """Go on: two lists are only looked at."""
        self.tally.step(1)

    def open_in_seams(self) -> None:
        """Say that there is no film."""
        self._s.said.emit("Two lists have no film to show in Seams")

    def lock_here(self) -> None:
        """Say that there is nothing to lock."""
        self._s.said.emit("Two lists have no pictures to lock")

    def keep_list(self) -> None:
        """Ask where to keep the change list."""
        if not self.tally.comparison.changes:
            self._s.said.emit("There are no two lists yet")
            return
        words, forms = "Keep the change list", ";;".join(FORMS)
        path, chosen = ask_place(self, self._s, "changes", words, "changes.csv", forms)
        if path:
            known = Path(path).suffix.lower() in FORMS.values()
            self.keep(path if known else f"{path}{FORMS.get(chosen, '.csv')}")

    def keep(self, path: str) -> None:
        """Keep the change list in the form that the file's ending asks for."""
        old, new = self.tally.sides
        comparison = self.tally.comparison
        if old is None or new is None:
            return
        self._s.work(
            "Keeping the change list", lambda _job: write_change_list(path, comparison, old, new),
            lambda file: self._s.said.emit(f"Kept in {file}"), whatever=True,
        )  # fmt: skip
