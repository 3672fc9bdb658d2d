"""What it becomes: lists, movies, pictures, and what the files are called."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.theme.parts import label, number, plain
from offcut.core.lists.registry import ListFormat, written_formats
from offcut.core.media.display import display_words
from offcut.core.model.handover import Asked
from offcut.core.model.papers import PAPERS
from offcut.core.turnover.movies import WAYS
from offcut.core.turnover.names import FIELDS
from offcut.core.turnover.plan import STILL_SUFFIXES, STILLS, Plan

_STILL_WORDS = {
    "first": "first frame",
    "middle": "middle frame",
    "last": "last frame",
    "sharpest": "sharpest frame",
    "telling": "frame that tells most",
    "faces": "frame with most of a face",
}


class OutputChoices(QWidget):
    """``changed`` tells that something else is wanted."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._quiet = False
        self.lists = {form.code: self._tick(form) for form in written_formats()}
        self.lists["edl"].setChecked(True)
        self.record = QLineEdit("01:00:00:00")
        self.record.setObjectName("monofield")
        self.record.setFixedWidth(104)
        self.record.setAccessibleName("Record side begins at")
        self.record.textChanged.connect(self._told)
        self.movies = _choice(
            [("", "no movies")] + [(w.code, f"{w.words}, {w.about}") for w in WAYS.values()]
        )
        self.movies.setAccessibleName("Movies")
        self.handles = _number(0, 10_000, "Handles on each side", " fr")
        self.framing = QCheckBox("cut to the framing")
        self.framing.toggled.connect(self._told)
        self.seen = QCheckBox("movies as the display shows them")
        self.seen.setToolTip("What the display shows is burnt in and cannot be taken back")
        self.seen.toggled.connect(self._told)
        self.stills = _choice([("", "no stills")] + [(s, _STILL_WORDS[s]) for s in STILLS])
        self.stills.setAccessibleName("Stills")
        self.still_format = _choice([(f, f.upper()) for f in STILL_SUFFIXES])
        self.still_format.setAccessibleName("Format of the stills")
        self.pdf, self.png = QCheckBox("PDF"), QCheckBox("PNG")
        self.sheet_still = _choice([(s, _STILL_WORDS[s]) for s in STILLS])
        self.sheet_still.setAccessibleName("Frame that contact sheets show")
        self.sheet_still.setToolTip("Which frame of each shot the contact sheet shows")
        self.paper = _choice([(p, p) for p in PAPERS])
        self.paper.setAccessibleName("Paper")
        self.pattern = QLineEdit(Asked().pattern)
        self.pattern.setObjectName("monofield")
        self.pattern.setAccessibleName("Pattern of the names")
        self.pattern.textChanged.connect(self._told)
        self.fields = QToolButton()
        self.fields.setText("Fields ▾")
        self.fields.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        for field, about in FIELDS.items():
            menu.addAction(f"{{{field}}}   {about}").triggered.connect(
                lambda _on=False, f=field: self.pattern.insert(f"{{{f}}}")
            )
        self.fields.setMenu(menu)
        self.first = _number(0, 1_000_000, "First number")
        self.first.setValue(1)
        self.step = _number(1, 1000, "Step of the numbers")
        self.padding = _number(1, 8, "Digits of the numbers")
        self.padding.setValue(3)
        self.shortest = _number(0, 10_000, "Point out shots shorter than", " fr")
        self.preview = label("", "mono")
        self.preview.setWordWrap(True)
        for spin in (self.handles, self.first, self.step, self.padding, self.shortest):
            spin.valueChanged.connect(self._told)
        for choice in (self.movies, self.stills, self.still_format, self.sheet_still, self.paper):
            choice.currentIndexChanged.connect(self._told)
        for tick in (self.pdf, self.png):
            tick.toggled.connect(self._told)
        self._lay_out()

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(22, 14, 22, 12)
        box.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(label("Lists", "head"))
        head.addStretch()
        head.addWidget(label("record side begins at", "faint"))
        head.addWidget(self.record)
        box.addLayout(head)
        box.addLayout(self._lists())
        box.addSpacing(8)
        box.addWidget(label("Movies", "head"))
        row = QHBoxLayout()
        row.addWidget(self.movies, 1)
        row.addWidget(label("handles"))
        row.addWidget(self.handles)
        box.addLayout(row)
        box.addWidget(self.framing)
        box.addWidget(self.seen)
        box.addSpacing(8)
        box.addWidget(label("Pictures", "head"))
        row = QHBoxLayout()
        row.addWidget(self.stills, 1)
        row.addWidget(self.still_format)
        box.addLayout(row)
        row = QHBoxLayout()
        row.addWidget(label("contact sheet"))
        row.addWidget(self.pdf)
        row.addWidget(self.png)
        row.addWidget(self.paper)
        row.addWidget(label("of the", "faint"))
        row.addWidget(self.sheet_still, 1)
        box.addLayout(row)
        box.addSpacing(8)
        box.addWidget(label("Names", "head"))
        row = QHBoxLayout()
        row.addWidget(self.pattern, 1)
        row.addWidget(self.fields)
        box.addLayout(row)
        row = QHBoxLayout()
        for words, spin in (
            ("from", self.first),
            ("step", self.step),
            ("digits", self.padding),
        ):
            row.addWidget(label(words, "faint"))
            row.addWidget(spin)
        row.addStretch()
        row.addWidget(label("point out shots under", "faint"))
        row.addWidget(self.shortest)
        box.addLayout(row)
        box.addWidget(self.preview)
        box.addStretch()

    def _tick(self, form: ListFormat) -> QCheckBox:
        tick = QCheckBox(form.short or form.words)
        tick.setAccessibleName(form.words)
        tick.setToolTip(plain(f"{form.words}: {form.about}"))
        tick.toggled.connect(self._told)
        return tick

    def _lists(self) -> QGridLayout:
        """Lay the lists out by what they are for: a row for each thing they are about."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(2)
        at: dict[tuple[str, str], list[QCheckBox]] = {}
        for form in written_formats():
            at.setdefault((form.group, form.row), []).append(self.lists[form.code])
        before, row = "", -1
        for (group, about), ticks in at.items():
            row += 1
            if group != before:
                if before:
                    grid.setRowMinimumHeight(row, 3)
                    row += 1
                grid.addWidget(label(group), row, 0)
                before = group
            grid.addWidget(label(about, "faint"), row, 1)
            for place, tick in enumerate(ticks):
                grid.addWidget(tick, row, 2 + place)
        grid.setColumnStretch(8, 1)
        return grid

    def _told(self) -> None:
        if not self._quiet:
            self.changed.emit()

    def asked(self, goes: Asked) -> Asked:
        """Return everything that is asked for, of the shots that ``goes`` names."""
        sheets = tuple(n for n, t in (("pdf", self.pdf), ("png", self.png)) if t.isChecked())
        return replace(
            goes,
            lists=tuple(c for c, tick in self.lists.items() if tick.isChecked()),
            movies=self.movies.currentData(),
            handles=self.handles.value(),
            framing=self.framing.isChecked(),
            seen=self.seen.isChecked(),
            stills=self.stills.currentData(),
            still_format=self.still_format.currentData(),
            sheets=sheets,
            sheet_still=self.sheet_still.currentData(),
            paper=self.paper.currentData(),
            pattern=self.pattern.text(),
            first=self.first.value(),
            step=self.step.value(),
            padding=self.padding.value(),
            record_start=self.record.text().strip(),
            shortest=self.shortest.value(),
        )

    def take(self, asked: Asked) -> None:
        """Show what was asked before."""
        self._quiet = True
        for code, tick in self.lists.items():
            tick.setChecked(code in asked.lists)
        for choice, value in (
            (self.movies, asked.movies),
            (self.stills, asked.stills),
            (self.still_format, asked.still_format),
            (self.sheet_still, asked.sheet_still),
            (self.paper, asked.paper),
        ):
            choice.setCurrentIndex(max(0, choice.findData(value)))
        for spin, count in (
            (self.handles, asked.handles),
            (self.first, asked.first),
            (self.step, asked.step),
            (self.padding, asked.padding),
            (self.shortest, asked.shortest),
        ):
            spin.setValue(count)
        self.framing.setChecked(asked.framing)
        self.seen.setChecked(asked.seen)
        self.pdf.setChecked("pdf" in asked.sheets)
        self.png.setChecked("png" in asked.sheets)
        self.pattern.setText(asked.pattern)
        self.record.setText(asked.record_start)
        self._quiet = False

    def show_plan(self, plan: Plan) -> None:
        """Show what the first files are called, and what there is to choose for this film."""
        names = [i.name for i in plan.items]
        originals = any(i.shot.card.original for i in plan.items)
        framing, media = plan.source.framing, plan.media
        width, height = framing.size(media)
        display = plan.source.ticket.display
        self.seen.setVisible(bool(display))
        self.seen.setText(f"movies as the display shows them, {display_words(display)}")
        self.framing.setEnabled(bool(framing))
        self.framing.setText(
            f"movies and pictures cut to the framing, {width}x{height}"
            if framing
            else f"the framing is the whole picture, {width}x{height}"
        )
        shown = names[:2] + (["…", names[-1]] if len(names) > 3 else names[2:3])
        self.preview.setText("\n".join(shown))
        for form in written_formats():
            missing = ""
            if form.originals and not originals:
                missing = "no shot that goes has an original"
            elif form.of_markers and not plan.marked:
                missing = "no shot that goes has a marker"
            tick = self.lists[form.code]
            tick.setEnabled(not missing)
            tick.setToolTip(plain(f"{form.words}: {missing or form.about}"))


def _choice(options: list[tuple[str, str]]) -> QComboBox:
    made = QComboBox()
    for value, words in options:
        made.addItem(words, value)
    return made


def _number(low: int, high: int, name: str, suffix: str = "") -> QSpinBox:
    made = number(low, high, name, suffix)
    made.setFixedWidth(72)
    return made
