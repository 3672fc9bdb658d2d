"""Tally put together: both rolls, what changed, the same frame of both, and what came of it."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QStackedLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import label, number, pane
from offcut.app.views.description import ViewContext
from offcut.app.views.tally.change_rows import ChangeRows
from offcut.app.views.tally.outcome_panel import OutcomePanel
from offcut.app.views.tally.reference_well import Look, ReferenceWell
from offcut.app.views.tally.rolls import Rolls
from offcut.app.views.tally.version_tally import VersionTally
from offcut.core.change_list import write_change_list
from offcut.core.held_against import Held
from offcut.core.words import many

LEFT, RIGHT = 282, 252
FORMS = {
    "PDF with pictures (*.pdf)": ".pdf",
    "Every shot and every unchanged stretch (*.csv)": ".csv",
    "EDL with locators (*.edl)": ".edl",
    "OTIO timeline with markers (*.otio)": ".otio",
}


class TallyView(QWidget):
    """A film held against another version of it.

    ``menu_wanted`` tells of what kind of thing a menu is asked for, and where on the screen.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(self, context: ViewContext, table: Actions) -> None:
        super().__init__()
        self._s = session = context.session
        self._context = context
        self.tally = VersionTally(session)
        self.tally.alive = self.isVisible
        self.pictures = ShotPictures(session)
        self.rolls = Rolls(self.tally, self.pictures)
        self.rows = ChangeRows(self.tally, self.pictures)
        self.well = ReferenceWell(session, self.tally)
        self.panel = OutcomePanel(self.tally)
        self._empty = label("", "faint")
        self._lay_out(table)
        self._connect()

    # laying out

    def _lay_out(self, table: Actions) -> None:
        whole = QWidget()
        over = QVBoxLayout(whole)
        over.setContentsMargins(0, 0, 0, 0)
        over.setSpacing(0)
        over.addWidget(self.rolls)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left())
        row.addWidget(self._middle(table), 1)
        right = pane("side")
        right.setFixedWidth(RIGHT)
        side = QVBoxLayout(right)
        side.setContentsMargins(0, 0, 0, 0)
        side.addWidget(self.panel)
        row.addWidget(right)
        over.addLayout(row, 1)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._pages = QStackedLayout(self)
        self._pages.addWidget(whole)
        self._pages.addWidget(self._nothing(table))

    def _left(self) -> QWidget:
        made = pane("list")
        made.setFixedWidth(LEFT)
        box = QVBoxLayout(made)
        box.setContentsMargins(0, 10, 0, 0)
        box.setSpacing(4)
        top = QHBoxLayout()
        top.setContentsMargins(14, 0, 12, 0)
        self.other = QComboBox()
        self.other.setAccessibleName("The film this one is held against")
        self.other.activated.connect(lambda _n: self._hold_chosen())
        top.addWidget(self.other, 1)
        self.way = QToolButton()
        self.way.setObjectName("faint")
        self.way.setAccessibleName("Which is the new version")
        self.way.clicked.connect(self.tally.swap)
        top.addWidget(self.way)
        box.addLayout(top)
        line = QHBoxLayout()
        line.setContentsMargins(14, 4, 14, 2)
        self.head = label("", "head")
        self.aside = label("", "faint")
        line.addWidget(self.head)
        line.addStretch()
        line.addWidget(self.aside)
        box.addLayout(line)
        box.addWidget(self.rows, 1)
        return made

    def _middle(self, table: Actions) -> QWidget:
        made = pane("bench")
        box = QVBoxLayout(made)
        box.setContentsMargins(14, 12, 14, 12)
        box.setSpacing(8)
        box.addWidget(self.well, 1)
        row = QHBoxLayout()
        row.setSpacing(2)
        row.addWidget(label("Look", "faint"))
        self._looks = QButtonGroup(self)
        self.looks: dict[Look, QToolButton] = {}
        for look in Look:
            choice = QToolButton()
            choice.setObjectName("choice")
            choice.setText(look.value)
            choice.setCheckable(True)
            choice.clicked.connect(partial(self._look, look))
            self._looks.addButton(choice)
            self.looks[look] = choice
            row.addWidget(choice)
        self.looks[Look.BESIDE].setChecked(True)
        row.addStretch()
        row.addWidget(label("New one later by", "faint"))
        self.later = number(-100_000, 100_000, "The new version later by so many frames", " fr")
        self.later.setFixedWidth(76)
        self.later.valueChanged.connect(self.well.set_later)
        row.addWidget(self.later)
        box.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.buttons = [
            ActionButton(table, "tally-agree", "It is so", main=True),
            ActionButton(table, "tally-untie", "Untie"),
            ActionButton(table, "tally-doubt", "Next doubt"),
            ActionButton(table, "tally-open", "Show in Seams"),
        ]
        for button in self.buttons:
            row.addWidget(button, 1)
        box.addLayout(row)
        return made

    def _nothing(self, table: Actions) -> QWidget:
        made = QWidget()
        box = QVBoxLayout(made)
        box.addStretch()
        box.addWidget(self._empty)
        row = QHBoxLayout()
        row.addStretch()
        self.bring = ActionButton(table, "tally-bring", "Bring in another version…")
        row.addWidget(self.bring)
        row.addStretch()
        box.addLayout(row)
        box.addStretch()
        return made

    def _connect(self) -> None:
        self.tally.changed.connect(self._show)
        self.well.moved.connect(self._follow_well)
        self.panel.carry_wanted.connect(self.carry)
        self.panel.keep_wanted.connect(self.ask_keep)
        self.rows.menu_asked.connect(partial(self.menu_wanted.emit, "tally-change"))
        self.rolls.menu_asked.connect(partial(self.menu_wanted.emit, "tally-change"))
        self.well.menu_asked.connect(partial(self.menu_wanted.emit, "tally-picture"))

    # showing

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.pictures.set_ratio(self.devicePixelRatioF())
        self.tally.refresh()
        self._show()
        self.rows.setFocus()

    def restyle(self) -> None:
        """Take the theme in force."""
        for button in (*self.buttons, self.bring):
            button.restyle()
        self.rolls.update()
        self.rows.viewport().update()
        self.well.update()

    def close_pictures(self) -> None:
        """Stop what works for this view in the background."""
        self.pictures.close()
        self.well.pairs.close()

    def _show(self) -> None:
        if not self.isVisible():
            return
        tally = self.tally
        why = self._why_nothing()
        self._empty.setText(why)
        self.bring.setVisible(self._s.source is not None and not tally.others)
        self._pages.setCurrentIndex(1 if why else 0)
        self._show_others()
        changed = sum(not c.alike for c in tally.comparison.changes)
        same = len(tally.comparison.changes) - changed
        if tally.busy:
            self.head.setText("Being compared")
            self.aside.setText(f"measured {tally.share:.0%}" if tally.share else "")
        else:
            self.head.setText(f"{many(changed, 'thing')} changed" if changed else "Nothing changed")
            self.aside.setText(f"{many(same, 'shot')} the same")

    def _why_nothing(self) -> str:
        tally, source = self.tally, self._s.source
        if source is None:
            return (
                "Bring a film in, and find its seams; then it can be held against another version"
            )
        if not tally.others:
            return "Bring in another version of this film; what changed will be shown here"
        if tally.trouble:
            return f"{tally.trouble[:1].upper()}{tally.trouble[1:]}"
        for film in (tally.old, tally.new):
            if film is not None and not film.searched:
                name = Path(film.media.path).name
                return f"The seams of {name} are not found yet; once they are, it is compared"
        return ""

    def _show_others(self) -> None:
        films = [(s.id, Path(s.media.path).name) for s in self.tally.others]
        shown = [
            (self.other.itemData(n), self.other.itemText(n)) for n in range(self.other.count())
        ]
        if films != shown:
            self.other.clear()
            for source_id, name in films:
                self.other.addItem(name, source_id)
        self.other.setCurrentIndex(max(0, self.other.findData(self.tally.other_id)))
        self.way.setText("as the old one" if self.tally.swapped else "as the new one")

    def _follow_well(self) -> None:
        if self.later.value() != self.well.later:
            self.later.setValue(self.well.later)
        self.looks[self.well.look].setChecked(True)

    def _hold_chosen(self) -> None:
        self.tally.hold_against(int(self.other.currentData() or 0))
        self._search_if_needed()

    def _search_if_needed(self) -> None:
        """Have the seams of what is held against found, where nobody did yet."""
        for film in (self.tally.old, self.tally.new):
            if film is not None and not film.searched:
                self._context.search.find(film.id)

    def _look(self, look: Look, _on: bool = False) -> None:
        self.well.set_look(look)

    # doing

    def next_look(self) -> None:
        """Look at both in the next way."""
        looks = list(Look)
        self.well.set_look(looks[(looks.index(self.well.look) + 1) % len(looks)])

    def agree(self) -> None:
        """Say that what was found is so, and go on to the next doubt, or row."""
        if self.tally.agree() and not self.tally.next_doubt():
            self.tally.step(1)

    def next_doubt(self) -> None:
        """Go to the next doubtful one; where there is none, to the next change."""
        if not self.tally.next_doubt():
            self.tally.step(1)

    def tie_by_hand(self) -> None:
        """Tie the new shot that is looked at to the old one that was taken for it."""
        self._s.said.emit(self.tally.tie_to_taken())

    def take_for_tie(self) -> None:
        """Take the old shot that is looked at, for a tie by hand."""
        self._s.said.emit(self.tally.take_old())

    def open_in_seams(self) -> None:
        """Show the shot that is looked at in Seams, in the film it is in now."""
        change = self.tally.change
        if change is None:
            return
        source = self.tally.new if change.new is not None else self.tally.old
        span = change.new or change.old
        if source is not None and span is not None:
            self._s.take_in_hand(source.id)
            self._s.go_to(span[0])
            self._s.view_wanted.emit("seams")

    def bring_other(self) -> None:
        """Ask for another version of the film."""
        start = str(self._s.file.parent if self._s.file is not None else Path.home())
        path, _ = QFileDialog.getOpenFileName(self, "Another version of this film", start)
        if path:
            self._context.bring_beside([path])

    def carry(self) -> None:
        """Carry over what was decided to the new version, and tell what could not be placed."""
        carried = self.tally.carry(self.panel.wanted)
        if carried is None:
            return
        self.panel.tell_left(carried.left)
        self._s.said.emit(
            f"Carried over: {many(carried.shots, 'shot')} of the new version have something new"
            if carried.shots
            else "The new version has all of it already"
        )

    def ask_keep(self) -> None:
        """Ask where to keep the change list."""
        start = self._s.file.parent if self._s.file is not None else Path.home()
        path, chosen = QFileDialog.getSaveFileName(
            self, "Keep the change list", str(start / "changes.pdf"), ";;".join(FORMS)
        )
        if path:
            suffix = FORMS.get(chosen, ".pdf")
            self.keep(path if Path(path).suffix.lower() in FORMS.values() else f"{path}{suffix}")

    def keep(self, path: str) -> None:
        """Keep the change list in the form that the file's ending asks for."""
        old, new, project = self.tally.old, self.tally.new, self._s.project
        if old is None or new is None:
            return
        comparison = self.tally.comparison
        sides = (
            Held(Path(old.media.path), project, old), Held(Path(new.media.path), project, new)
        )  # fmt: skip
        job = self._s.jobs.start(
            "Keeping the change list", lambda _job: write_change_list(path, comparison, *sides)
        )
        count = sum(not c.alike for c in comparison.changes)
        job.done.connect(lambda file: self._s.said.emit(f"{many(count, 'change')} kept in {file}"))
        job.failed.connect(self._s.failed)
