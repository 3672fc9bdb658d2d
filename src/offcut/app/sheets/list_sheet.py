"""Cut by a list: where its joins fall on the film, shifted live, and what to make of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QRadioButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.sheets.join_table import JoinTable, verdict_words
from offcut.app.sheets.places_table import PlacesTable
from offcut.app.theme.parts import label, number, pane, plain
from offcut.core.errors import OffcutError
from offcut.core.lists.incoming import ReadList
from offcut.core.model.project import Project
from offcut.core.model.seam import Origin
from offcut.core.model.shots import counted_seams, shots_of
from offcut.core.model.source import Source
from offcut.core.tally.cutting import WITHIN, Use
from offcut.core.tally.fitting import Fit, agreeing, misgivings, verdicts
from offcut.core.tally.taking import CUTTING, Row, Taking
from offcut.core.timecode import frame_from_typed, timecode_from_frame
from offcut.core.words import many

_USES = (
    (Use.TOGETHER, "List and found seams together", "where both have one, the list names it"),
    (Use.ALONE, "The list alone", "open found seams make way; what you judged stays"),
    (Use.WITNESS, "Only as a witness", "scores rise where it agrees, fall where it does not"),
    (Use.MARKERS, "Markers only", "the places it marks; no seam is touched"),
    (Use.NAMES, "Names, notes and scenes only", "by reel and timecode; what you named stays"),
)
_VERBS = {
    Use.WITNESS: "Weigh the seams", Use.MARKERS: "Mark the film", Use.NAMES: "Name the shots"
}  # fmt: skip


@dataclass(frozen=True)
class _Foreseen:
    """What will come of a list: how many shots or markers, or why nothing; and what is in it."""

    count: int
    problem: str
    head: str
    rows: tuple[Row, ...]


def _count(before: Project, after: Project, source_id: int, use: Use) -> int:
    """Return how many markers come, how many shots change, or how many there will be."""
    was, now = before.source(source_id), after.source(source_id)
    if use is Use.MARKERS:
        return len(now.markers) - len(was.markers)
    shots = shots_of(now)
    if use is Use.NAMES:
        return sum(a.card != b.card for a, b in zip(shots_of(was), shots, strict=True))
    return len(shots)


class ListSheet(QDialog):
    """One list against the film on the bench. ``order_wanted`` tells it is read as an order."""

    order_wanted = Signal(object)

    def __init__(
        self, session: Session, pictures: PicturesInHand, listed: ReadList, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self._s = session
        self._of = session.in_hand
        self.taking = Taking(listed)
        self.offset = 0
        self.setWindowTitle(f"Cut by {listed.name}")
        self.resize(1000, 640)
        self.table = JoinTable(session, pictures)
        self._agree = label("", "large")
        self._about = label("", "faint")
        self._about.setWordWrap(True)
        self.only = QCheckBox("Only what differs")
        self.only.toggled.connect(self._show)
        self.place = QLineEdit()
        self.place.setObjectName("monofield")
        self.place.setAccessibleName("Timecode of the list that the film’s first frame has")
        self.place.editingFinished.connect(self._typed)
        self._why = label("", "faint")
        self._why.setWordWrap(True)
        self.doubts = label("", "")
        self.doubts.setWordWrap(True)
        self.lines = QListWidget()
        self.lines.setAccessibleName("Lines that could not be used")
        self.lines.setWordWrap(True)
        self.lines.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.lines.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.lines.addItems([str(t) for t in listed.troubles])
        more = listed.lost + listed.odd - len(listed.troubles)
        if more > 0:
            self.lines.addItem(f"and {more:,} more")
        self.places = PlacesTable()
        self.lines.setMinimumHeight(96)
        self.lines.setVisible(bool(listed.troubles))
        self.uses = QButtonGroup(self)
        self._means = label("", "faint")
        self._means.setWordWrap(True)
        self._nearness = QWidget()
        self.within = number(0, 50, "How far apart they may lie to be one", " frames")
        self.within.setValue(WITHIN)
        self.within.valueChanged.connect(self._changed)
        self.at_found = QCheckBox("at the found seam’s frame")
        self.at_found.setChecked(True)
        self.at_found.toggled.connect(self._changed)
        self.cut = QPushButton("Cut the film")
        self.cut.setDefault(True)
        self.cut.setObjectName("main")
        self.cut.setMinimumHeight(34)
        self.cut.clicked.connect(self._cut)
        self.as_order = QPushButton("Read it as a running order")
        self.as_order.setToolTip("Its events in their order, as shots of the project’s films")
        self.as_order.clicked.connect(self._read_as_order)
        self._foreseeing: Job | None = None
        self._finding: Job | None = None
        self._soon = soon(self, 120, self._foresee)
        self._lay_out()
        self.find_offset()
        self.table.setFocus()
        session.changed.connect(self._follow)

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setContentsMargins(18, 16, 8, 12)
        head = QHBoxLayout()
        head.addWidget(self._agree)
        head.addStretch()
        head.addWidget(self.only)
        left.addLayout(head)
        left.addWidget(self._about)
        self.shown = QStackedWidget()
        self.shown.addWidget(self.table)
        self.shown.addWidget(self.places)
        left.addWidget(self.shown, 1)
        side = pane("side")
        side.setFixedWidth(300)
        box = QVBoxLayout(side)
        box.setContentsMargins(18, 16, 18, 16)
        box.setSpacing(6)
        box.addWidget(label("The film’s first frame, by the list", "head"))
        box.addWidget(self.place)
        row = QHBoxLayout()
        row.setSpacing(4)
        for words, by, tip in (
            ("−1 s", -self._s.second, "A second earlier"),
            ("−1", -1, "A frame earlier"),
        ):
            row.addWidget(self._shifter(words, by, tip))
        for words, by, tip in (
            ("+1", 1, "A frame later"),
            ("+1 s", self._s.second, "A second later"),
        ):
            row.addWidget(self._shifter(words, by, tip))
        find = QPushButton("Find it")
        find.clicked.connect(self.find_offset)
        row.addStretch()
        row.addWidget(find)
        box.addLayout(row)
        box.addWidget(self._why)
        box.addSpacing(10)
        box.addWidget(label("What does not fit", "head"))
        box.addWidget(self.doubts)
        box.addWidget(self.lines, 1)
        box.addSpacing(10)
        box.addWidget(label("What to make of it", "head"))
        for use, words, why in _USES:
            choice = QRadioButton(words)
            choice.setToolTip(plain(why))
            choice.setProperty("use", use.value)
            choice.setChecked(use is self.taking.likely)
            choice.setEnabled(self.taking.fits(use))
            self.uses.addButton(choice)
            choice.toggled.connect(self._turned)
            box.addWidget(choice)
        box.addWidget(self._means)
        row = QHBoxLayout(self._nearness)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label("One when within"))
        row.addWidget(self.within, 1)
        box.addWidget(self._nearness)
        box.addWidget(self.at_found)
        box.addStretch(0 if self.taking.listed.troubles else 1)
        box.addWidget(self.as_order)
        box.addWidget(self.cut)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(left, 1)
        whole.addWidget(side)

    def _shifter(self, words: str, by: int, tip: str) -> QToolButton:
        button = QToolButton()
        button.setText(words)
        button.setToolTip(plain(tip))
        button.setAccessibleName(tip)
        button.setAutoRepeat(True)
        button.clicked.connect(lambda: self.set_offset(self.offset + by, ""))
        return button

    # the offset

    def find_offset(self) -> None:
        """Find by itself, in the background, how the list lies on the film."""
        source, taking, use = self._source, self.taking, self.use
        if source is None:
            return
        self._why.setText("looking where it lies …")
        job = self._finding = self._s.work(
            "Laying the list on the film", lambda _job: taking.laid(source, use),
            lambda fit: self._fit_found(job, fit), of=[source.id], quick=True,
        )  # fmt: skip

    def _fit_found(self, job: Job, fit: Fit) -> None:
        if job is self._finding:
            self.set_offset(fit.offset, fit.why)

    @property
    def _source(self) -> Source | None:
        """The source the list was opened for, None once it was taken out."""
        project = self._s.project
        return project.source(self._of) if project.holds(self._of) else None

    def set_offset(self, offset: int, why: str = "") -> None:
        """Lay the list on the film so that film frame = record frame - offset."""
        self._finding = None
        self.offset = offset
        self._why.setText(why or "set by hand")
        media = self._source.media if self._source else None
        if media is not None:
            self.place.setText(timecode_from_frame(offset, media.rate, media.drop))
        self._show()

    def _typed(self) -> None:
        source = self._source
        if source is None:
            return
        media = source.media
        text = self.place.text()
        if text == timecode_from_frame(self.offset, media.rate, media.drop):
            return
        try:
            frame = frame_from_typed(text, media.rate, drop=media.drop, here=self.offset)
        except OffcutError as error:
            self._s.failed.emit(str(error))
            self.set_offset(self.offset, self._why.text())
            return
        self.set_offset(frame)

    # showing

    def _follow(self) -> None:
        if self.isVisible():
            self._show()

    def _show(self) -> None:
        if self._finding is not None:
            return  # what stands there is of before
        source = self._source
        if source is None:
            return
        if self.use not in CUTTING:
            self._show_places()
            self._show_doubts(source)
            self._changed()
            return
        self.shown.setCurrentWidget(self.table)
        self.only.show()
        told, missed = verdicts(self.taking.joins, source, self.offset)
        seams = [s for s in counted_seams(source) if s.origin is not Origin.LISTED]
        agree = agreeing(self.taking.joins, seams, self.offset)
        whole = len(self.taking.joins.joins)
        self._agree.setText(f"{agree} of {whole} joins lie on a found seam")
        about = [self.taking.listed.form, f"{len(self.taking.listed.events)} events"]
        if self.taking.listed.sound:
            about.append(f"{self.taking.listed.sound} more of sound alone")
        if missed:
            where = ", ".join(self._s.words_of(s.frame) for s in missed[:3])
            more = ", …" if len(missed) > 3 else ""
            about.append(f"{len(missed)} found seams are not in it: {where}{more}")
        self._about.setText("   ".join([self.taking.listed.name, ", ".join(about)]))
        frames = source.media.frames
        if self.only.isChecked():
            told = tuple(v for v in told if verdict_words(v, frames)[1])
        self.table.show_verdicts(told)
        self._show_doubts(source)
        self._changed()

    def _show_doubts(self, source: Source) -> None:
        """Say what of the list does not fit the film."""
        doubts = misgivings(
            self.taking.listed,
            self.taking.joins if self.use in CUTTING else None,
            source.media,
            self.offset,
        )
        self.doubts.setText("\n".join(f"– {d}" for d in doubts) or "nothing: it fits")
        self.doubts.setObjectName("warning" if doubts else "faint")
        self.doubts.setStyleSheet("")
        self.doubts.style().polish(self.doubts)

    def _show_places(self) -> None:
        """Show what the list marks or names, as it is foreseen."""
        if self.shown.currentWidget() is not self.places:
            self.shown.setCurrentWidget(self.places)
            self._agree.clear()  # what stands there is of the joins
        self.only.hide()
        self._about.setText(f"{self.taking.listed.name}   {self.taking.listed.form}")

    @property
    def use(self) -> Use:
        """What the list is to be used for."""
        chosen = self.uses.checkedButton()
        return Use(chosen.property("use")) if chosen is not None else Use.TOGETHER

    def _verb(self) -> Callable[[Project], Project]:
        """Return the edit that is asked for now."""
        return partial(
            self.taking.take,
            source_id=self._of,
            offset=self.offset,
            use=self.use,
            within=self.within.value(),
            at_found=self.at_found.isChecked(),
        )

    def _turned(self, on: bool) -> None:
        """Show the list as what it is to be now."""
        if on:
            self._show()

    def _changed(self) -> None:
        self._means.setText(next(why for use, _, why in _USES if use is self.use))
        self.at_found.setVisible(self.use is Use.TOGETHER)
        self._nearness.setVisible(self.use in (Use.TOGETHER, Use.WITNESS))
        self.cut.setEnabled(False)  # what stands there is of before
        self._soon.start()

    def _foresee(self) -> None:
        """Work out off the interface thread what will come of it, and say so."""
        verb, project, source_id = self._verb(), self._s.project, self._of
        taking, offset, use = self.taking, self.offset, self.use

        def work(_job: Job) -> _Foreseen:
            told: tuple[str, tuple[Row, ...]] = "", ()
            if use not in CUTTING:
                told = taking.told(project, source_id, offset, use)
            try:
                return _Foreseen(_count(project, verb(project), source_id, use), "", *told)
            except OffcutError as error:
                return _Foreseen(0, str(error), *told)

        job = self._foreseeing = self._s.work(
            "Laying the list on the film", work, lambda got: self._foreseen(job, got),
            of=[source_id], quick=True,
        )  # fmt: skip

    def _foreseen(self, job: Job, got: _Foreseen) -> None:
        if job is not self._foreseeing or self._soon.isActive():
            return
        if got.head:
            self._agree.setText(got.head)
            self.places.show_rows(got.rows)
        verb = _VERBS.get(self.use, "Cut the film")
        self.cut.setEnabled(not got.problem)
        self.cut.setToolTip(plain(got.problem or "One undo takes it back"))
        if got.problem:
            self.cut.setText(verb)
            self._about.setText(got.problem)
        else:
            thing = "marker" if self.use is Use.MARKERS else "shot"
            self.cut.setText(f"{verb}: {many(got.count, thing)}")

    def _read_as_order(self) -> None:
        self.order_wanted.emit(self.taking.listed)
        self.accept()

    def _cut(self) -> None:
        done = {Use.MARKERS: "Markers of", Use.NAMES: "Names of"}.get(self.use, "Cut by")
        words, verb = f"{done} {self.taking.listed.name}", self._verb()
        self._s.take_in_hand(self._of)
        if self._s.edit(lambda p, _s: verb(p), words):
            told = f": {many(len(self._s.shots), 'shot')}" if self.use in CUTTING else ""
            self._s.said.emit(f"{words}{told}")
            self.accept()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.table.joins.show(())
        super().closeEvent(event)
