"""The window: top bar, ribbon, the views, status bar; it puts the parts together."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QLineEdit,
    QMainWindow,
    QMenu,
    QPlainTextEdit,
    QSpinBox,
    QStackedWidget,
    QWidget,
)

from offcut.app.commands.actions import Actions, Command
from offcut.app.commands.fact_actions import FactActions
from offcut.app.commands.menus import MENUS
from offcut.app.commands.order_actions import OrderActions
from offcut.app.commands.play_commands import play_commands
from offcut.app.commands.range_and_markers import RangeAndMarkers
from offcut.app.commands.range_commands import range_commands
from offcut.app.commands.seam_actions import SeamActions
from offcut.app.commands.seam_commands import seam_commands
from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.file_places import FilePlaces
from offcut.app.session.film_finding import FilmFinding
from offcut.app.session.limits import Limits
from offcut.app.session.project_files import ProjectFiles
from offcut.app.session.recovery_saver import RecoverySaver
from offcut.app.session.room import Room
from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.app.session.settings_rules import mend_settings
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.player import Player
from offcut.app.shared.ribbon.ribbon import Ribbon
from offcut.app.shared.ribbon.slim import SlimRibbon
from offcut.app.sheets.framing_sheet import FramingSheet
from offcut.app.sheets.grades_sheet import GradesSheet
from offcut.app.sheets.key_sheet import KeySheet
from offcut.app.sheets.list_sheet import ListSheet
from offcut.app.sheets.settings_sheet import SettingsSheet
from offcut.app.shell.desktop import tell_desktop
from offcut.app.shell.field_manners import FieldManners
from offcut.app.shell.file_dialogs import FileDialogs
from offcut.app.shell.finder import Finder
from offcut.app.shell.notices import Notices
from offcut.app.shell.room_on_screen import fit_into_free_room, keep_place, open_in_free_room
from offcut.app.shell.shell_commands import WindowDoings, file_commands, window_commands
from offcut.app.shell.status_bar import StatusBar
from offcut.app.shell.top_bar import TopBar
from offcut.app.shell.troubles import Troubles
from offcut.app.shell.views import OURS, views
from offcut.app.theme import apply_theme, system_theme, theme
from offcut.app.theme.parts import stacked
from offcut.app.views.description import View, ViewContext, ViewPage
from offcut.core.lists.incoming import ReadList
from offcut.core.lists.registry import formats
from offcut.core.machine.added import VIEWS, leave_out, left_out
from offcut.core.measure.registry import measurers
from offcut.core.media.display import displays
from offcut.core.model.orders import shot_of
from offcut.core.model.project import ShotRef
from offcut.core.words import many

_BY_KEYS = Qt.FocusPolicy.TabFocus
_TYPED_IN = (QLineEdit, QPlainTextEdit, QSpinBox)
FIRST_VIEW = "seams"
LEFT_OUT_AFTER = 2000
"""Milliseconds until what packages add is looked at: nobody waits for it at the start."""


class Window(QMainWindow):
    """Everything on screen."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.settings = settings or QSettings("Offcut", "Offcut")
        mended = mend_settings(self.settings)
        self.session = Session(self)
        self.session.set_sliver_limit(_whole(self.settings.value("sliver-limit"), 0))
        self.search = SeamSearch(self.session)
        self.search.finished.connect(self._tell_desktop)
        self.search.measured.connect(self._look_for_kept)
        self.search.changed.connect(self._let_seams_come_first)
        self.files = ProjectFiles(self.session, self.search)
        self.finding = FilmFinding(self.session, self.search)
        self.limits = Limits(self.settings)
        self.large = PicturesInHand(self.session.pictures, threads=2)
        self.small = PicturesInHand(self.session.pictures, small=True, after=self.large)
        self.large.before = self.small
        self.large.use_proxy = self.small.use_proxy = bool(
            self.settings.value("use-proxy", True, type=bool)
        )
        self._take_limits()
        for pictures in (self.large, self.small):
            self.session.let_wait(lambda p=pictures: not p.idle)  # type: ignore[misc]
        self.small.goes_before = self.session.pictures_lack
        kept = str(self.settings.value("places", "") or "")
        self.session.places = FilePlaces(kept, partial(self.settings.setValue, "places"))
        self.player = Player(self.session)
        self.recovery = RecoverySaver(self.session)
        self.recovery.failed.connect(self.session.lost)
        self.seam_actions = SeamActions(self.session)
        self.ranges = RangeAndMarkers(self.session, self.search)
        self.order_actions = OrderActions(self.session)
        self.facts = FactsInHand(self.session)
        self.facts.looked_through.connect(self.files.know_again)
        self.fact_actions = FactActions(self.session, self.facts)
        self.dialogs = FileDialogs(self.session, self.files, self.settings, self)
        self.notices = Notices()
        self.troubles = Troubles(
            self.session, self.files, self.finding, self.notices, self.dialogs.save_as,
            self.dialogs.leave_then, self,
        )  # fmt: skip
        self.ribbon = Ribbon(self.session, self.small)
        self.slim = SlimRibbon(self.session)
        self.status = StatusBar(self.session)
        self._context = ViewContext(
            self.session, self.settings, self.search, self.player, self.large, self.small,
            self.seam_actions, self.ranges, self.facts, self.fact_actions,
            lambda paths: self.files.open_films(paths, stay=True),
        )  # fmt: skip
        self._pages: dict[str, ViewPage] = {}
        self._asking = False
        self._wanted_shot = "", ShotRef(0)
        self.actions_table = Actions(self._commands(), self, self.settings)
        self.actions_by_id = self.actions_table.by_id
        self.setWindowTitle("Offcut")
        self.setAcceptDrops(True)
        self._manners = FieldManners(self, self.give_keys_back)
        self._lay_out()
        open_in_free_room(self, self.settings)
        s = self.session
        s.changed.connect(self._show)
        s.film_changed.connect(self._film_changed)
        s.view_wanted.connect(self.open_view)
        s.shot_wanted.connect(self._open_shot_there)
        s.proxy_changed.connect(lambda _id: self._look_for_proxies())
        self.player.changed.connect(lambda: self.large.set_moving(bool(self.player.speed)))
        for pictures in (self.large, self.small):
            pictures.trouble.connect(s.failed)
        self.files.lists.list_read.connect(self._show_listed)
        self.files.opened.connect(self._project_opened)
        self.open_view(FIRST_VIEW)
        self._show()
        if mended:
            s.lost.emit(
                f"{many(len(mended), 'setting')} made no sense and are as they were at first: "
                f"{', '.join(mended[:5])}{' …' if len(mended) > 5 else ''}"
            )
        QTimer.singleShot(LEFT_OUT_AFTER, self, self._tell_left_out)
        self.ribbon.setFocus()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._focus_moved)

    def _tell_left_out(self) -> None:
        """Say what other packages add that cannot be used."""
        formats(), measurers(), displays()
        for words in left_out():
            self.session.lost.emit(words)

    # what can be done

    def _commands(self) -> list[Command]:
        doings = WindowDoings(
            close=self.close,
            stop_work=self.stop_work,
            turn_full=self.turn_full,
            turn_theme=self.turn_theme,
            open_view=self.open_view,
            open_finder=self.open_finder,
            open_keys=self.open_keys,
            open_settings=self.open_settings,
            open_framing=self.open_framing,
            turn_proxy=self.turn_proxy,
        )
        s = self.session
        commands = [
            *file_commands(s, self.dialogs, self.files, self.troubles, doings),
            *seam_commands(self.seam_actions),
            *range_commands(s, self.ranges, self.search, self.order_actions),
            *play_commands(s, self.player),
            *window_commands(s, self.ribbon, self.status, views(), doings),
        ]
        for view in views():
            commands += self._commands_of(view)
        return _by_group(commands)

    def _commands_of(self, view: View) -> list[Command]:
        try:
            return view.commands(self._context, partial(self.open_view, view.id))
        except Exception as error:
            if view in OURS:
                raise
            leave_out(VIEWS, view.id, f"{type(error).__name__}: {error}")
            return []

    @property
    def commands(self) -> list[Command]:
        """The table of everything there is to do."""
        return self.actions_table.commands

    def allowed(self, command: Command) -> bool:
        """Tell whether a command makes sense now."""
        if command.needs_film and self.session.source is None:
            return False
        return command.when is None or command.when()

    def show_menu(self, kind: str, place: QPoint) -> None:
        """Show the menu of a kind of thing at a place on the screen."""
        self.menu_of(kind).exec(place)

    def menu_of(self, kind: str) -> QMenu:
        """Return the menu of a kind of thing, as it is now."""
        return self.actions_table.fill(QMenu(self), MENUS[kind])

    def _focus_moved(self, _old: QWidget | None, now: QWidget | None) -> None:
        self.actions_table.set_typing(isinstance(now, _TYPED_IN))
        self._manners.watch(now)
        by_keys = isinstance(now, QAbstractButton) and now.focusPolicy() == _BY_KEYS
        self.actions_table.set_pressing(by_keys)

    def give_keys_back(self) -> None:
        """Give the keys back to the pictures of the view that is open."""
        page = self.page
        if page.takes_keys:
            page.take_keys()
        else:
            (self.ribbon if self.ribbon.isVisible() else self).setFocus()

    @property
    def page(self) -> ViewPage:
        """The view that is open."""
        return self._pages[self.session.view]

    # layout

    def _lay_out(self) -> None:
        self.top = TopBar(self.session, self.actions_by_id, views(), self.dialogs.recent)
        self.top.view_chosen.connect(self.open_view)
        self.top.recent_chosen.connect(lambda path: self.dialogs.open_paths([path]))
        self.status.left.connect(self.setFocus)
        self.status.roll_typed.connect(self.seam_actions.roll_to)
        self.ribbon.menu_wanted.connect(self.show_menu)
        self.stack = QStackedWidget()
        whole, box = stacked((0, 0, 0, 0), 0)
        box.addWidget(self.top)
        box.addWidget(self.notices)
        box.addWidget(self.ribbon)
        box.addWidget(self.slim)
        box.addWidget(self.stack, 1)
        box.addWidget(self.status)
        self.setCentralWidget(whole)

    # views

    def open_view(self, view_id: str) -> Any:
        """Open a view and return its page, which is made when it is first opened."""
        view = next(v for v in views() if v.id == view_id)
        try:
            page = self.view(view_id)
        except Exception as error:
            if view in OURS:
                raise
            leave_out(VIEWS, view_id, f"{type(error).__name__}: {error}")
            self.session.failed.emit(f"{view.title} cannot be opened: {error}")
            self.top.tabs[self.session.view].setChecked(True)
            return self.page
        self.session.view = view_id
        self.actions_table.set_view(view_id)
        self.stack.setCurrentWidget(page)
        self._fold_ribbon()
        if view_id == FIRST_VIEW:
            self.ribbon.setFocus()
        self.top.tabs[view_id].setChecked(True)
        return page

    def _fold_ribbon(self) -> None:
        """Show the ribbon whole, or slim where the view wants the room."""
        slim = any(v.id == self.session.view and v.slim for v in views())
        self.ribbon.setVisible(not slim)
        bare = any(v.id == self.session.view and v.bare for v in views())
        self.slim.setVisible(slim and not bare)

    def view(self, view_id: str) -> Any:
        """Return the page of a view without opening it; it is made where it is not."""
        if view_id not in self._pages:
            view = next(v for v in views() if v.id == view_id)
            page = view.make(self._context, self.actions_table)
            page.menu_wanted.connect(self.show_menu)
            self.stack.addWidget(page)
            self._pages[view_id] = page
        return self._pages[view_id]

    # showing

    def _film_changed(self) -> None:
        s, source = self.session, self.session.source
        media = source.media if source is not None else None
        display = source.ticket.display if source is not None else ""
        self.large.show_film(media, s.film, s.film_missing, display)
        self.small.show_film(media, s.film, s.film_missing, display)

    def _show(self) -> None:
        s = self.session
        self.setWindowTitle(f"{s.project.name} – Offcut" if s.source else "Offcut")
        self.small.shots = tuple(shot.start for shot in s.shots)
        undo, redo = s.history.undoable, s.history.redoable
        self.actions_by_id["undo"].setText(f"Undo: {undo.words}" if undo else "Undo")
        self.actions_by_id["redo"].setText(f"Redo: {redo.words}" if redo else "Redo")
        for command in self.commands:
            if command.when is None:
                self.actions_by_id[command.id].setEnabled(self.allowed(command))

    def _open_shot_there(self, path: str, source_id: int, seam_id: int) -> None:
        """Open another project at one of its shots."""
        self._wanted_shot = path, ShotRef(source_id, seam_id)
        self.dialogs.open_paths([path])

    def _project_opened(self, path: str) -> None:
        wanted, ref = self._wanted_shot
        if path != wanted:
            return
        self._wanted_shot = "", ShotRef(0)
        shot = shot_of(self.session.project, ref)
        if shot is not None:
            self.session.go_to_seam(ref.source, shot.start)
            self.session.pick([ref])

    def _let_seams_come_first(self) -> None:
        """Decode only what is looked at while seams are found."""
        searching = self.search.finds_seams
        for pictures in (self.large, self.small):
            if pictures.searching != searching:
                pictures.searching = searching
                pictures.wake()

    def _look_for_kept(self, _id: int) -> None:
        self.small.look_for_kept()

    def _look_for_proxies(self) -> None:
        self.large.look_for_proxies()
        self.small.look_for_proxies()

    def _tell_desktop(self, words: str) -> None:
        """Say it on the desktop where this window is not looked at."""
        if not self.isActiveWindow():
            tell_desktop("Offcut", words)

    def turn_proxy(self) -> None:
        """Show proxies where there are any, or the films themselves always."""
        use = not self.large.use_proxy
        self.large.set_use_proxy(use)
        self.settings.setValue("use-proxy", use)
        self.session.said.emit(
            "Proxies are shown while pictures move" if use else "The film itself is shown always"
        )
        self.session.moved.emit(self.session.playhead)

    def turn_full(self) -> None:
        """Give the whole screen to the picture, or back to everything."""
        full = not self.isFullScreen()
        seams = self.open_view("seams") if full else self.view("seams")
        seams.show_only_picture(full)
        self._fold_ribbon()
        self.top.setVisible(not full)
        if full:
            self.ribbon.hide()
        if full:
            self.showFullScreen()
        else:
            self.showNormal()

    def _show_listed(self, listed: ReadList) -> None:
        sheet = ListSheet(self.session, self.small, listed, self)
        sheet.order_wanted.connect(self._read_as_order)
        sheet.show()

    def _read_as_order(self, listed: ReadList) -> None:
        """Make a running order of a list, and show it on the Board."""
        self.order_actions.read_as_order(listed)
        if self.session.order is not None:
            self.open_view("board").actions_on.show_order(self.session.order_id)

    # doing

    def stop_work(self) -> None:
        """Stop what is under way, or else leave the text field."""
        self.search.stop()
        for job in self.session.jobs.running:
            job.stop.set()
        if self.isFullScreen() and not self.player.speed:
            self.turn_full()
        self.player.stop()
        self.page.stop_playing()
        self.setFocus()

    def turn_theme(self) -> None:
        """Change between Day and Night and remember it."""
        self.set_theme("day" if theme().name == "night" else "night")
        self.settings.setValue("theme", theme().name)

    def set_theme(self, name: str) -> None:
        """Put a theme in force."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, name)
        for page in self._pages.values():
            page.restyle()
        self.update()

    def start_theme(self) -> None:
        """Put the remembered theme in force, or the system's."""
        self.set_theme(str(self.settings.value("theme", "") or system_theme()))

    def open_finder(self) -> None:
        """Open the command finder under the top bar."""
        finder = Finder(self.actions_table, self.allowed, self)
        corner = self.mapToGlobal(self.rect().topLeft())
        finder.move(corner.x() + (self.width() - finder.width()) // 2, corner.y() + 52)
        finder.show()
        finder.field.setFocus()

    def _take_limits(self) -> None:
        self.small.disk_limit = self.limits.get("thumbnails-bytes")
        s = self.session
        s.pictures.set_limit(self.limits.get("pictures-bytes"))
        chosen = str(self.settings.value("proxy-folder", "") or "")
        s.room = Room(
            self.limits.get("signals-bytes"), self.limits.get("thumbnails-bytes"),
            self.limits.get("proxies-bytes"), Path(chosen) if chosen else None,
        )  # fmt: skip
        self.large.proxy_folder = self.small.proxy_folder = s.room.proxy_folder
        self.files.keep_library = bool(self.settings.value("library", True, type=bool))
        self.files.search_at_once = bool(self.settings.value("search-at-once", True, type=bool))

    def open_settings(self) -> None:
        """Show the settings."""
        sheet = SettingsSheet(self.limits, self.settings, self.session, self._take_limits, self)
        sheet.grades_wanted.connect(self.open_grades)
        sheet.show()

    def open_grades(self) -> None:
        """Show what counts as shaky, dark and soft."""
        sheet = GradesSheet(self)
        sheet.changed.connect(self.facts.grade_anew)
        sheet.show()

    def open_framing(self) -> None:
        """Show the framing."""
        FramingSheet(self.session, self.search, self.large, self).show()

    def open_keys(self) -> None:
        """Show all keys, and let them be changed."""
        sheet = KeySheet(self.actions_table, self)
        if self.session.view != FIRST_VIEW:  # nearly all that is done there is done everywhere
            sheet.show_view(self.session.view)
        sheet.show()

    # events

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        for soon in (0, 300):  # the frame is known once the window manager has drawn it
            QTimer.singleShot(soon, self, lambda: fit_into_free_room(self))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text().isdigit() and self.session.source is not None:
            self.status.type_place(event.text())
            return
        super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            self.page.keys_released()
        super().keyReleaseEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        if paths:
            self.dialogs.open_paths(paths)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.session.history.saved:
            self._asking = True  # an answer given at once goes on below
            self.dialogs.leave_then(self._close_now)
            self._asking = False
            if not self.session.history.saved:
                event.ignore()
                return
        self._let_go()
        event.accept()

    def _close_now(self) -> None:
        """Close; what is not saved was given up."""
        self.session.history.mark_saved()
        if not self._asking:
            self.close()

    def _let_go(self) -> None:
        keep_place(self, self.settings)
        self.hide()  # threads may take a while to end
        self.settings.setValue("sliver-limit", self.session.sliver_limit)
        self.player.close()
        self.recovery.close()
        self.files.close()
        self.session.jobs.close()
        for page in self._pages.values():
            page.close_pictures()
        self.large.close()
        self.small.close()
        self.settings.sync()


def _by_group(commands: list[Command]) -> list[Command]:
    """Return commands group by group, each in the order it came in."""
    groups: dict[str, list[Command]] = {}
    for command in commands:
        groups.setdefault(command.group, []).append(command)
    return [command for group in groups.values() for command in group]


def _whole(value: object, otherwise: int) -> int:
    """Return a setting as a whole number, whatever its file says."""
    try:
        return int(str(value))
    except ValueError:
        return otherwise
