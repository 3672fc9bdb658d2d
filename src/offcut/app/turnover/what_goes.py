"""What goes: all shots, those of the marked range, or chosen ones; and the last hand-over."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session import Session
from offcut.app.theme.parts import label
from offcut.core.model.handover import Asked, Handover
from offcut.core.timecode import length_words

_WAYS = (
    ("all", "All shots"),
    ("marked", "Shots in the marked range"),
    ("chosen", "Chosen shots"),
)
_HELD = Qt.ItemDataRole.UserRole


class WhatGoes(QWidget):
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
        self.ways = QButtonGroup(self)
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
        self.offcuts = QCheckBox("Offcuts too")
        self.offcuts.toggled.connect(self._told)
        box.addWidget(self.offcuts)
        self.shots = QListWidget()
        self.shots.setAccessibleName("Shots")
        self.shots.setUniformItemSizes(True)
        self.shots.itemChanged.connect(self._ticked)
        self.shots.itemActivated.connect(lambda item: session.go_to(item.data(_HELD)))
        self.shots.currentItemChanged.connect(self._go)
        box.addWidget(self.shots, 1)
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

    def _turned(self, on: bool) -> None:
        if on:
            self._key = None
            self.show_shots()
            self._told()

    @property
    def which(self) -> str:
        """All, marked or chosen."""
        chosen = self.ways.checkedButton()
        return str(chosen.property("way")) if chosen is not None else "all"

    def chosen(self) -> tuple[int, ...]:
        """Return the first frames of the shots that are ticked."""
        items = (self.shots.item(row) for row in range(self.shots.count()))
        return tuple(i.data(_HELD) for i in items if i.checkState() == Qt.CheckState.Checked)

    def take(self, asked: Asked) -> None:
        """Show what was asked before."""
        self._quiet = True
        self.radio.get(asked.which, self.radio["all"]).setChecked(True)
        self.offcuts.setChecked(asked.offcuts)
        self._key = None
        self.show_shots(set(asked.chosen))
        self._quiet = False

    def show_shots(self, ticked: set[int] | None = None) -> None:
        """Show the shots there are, ticked ones where they are chosen one by one."""
        self._show_last()
        source = self._s.source
        marked = self._s.marked
        self.radio["marked"].setEnabled(marked is not None)
        if source is None:
            self.shots.clear()
            return
        choosing = self.which == "chosen"
        key = (source, choosing, self.which, marked if self.which == "marked" else None)
        if ticked is None and self._key is not None and self._key == key:
            return
        if ticked is None:
            ticked = set(self.chosen()) if choosing and self._key else set()
        self._key = key
        self.shots.blockSignals(True)
        self.shots.clear()
        for shot in self._s.shots:
            if (
                self.which == "marked"
                and marked is not None
                and not (shot.start < marked[1] and shot.end > marked[0])
            ):
                continue
            aside = ", offcut" if shot.words.set_aside else ""
            length = length_words(shot.length, source.media.rate)
            item = QListWidgetItem(f"{shot.number:3d}  {shot.title}  {length}{aside}")
            item.setData(_HELD, shot.start)
            item.setSizeHint(QSize(200, 24))
            if choosing:
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                on = shot.start in ticked
                item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
            self.shots.addItem(item)
        self.shots.blockSignals(False)

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
            when = last.when[:16].replace("T", " ")
            many = len(last.files)
            self._last.setText(f"Last: {many} files to {last.folder}, {when} UTC")

    def _again(self) -> None:
        last = self._handover()
        if last is not None:
            self.again.emit(last)
