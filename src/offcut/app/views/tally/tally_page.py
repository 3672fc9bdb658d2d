"""A page of Tally: pairs listed on the left, one of them looked at in the middle, what came of them
on the right.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import TypeVar

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QStackedLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.action_button import ActionButton
from offcut.app.session.session import Session
from offcut.app.shared.asking import ANY, ask_file
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import in_line, label, number, pane, stacked
from offcut.app.views.tally.change_rows import ChangeRows
from offcut.app.views.tally.paired import Paired
from offcut.app.views.tally.reference_well import ReferenceWell
from offcut.app.views.tally.well_drawing import Look
from offcut.core.lists.registry import reading_endings

LEFT, RIGHT = 282, 252
PARENTS = {"two-lists": "lists"}
"""A page that is reached from another, and is chosen as a part of that."""
SECTIONS = {"lists": "Lists", "versions": "Versions", "originals": "Originals"}


_Sort = TypeVar("_Sort")


def counts_grid(sorts: Mapping[_Sort, str]) -> tuple[QGridLayout, dict[_Sort, QLabel]]:
    """Return lines of words with a figure each, and the labels of the figures."""
    grid = QGridLayout()
    grid.setVerticalSpacing(5)
    figures: dict[_Sort, QLabel] = {}
    for row, (sort, words) in enumerate(sorts.items()):
        grid.addWidget(label(words), row, 0)
        figures[sort] = label("0", "mono")
        grid.addWidget(figures[sort], row, 2, Qt.AlignmentFlag.AlignRight)
    grid.setColumnStretch(1, 1)
    return grid, figures


def list_asked_for(page: QWidget, title: str, session: Session) -> str:
    """Ask for a list; return its path, empty where none was chosen."""
    kinds = " ".join(f"*{e}" for e in reading_endings())
    return ask_file(page, session, "list", title, f"Lists ({kinds});;{ANY}")


class SectionChoice(QWidget):
    """Which part of Tally is open; ``wanted`` asks for another."""

    wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sections")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.buttons: dict[str, QToolButton] = {}
        self._here = ""
        box = QHBoxLayout(self)
        box.setContentsMargins(8, 5, 8, 4)
        box.setSpacing(2)
        for name, words in SECTIONS.items():
            button = QToolButton()
            button.setObjectName("choice")
            button.setText(words)
            button.setCheckable(True)
            button.clicked.connect(partial(self._ask, name))
            self.buttons[name] = button
            box.addWidget(button)
        box.addStretch()

    def show_section(self, section: str) -> None:
        """Show which part is open."""
        self._here = PARENTS.get(section, section)
        for name, button in self.buttons.items():
            button.setChecked(name == self._here)

    def _ask(self, name: str, _on: bool = False) -> None:
        self.show_section(self._here)
        self.wanted.emit(name)


class TallyPage(QWidget):
    """What all pages share; a page gives its rolls, its head, its panel and its buttons.

    ``menu_wanted`` tells of what kind of thing a menu is asked for, and where on the screen.
    """

    menu_wanted = Signal(str, QPoint)
    section = ""

    def __init__(self, session: Session, tally: Paired, pictures: ShotPictures) -> None:
        super().__init__()
        self._s = session
        self.tally = tally
        self.tally.alive = self.isVisible
        self.pictures = pictures
        self.rows = ChangeRows(tally, pictures)
        self.well = ReferenceWell(session, tally)
        self.head, self.aside = label("", "head"), label("", "faint")
        self.order = QToolButton()
        self.order.setObjectName("faint")
        self.order.setAccessibleName("Which of them come first")
        self.order.clicked.connect(self.other_order)
        self.looks: dict[Look, QToolButton] = {}
        self.buttons: list[ActionButton] = []
        self._empty = label("", "faint")

    # laying out

    def lay_out(
        self,
        over: QWidget,
        top: QWidget,
        panel: QWidget,
        buttons: list[ActionButton],
        offer: QWidget,
    ) -> None:
        """Put the page together: what lies over all of it, at the top of the list, at the right,
        under the picture, and what is offered where there is nothing.
        """
        self.buttons = buttons
        self.offer = offer
        self._over = over
        whole, column = stacked((0, 0, 0, 0), 0)
        column.addWidget(over)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(top))
        row.addWidget(self._middle(), 1)
        right = pane("side")
        right.setFixedWidth(RIGHT)
        side = QVBoxLayout(right)
        side.setContentsMargins(0, 0, 0, 0)
        side.addWidget(panel)
        row.addWidget(right)
        column.addLayout(row, 1)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._pages = QStackedLayout(self)
        self._pages.addWidget(whole)
        self._pages.addWidget(self._nothing())
        self.tally.changed.connect(self.show_now)
        self.well.moved.connect(self._follow_well)
        self.rows.menu_asked.connect(partial(self.menu_wanted.emit, f"tally-{self.section}"))
        self.well.menu_asked.connect(partial(self.menu_wanted.emit, "tally-picture"))

    def _left(self, top: QWidget) -> QWidget:
        made = pane("list")
        made.setFixedWidth(LEFT)
        box = QVBoxLayout(made)
        box.setContentsMargins(0, 6, 0, 0)
        box.setSpacing(4)
        box.addWidget(top)
        line = QHBoxLayout()
        line.setContentsMargins(14, 4, 14, 2)
        line.addWidget(self.head)
        line.addStretch()
        line.addWidget(self.order)
        box.addLayout(line)
        line = QHBoxLayout()
        line.setContentsMargins(14, 0, 14, 2)
        line.addWidget(self.aside)
        box.addLayout(line)
        box.addWidget(self.rows, 1)
        return made

    def _middle(self) -> QWidget:
        made, box = stacked((14, 12, 14, 12), 8, look="bench")
        box.addWidget(self.well, 1)
        self.look_row, row = in_line((0, 0, 0, 0), 2)
        row.addWidget(label("Look", "faint"))
        group = QButtonGroup(self)
        for look in Look:
            choice = QToolButton()
            choice.setObjectName("choice")
            choice.setText(look.value)
            choice.setCheckable(True)
            choice.clicked.connect(partial(self._look, look))
            group.addButton(choice)
            self.looks[look] = choice
            row.addWidget(choice)
        self.looks[Look.BESIDE].setChecked(True)
        row.addStretch()
        later = self.tally.names[1]
        row.addWidget(label(f"The {later} later by", "faint"))
        self.later = number(-100_000, 100_000, f"The {later} one later by so many frames", " fr")
        self.later.setFixedWidth(76)
        self.later.valueChanged.connect(self.well.set_later)
        row.addWidget(self.later)
        box.addWidget(self.look_row)
        row = QHBoxLayout()
        row.setSpacing(8)
        for button in self.buttons:
            row.addWidget(button, 1)
        box.addLayout(row)
        return made

    def _nothing(self) -> QWidget:
        made = QWidget()
        box = QVBoxLayout(made)
        box.addStretch()
        box.addWidget(self._empty)
        row = QHBoxLayout()
        row.addStretch()
        row.addWidget(self.offer)
        row.addStretch()
        box.addLayout(row)
        box.addStretch()
        return made

    # showing

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.pictures.set_ratio(self.devicePixelRatioF())
        self.refresh()
        self.show_now()
        self.rows.setFocus()

    def refresh(self) -> None:
        """Have worked out what is not known yet."""

    def restyle(self) -> None:
        """Take the theme in force."""
        for button in self.buttons:
            button.restyle()
        self.rows.viewport().update()
        self.well.update()
        self._over.update()

    def close_pictures(self) -> None:
        """Stop what works for this page in the background."""
        self.well.player.close()
        self.well.pairs.close()

    def show_now(self) -> None:
        """Show what is known now."""
        if not self.isVisible():
            return
        why = self.why_nothing()
        self._empty.setText(why)
        self._pages.setCurrentIndex(1 if why else 0)
        self.head.setText(self.head_words())
        self.aside.setText(self.aside_words())
        self.order.setText("as it runs" if self.tally.as_they_run else "doubt first")
        self.order.setVisible(self.tally.tells)
        self.tell()

    def why_nothing(self) -> str:
        """Return why there is nothing to show, empty where there is."""
        return ""

    def head_words(self) -> str:
        """Return the head of the list."""
        return ""

    def aside_words(self) -> str:
        """Return what stands beside the head."""
        return ""

    def tell(self) -> None:
        """Show what else the page has."""

    def _follow_well(self) -> None:
        if self.later.value() != self.well.later:
            self.later.setValue(self.well.later)
        self.looks[self.well.look].setChecked(True)

    def _look(self, look: Look, _on: bool = False) -> None:
        self.well.set_look(look)

    # doing

    def next_look(self) -> None:
        """Look at both in the next way."""
        looks = list(Look)
        self.well.set_look(looks[(looks.index(self.well.look) + 1) % len(looks)])

    def other_order(self) -> None:
        """Let the rows lie as the film runs, or the doubtful first."""
        self.tally.set_as_they_run(not self.tally.as_they_run)

    def next_doubt(self) -> None:
        """Go to the next doubtful one; where there is none, to the next row."""
        if not self.tally.next_doubt():
            self.tally.step(1)

    def agree(self) -> None:
        """Say that it is so, and go on."""

    def untie(self) -> None:
        """Say that it is not so."""

    def take_back(self) -> None:
        """Take back what was said."""

    def next_likely(self) -> None:
        """Try the next likeliest in its place, where there are several."""
        self._s.said.emit("There are no others to choose from here")

    def lock_here(self) -> None:
        """Say that the two frames that are shown are the same."""
        self._s.said.emit("A list and its film are locked as they are")

    def take_film(self) -> None:
        """Take the film's side, where there are two."""
        self._s.said.emit("There is no list here")

    def keep_list(self) -> None:
        """Ask where to keep the list of what was found."""

    def open_in_seams(self) -> None:
        """Show the shot that is looked at in Seams."""
        change = self.tally.change
        if change is None:
            return
        told = self.tally.told(change)
        span = change.new or change.old
        if told.source is not None and span is not None:
            self._s.take_in_hand(told.source.id)
            self._s.go_to(span[0])
            self._s.view_wanted.emit("seams")
