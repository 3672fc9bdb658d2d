"""The ticket: what is set of all chosen films at once; what differs among them says so."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from fractions import Fraction

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.shared.asking import ANY, ask_file
from offcut.app.theme.parts import label, plain
from offcut.core.errands.bringing_in import RATES, stops_wanted
from offcut.core.errors import OffcutError
from offcut.core.media.display import display_of, display_words, displays
from offcut.core.media.labels import one_or_differ
from offcut.core.model.project import Project
from offcut.core.model.source import Framed, Source
from offcut.core.model.ticket import SQUEEZES, Fields, Flash, ProxyUse
from offcut.core.model.verbs.searching import set_range, set_sensitivity
from offcut.core.model.verbs.ticket import (
    rate_is_right,
    set_display,
    set_fields,
    set_file_numbers,
    set_flash,
    set_proxy_use,
    set_rate,
    set_reel,
    set_squeeze,
    set_start,
    set_stops,
)
from offcut.core.timecode import frame_from_typed, rate_from, rate_words, timecode_from_frame
from offcut.core.words import many

DIFFER = "differ"
_CUBE = "a cube of one’s own…"
_FIELDS = {
    Fields.AS_FILE: "as the file says",
    Fields.NONE: "none: whole frames",
    Fields.TOP: "the upper line first",
    Fields.BOTTOM: "the lower line first",
}
_FLASH = {
    Flash.SPLIT: "both, split",
    Flash.BEFORE: "the shot before",
    Flash.AFTER: "the shot after",
}
_PROXY = {
    ProxyUse.WHEN_SLOW: "when it plays too slowly",
    ProxyUse.ALWAYS: "always",
    ProxyUse.NEVER: "never",
}


def number_words(value: Fraction) -> str:
    """Return a number as people write it: 1.5, 1.33."""
    return f"{float(value):.4f}".rstrip("0").rstrip(".")


class TicketPanel(QWidget):
    """Fields for what holds of a whole film.

    ``framing_wanted`` asks for the framing in figures; ``searched_again`` tells ids of films whose
    seams must be found again after what was set.
    """

    framing_wanted = Signal()
    searched_again = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._s = session
        self._showing = False
        self.head = label("", "head")
        self.rate = self._combo("Frames a second", [rate_words(r) for r in RATES], self._set_rate)
        self.start = self._line("Timecode of the first frame", self._set_start)
        self.reel = self._line("Reel", self._set_reel)
        self.squeeze = self._combo(
            "Lens squeeze", [number_words(s) for s in SQUEEZES], self._set_squeeze
        )
        shown = ["as it is", *displays().values(), _CUBE]
        self.display = self._choice("Picture seen as", shown, self._set_display)
        self.framing = QPushButton()
        self.framing.setToolTip("The framing in figures, and looking for bars and gate")
        self.framing.clicked.connect(self.framing_wanted)
        self.fields = self._choice("Fields", list(_FIELDS.values()), self._set_fields)
        self.range = self._choice(
            "Look for seams in", ["the whole film", "the marked range"], self._set_range
        )
        self.sensitivity = self._line("Sensitivity, 0 to 100", self._set_sensitivity)
        self.stops = QCheckBox("a stop is one cut")
        self.stops.clicked.connect(self._set_stops)
        self.flash = self._choice("Flash frames", list(_FLASH.values()), self._set_flash)
        self.proxies = QButtonGroup(self)
        self.numbers = QCheckBox("lists count as files are numbered")
        self.numbers.clicked.connect(self._set_numbers)
        self._lay_out()
        session.changed.connect(self.show_chosen)
        session.chosen_changed.connect(self.show_chosen)
        session.marked_changed.connect(self.show_chosen)
        self.show_chosen()

    # parts

    def _combo(self, name: str, words: list[str], take: Callable[[str], None]) -> QComboBox:
        made = QComboBox()
        made.setEditable(True)
        made.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        made.addItems(words)
        made.setAccessibleName(name)
        made.textActivated.connect(take)
        line = made.lineEdit()
        assert line is not None
        line.editingFinished.connect(lambda: self._typed(made, take))
        return made

    def _choice(self, name: str, words: list[str], take: Callable[[str], None]) -> QComboBox:
        made = QComboBox()
        made.addItems(words)
        made.setAccessibleName(name)
        made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        made.setMinimumContentsLength(8)
        made.textActivated.connect(take)
        return made

    def _line(self, name: str, take: Callable[[str], None]) -> QLineEdit:
        made = QLineEdit()
        made.setAccessibleName(name)
        made.editingFinished.connect(lambda: self._typed(made, take))
        return made

    def _typed(self, field: QComboBox | QLineEdit, take: Callable[[str], None]) -> None:
        line = field.lineEdit() if isinstance(field, QComboBox) else field
        if line is not None and line.isModified() and not self._showing:
            line.setModified(False)
            take(line.text().strip())

    def _lay_out(self) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        rows: list[tuple[str, QWidget]] = [
            ("Frames a second", self.rate),
            ("Starts at", self.start),
            ("Reel", self.reel),
            ("Lens squeeze", self.squeeze),
            ("Picture seen as", self.display),
            ("Left out", self.framing),
            ("Fields", self.fields),
            ("Look for seams in", self.range),
            ("Sensitivity", self.sensitivity),
        ]
        for row, (words, field) in enumerate(rows):
            grid.addWidget(label(words, "faint"), row, 0)
            grid.addWidget(field, row, 1)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, 96)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        box.addWidget(self.head)
        box.addSpacing(2)
        box.addLayout(grid)
        box.addSpacing(4)
        box.addWidget(label("Camera stops", "head"))
        box.addWidget(self.stops)
        stops = QGridLayout()
        stops.setHorizontalSpacing(10)
        stops.addWidget(label("Flash frames go to", "faint"), 0, 0)
        stops.addWidget(self.flash, 0, 1)
        stops.setColumnStretch(1, 1)
        stops.setColumnMinimumWidth(0, 96)
        box.addLayout(stops)
        box.addWidget(self.numbers)
        box.addSpacing(4)
        box.addWidget(label("Proxy", "head"))
        for place, (use, words) in enumerate(_PROXY.items()):
            button = QRadioButton(words)
            self.proxies.addButton(button, place)
            button.clicked.connect(lambda _on=False, u=use: self._set_proxy(u))
            box.addWidget(button)

    # showing

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.show_chosen()

    def show_chosen(self) -> None:
        """Show what holds of the chosen films, once it is looked at."""
        if not self.isVisible():
            return
        sources = self._s.chosen_sources
        self._showing = True
        self.setEnabled(bool(sources))
        self.head.setText(self._head(sources))
        self._show(self.rate, sources, lambda s: rate_words(s.media.rate))
        self._show(self.start, sources, _start_words)
        self._show(self.reel, sources, lambda s: s.ticket.reel)
        self._show(self.squeeze, sources, lambda s: number_words(s.ticket.squeeze))
        self._show(self.display, sources, lambda s: display_words(s.ticket.display))
        self._show(self.fields, sources, lambda s: _FIELDS[s.ticket.fields])
        self._show(self.range, sources, _range_words)
        self._show(self.sensitivity, sources, lambda s: str(s.sensitivity))
        self._show(self.flash, sources, lambda s: _FLASH[s.ticket.flash])
        framed = one_or_differ(map(framing_words, sources)) if sources else ""
        self.framing.setText(str(framed) if framed is not None else DIFFER)
        self._tick(self.stops, [stops_wanted(s) is not None for s in sources])
        runs = [s for s in sources if s.media.run is not None]
        self.numbers.setVisible(bool(runs))
        self._tick(self.numbers, [s.ticket.file_numbers for s in runs])
        used = one_or_differ(s.ticket.proxy for s in sources) if sources else None
        self.proxies.setExclusive(False)
        for place, use in enumerate(_PROXY):
            self.proxies.button(place).setChecked(use is used)
        self.proxies.setExclusive(used is not None)
        self._showing = False

    @staticmethod
    def _head(sources: tuple[Source, ...]) -> str:
        if not sources:
            return "No film yet"
        kind = "run" if all(s.media.run is not None for s in sources) else "film"
        return f"{many(len(sources), kind)} chosen"

    def _show(
        self,
        field: QComboBox | QLineEdit,
        sources: Iterable[Source],
        words_of: Callable[[Source], str],
    ) -> None:
        words = one_or_differ(map(words_of, sources)) if sources else ""
        line = field.lineEdit() if isinstance(field, QComboBox) else field
        if line is not None:
            if line.hasFocus() and line.isModified():
                return
            line.setPlaceholderText(DIFFER if words is None else "")
            line.setText("" if words is None else str(words))
            line.setCursorPosition(0)
            line.setModified(False)
            return
        assert isinstance(field, QComboBox)
        shown = DIFFER if words is None else str(words)
        while field.count() and field.itemData(field.count() - 1) == "now":
            field.removeItem(field.count() - 1)
        if field.findText(shown) < 0:
            field.addItem(shown, "now")
        field.setCurrentIndex(field.findText(shown))
        field.setToolTip(plain(shown))

    @staticmethod
    def _tick(box: QCheckBox, values: list[bool]) -> None:
        value = one_or_differ(values) if values else False
        box.setTristate(value is None)
        states = Qt.CheckState
        if value is None:
            box.setCheckState(states.PartiallyChecked)
        else:
            box.setCheckState(states.Checked if value else states.Unchecked)

    # setting

    def _all(self, verb: Callable[[Project, int], Project], words: str) -> None:
        count = len(self._s.chosen_sources)
        films = f" of {many(count, 'film')}" if count > 1 else ""
        self._s.edit_chosen(verb, f"{words}{films}")
        self.show_chosen()

    def _refused(self, words: str) -> None:
        self._s.failed.emit(words)
        self.show_chosen()

    def _set_rate(self, text: str) -> None:
        if text == DIFFER or not text:
            self.show_chosen()
            return
        try:
            rate = rate_from(float(Fraction(text.replace(",", "."))))
        except (ValueError, ZeroDivisionError, OverflowError, OffcutError):
            self._refused(f"{text} is no rate: type frames per second, such as 18 or 23.976")
            return
        self._all(
            lambda p, i: rate_is_right(set_rate(p, i, rate), i), f"Set the rate {rate_words(rate)}"
        )

    def _set_start(self, text: str) -> None:
        sources = self._s.chosen_sources
        if not sources:
            return
        if not text:
            self._all(lambda p, i: set_start(p, i, None), "Start as the file says")
            return
        try:
            for source in sources:
                frame_from_typed(text, source.media.rate)
        except OffcutError as error:
            self._refused(str(error))
            return

        def start(project: Project, source_id: int) -> Project:
            rate = project.source(source_id).media.rate
            drop = ";" in text
            return set_start(project, source_id, frame_from_typed(text, rate, drop=drop), drop)

        self._all(start, f"Start at {text}")

    def _set_reel(self, text: str) -> None:
        self._all(lambda p, i: set_reel(p, i, text), f"Name the reel {text}" if text else "No reel")

    def _set_squeeze(self, text: str) -> None:
        if not text:
            self.show_chosen()
            return
        try:
            squeeze = Fraction(text.replace(",", "."))
        except (ValueError, ZeroDivisionError):
            self._refused(f"{text} is no squeeze: type a number such as 1.33 or 2")
            return
        self._all(lambda p, i: set_squeeze(p, i, squeeze), f"Unsqueeze by {number_words(squeeze)}")

    def _set_display(self, words: str) -> None:
        if words == DIFFER:
            return
        name = next((n for n, w in displays().items() if w == words), "")
        if words == _CUBE:
            forms = f"Cubes (*.cube *.3dl *.csp);;{ANY}"
            path = ask_file(self, self._s, "cube", "A cube to see pictures through", forms)
            if not path:
                self.show_chosen()
                return
            self.take_cube(path)
            return
        if not name and words != "as it is":
            return
        self._all(lambda p, i: set_display(p, i, name), f"See it as {words}")

    def take_cube(self, path: str) -> None:
        """See the chosen films through a cube; one that cannot be read is refused."""
        try:
            display_of(path)
        except OffcutError as error:
            self._refused(str(error))
            return
        self._all(lambda p, i: set_display(p, i, path), f"See it as {display_words(path)}")

    def _set_fields(self, words: str) -> None:
        fields = next((f for f, w in _FIELDS.items() if w == words), None)
        if fields is not None:
            self._all(lambda p, i: set_fields(p, i, fields), f"Fields: {words}")

    def _set_range(self, words: str) -> None:
        marked = self._s.marked
        if words == "the whole film":
            self._all(
                lambda p, i: set_range(p, i, 0, p.source(i).media.frames), "Look in the whole film"
            )
        elif words == "the marked range" and marked is not None:
            self._all(lambda p, i: set_range(p, i, *marked), "Look in the marked range")
        elif words == "the marked range":
            self._refused("Nothing is marked: mark a range with I and O first")
            return
        else:
            return
        self._again()

    def _set_sensitivity(self, text: str) -> None:
        if not text.isdigit() or int(text) > 100:
            if text:
                self._refused("Sensitivity goes from 0 to 100")
            self.show_chosen()
            return
        self._all(lambda p, i: set_sensitivity(p, i, int(text)), f"Sensitivity {text}")

    def _set_stops(self) -> None:
        on = self.stops.checkState() != Qt.CheckState.Unchecked
        words = "Camera stops as one cut each" if on else "Camera stops as they are found"
        self._all(lambda p, i: set_stops(p, i, on), words)
        self._again()

    def _set_flash(self, words: str) -> None:
        flash = next((f for f, w in _FLASH.items() if w == words), None)
        if flash is not None:
            self._all(lambda p, i: set_flash(p, i, flash), f"Flash frames go to {words}")
            self._again()

    def _set_numbers(self) -> None:
        on = self.numbers.checkState() != Qt.CheckState.Unchecked
        words = "Lists count as files are numbered" if on else "Lists count frames from 0"
        self._all(lambda p, i: set_file_numbers(p, i, on), words)

    def _set_proxy(self, use: ProxyUse) -> None:
        self._all(lambda p, i: set_proxy_use(p, i, use), f"Proxy {_PROXY[use]}")

    def _again(self) -> None:
        self.searched_again.emit([s.id for s in self._s.chosen_sources if s.searched])


def _start_words(source: Source) -> str:
    media = source.media
    return timecode_from_frame(media.start, media.rate, media.drop)


def _range_words(source: Source) -> str:
    media = source.media
    if (source.start, source.end) == (0, media.frames):
        return "the whole film"
    first, last = (
        timecode_from_frame(media.start + f, media.rate, media.drop)
        for f in (source.start, source.end)
    )
    return f"{first} to {last}"


def framing_words(source: Source) -> str:
    """Return what is left out of a film's pictures, in words."""
    if not source.framing:
        return "nothing" if source.framed is not Framed.NO else "nothing yet"
    wide, high = source.framing.size(source.media)
    how = ", found" if source.framed is Framed.FOUND else ""
    return f"all but {wide}×{high}{how}"
