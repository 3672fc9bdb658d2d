"""Originals: the file each shot was made from, both locked to the same frame, and pull lists."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.shared.asking import ask_folder, ask_place
from offcut.app.shared.known_folders import folders_of, keep_folders
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import in_line, label, number, plain, stacked
from offcut.app.views.description import ViewContext
from offcut.app.views.tally.original_rolls import OriginalRolls
from offcut.app.views.tally.original_tally import OriginalTally
from offcut.app.views.tally.tally_page import TallyPage, counts_grid
from offcut.core.errors import OffcutError
from offcut.core.reports.conform_lists import write_pairs_sheet, write_pull_list
from offcut.core.words import many

PULLS = {"Rows (*.csv)": ".csv", "EDL (*.edl)": ".edl", "ALE (*.ale)": ".ale"}
SHEET = {"Every pair on paper (*.pdf)": ".pdf"}
_MOST_TOLD = 40


class OriginalsPage(TallyPage):
    """A film held against its originals."""

    section = "originals"
    tally: OriginalTally

    def __init__(self, context: ViewContext, table: Actions, pictures: ShotPictures) -> None:
        tally = OriginalTally(context.session)
        super().__init__(context.session, tally, pictures)
        self._settings = context.settings
        self.rolls = OriginalRolls(tally, pictures)
        self.choose = QPushButton("Look in a folder…")
        self.choose.clicked.connect(self.ask_folder)
        buttons = [
            ActionButton(table, "tally-agree", "It is this one", main=True),
            ActionButton(table, "tally-likely", "Next likeliest"),
            ActionButton(table, "tally-doubt", "Next doubt"),
            ActionButton(table, "tally-open", "Show in Seams"),
        ]
        self.again = QPushButton("Look again where it was looked last")
        self.again.clicked.connect(lambda: self.tally.look_in(self._known()))
        self.lay_out(self.rolls, self._top(), self._panel(), buttons, self._offers())
        self.rolls.menu_asked.connect(partial(self.menu_wanted.emit, "tally-originals"))

    def _offers(self) -> QWidget:
        made = QWidget()
        column = QVBoxLayout(made)
        column.addWidget(self.again)
        column.addWidget(self.choose)
        return made

    def _known(self) -> tuple[str, ...]:
        """Return where the originals of this film were looked for last."""
        source = self._s.source
        if source is None or self.tally.folders:
            return ()
        return folders_of(self._settings, source.media.fingerprint)

    def _top(self) -> QWidget:
        made, box = in_line((14, 2, 12, 0))
        self.where = label("", "faint")
        box.addWidget(self.where, 1)
        other = QPushButton("Another folder…")
        other.clicked.connect(self.ask_folder)
        box.addWidget(other)
        return made

    def _panel(self) -> QWidget:
        made, box = stacked((16, 12, 16, 12), 6)
        box.addWidget(label("What was found", "head"))
        grid, self.counts = counts_grid({words: words for words in self.tally.counts})
        box.addLayout(grid)
        box.addSpacing(8)
        self.take_all = QPushButton("Take all")
        self.take_all.setObjectName("main")
        self.take_all.setMinimumHeight(32)
        self.take_all.clicked.connect(self.take_sure)
        box.addWidget(self.take_all)
        line = QHBoxLayout()
        self.pull = QPushButton("Keep a pull list…")
        self.pull.setMinimumHeight(30)
        self.pull.clicked.connect(self.keep_list)
        line.addWidget(self.pull, 1)
        line.addWidget(label("handles", "faint"))
        self.handles = number(0, 10_000, "Handles of the pull list, in frames")
        self.handles.setValue(12)
        self.handles.setFixedWidth(52)
        line.addWidget(self.handles)
        box.addLayout(line)
        self.sheet = QPushButton("Keep a sheet of the pairs…")
        self.sheet.setMinimumHeight(30)
        self.sheet.clicked.connect(self.keep_sheet)
        box.addWidget(self.sheet)
        self.over = QPushButton("Lists of them in Turnover")
        self.over.setMinimumHeight(30)
        self.over.clicked.connect(lambda: self._s.view_wanted.emit("turnover"))
        box.addWidget(self.over)
        self.odd = label("", "faint")
        self.odd.setWordWrap(True)
        self.odd.setAlignment(Qt.AlignmentFlag.AlignTop)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setWidget(self.odd)
        box.addWidget(scroll, 1)
        return made

    # showing

    def refresh(self) -> None:
        """Have looked for what is not known yet."""
        self.tally.refresh()

    def why_nothing(self) -> str:
        """Return why there is nothing to show, empty where there is."""
        tally, source = self.tally, self._s.source
        if source is None:
            return "Bring a film in, and find its seams; then its originals can be found"
        if not source.searched:
            return "The seams of this film are not found yet; each shot has an original of its own"
        if not tally.folders:
            return "Where do the camera files, the graded or the restored shots of this film lie?"
        if tally.trouble:
            return f"{tally.trouble[:1].upper()}{tally.trouble[1:]}"
        return ""

    def head_words(self) -> str:
        """Return how many shots have an original."""
        tally = self.tally
        if tally.busy:
            return "Being looked for"
        return f"{sum(c.old is not None for c in tally.rows)} of {many(len(tally.rows), 'shot')}"

    def aside_words(self) -> str:
        """Return how far the search is, or of how many files."""
        tally = self.tally
        if tally.busy:
            return f"{tally.share:.0%}"
        return many(len(tally.conform.clips), "file") if tally.conform is not None else ""

    def tell(self) -> None:
        """Show the figures, and what is odd."""
        tally = self.tally
        self.choose.setVisible(self._s.source is not None and self._s.source.searched)
        known = self._known()
        self.again.setVisible(bool(known) and self.choose.isVisibleTo(self))
        names = ", ".join(Path(f).name for f in known)
        self.again.setText(f"Look again in {names}")
        self.again.setToolTip(plain("\n".join(known)))
        folders = ", ".join(Path(f).name for f in tally.folders)
        self.where.setText(self.where.fontMetrics().elidedText(
            folders, Qt.TextElideMode.ElideMiddle, 130))  # fmt: skip
        self.where.setToolTip(plain("\n".join(tally.folders)))
        counts = tally.counts
        for words, shown in self.counts.items():
            shown.setText(str(counts.get(words, 0)))
        sure = len(tally.to_take)
        self.take_all.setText(f"Take {many(sure, 'original')}" if sure else "Nothing to take")
        self.take_all.setEnabled(sure > 0)
        for button in (self.pull, self.sheet):
            button.setEnabled(any(c.old is not None for c in tally.rows))
        lines = tally.odd_lines
        more = len(lines) - _MOST_TOLD
        shown_lines = [*lines[:_MOST_TOLD], *([f"and {more} more"] if more > 0 else [])]
        self.odd.setText("\n".join(shown_lines))

    # doing

    def ask_folder(self) -> None:
        """Ask where the originals lie."""
        folder = ask_folder(self, self._s, "originals", "Where the originals lie")
        if folder:
            if self._s.source is not None:
                keep_folders(self._settings, self._s.source.media.fingerprint, [folder])
            self.tally.look_in([folder])

    def agree(self) -> None:
        """Put the original on the shot's card, and go on."""
        change = self.tally.change
        if change is not None and self.tally.take([change]) and not self.tally.next_doubt():
            self.tally.step(1)

    def take_sure(self) -> None:
        """Put every original that is not in doubt on its shot's card."""
        taken = self.tally.take(self.tally.to_take)
        if taken:
            self._s.said.emit(f"{many(taken, 'original')} on the cards of their shots")

    def untie(self) -> None:
        """Take the original off the shot's card."""
        change = self.tally.change
        if change is not None and not self.tally.leave(change):
            self._s.said.emit("There is no original on this shot’s card")

    def lock_here(self) -> None:
        """Let the two frames that are shown be the same: the original begins elsewhere."""
        here = self.well.here
        if here.old is None or here.new is None or not self.tally.lock(here.old, here.new):
            self._s.said.emit("There are no two pictures to lock here")
        else:
            self.well.set_later(0)

    def take_back(self) -> None:
        """Take the original off the shot's card."""
        self.untie()

    def next_likely(self) -> None:
        """Try the next likeliest original."""
        if not self.tally.next_likely():
            self._s.said.emit("No other file comes near")

    def keep_list(self) -> None:
        """Ask where to keep the pull list."""
        self._ask_where("Keep a pull list", "pull.csv", PULLS)

    def keep_sheet(self) -> None:
        """Ask where to keep the sheet of the pairs."""
        self._ask_where("Keep a sheet of the pairs", "pairs.pdf", SHEET)

    def _ask_where(self, title: str, name: str, forms: dict[str, str]) -> None:
        path, chosen = ask_place(self, self._s, "pull", title, name, ";;".join(forms))
        if path:
            known = Path(path).suffix.lower() in forms.values()
            self.keep(path if known else f"{path}{forms.get(chosen, Path(name).suffix)}")

    def keep(self, path: str) -> None:
        """Keep the frames needed of each original, or the sheet of the pairs: what a file's ending
        asks for.
        """
        try:
            conform = self.tally.settled()
        except OffcutError as error:
            self._s.failed.emit(str(error))
            return
        project, handles = self._s.project, self.handles.value()
        sheet = Path(path).suffix.lower() == ".pdf"
        self._s.work(
            "Keeping the sheet of the pairs" if sheet else "Keeping the pull list",
            lambda _job: write_pairs_sheet(path, conform) if sheet
            else write_pull_list(path, conform, project, handles),
            lambda file: self._s.said.emit(f"Kept in {file}"), whatever=True,
        )  # fmt: skip
