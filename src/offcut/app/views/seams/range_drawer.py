"""The ranges: the marked range and what to do with it, the zones, the markers."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QEvent, QPoint, Qt, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.range_and_markers import RangeAndMarkers
from offcut.app.session.session import Session
from offcut.app.shared.marker_pegs import peg_icon
from offcut.app.shared.when_seen import when_seen
from offcut.app.theme.parts import label, number
from offcut.core.model.source import Marker, MarkerColour, Zone

_HELD = Qt.ItemDataRole.UserRole


class RangeDrawer(QWidget):
    """Everything that lies on the ribbon beside seams.

    ``menu_wanted`` tells of what kind of thing a menu is asked for, and where on the screen.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(
        self, session: Session, ranges: RangeAndMarkers, actions: dict[str, QAction]
    ) -> None:
        super().__init__()
        self._session = session
        self._ranges = ranges
        self._range = label("", "mono")
        self._hint = label("", "faint")
        self._hint.setWordWrap(True)
        self._range_buttons = [
            _button(actions[name], words)
            for name, words in (
                ("strike-range", "Strike all in it"),
                ("find-one", "Find one in it"),
                ("hush", "Hush it"),
                ("zone", "Own sensitivity"),
                ("search-only", "Search only it"),
                ("loop", "Play it round"),
            )
        ]
        self._whole = _button(actions["search-whole"], "Search the whole film")
        self.zones = QListWidget()
        self.zones.setAccessibleName("Zones")
        self.zones.currentItemChanged.connect(self._zone_chosen)
        self.level = number(-1, 100, "Sensitivity of the zone")
        self.level.setSpecialValueText("hushed")
        self.level.setKeyboardTracking(False)
        self.level.setMinimumSize(72, 25)
        self.level.valueChanged.connect(self._set_level)
        self._to_marked = QPushButton("To the range")
        self._to_marked.clicked.connect(lambda: self._on_zone(ranges.zone_to_marked))
        self._drop_zone = QPushButton("Remove")
        self._drop_zone.clicked.connect(lambda: self._on_zone(ranges.remove_zone))
        self.markers = QListWidget()
        self.markers.setAccessibleName("Markers")
        self.markers.currentItemChanged.connect(self._marker_chosen)
        self.name, self.note = QLineEdit(), QLineEdit()
        for field, words in ((self.name, "Name"), (self.note, "Note")):
            field.setPlaceholderText(words)
            field.setAccessibleName(f"{words} of the marker")
            field.editingFinished.connect(self._rename)
        self.colour = QComboBox()
        self.colour.setAccessibleName("Colour of the marker")
        self.colour.setToolTip("The colour it has in lists that go out; here it is a shape")
        for colour in MarkerColour:
            self.colour.addItem(colour.value or "plain", colour)
        self.colour.activated.connect(self._recolour)
        self._move = QPushButton("Move to the playhead")
        self._move.clicked.connect(self._move_here)
        self._drop = QPushButton("Remove")
        self._drop.clicked.connect(lambda: self._on_marker(ranges.remove_marker))
        self._lay_out()
        for button in self.findChildren(QPushButton):
            button.setMinimumHeight(25)
        for view, kind in ((self.zones, "zone"), (self.markers, "marker")):
            view.setMinimumHeight(38)
            view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            view.customContextMenuRequested.connect(partial(self._ask_menu, view, kind))
        when_seen(session.changed, self, self._show)
        session.marked_changed.connect(self._show_range)
        self._show()

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 10, 18, 10)
        box.setSpacing(5)
        box.addWidget(label("Marked range", "head"))
        box.addWidget(self._range)
        box.addWidget(self._hint)
        grid = QGridLayout()
        grid.setSpacing(6)
        for i, button in enumerate(self._range_buttons):
            grid.addWidget(button, i // 2, i % 2)
        box.addLayout(grid)
        box.addWidget(self._whole)
        box.addSpacing(6)
        box.addWidget(label("Zones", "head"))
        box.addWidget(self.zones, 1)
        row = QHBoxLayout()
        row.setSpacing(5)
        row.addWidget(self.level, 1)
        row.addWidget(self._to_marked)
        row.addWidget(self._drop_zone)
        box.addLayout(row)
        box.addSpacing(6)
        box.addWidget(label("Markers", "head"))
        box.addWidget(self.markers, 2)
        row = QHBoxLayout()
        row.setSpacing(5)
        row.addWidget(self.name, 2)
        row.addWidget(self.note, 3)
        box.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(5)
        row.addWidget(self.colour, 1)
        row.addWidget(self._drop)
        box.addLayout(row)
        box.addWidget(self._move)

    def _ask_menu(self, view: QListWidget, kind: str, place: QPoint) -> None:
        """Go to what is under the pointer and ask for its menu."""
        item = view.itemAt(place)
        if item is not None:
            view.setCurrentItem(item)
            self._session.go_to(item.data(_HELD).start)
            self.menu_wanted.emit(kind, view.viewport().mapToGlobal(place))

    # showing

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() is QEvent.Type.StyleChange:
            self._show_pegs()  # they are drawn in the theme's ink

    def _show_pegs(self) -> None:
        for row in range(self.markers.count()):
            item = self.markers.item(row)
            item.setIcon(peg_icon(item.data(_HELD).colour))
        for row, colour in enumerate(MarkerColour):
            self.colour.setItemIcon(row, peg_icon(colour))

    def _show(self) -> None:
        source = self._session.source
        self.setEnabled(source is not None)
        zones = source.zones if source else ()
        markers = source.markers if source else ()
        _fill(self.zones, [(self._zone_words(z), z) for z in zones])
        _fill(self.markers, [(self._marker_words(m), m) for m in markers], key=lambda m: m.id)
        self._show_pegs()
        whole = source is None or (source.start, source.end) == (0, source.media.frames)
        self._whole.setVisible(not whole)
        self._show_range()
        self._zone_chosen()
        self._marker_chosen()

    def _show_range(self) -> None:
        marked = self._session.marked
        if marked is None:
            self._range.setText("")
            self._hint.setText("I marks where it begins, O where it ends, X the shot")
        else:
            self._range.setText(self._ranges.words(*marked))
            self._hint.setText(f"{marked[1] - marked[0]} frames")
        self._range.setVisible(marked is not None)
        for button in self._range_buttons:
            button.setEnabled(marked is not None)

    def _zone_words(self, zone: Zone) -> str:
        what = "hushed" if zone.sensitivity is None else f"sensitivity {zone.sensitivity}"
        return f"{self._session.words_of(zone.start)}  {zone.end - zone.start} frames, {what}"

    def _marker_words(self, marker: Marker) -> str:
        length = "" if marker.point else f"  {marker.end - marker.start} frames"
        colour = f", {marker.colour.value}" if marker.colour else ""
        return f"{self._session.words_of(marker.start)}{length}  {marker.name}{colour}"

    # zones

    def _zone(self) -> Zone | None:
        item = self.zones.currentItem()
        return item.data(_HELD) if item is not None else None

    def _on_zone(self, do: Callable[[Zone], None]) -> None:
        zone = self._zone()
        if zone is not None:
            do(zone)

    def _zone_chosen(self, item: QListWidgetItem | None = None, _old: object = None) -> None:
        zone = self._zone()
        for part in (self.level, self._drop_zone, self._to_marked):
            part.setEnabled(zone is not None)
        self.level.blockSignals(True)
        if zone is not None:
            self.level.setValue(-1 if zone.sensitivity is None else zone.sensitivity)
        self.level.blockSignals(False)
        if zone is not None and item is not None and self.zones.hasFocus():
            self._session.go_to(zone.start)

    def _set_level(self, level: int) -> None:
        zone = self._zone()
        if zone is not None:
            self._ranges.set_zone(zone, None if level < 0 else level)

    # markers

    def show_marker(self, marker_id: int) -> None:
        """Choose a marker and put the cursor into its name."""
        for row in range(self.markers.count()):
            if self.markers.item(row).data(_HELD).id == marker_id:
                self.markers.setCurrentRow(row)
                self.name.setFocus()
                self.name.selectAll()

    def _marker(self) -> Marker | None:
        item = self.markers.currentItem()
        return item.data(_HELD) if item is not None else None

    def _on_marker(self, do: Callable[[Marker], None]) -> None:
        marker = self._marker()
        if marker is not None:
            do(marker)

    def _marker_chosen(self, item: QListWidgetItem | None = None, _old: object = None) -> None:
        marker = self._marker()
        for part in (self.name, self.note, self.colour, self._move, self._drop):
            part.setEnabled(marker is not None)
        self.colour.setCurrentIndex(list(MarkerColour).index(marker.colour) if marker else 0)
        for field, words in (
            (self.name, marker.name if marker else ""),
            (self.note, marker.note if marker else ""),
        ):
            if not field.hasFocus() or item is not None:
                field.setText(words)
        if marker is not None and item is not None and self.markers.hasFocus():
            self._session.go_to(marker.start)

    def _rename(self) -> None:
        marker = self._marker()
        if marker is not None:
            self._ranges.name_marker(marker, self.name.text().strip(), self.note.text().strip())

    def _recolour(self, row: int) -> None:
        marker = self._marker()
        if marker is not None:
            self._ranges.colour_marker(marker, self.colour.itemData(row))

    def _move_here(self) -> None:
        marker = self._marker()
        if marker is not None:
            self._ranges.move_marker(marker, self._session.playhead)


def _button(action: QAction, words: str) -> QPushButton:
    made = QPushButton(words)
    made.setToolTip(action.toolTip())
    made.setAccessibleName(action.text())
    made.clicked.connect(action.trigger)
    return made


def _fill(view: QListWidget, rows: list, key: Callable[[Any], object] | None = None) -> None:
    """Fill a list anew and stay on the same thing, or else on the same row."""
    same = key or (lambda held: (held.start, held.end))
    here, item = view.currentRow(), view.currentItem()
    known = same(item.data(_HELD)) if item is not None else None
    view.blockSignals(True)
    view.clear()
    at = -1
    for n, (words, held) in enumerate(rows):
        made = QListWidgetItem(words)
        made.setData(_HELD, held)
        view.addItem(made)
        if known is not None and same(held) == known:
            at = n
    if rows and (at >= 0 or here >= 0):
        view.setCurrentRow(at if at >= 0 else min(here, len(rows) - 1))
    elif rows:
        view.setCurrentRow(len(rows) - 1)
    view.blockSignals(False)
