"""The Board put together: scenes and running orders, shots in three layouts, their card."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.shared.back_to_back import PlayedStretch
from offcut.app.shared.playing_pane import PlayingPane
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme.parts import pane, stacked
from offcut.app.views.board.bag import Bag
from offcut.app.views.board.board_shots import ASIDE, EVERY, ORDER, UNSORTED, BoardShots, Group
from offcut.app.views.board.canvas import SIZES, Canvas
from offcut.app.views.board.card_panel import CardPanel
from offcut.app.views.board.left_side import LeftSide
from offcut.app.views.board.library_pane import LibraryPane
from offcut.app.views.board.looking import Looking
from offcut.app.views.board.naming_sheet import NamingSheet
from offcut.app.views.board.scene_looks_sheet import SceneLooksSheet
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_tiles import BIN
from offcut.app.views.board.table import ShotTable
from offcut.app.views.board.tools_row import LAYOUTS, TABLE, ToolsRow
from offcut.app.views.description import ViewContext, ViewPage
from offcut.core.board.rows import BoardRow
from offcut.core.model.orders import shot_of
from offcut.core.words import many


class BoardView(ViewPage):
    """Name, sort, pick and order."""

    takes_keys = True

    def __init__(self, context: ViewContext, table: Actions) -> None:
        super().__init__()
        self._s = session = context.session
        self._settings = context.settings
        self._player = context.player
        self._large = context.large
        self.shots = BoardShots(session, context.settings, context.facts)
        self.shots.alive = self.isVisible
        self.actions_on = ShotActions(session, self.shots)
        self.pictures = ShotPictures(session)
        self.looking = Looking(session, self.shots)
        args = (session, self.shots, self.actions_on)
        self.canvas = Canvas(*args, self.pictures, context.settings)
        self.table = ShotTable(*args, self.pictures, context.settings)
        self.bag = Bag(self.shots, self.actions_on, self.pictures)
        self.left = LeftSide(*args, self.looking, self.pictures, table)
        self.groups, self.orders = self.left.groups, self.left.orders
        self.suggestions = self.left.suggestions
        self.tools = ToolsRow()
        self.find_field, self.everywhere = self.tools.find_field, self.tools.everywhere
        self.card = CardPanel(*args, self.looking, self.pictures)
        self.library = LibraryPane(session, self.actions_on, self.pictures)
        self.playing = PlayingPane(session)
        self.hand_over = QPushButton()
        self.hand_over.setObjectName("main")
        self.hand_over.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.hand_over.clicked.connect(self.hand_over_chosen)
        self.buttons = [
            ActionButton(table, "board-scene", "Into a scene"),
            ActionButton(table, "board-order", "Into a running order"),
            ActionButton(table, "board-aside", "Set aside"),
        ]
        self._lay_out()
        self._connect()
        layout = str(context.settings.value("board-layout", BIN))
        self.show_layout(layout if layout in LAYOUTS else BIN)
        self.refresh()

    # laying out

    def _lay_out(self) -> None:
        self.middle = QStackedWidget()
        shots, inside = stacked((0, 0, 0, 0), 0)
        self.shown = QStackedWidget()
        self.shown.addWidget(self.canvas)
        self.shown.addWidget(self.table)
        inside.addWidget(self.tools)
        self.below = QStackedWidget()  # the tools stay over what was found everywhere
        local, both = stacked((0, 0, 0, 0), 0)
        both.addWidget(self.shown, 1)
        both.addWidget(self.bag)
        self.below.addWidget(local)
        self.below.addWidget(self.library)
        inside.addWidget(self.below, 1)
        self.middle.addWidget(shots)
        self.middle.addWidget(self.playing)
        right = pane("side")
        right.setFixedWidth(262)
        side = QVBoxLayout(right)
        side.setContentsMargins(0, 0, 0, 14)
        side.setSpacing(6)
        side.addWidget(self.card, 1)
        for button in (*self.buttons, self.hand_over):
            button.setMinimumHeight(30)
            line = QHBoxLayout()
            line.setContentsMargins(16, 6 if button is self.hand_over else 0, 16, 0)
            line.addWidget(button)
            side.addLayout(line)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.left)
        box.addWidget(self.middle, 1)
        box.addWidget(right)

    def _connect(self) -> None:
        for part in (self.canvas, self.table, self.bag, self.groups, self.orders):
            part.menu_wanted.connect(self.menu_wanted)
        self.canvas.opened.connect(self.open_seam)
        self.table.opened.connect(self.open_seam)
        self.canvas.zoomed.connect(self._show_size)
        self.find_field.textChanged.connect(self._look_for)
        self.find_field.left.connect(self._go_to_found)
        self.find_field.entered.connect(lambda: self._prepare(0))
        self.everywhere.toggled.connect(self._turn_everywhere)
        tools = self.tools
        tools.sort_wanted.connect(self.shots.sort_by)
        tools.size_slider.valueChanged.connect(self._size_set)
        tools.layout_wanted.connect(self.show_layout)
        self.left.add_scene.clicked.connect(self.new_scene)
        self.left.add_order.clicked.connect(self.new_order)
        self.shots.changed.connect(self._show)
        self.shots.chosen_changed.connect(self._show_chosen)
        self.playing.over.connect(self._played)
        self.looking.changed.connect(self.table.viewport().update)
        self.card.named.connect(self.name_next)
        self._s.project_changed.connect(self._project_changed)

    # showing

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.pictures.set_ratio(self.devicePixelRatioF())
        self.refresh()
        self.shots.choose_here()
        self.take_keys()

    def hideEvent(self, event: QHideEvent) -> None:
        self.playing.player.stop()
        super().hideEvent(event)

    def refresh(self) -> None:
        """Show everything as it is now, once it is looked at."""
        self.shots.refresh()
        self.looking.refresh()
        self.left.refresh()
        self.card.refresh()
        self._show()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.DevicePixelRatioChange:
            self.pictures.set_ratio(self.devicePixelRatioF())
        return super().event(event)

    def restyle(self) -> None:
        """Take the theme in force."""
        for button in (*self.buttons, self.left.play_button):
            button.restyle()
        self.table.viewport().update()

    def close_pictures(self) -> None:
        """Stop what works for this view in the background."""
        self.playing.player.close()
        self.looking.close()
        self.library.search.close()
        self.pictures.close()

    def _project_changed(self) -> None:
        self.playing.player.stop()
        self.everywhere.setChecked(False)
        self.find_field.clear()

    def _show(self) -> None:
        if not self.isVisible():
            return
        self.left.show_figures(self._s.project.sources)
        self.tools.show_sort(self.shots.sort, own=self.shots.order is not None)
        self.bag.setVisible(self._layout_name == BIN and self.shots.group not in (ASIDE, ORDER))
        self._show_chosen()

    def _show_chosen(self) -> None:
        if not self.isVisible():
            return
        count, order = len(self.shots.chosen_refs), self.shots.order
        what = order.name if order is not None else many(count, "shot")
        self.hand_over.setText(f"Hand over {what}")
        self.hand_over.setEnabled(bool(count) or order is not None)

    @property
    def _layout_name(self) -> str:
        return self.tools.layout_name

    def show_layout(self, name: str) -> None:
        """Show shots as a bin, a sheet or a table; what is chosen stays chosen."""
        self.tools.layouts[name].setChecked(True)
        self._settings.setValue("board-layout", name)
        if name == TABLE:
            self.shown.setCurrentWidget(self.table)
        else:
            self.shown.setCurrentWidget(self.canvas)
            self.canvas.show_layout(name)
        self._show_size()
        self._show()
        self.take_keys()

    def next_layout(self) -> None:
        """Show the next of the three layouts."""
        names = list(LAYOUTS)
        self.show_layout(names[(names.index(self._layout_name) + 1) % len(names)])

    def _show_size(self) -> None:
        on = self._layout_name != TABLE and not self.everywhere.isChecked()
        self.tools.show_size(SIZES[self._layout_name] if on else None, self.canvas.size_now)

    def _size_set(self, size: int) -> None:
        if self._layout_name != TABLE:
            self.canvas.set_size(size)

    def zoom(self, by: float) -> None:
        """Make pictures larger or smaller."""
        self._size_set(round(self.canvas.size_now * by))
        self._show_size()

    def take_keys(self) -> None:
        """Take the keys: to the shots, or to what was found of others."""
        if self.isVisible() and self.everywhere.isChecked():
            self.library.list.setFocus()
        elif self.isVisible():
            (self.table if self._layout_name == TABLE else self.canvas).setFocus()

    # finding

    def type_find(self) -> None:
        """Put the pointer into the field of finding."""
        self.find_field.setFocus()
        self.find_field.selectAll()

    def _prepare(self, begin: int) -> None:
        """Make finding quick, a little at a time, while a person begins to type."""
        if self.shots.prepare(begin, 600) and self.find_field.hasFocus():
            QTimer.singleShot(0, lambda: self._prepare(begin + 600))

    def _look_for(self, text: str) -> None:
        if self.everywhere.isChecked():
            self.library.look_for(text)
            return
        problem = self.shots.look_for(text)
        if problem:
            self._s.said.emit(problem[:1].upper() + problem[1:])

    def _go_to_found(self) -> None:
        if not self.everywhere.isChecked() and self.shots.rows and not self.shots.chosen_rows:
            self.shots.step(0)
        self.take_keys()

    def _turn_everywhere(self, on: bool) -> None:
        self.below.setCurrentIndex(1 if on else 0)
        self.tools.show_everywhere(on)
        self._show_size()
        if on:
            self.shots.look_for("")
            self.library.look_for(self.find_field.text())
            self.find_field.setFocus()
        else:
            self.shots.look_for(self.find_field.text())
            self.take_keys()

    def find_everywhere(self) -> None:
        """Find in every project, or in this one again."""
        self.everywhere.setChecked(not self.everywhere.isChecked())

    # walking

    def step(self, way: int, *, upto: bool = False) -> None:
        """Go to the shot after or before the current one."""
        if self.everywhere.isChecked():
            self.library.list.setCurrentRow(
                max(0, min(self.library.list.count() - 1, self.library.list.currentRow() + way))
            )
            return
        place = self.shots.place
        self.shots.step(place + way if place >= 0 else 0, upto=upto)

    def step_line(self, way: int, *, upto: bool = False) -> None:
        """Go to the shot above or below the current one."""
        place = self.shots.place
        if self._layout_name == TABLE or self.everywhere.isChecked() or place < 0:
            self.step(way, upto=upto)
        else:
            self.shots.step(self.canvas.laid.step(place, way), upto=upto)

    def step_end(self, way: int, *, upto: bool = False) -> None:
        """Go to the first or the last shot."""
        self.shots.step(0 if way < 0 else len(self.shots.rows) - 1, upto=upto)

    def step_group(self, way: int) -> None:
        """Show what stands before or after in the list at the left: scenes, then orders."""
        scenes = [s.id for s in self._s.project.scenes]
        groups: list[Group | tuple[str, int]] = [EVERY, *scenes, UNSORTED, ASIDE]
        groups += [(ORDER, o.id) for o in self._s.project.orders]
        here = (ORDER, self._s.order_id) if self.shots.group == ORDER else self.shots.group
        at = groups.index(here) if here in groups else 0
        to = groups[max(0, min(len(groups) - 1, at + way))]
        if isinstance(to, tuple):
            self.actions_on.show_order(to[1])
        else:
            self.shots.show_group(to)

    def rename_shown(self) -> None:
        """Rename the scene or running order that is shown."""
        if self.shots.group == ORDER:
            self.orders.rename_here()
        else:
            self.groups.rename_here()

    # doing

    def enter(self) -> None:
        """Open what is chosen: in Seams, or where it was found."""
        if self.everywhere.isChecked():
            self.library.open_there()
        else:
            self.open_seam()

    def open_seam(self) -> None:
        """Open the first seam of the current shot in Seams."""
        row = self.shots.row_of(self.shots.current)
        if row is None or row.source is None or row.shot is None:
            self._s.said.emit("Choose a shot to open it in Seams")
            return
        shot = shot_of(self._s.project, row.ref) if row.ref is not None else None
        self._s.go_to_seam(row.source.id, (shot or row.shot).start)
        self._s.view_wanted.emit("seams")

    def name_here(self) -> None:
        """Type a name for the chosen shots."""
        if not self.shots.chosen_rows:
            self.shots.step(max(0, self.shots.place))
        self.card.type_name()

    def name_next(self) -> None:
        """Go on to the next shot, and name it."""
        if len(self.shots.chosen) > 1 or self.shots.place + 1 >= len(self.shots.rows):
            self.take_keys()
            return
        self.shots.step(self.shots.place + 1)
        self.card.type_name()

    def name_many(self) -> None:
        """Name the chosen shots by a pattern, or all that are shown where one is chosen at most."""
        rows = self.shots.chosen_rows if len(self.shots.chosen) > 1 else self.shots.rows
        NamingSheet(self._s, self.actions_on, rows, self._settings, self).show()

    def type_scene(self) -> None:
        """Type the scene of the chosen shots."""
        if self.shots.chosen_refs:
            self.card.type_scene()
        else:
            self._s.said.emit("Choose shots first")

    def new_scene(self) -> None:
        """Make a scene of the chosen shots, or an empty one, and name it."""
        refs = self.shots.chosen_refs
        scene_id = self.actions_on.new_scene(refs if self.shots.group == EVERY else ())
        self.shots.show_group(scene_id)
        self.groups.rename_here()

    def scene_look(self) -> None:
        """Choose another look for the band of the scene that is shown."""
        scene = self._s.project.scene(self.groups.scene_id)
        if scene is not None:
            SceneLooksSheet(scene, self.actions_on, self).show()

    def join_scene(self) -> None:
        """Join the scene that is shown into the one before it."""
        ids = [s.id for s in self._s.project.scenes]
        here = self.groups.scene_id
        at = ids.index(here) if here in ids else 0
        if at > 0:
            self.actions_on.join_scenes([ids[at - 1], here])
            self.shots.show_group(ids[at - 1])
        else:
            self._s.said.emit("There is no scene before this one to join it to")

    def remove_scene(self) -> None:
        """Take the scene that is shown away; its shots stay."""
        if self.groups.scene_id:
            self.actions_on.remove_scene(self.groups.scene_id)

    def new_order(self) -> None:
        """Make a running order of the chosen shots, and name it."""
        self.actions_on.show_order(self.actions_on.new_order())
        self.orders.rename_here()

    def into_order(self) -> None:
        """Put the chosen shots into the running order in hand."""
        if self.everywhere.isChecked():
            self.library.take_here(into_order=True)
        else:
            self.actions_on.put_in_order()

    def order_here(self) -> int:
        """Return the running order that is shown or in hand; 0, with a sentence, for none."""
        order = self.shots.order or self._s.order
        if order is None:
            self._s.said.emit("Open a running order first")
            return 0
        return order.id

    def copy_order(self) -> None:
        """Copy the running order that is shown, or in hand."""
        order_id = self.order_here()
        if order_id:
            self.actions_on.copy_order(order_id)

    def remove_order(self) -> None:
        """Remove the running order that is shown, or in hand; its shots stay."""
        order_id = self.order_here()
        if order_id:
            self.actions_on.remove_order(order_id)

    def fill(self, where: int | None) -> None:
        """Fill the place before (0), after (1) or instead of (None) the current use.

        With what is marked as a piece, or else with the shot under the playhead.
        """
        order, row = self.shots.order, self.shots.row_of(self.shots.current)
        if order is None or row is None or row.use is None:
            self._s.said.emit("Open a running order and choose a place in it")
            return
        use = self._s.use_here()
        if use is None:
            return
        place = self.shots.places[row.key]
        if where is None:
            self.actions_on.put_uses([use], instead=row.use.id)
        else:
            self.actions_on.put_uses([use], place + where)
        self._s.mark(None, None)

    def hand_over_chosen(self) -> None:
        """Open Turnover with the chosen shots, or with the running order that is shown.

        A running order goes whole: its uses have an in and out of their own.
        """
        which = "order" if self.shots.order is not None else "picked"
        if which == "picked" and not self._s.picked:
            self._s.said.emit("Choose shots first")
            return
        self._s.hand_over(which)

    # playing

    def play(self) -> None:
        """Play the chosen shots back to back, or all that is shown; or stop."""
        if self.playing.player.playing:
            self.stop_playing()
            return
        rows = self.shots.chosen_rows
        if len(rows) == 1 and self.shots.order is not None and self.shots.place >= 0:
            rows = self.shots.rows[self.shots.place :]  # an order goes on from where one stands
        self.play_rows(rows or self.shots.rows)

    def play_shown(self) -> None:
        """Play everything that is shown, from its beginning."""
        self.play_rows(self.shots.rows)

    def play_rows(self, rows: tuple[BoardRow, ...]) -> None:
        """Play rows back to back."""
        films = self._s.films
        stretches = [
            PlayedStretch(r.source, r.shot.start, r.shot.end, r.title, films.get(r.source.id))
            for r in rows
            if r.source is not None and r.shot is not None
        ]
        if not stretches:
            self._s.said.emit("There is nothing to play")
            return
        self._player.stop()
        self.playing.player.use_proxy = self._large.use_proxy
        self.playing.player.proxy_folder = self._s.room.proxy_folder
        self.middle.setCurrentWidget(self.playing)
        self.playing.play(stretches)

    def stop_playing(self) -> None:
        """Stop, and show the shots again."""
        self.playing.player.stop()

    def _played(self) -> None:
        self.middle.setCurrentIndex(0)
        self.take_keys()
