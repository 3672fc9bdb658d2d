"""Versions: both rolls, what changed, the same frame of both, and what came of it."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QToolButton,
    QWidget,
)

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.shared.asking import ask_file, ask_place
from offcut.app.shared.offset_field import OffsetField
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import label, stacked
from offcut.app.views.description import ViewContext
from offcut.app.views.tally.outcome_panel import OutcomePanel
from offcut.app.views.tally.rolls import Rolls
from offcut.app.views.tally.tally_page import TallyPage
from offcut.app.views.tally.version_tally import VersionTally
from offcut.core.errands.held_against import OneSide
from offcut.core.reports.change_list import write_change_list
from offcut.core.tally.versions.locked import Lock
from offcut.core.words import many

FORMS = {
    "PDF with pictures (*.pdf)": ".pdf",
    "Every shot and every unchanged stretch (*.csv)": ".csv",
    "EDL with locators (*.edl)": ".edl",
    "OTIO timeline with markers (*.otio)": ".otio",
}


class VersionsPage(TallyPage):
    """A film held against another version of it."""

    section = "versions"
    tally: VersionTally

    def __init__(self, context: ViewContext, table: Actions, pictures: ShotPictures) -> None:
        tally = VersionTally(context.session)
        super().__init__(context.session, tally, pictures)
        self._context = context
        self.rolls = Rolls(tally, pictures)
        self.panel = OutcomePanel(tally)
        self.bring = ActionButton(table, "tally-bring", "Bring in another version…")
        buttons = [
            ActionButton(table, "tally-agree", "It is so", main=True),
            ActionButton(table, "tally-untie", "Untie"),
            ActionButton(table, "tally-doubt", "Next doubt"),
            ActionButton(table, "tally-open", "Show in Seams"),
        ]
        self.plain = QPushButton("Lock them by their timecodes")
        self.plain.clicked.connect(lambda: self.tally.lock_by(Lock.TIMECODE))
        self.lay_out(self.rolls, self._top(), self.panel, buttons, self._offers())
        self.panel.carry_wanted.connect(self.carry)
        self.panel.keep_wanted.connect(self.keep_list)
        self.rolls.menu_asked.connect(partial(self.menu_wanted.emit, "tally-versions"))

    def _top(self) -> QWidget:
        made, lines = stacked((14, 2, 12, 0), 4)
        top = QHBoxLayout()
        lines.addLayout(top)
        self.other = QComboBox()
        self.other.setAccessibleName("The film this one is held against")
        self.other.activated.connect(lambda _n: self._hold_chosen())
        top.addWidget(self.other, 1)
        self.way = QToolButton()
        self.way.setObjectName("faint")
        self.way.setAccessibleName("Which is the new version")
        self.way.setToolTip("Whether it is the new version or the old one; a click swaps both")
        self.way.clicked.connect(self.tally.swap)
        top.addWidget(self.way)
        top = QHBoxLayout()
        top.addWidget(label("Locked by", "faint"))
        self.lock = QComboBox()
        self.lock.setAccessibleName("What holds both to the same frame")
        for lock in Lock:
            self.lock.addItem(lock.value, lock)
        self.lock.activated.connect(lambda _n: self.tally.lock_by(Lock(self.lock.currentData())))
        top.addWidget(self.lock, 1)
        self.offset = OffsetField(
            "How much later the same lies in the old one", lambda: self._s.clock
        )
        self.offset.setFixedWidth(112)
        self.offset.valueChanged.connect(self.tally.set_offset)
        top.addWidget(self.offset)
        lines.addLayout(top)
        return made

    def _offers(self) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.addWidget(self.bring)
        row.addWidget(self.plain)
        return made

    # showing

    def refresh(self) -> None:
        """Have compared what is not yet."""
        self.tally.refresh()

    def restyle(self) -> None:
        """Take the theme in force."""
        super().restyle()
        self.bring.restyle()

    def tell(self) -> None:
        """Show which films there are to hold this one against."""
        self.bring.setVisible(self._s.source is not None and not self.tally.others)
        self.plain.setVisible(self._s.source is not None and bool(self.tally.others))
        self.lock.setCurrentIndex(self.lock.findData(self.tally.held_by))
        self.offset.setVisible(not self.tally.tells)
        if not self.offset.hasFocus() or self.offset.value() != self.tally.offset:
            self.offset.show_value(self.tally.offset)
        films = [(s.id, Path(s.media.path).name) for s in self.tally.others]
        held = [(self.other.itemData(n), self.other.itemText(n)) for n in range(self.other.count())]
        if films != held:
            self.other.clear()
            for source_id, name in films:
                self.other.addItem(name, source_id)
        self.other.setCurrentIndex(max(0, self.other.findData(self.tally.other_id)))
        self.way.setText("is old" if self.tally.swapped else "is new")

    def _changed(self) -> int:
        return sum(not c.alike for c in self.tally.comparison.changes)

    def head_words(self) -> str:
        """Return how many things changed."""
        if self.tally.busy:
            return "Being compared"
        if not self.tally.tells:
            return f"Locked by {self.tally.held_by.value}"
        changed = self._changed()
        return f"{many(changed, 'thing')} changed" if changed else "Nothing changed"

    def aside_words(self) -> str:
        """Return how many shots are the same, or how far measuring is."""
        if self.tally.busy:
            return f"measured {self.tally.share:.0%}" if self.tally.share else ""
        if self.tally.looks_closer:
            return f"looking closer {self.tally.share:.0%}"
        if not self.tally.tells:
            return many(len(self.tally.comparison.changes), "shot")
        return f"{many(len(self.tally.comparison.changes) - self._changed(), 'shot')} the same"

    def why_nothing(self) -> str:
        """Return why there is nothing to show, empty where there is."""
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
            if tally.tells and film is not None and not film.searched:
                name = Path(film.media.path).name
                return f"The seams of {name} are not found yet; once they are, it is compared"
        return ""

    def _hold_chosen(self) -> None:
        self.tally.hold_against(int(self.other.currentData() or 0))
        for film in (self.tally.old, self.tally.new):
            if film is not None and not film.searched:
                self._context.search.find(film.id)

    # doing

    def agree(self) -> None:
        """Say that what was found is so, and go on to the next doubt, or row."""
        if self.tally.agree() and not self.tally.next_doubt():
            self.tally.step(1)

    def untie(self) -> None:
        """Say that the shot was made from nothing in the old version."""
        self.tally.untie()

    def lock_here(self) -> None:
        """Tie the shots so that the two frames that are shown are the same."""
        here = self.well.here
        if here.old is None or here.new is None or not self.tally.lock(here.old - here.new):
            self._s.said.emit("There are no two shots to lock here")
        else:
            self.well.set_later(0)

    def lock_by_next(self) -> None:
        """Hold both to the same frame by the next thing that can."""
        locks = list(Lock)
        self.tally.lock_by(locks[(locks.index(self.tally.held_by) + 1) % len(locks)])

    def take_back(self) -> None:
        """Let the pictures tell again."""
        self.tally.take_back()

    def tie_by_hand(self) -> None:
        """Tie the new shot that is looked at to the old one that was taken for it."""
        self._s.said.emit(self.tally.tie_to_taken())

    def take_for_tie(self) -> None:
        """Take the old shot that is looked at, for a tie by hand."""
        self._s.said.emit(self.tally.take_old())

    def bring_other(self) -> None:
        """Ask for another version of the film."""
        path = ask_file(self, self._s, "film", "Another version of this film")
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

    def keep_list(self) -> None:
        """Ask where to keep the change list."""
        words, forms = "Keep the change list", ";;".join(FORMS)
        path, chosen = ask_place(self, self._s, "changes", words, "changes.pdf", forms)
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
            OneSide(Path(old.media.path), project, old), OneSide(Path(new.media.path), project, new)
        )  # fmt: skip
        count = sum(not c.alike for c in comparison.changes)
        self._s.work(
            "Keeping the change list", lambda _job: write_change_list(path, comparison, *sides),
            lambda file: self._s.said.emit(f"{many(count, 'change')} kept in {file}"),
            whatever=True,
        )  # fmt: skip
