"""What goes: all shots, a marked range, a scene, or chosen ones in a running order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from fractions import Fraction

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QListWidgetItem,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.theme.parts import label
from offcut.app.views.turnover.running_order_list import LENGTH, RunningOrderList
from offcut.core.model.handover import Asked, Handover
from offcut.core.model.scenes import scenes_of
from offcut.core.model.shots import Shot
from offcut.core.timecode import length_words
from offcut.core.turnover.plan import running_order, shots_going
from offcut.core.words import many

_WAYS = (
    ("all", "All shots"),
    ("marked", "Shots in the marked range"),
    ("scene", "A scene"),
    ("chosen", "Chosen shots"),
)
_HELD = Qt.ItemDataRole.UserRole


def _padded(number: int) -> str:
    """Return a number three figures wide; a figure space is as wide as a figure."""
    return str(number).rjust(3, "\u2007")


def local_words(when: str) -> str:
    """Return a moment in ISO 8601 as a person's own clock and calendar show it."""
    try:
        return f"{datetime.fromisoformat(when).astimezone():%d %B %Y, %H:%M}"
    except ValueError:  # a project file from elsewhere
        return when[:40]


class ShotChoices(QWidget):
    """``changed`` tells that something else goes, ``again`` that a past hand-over is wanted."""

    changed = Signal()
    again = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("list")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._s = session
        self._quiet = False
        self._key: object = None
        self._ticks: tuple[int, ...] = ()
        self.ways = QButtonGroup(self)
        self.scene = QComboBox()
        self.scene.setAccessibleName("Scene")
        self.scene.currentIndexChanged.connect(self._turned)
        self.radio: dict[str, QRadioButton] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 14, 12)
        box.setSpacing(5)
        box.addWidget(label("What goes", "head"))
        for code, words in _WAYS:
            choice = self.radio[code] = QRadioButton(words)
            choice.setProperty("way", code)
            choice.toggled.connect(self._turned)
            self.ways.addButton(choice)
            box.addWidget(choice)
            if code == "scene":
                box.addWidget(self.scene)
        self.offcuts = QCheckBox("Offcuts too")
        self.offcuts.toggled.connect(self._told)
        box.addWidget(self.offcuts)
        self.film_order = QCheckBox("In the film’s own order")
        self.film_order.toggled.connect(self._told)
        self.shots = RunningOrderList()
        self.shots.setAccessibleName("Shots")
        self.shots.reordered.connect(self._told)
        self.shots.setUniformItemSizes(True)
        self.shots.itemChanged.connect(self._ticked)
        self.shots.itemActivated.connect(lambda item: session.go_to(item.data(_HELD)))
        self.shots.currentItemChanged.connect(self._go)
        box.addWidget(self.film_order)
        box.addWidget(self.shots, 1)
        self._how = label("Drag, or Alt+Up and Alt+Down, for another running order", "faint")
        self._how.setWordWrap(True)
        box.addWidget(self._how)
        self._last = label("", "faint")
        self._last.setWordWrap(True)
        self.same = QPushButton("The same again")
        self.same.clicked.connect(self._again)
        box.addWidget(self._last)
        box.addWidget(self.same)
        self.radio["all"].setChecked(True)

    def _told(self) -> None:
        if not self._quiet:
            self.changed.emit()

    def _turned(self, on: object) -> None:
        if on is not False and not self._quiet:
            self.show_shots()
            self._told()

    @property
    def which(self) -> str:
        """All, marked, scene or chosen."""
        chosen = self.ways.checkedButton()
        return str(chosen.property("way")) if chosen is not None else "all"

    def chosen(self) -> tuple[int, ...]:
        """Return the first frames of the shots that are ticked, in the running order."""
        items = (self.shots.item(row) for row in range(self.shots.count()))
        return tuple(i.data(_HELD) for i in items if i.checkState() == Qt.CheckState.Checked)

    def asked(self) -> Asked:
        """Return which shots go; everything else as usual."""
        which = self.which
        return Asked(
            which=which,
            chosen=self.chosen() if which == "chosen" else (),
            scene=self.scene.currentText() if which == "scene" else "",
            film_order=which == "chosen" and self.film_order.isChecked(),
            offcuts=self.offcuts.isChecked(),
        )

    def take(self, asked: Asked) -> None:
        """Show what was asked before."""
        self._quiet = True
        self._show_scenes()
        self.scene.setCurrentIndex(max(0, self.scene.findText(asked.scene)))
        self.radio.get(asked.which, self.radio["all"]).setChecked(True)
        self.offcuts.setChecked(asked.offcuts)
        self.film_order.setChecked(asked.film_order)
        self._quiet = False
        self.show_shots(asked.chosen)

    def _show_scenes(self) -> None:
        source = self._s.source
        scenes = list(scenes_of(source)) if source is not None else []
        if scenes != [self.scene.itemText(n) for n in range(self.scene.count())]:
            held, quiet = self.scene.currentText(), self._quiet
            self._quiet = True
            self.scene.clear()
            self.scene.addItems(scenes)
            self.scene.setCurrentIndex(max(0, self.scene.findText(held)))
            self._quiet = quiet
        self.radio["scene"].setEnabled(bool(scenes))

    def show_shots(self, ticked: Sequence[int] | None = None) -> None:
        """Show the shots there are; with tick boxes where they are chosen one by one.

        ``ticked`` are the first frames of the chosen ones, in the running order.
        """
        self._show_last()
        self._show_scenes()
        source = self._s.source
        which = self.which
        choosing = which == "chosen"
        self.radio["marked"].setEnabled(self._s.marked is not None)
        self.scene.setVisible(which == "scene")
        for only in (self.film_order, self._how):
            only.setVisible(choosing)
        if source is None:
            self.shots.clear()
            return
        asked = self.asked()
        key = (source, which, asked.scene, self._s.marked if which == "marked" else None)
        if ticked is None and self._key == key:
            return
        if ticked is not None:
            self._ticks = tuple(ticked)
        elif choosing and isinstance(self._key, tuple) and self._key[1] == "chosen":
            self._ticks = self.chosen()
        self._key = key
        shots = self._s.shots
        if choosing:
            shots = running_order(shots, self._ticks)
        else:
            shots = shots_going(self._s.project, replace(asked, offcuts=True), self._s.marked)
        self.shots.let_move(choosing)
        self.shots.blockSignals(True)
        self.shots.clear()
        for shot in shots:
            self.shots.addItem(self._item(shot, source.media.rate, choosing))
        self.shots.blockSignals(False)

    def _item(self, shot: Shot, rate: Fraction, choosing: bool) -> QListWidgetItem:
        aside = "offcut: " if shot.card.set_aside else ""
        item = QListWidgetItem(f"{_padded(shot.number)}  {aside}{shot.title}")
        item.setData(LENGTH, length_words(shot.length, rate))
        item.setData(_HELD, shot.start)
        item.setSizeHint(QSize(60, 24))
        flags = item.flags() & ~Qt.ItemFlag.ItemIsDropEnabled
        if choosing:
            flags |= Qt.ItemFlag.ItemIsUserCheckable
            on = shot.start in self._ticks
            item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
        item.setFlags(flags)
        return item

    def _ticked(self, _item: QListWidgetItem) -> None:
        self._told()

    def _go(self, item: QListWidgetItem | None, _old: object = None) -> None:
        if item is not None and self.shots.hasFocus():
            self._s.go_to(item.data(_HELD))

    def _handover(self) -> Handover | None:
        made = self._s.project.handovers
        return made[-1] if made else None

    def _show_last(self) -> None:
        last = self._handover()
        self.same.setVisible(last is not None)
        self._last.setVisible(last is not None)
        if last is not None:
            self._last.setText(
                f"Last: {many(len(last.files), 'file')} to {last.folder}, {local_words(last.when)}"
            )

    def _again(self) -> None:
        last = self._handover()
        if last is not None:
            self.again.emit(last)
