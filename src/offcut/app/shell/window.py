"""The window: top bar, ribbon, the six views, status bar; files come and go through it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QLineEdit,
    QMainWindow,
    QMessageBox,
    QPlainTextEdit,
    QSpinBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from offcut.app.commands.actions import Actions, Command
from offcut.app.commands.tables import VIEWS, commands_of
from offcut.app.session.project_files import LISTS as LISTS_IN
from offcut.app.session.recovery_saver import RecoverySaver
from offcut.app.session.session import Session
from offcut.app.shared.pictures import Pictures
from offcut.app.shared.player import Player
from offcut.app.shared.ribbon.ribbon import Ribbon
from offcut.app.sheets.framing_sheet import FramingSheet
from offcut.app.sheets.key_sheet import KeySheet
from offcut.app.sheets.list_sheet import ListSheet
from offcut.app.sheets.settings_sheet import Limits, SettingsSheet
from offcut.app.shell.finder import Finder
from offcut.app.shell.notices import Notices
from offcut.app.shell.status_bar import StatusBar
from offcut.app.shell.top_bar import TopBar
from offcut.app.shell.troubles import Troubles
from offcut.app.theme import apply_theme, system_theme, theme
from offcut.app.theme.parts import label, pane
from offcut.app.views.seams.range_and_markers import RangeAndMarkers
from offcut.app.views.seams.seam_actions import SeamActions
from offcut.app.views.seams.view import SeamsView
from offcut.app.views.turnover.view import TurnoverView
from offcut.core.lists.incoming import ReadList
from offcut.core.store.cuts_file import SUFFIX as CUTS
from offcut.core.store.project_file import SUFFIX

_ROOMS = {
    "Intake": "Bring films in, set their framing and say where to look.",
    "Board": "Name shots, sort them into scenes, set some aside.",
    "Rhythm": "See how long shots are held and how the cutting speeds up or slows down.",
    "Tally": "Hold the seams against a list, another version or the camera originals.",
}
_TYPED_IN = (QLineEdit, QPlainTextEdit, QSpinBox)


class Window(QMainWindow):
    """Everything on screen."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.settings = settings or QSettings("Offcut", "Offcut")
        self.session = Session(self)
        self.session.sliver_limit = _whole(self.settings.value("sliver-limit"), 0)
        self.limits = Limits(self.settings)
        self.large = Pictures(threads=2)
        self.small = Pictures(small=True, after=self.large)
        self._take_limits()
        self.playing = Player(self.session)
        self.safety = RecoverySaver(self.session)
        self.safety.failed.connect(self.session.failed)
        self.hands = SeamActions(self.session)
        self.places = RangeAndMarkers(self.session)
        self.actions_table = Actions(commands_of(self), self, self.settings)
        self.actions_by_id = self.actions_table.by_id
        self.setWindowTitle("Offcut")
        self.setMinimumSize(1100, 700)
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.ribbon = Ribbon(self.session, self.small)
        self.seams = SeamsView(
            self.session,
            self.large,
            self.small,
            self.playing,
            self.hands,
            self.places,
            self.actions_table,
        )
        self.turnover = TurnoverView(self.session, self.settings)
        self.turnover.back.connect(self._back_to)
        self._lay_out()
        s = self.session
        s.changed.connect(self._show)
        s.film_changed.connect(self._film_changed)
        s.files.listed.connect(self._show_listed)
        self.troubles = Troubles(s, self.notices, self.save_as, self)
        self.open_view(1)
        self._show()
        self.ribbon.setFocus()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._focus_moved)

    # what can be done

    @property
    def commands(self) -> list[Command]:
        """The table of everything there is to do."""
        return self.actions_table.commands

    def allowed(self, command: Command) -> bool:
        """Tell whether a command makes sense now."""
        if command.needs_film and self.session.source is None:
            return False
        return command.when is None or command.when()

    def _focus_moved(self, _old: QWidget | None, now: QWidget | None) -> None:
        self.actions_table.set_typing(isinstance(now, _TYPED_IN))

    # layout

    def _lay_out(self) -> None:
        self.top = TopBar(self.session, self.actions_by_id, self.recent)
        self.top.view_chosen.connect(self.open_view)
        self.top.recent_chosen.connect(self.open_path)
        self.status = StatusBar(self.session)
        self.status.left.connect(self.setFocus)
        self.status.roll_typed.connect(self.hands.roll_to)
        self.stack = QStackedWidget()
        for name in VIEWS:
            built: dict[str, QWidget] = {"Seams": self.seams, "Turnover": self.turnover}
            self.stack.addWidget(built.get(name) or _room(name))
        whole = QWidget()
        box = QVBoxLayout(whole)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        self.notices = Notices()
        box.addWidget(self.top)
        box.addWidget(self.notices)
        box.addWidget(self.ribbon)
        box.addWidget(self.stack, 1)
        box.addWidget(self.status)
        self.setCentralWidget(whole)

    def _back_to(self, frame: int) -> None:
        """Go to a seam that the check points at."""
        self.open_view(1)
        self.session.go_to(frame)
        here = self.session.seam_here()
        self.session.select(here.id if here else None)

    # showing

    def open_view(self, at: int) -> None:
        """Open one of the six views."""
        self.stack.setCurrentIndex(at)
        self.top.tabs[at].setChecked(True)

    def _film_changed(self) -> None:
        film, source = self.session.film, self.session.source
        self.large.set_film(film)
        self.small.set_film(film, source.media if source and film is None else None)
        path = self.session.file or (
            self.session.source.media.path if self.session.source else None
        )
        if path:
            self._remember(str(path))

    def _show(self) -> None:
        s = self.session
        self.setWindowTitle(f"{s.project.name} – Offcut" if s.source else "Offcut")
        undo, redo = s.history.undoable, s.history.redoable
        self.actions_by_id["undo"].setText(f"Undo: {undo.words}" if undo else "Undo")
        self.actions_by_id["redo"].setText(f"Redo: {redo.words}" if redo else "Redo")
        for command in self.commands:
            if command.when is None:
                self.actions_by_id[command.id].setEnabled(self.allowed(command))

    def turn_full(self) -> None:
        """Give the whole screen to the picture, or back to everything."""
        full = not self.isFullScreen()
        for part in (self.top, self.ribbon):
            part.setVisible(not full)
        self.seams.show_only_picture(full)
        if full:
            self.open_view(1)
            self.showFullScreen()
        else:
            self.showNormal()

    # files

    def ask_film(self) -> None:
        """Ask for a film and open it."""
        path, _ = QFileDialog.getOpenFileName(self, "Open a film", self._folder())
        if path:
            self.open_path(path)

    def ask_project(self) -> None:
        """Ask for a project and open it."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Open a project", self._folder(), f"Offcut projects (*{SUFFIX})"
        )
        if path:
            self.open_path(path)

    def open_path(self, path: str | Path) -> None:
        """Open a film or project, after asking what to do with unsaved work; or a list."""
        if self.session.source is not None and Path(path).suffix.lower() in LISTS_IN:
            self.session.files.read_list(path)
        elif self._may_leave():
            self.settings.setValue("folder", str(Path(path).absolute().parent))
            self.session.files.open_anything(path)

    def _folder(self) -> str:
        return str(self.settings.value("folder", str(Path.home())))

    def recent(self) -> list[str]:
        """Return the files opened last that are still there, newest first."""
        known = self.settings.value("recent", [])
        paths = [known] if isinstance(known, str) else known
        return [p for p in paths if Path(p).exists()] if isinstance(paths, list) else []

    def _remember(self, path: str) -> None:
        rest = [p for p in self.recent() if p != path]
        self.settings.setValue("recent", [path, *rest][:12])

    def save(self) -> None:
        """Save, asking where the first time."""
        if self.session.file is None:
            self.save_as()
        else:
            self.session.files.save()

    def save_as(self) -> None:
        """Save under a new name."""
        start = Path(self._folder()) / f"{self.session.project.name}{SUFFIX}"
        path, _ = QFileDialog.getSaveFileName(
            self, "Save the project", str(start), f"Offcut projects (*{SUFFIX})"
        )
        if path and self.session.files.save(path):
            self._remember(str(self.session.file))

    def ask_list_in(self) -> None:
        """Ask for a cut list and hold it against the film."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Cut by a list", self._folder(), "Cut lists (*.edl *.otio *.csv *.txt);;All (*)"
        )
        if path:
            self.session.files.read_list(path)

    def _show_listed(self, listed: ReadList) -> None:
        ListSheet(self.session, self.small, listed, self).show()

    def ask_cuts_out(self) -> None:
        """Ask where to write the cuts alone."""
        start = Path(self._folder()) / f"{self.session.project.name}{CUTS}"
        path, _ = QFileDialog.getSaveFileName(self, "Hand the cuts to a colleague", str(start))
        if path:
            self.session.files.write_cuts(path)

    def ask_cuts_in(self, merge: bool) -> None:
        """Ask for a colleague's cuts and take them in."""
        words = "Merge a colleague's cuts" if merge else "Replace by a colleague's cuts"
        path, _ = QFileDialog.getOpenFileName(self, words, self._folder(), f"Cuts (*{CUTS})")
        if path:
            self.session.files.take_cuts(path, merge=merge)

    # doing

    def hand_over(self) -> None:
        """Show Turnover, or hand over what it plans where it is shown and nothing stops it."""
        outcome = self.turnover.outcome
        if not self.turnover.isVisible():
            self.actions_by_id["view-turnover"].trigger()
        elif outcome.go.isVisible() and outcome.go.isEnabled():
            outcome.go.click()
        elif outcome.go.isVisible() and outcome.findings.count():
            self.session.failed.emit(outcome.findings.item(0).text())

    def stop_work(self) -> None:
        """Stop what is under way, or else leave the text field."""
        for job in self.session.jobs.running:
            job.stop.set()
        if self.isFullScreen() and not self.playing.speed:
            self.turn_full()
        self.playing.stop()
        self.setFocus()

    def name_here(self) -> None:
        """Put the cursor into the shot's name."""
        self.open_view(1)
        self.seams.side.name_shot()

    def add_marker(self) -> None:
        """Put a marker down and let a person name it."""
        marker = self.places.add_marker()
        if marker is not None:
            self.seams.side.show_marker(marker)

    def next_sliver(self) -> None:
        """Open the slivers and go to the next one."""
        self.open_view(1)
        self.seams.side.next_sliver()

    def play_marked(self) -> None:
        """Play the marked range round and round, or the shot where nothing is marked."""
        if self.playing.speed:
            self.playing.stop()
            return
        shot = self.session.shot_here()
        marked = self.session.marked or ((shot.start, shot.end) if shot else None)
        if marked is not None:
            self.playing.round_and_round(*marked)

    def type_place(self, first: str = "") -> None:
        """Let a person type where to go."""
        self.status.type_place(first)

    def type_roll(self) -> None:
        """Let a person type where the seam is to be rolled."""
        if self.session.seam_here() is None:
            self.session.said.emit("Park on a seam to roll it")
        else:
            self.status.type_roll()

    def turn_theme(self) -> None:
        """Change between Day and Night and remember it."""
        self.set_theme("day" if theme().name == "night" else "night")
        self.settings.setValue("theme", theme().name)

    def set_theme(self, name: str) -> None:
        """Put a theme in force."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, name)
        self.seams.restyle()
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
        self.large.set_limit(self.limits.get("large-bytes"))
        self.small.set_limit(self.limits.get("small-bytes"))
        self.small.disk_limit = self.limits.get("thumbnails-bytes")
        self.session.cache_limit = self.limits.get("signals-bytes")

    def open_settings(self) -> None:
        """Show the settings."""
        SettingsSheet(self.limits, self.session.jobs, self._take_limits, self).show()

    def open_framing(self) -> None:
        """Show the framing."""
        FramingSheet(self.session, self.large, self).show()

    def open_sheet(self) -> None:
        """Show all keys, and let them be changed."""
        KeySheet(self.actions_table, self).show()

    # events

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text().isdigit() and self.session.source is not None:
            self.type_place(event.text())
            return
        super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            self.seams.pair.release_swap()
        super().keyReleaseEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls()[:1]:
            if url.isLocalFile():
                self.open_path(url.toLocalFile())

    def _may_leave(self) -> bool:
        """Offer to save unsaved edits; False to stay."""
        if self.session.history.saved or self.session.source is None:
            return True
        answer = QMessageBox.question(
            self,
            "Offcut",
            f"Save the changes to {self.session.project.name}?",
            QMessageBox.StandardButton.Save
            | QMessageBox.StandardButton.Discard
            | QMessageBox.StandardButton.Cancel,
        )
        if answer == QMessageBox.StandardButton.Save:
            self.save()
            return self.session.history.saved
        return answer == QMessageBox.StandardButton.Discard

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        self.settings.setValue("sliver-limit", self.session.sliver_limit)
        self.playing.close()
        self.safety.close()
        self.session.files.close()
        self.session.jobs.close()
        self.large.close()
        self.small.close()
        event.accept()


def _whole(value: object, otherwise: int) -> int:
    """Return a setting as a whole number, whatever its file says."""
    try:
        return int(str(value))
    except ValueError:
        return otherwise


def _room(name: str) -> QWidget:
    room = pane("bench")
    box = QVBoxLayout(room)
    box.addStretch()
    for words, kind in (
        (name, "large"),
        (_ROOMS[name], ""),
        ("This room is not built yet.", "faint"),
    ):
        said = label(words, kind)
        said.setAlignment(Qt.AlignmentFlag.AlignCenter)
        box.addWidget(said)
    box.addStretch()
    return room
