"""What goes: all shots, a marked range, a scene, or a running order."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QPoint, QSize, Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QInputDialog,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QRadioButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.theme.parts import in_line, label
from offcut.app.views.turnover.running_order_list import LENGTH, RunningOrderList
from offcut.core.model.handover import Asked, Handover
from offcut.core.model.orders import UsedShot, ref_of, uses_of
from offcut.core.model.project import Order, OrderUse, Project, ShotRef
from offcut.core.model.scenes import scenes_in
from offcut.core.model.shots import Shot
from offcut.core.model.source import Source
from offcut.core.model.verbs.orders import (
    add_order,
    arrange_order,
    put_uses,
    remove_order,
    rename_order,
)
from offcut.core.timecode import length_words
from offcut.core.turnover.plan import shots_going
from offcut.core.words import many

_WAYS = (
    ("all", "All shots"),
    ("marked", "Shots in the marked range"),
    ("scene", "A scene"),
    ("picked", "Shots chosen on the Board"),
    ("order", "A running order"),
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
        self.ways = QButtonGroup(self)
        self.scene, self.order = QComboBox(), QComboBox()
        for choice, name in ((self.scene, "Scene"), (self.order, "Running order")):
            choice.setAccessibleName(name)
            choice.currentIndexChanged.connect(self._turned)
        self.more = QToolButton()
        self.more.setText("…")
        self.more.setToolTip("A new running order, rename or remove this one")
        self.more.setAccessibleName("What can be done with running orders")
        self.more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        menu.addAction("New running order").triggered.connect(self.new_order)
        menu.addAction("Rename…").triggered.connect(self._ask_order_name)
        menu.addAction("Remove").triggered.connect(self.remove_order)
        self.more.setMenu(menu)
        self.radio: dict[str, QRadioButton] = {}
        self.offcuts = QCheckBox("Offcuts too")
        self.offcuts.toggled.connect(self._told)
        self.film_order = QCheckBox("In the film’s own order")
        self.film_order.toggled.connect(self._told)
        self.shots = RunningOrderList()
        self.shots.setAccessibleName("Shots")
        self.shots.reordered.connect(self._arranged)
        self.shots.itemChanged.connect(self._ticked)
        self.shots.currentItemChanged.connect(self._go)
        self.shots.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.shots.customContextMenuRequested.connect(self._show_menu)
        self._how = label(
            "Tick what goes; drag, or Alt+Up and Alt+Down, for another order", "faint"
        )
        self._how.setWordWrap(True)
        self._last = label("", "faint")
        self._last.setWordWrap(True)
        self.same = QPushButton("The same again")
        self.same.clicked.connect(self._again)
        self._lay_out()
        self.radio["all"].setChecked(True)

    def _lay_out(self) -> None:
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
        self._order_row, row = in_line((0, 0, 0, 0), 4)
        row.addWidget(self.order, 1)
        row.addWidget(self.more)
        box.addWidget(self._order_row)
        box.addWidget(self.offcuts)
        box.addWidget(self.film_order)
        box.addWidget(self.shots, 1)
        box.addWidget(self._how)
        box.addWidget(self._last)
        box.addWidget(self.same)

    def _told(self) -> None:
        if not self._quiet:
            self.changed.emit()

    def _turned(self, on: object) -> None:
        if on is not False and not self._quiet:
            self.show_shots()
            self._told()

    # what is chosen

    @property
    def which(self) -> str:
        """All, marked, scene or order."""
        chosen = self.ways.checkedButton()
        return str(chosen.property("way")) if chosen is not None else "all"

    @property
    def order_id(self) -> int:
        """The running order that is chosen, 0 where there is none."""
        held = self.order.currentData()
        return held if isinstance(held, int) else 0

    def _order(self) -> Order | None:
        return next((o for o in self._s.project.orders if o.id == self.order_id), None)

    def asked(self) -> Asked:
        """Return which shots go; everything else as usual."""
        which = self.which
        order = self.order_id if which == "order" else 0
        picked = tuple((r.source, r.seam) for r in self._s.picked) if which == "picked" else ()
        return Asked(
            source=self._s.in_hand,
            which="chosen" if which == "order" and not order else which,
            scene=self.scene.currentData() or 0 if which == "scene" else 0,
            order=order,
            picked=picked,
            film_order=which == "order" and self.film_order.isChecked(),
            offcuts=self.offcuts.isChecked(),
        )

    def take(self, asked: Asked) -> None:
        """Show what was asked before; shots that were chosen then become a running order."""
        self._s.take_in_hand(asked.source)
        order = asked.order
        if asked.which == "chosen":
            refs = tuple(ShotRef(asked.source, seam) for seam in asked.chosen)
            plain = [(r, None, None) for r in refs]
            orders = self._s.project.orders
            same = (o.id for o in orders if [(u.shot, u.start, u.end) for u in o.uses] == plain)
            order = next(same, 0) or self._make_order(refs)
        elif asked.which == "picked":
            self._s.pick(ShotRef(*pair) for pair in asked.picked)
        self._quiet = True
        self._show_scenes()
        self._show_orders(order)
        self.scene.setCurrentIndex(max(0, self.scene.findData(asked.scene)))
        which = "order" if asked.which == "chosen" else asked.which
        self.radio.get(which, self.radio["all"]).setChecked(True)
        self.offcuts.setChecked(asked.offcuts)
        self.film_order.setChecked(asked.film_order)
        self._quiet = False
        self._key = None
        self.show_shots()

    def show_handing(self, which: str) -> None:
        """Show what Turnover is opened for: the shots chosen on the Board, or a running order."""
        self._quiet = True
        self.radio["picked"].setEnabled(bool(self._s.picked))
        if which == "order":
            self._show_orders(self._s.order_id)
        self.radio.get(which, self.radio["all"]).setChecked(True)
        self._quiet = False
        self._key = None
        self.show_shots()

    # showing

    def _show_scenes(self) -> None:
        source = self._s.source
        scenes = scenes_in(self._s.project, source) if source is not None else ()
        _fill(self.scene, [(s.name, s.id) for s in scenes])
        self.radio["scene"].setEnabled(bool(scenes))

    def _show_orders(self, chosen: int = 0) -> None:
        quiet, self._quiet = self._quiet, True
        _fill(self.order, [(o.name, o.id) for o in self._s.project.orders])
        if chosen:
            self.order.setCurrentIndex(max(0, self.order.findData(chosen)))
        self._quiet = quiet
        self.order.setEnabled(self.order.count() > 0)
        for action in self.more.menu().actions()[1:]:
            action.setEnabled(self.order.count() > 0)

    def show_shots(self) -> None:
        """Show the shots there are; with tick boxes where they are put into a running order."""
        self._show_last()
        quiet, self._quiet = self._quiet, True
        self._show_scenes()
        self._show_orders()
        self._quiet = quiet
        source, which = self._s.source, self.which
        choosing = which == "order"
        self.radio["marked"].setEnabled(self._s.marked is not None)
        self.radio["picked"].setEnabled(bool(self._s.picked))
        self.scene.setVisible(which == "scene")
        for only in (self.film_order, self._how, self._order_row):
            only.setVisible(choosing)
        if source is None:
            self.shots.clear()
            return
        asked = self.asked()
        order = self._order() if choosing else None
        project = self._s.project if choosing else None
        key = (
            source, which, asked.scene, order, project and project.sources,
            self._s.marked if which == "marked" else asked.picked,
        )  # fmt: skip
        if self._key == key:
            return
        self._key = key
        self.shots.let_move(choosing)
        row = self.shots.currentRow()
        self.shots.blockSignals(True)
        self.shots.clear()
        if choosing:
            self._fill_order(source, order)
        else:
            for pick in shots_going(self._s.project, replace(asked, offcuts=True), self._s.marked):
                use = _plain_use(ref_of(pick.source, pick.shot))
                self.shots.addItem(self._item(pick.source, pick.shot, use))
        self.shots.setCurrentRow(min(row, self.shots.count() - 1))
        self.shots.blockSignals(False)

    def _fill_order(self, source: Source, order: Order | None) -> None:
        """Show the places of a running order, and under them the film's shots not in it."""
        inside: set[ShotRef | None] = set()
        for used in uses_of(self._s.project, order) if order is not None else ():
            inside.add(used.use.shot)
            if used.source is None or used.shot is None:
                self.shots.addItem(self._gone(used))
            else:
                self.shots.addItem(self._item(used.source, used.shot, used.use, True))
        for shot in self._s.shots:
            ref = ref_of(source, shot)
            if ref not in inside:
                self.shots.addItem(self._item(source, shot, _plain_use(ref), False))

    def _item(
        self, source: Source, shot: Shot, use: OrderUse, ticked: bool | None = None
    ) -> QListWidgetItem:
        aside = "offcut: " if shot.card.set_aside else ""
        number = _padded(shot.number) if use.shot is not None else "\u2007\u2007\u2007"
        words = f"{number}  {aside}{shot.title}"
        if source.id != self._s.in_hand:
            words = f"{words}, {Path(source.media.path).stem}"
        item = self._row(words, use, ticked)
        item.setData(LENGTH, length_words(shot.length, source.media.rate))
        if use.start is not None or use.end is not None:
            item.setToolTip("It has an in or an out of its own here")
        return item

    def _gone(self, used: UsedShot) -> QListWidgetItem:
        item = self._row(used.title, used.use, True)
        item.setToolTip("The place is kept and comes back with the seam")
        return item

    def _row(self, words: str, use: OrderUse, ticked: bool | None) -> QListWidgetItem:
        item = QListWidgetItem(words)
        item.setData(_HELD, use)
        item.setSizeHint(QSize(60, 24))
        flags = item.flags() & ~Qt.ItemFlag.ItemIsDropEnabled
        if ticked is not None:
            flags |= Qt.ItemFlag.ItemIsUserCheckable
            item.setCheckState(Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked)
        item.setFlags(flags)
        return item

    # running orders

    def _make_order(self, refs: tuple[ShotRef, ...]) -> int:
        order_id = self._s.project.next_id
        self._s.edit_project(lambda p: add_order(p, shots=refs), "Make a running order")
        return order_id

    def new_order(self) -> None:
        """Make an empty running order and choose it."""
        self.radio["order"].setChecked(True)
        order_id = self._make_order(())
        self._show_orders(order_id)
        self._turned(True)

    def _ask_order_name(self) -> None:
        order = self._order()
        if order is None:
            return
        words = "Name of the running order"
        name, good = QInputDialog.getText(self, "Rename", words, text=order.name)
        if good:
            self.rename_order(name)

    def rename_order(self, name: str) -> None:
        """Give the running order that is chosen another name."""
        order_id = self.order_id
        self._s.edit_project(
            lambda p: rename_order(p, order_id, name), f"Rename the running order to {name}"
        )

    def remove_order(self) -> None:
        """Remove the running order that is chosen; its shots stay."""
        order = self._order()
        if order is not None:
            words = f"Remove the running order {order.name}"
            self._s.edit_project(lambda p: remove_order(p, order.id), words)

    def _uses(self) -> list[OrderUse]:
        """Return what is ticked, in the order of the list."""
        items = (self.shots.item(row) for row in range(self.shots.count()))
        return [i.data(_HELD) for i in items if i.checkState() == Qt.CheckState.Checked]

    def _ticked(self, item: QListWidgetItem) -> None:
        """Put a shot into the running order, where the film has it if it follows the film."""
        use: OrderUse = item.data(_HELD)
        on = item.checkState() == Qt.CheckState.Checked
        uses = self._uses()
        if on:
            starts = {ref_of(s, shot): shot.start for s, shot in self._in_hand()}
            others = [u for u in uses if u is not use]
            along = [starts.get(u.shot, -1) if u.shot else -1 for u in others]
            if -1 not in along and along == sorted(along):
                uses = sorted(uses, key=lambda u: starts[u.shot] if u.shot else -1)
            else:
                uses = [*others, use]
        title = item.text().strip().split("  ", 1)[-1]
        where = "into the running order" if on else "out of the running order"
        self._arrange(uses, f"{'Put' if on else 'Take'} {title} {where}")

    def _in_hand(self) -> list[tuple[Source, Shot]]:
        source = self._s.source
        return [(source, shot) for shot in self._s.shots] if source is not None else []

    def _arranged(self) -> None:
        self._arrange(self._uses(), "Arrange the running order")

    def _arrange(self, uses: list[OrderUse], words: str) -> None:
        order_id = self.order_id
        made = order_id or self._s.project.next_id

        def verb(project: Project) -> Project:
            return arrange_order(project if order_id else add_order(project), made, uses)

        if not self._s.edit_project(verb, words):
            self._key = None
            self.show_shots()

    def _show_menu(self, place: QPoint) -> None:
        item = self.shots.itemAt(place)
        if item is None or self.which != "order" or self._order() is None:
            return
        row = self.shots.row(item)
        menu = QMenu(self)
        menu.addAction("Put in once more").triggered.connect(lambda: self.put_in_again(row))
        out = menu.addAction("Take out")
        out.triggered.connect(lambda: item.setCheckState(Qt.CheckState.Unchecked))
        out.setEnabled(item.checkState() == Qt.CheckState.Checked)
        menu.exec(self.shots.viewport().mapToGlobal(place))

    def put_in_again(self, row: int) -> None:
        """Put the shot of a row into the running order once more, after its own place."""
        order = self._order()
        if order is None:
            return
        use = replace(self.shots.item(row).data(_HELD), id=0)
        words = "Put a shot into the running order once more"
        self._s.edit_project(lambda p: put_uses(p, order.id, [use], row + 1), words)

    def _go(self, item: QListWidgetItem | None, _old: object = None) -> None:
        if item is None or not self.shots.hasFocus():
            return
        use: OrderUse = item.data(_HELD)
        shots = {ref_of(s, shot): shot for s, shot in self._in_hand()}
        if use.shot in shots:
            self._s.go_to(shots[use.shot].start)
        elif use.source == self._s.in_hand and use.start is not None:
            self._s.go_to(use.start)

    # the last hand-over

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


def _plain_use(ref: ShotRef) -> OrderUse:
    """Return a use of a whole shot that is in no running order yet."""
    return OrderUse(0, ref.source, ref)


def _fill(choice: QComboBox, rows: list[tuple[str, int]]) -> None:
    """Show other rows in a choice and stay on the same one."""
    if rows == [(choice.itemText(n), choice.itemData(n)) for n in range(choice.count())]:
        return
    held = choice.currentData()
    choice.blockSignals(True)
    choice.clear()
    for words, value in rows:
        choice.addItem(words, value)
    choice.setCurrentIndex(max(0, choice.findData(held)) if rows else -1)
    choice.blockSignals(False)
