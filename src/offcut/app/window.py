"""The window: top bar, ribbon, the six views, status bar."""

from __future__ import annotations

import time
from functools import partial
from pathlib import Path

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QKeySequence,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMessageBox,
    QProgressBar,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.actions import Command, actions_from
from offcut.app.finder import Finder, ShortcutSheet
from offcut.app.jobs import Job
from offcut.app.player.pictures import Pictures
from offcut.app.player.playing import Playing
from offcut.app.ribbon.ribbon import Ribbon
from offcut.app.seams.hands import Hands
from offcut.app.seams.view import SeamsView
from offcut.app.session import Session
from offcut.app.theme import WAX, apply_theme, system_theme, theme
from offcut.app.theme.parts import label, pane
from offcut.core.errors import OffcutError
from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl import write_edl
from offcut.core.lists.events import events_of
from offcut.core.lists.otio import write_otio
from offcut.core.store.project_file import SUFFIX
from offcut.core.timecode import rate_words

VIEWS = ("Intake", "Seams", "Board", "Rhythm", "Tally", "Turnover")
_ROOMS = {
    "Intake": "Bring films in, set their framing and say where to look.",
    "Board": "Name shots, sort them into scenes, set some aside.",
    "Rhythm": "See how long shots are held and how the cutting speeds up or slows down.",
    "Tally": "Hold the seams against a list, another version or the camera originals.",
    "Turnover": "Hand over lists, subclips, files and pictures.",
}
_WRITERS = {
    "EDL": (".edl", write_edl),
    "OTIO": (".otio", write_otio),
    "CSV": (".csv", write_csv),
}


class ViewTab(QToolButton):
    """The name of a view; a wax stroke under the one that is open."""

    def __init__(self, words: str, number: int) -> None:
        super().__init__()
        self.setText(words)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setToolTip(f"{words}  (Ctrl+{number})")
        self.setFixedHeight(38)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        face = self.font()
        face.setPixelSize(13)
        if self.isChecked():
            face.setBold(True)
        painter.setFont(face)
        painter.setPen(look.colour("text" if self.isChecked() or self.underMouse() else "faint"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text())
        if self.isChecked() or self.hasFocus():
            pen = QPen(WAX, 3 if self.isChecked() else 1.5)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            wide = painter.fontMetrics().horizontalAdvance(self.text()) / 2
            x, y = self.width() / 2, self.height() - 6
            painter.drawLine(int(x - wide), int(y + 1), int(x + wide), int(y - 1))


class Window(QMainWindow):
    """Everything on screen."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.settings = settings or QSettings("Offcut", "Offcut")
        self.session = Session(self)
        self.large = Pictures(limit=192 << 20, threads=2)
        self.small = Pictures(limit=64 << 20, small=True)
        self.playing = Playing(self.session)
        self.hands = Hands(self.session)
        self.commands = self._commands()
        self.actions_by_id = actions_from(self.commands, self)
        self.setWindowTitle("Offcut")
        self.setMinimumSize(1100, 700)
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.ribbon = Ribbon(self.session, self.small)
        self.seams = SeamsView(
            self.session, self.large, self.small, self.playing, self.actions_by_id
        )
        self._lay_out()
        s = self.session
        s.changed.connect(self._show)
        s.moved.connect(self._show_place)
        s.film_changed.connect(self._film_changed)
        s.said.connect(self.say)
        s.failed.connect(self.warn)
        s.jobs.changed.connect(self._show_jobs)
        self.open_view(1)
        self._show()
        self._show_jobs()
        self.ribbon.setFocus()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._focus_moved)

    # what can be done

    def _commands(self) -> list[Command]:
        h, p = self.hands, self.playing
        c = Command
        return [
            c("open-film", "Open a film…", ("Ctrl+O",), "File", self.ask_film, False),
            c(
                "open-project",
                "Open a project…",
                ("Ctrl+Shift+O",),
                "File",
                self.ask_project,
                False,
            ),
            c("save", "Save", ("Ctrl+S",), "File", self.save),
            c("save-as", "Save as…", ("Ctrl+Shift+S",), "File", self.save_as),
            *(
                c(
                    f"write-{k.lower()}",
                    f"Write the shots as {_article(k)} {k}…",
                    (),
                    "File",
                    partial(self.ask_list, k),
                )
                for k in _WRITERS
            ),
            c("quit", "Close Offcut", ("Ctrl+Q",), "File", self.close, False),
            c("undo", "Undo", ("Ctrl+Z",), "Edit", self.session.undo),
            c("redo", "Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), "Edit", self.session.redo),
            c("keep", "Keep the seam and go on", ("Return", "Enter"), "Seam", h.keep),
            c("strike", "Strike the seam and go on", ("Del",), "Seam", h.strike),
            c("reopen", "Re-open the seam", ("Shift+Del",), "Seam", h.reopen),
            c("roll-earlier", "Roll the seam a frame earlier", ("[",), "Seam", lambda: h.roll(-1)),
            c("roll-later", "Roll the seam a frame later", ("]",), "Seam", lambda: h.roll(1)),
            c("place", "Place a cut at the playhead", ("+",), "Seam", h.place),
            c("before", "Go to the seam before", ("Up",), "Walk", lambda: h.next_seam(-1)),
            c("after", "Go to the seam after", ("Down",), "Walk", lambda: h.next_seam(1)),
            c("doubtful", "Go to the next doubtful seam", ("D",), "Walk", h.next_doubtful),
            c("fold", "Fold the shot into the one before", ("F",), "Shot", h.fold),
            c("aside", "Set the shot aside, or take it back", ("A",), "Shot", h.set_aside),
            c("name", "Name the shot", ("N",), "Shot", self.name_here),
            c("play", "Play, on a seam across it", ("Space",), "Play", p.toggle),
            c("forwards", "Play forwards, again for faster", ("L",), "Play", lambda: p.faster(1)),
            c("halt", "Stop", ("K",), "Play", p.stop),
            c(
                "backwards",
                "Play backwards, again for faster",
                ("J",),
                "Play",
                lambda: p.faster(-1),
            ),
            c("left", "A frame back", ("Left",), "Play", lambda: h.step(-1)),
            c("right", "A frame on", ("Right",), "Play", lambda: h.step(1)),
            c("left-ten", "Ten frames back", ("Shift+Left",), "Play", lambda: h.step(-10)),
            c("right-ten", "Ten frames on", ("Shift+Right",), "Play", lambda: h.step(10)),
            c("home", "To the first frame", ("Home",), "Play", lambda: self.session.go_to(0)),
            c("end", "To the last frame", ("End",), "Play", lambda: self.session.go_to(1 << 40)),
            c("timecode", "Type a timecode to go to", ("T",), "Play", self.type_place),
            c("find", "Find the seams again", ("Ctrl+R",), "Find", self.session.find),
            c("stop", "Stop the work under way", ("Esc",), "Find", self.stop_work),
            c("zoom-in", "Zoom the ribbon in", ("Ctrl+Up",), "View", lambda: self.ribbon.zoom(1.6)),
            c(
                "zoom-out",
                "Zoom the ribbon out",
                ("Ctrl+Down",),
                "View",
                lambda: self.ribbon.zoom(1 / 1.6),
            ),
            *(
                c(
                    f"view-{v.lower()}",
                    v,
                    (f"Ctrl+{i + 1}",),
                    "View",
                    partial(self.open_view, i),
                    False,
                )
                for i, v in enumerate(VIEWS)
            ),
            c("theme", "Change between Day and Night", ("Ctrl+T",), "View", self.turn_theme, False),
            c("finder", "Find a command", ("Ctrl+K",), "Help", self.open_finder, False),
            c("keys", "Show all keys", ("F1",), "Help", self.open_sheet, False),
        ]

    def allowed(self, command: Command) -> bool:
        """Tell whether a command makes sense now."""
        if command.needs_film and self.session.source is None:
            return False
        if command.id == "undo":
            return self.session.history.undoable is not None
        if command.id == "redo":
            return self.session.history.redoable is not None
        if command.id == "stop":
            return bool(self.session.jobs.running)
        return True

    def _focus_moved(self, _old: QWidget | None, now: QWidget | None) -> None:
        """Leave bare keys to a text field while it has the focus."""
        typing = isinstance(now, QLineEdit)
        for command in self.commands:
            keys = [k for k in command.keys if not typing or "Ctrl" in k or k in ("F1", "Esc")]
            action = self.actions_by_id[command.id]
            if len(action.shortcuts()) != len(keys):
                action.setShortcuts([QKeySequence(k) for k in keys])

    # layout

    def _lay_out(self) -> None:
        whole = QWidget()
        box = QVBoxLayout(whole)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._top_bar())
        box.addWidget(self.ribbon)
        self.stack = QStackedWidget()
        for name in VIEWS:
            self.stack.addWidget(self.seams if name == "Seams" else _room(name))
        box.addWidget(self.stack, 1)
        box.addWidget(self._status_bar())
        self.setCentralWidget(whole)

    def _top_bar(self) -> QWidget:
        bar = pane("topbar")
        bar.setFixedHeight(44)
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 0, 12, 0)
        self._project = QToolButton()
        self._project.setObjectName("head")
        self._project.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._project.setToolTip("Open, save, write, undo")
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_menu)
        self._project.setMenu(self._menu)
        self._edited = label("", "faint")
        left = QWidget()
        left_row = QHBoxLayout(left)
        left_row.setContentsMargins(0, 0, 0, 0)
        left_row.addWidget(self._project)
        left_row.addWidget(self._edited)
        left_row.addStretch()
        row.addWidget(left, 1)
        self.tabs = []
        for i, name in enumerate(VIEWS):
            tab = ViewTab(name, i + 1)
            tab.clicked.connect(lambda _on=False, at=i: self.open_view(at))
            self.tabs.append(tab)
            row.addWidget(tab)
        right = QWidget()
        right_row = QHBoxLayout(right)
        right_row.setContentsMargins(0, 0, 0, 0)
        right_row.addStretch()
        self._job_words = label("", "faint")
        self._job_bar = QProgressBar()
        self._job_bar.setFixedWidth(90)
        self._job_bar.setTextVisible(False)
        self._job_stop = QToolButton()
        self._job_stop.setText("Stop")
        self._job_stop.setToolTip("Stop the work under way  (Esc)")
        self._job_stop.clicked.connect(self.stop_work)
        for part in (self._job_words, self._job_bar, self._job_stop):
            right_row.addWidget(part)
        self._write = QToolButton()
        self._write.setText("Write a list")
        self._write.setToolTip("Write the shots as an EDL, OTIO or CSV")
        self._write.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        for kind in _WRITERS:
            menu.addAction(self.actions_by_id[f"write-{kind.lower()}"])
        self._write.setMenu(menu)
        right_row.addWidget(self._write)
        finder = QToolButton()
        finder.setText("Find a command")
        finder.setToolTip("Find a command  (Ctrl+K)")
        finder.clicked.connect(self.open_finder)
        right_row.addWidget(finder)
        row.addWidget(right, 1)
        return bar

    def _status_bar(self) -> QWidget:
        bar = pane("status")
        bar.setFixedHeight(32)
        row = QHBoxLayout(bar)
        row.setContentsMargins(12, 0, 16, 0)
        row.setSpacing(14)
        self.place = QLineEdit()
        self.place.setObjectName("playhead")
        self.place.setFixedWidth(128)
        self.place.setToolTip("Type a timecode, a frame number or +10  (T)")
        self.place.setAccessibleName("Timecode of the playhead")
        self.place.returnPressed.connect(self._typed)
        self.place.editingFinished.connect(self._show_place)
        self._frame = label("", "faint")
        self._told = label("", "faint")
        self._saved = label("", "faint")
        row.addWidget(self.place)
        row.addWidget(self._frame)
        row.addStretch()
        row.addWidget(self._told)
        row.addStretch()
        row.addWidget(self._saved)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(6000)
        self._quiet.timeout.connect(lambda: self._told.setText(""))
        return bar

    def _fill_menu(self) -> None:
        menu, a = self._menu, self.actions_by_id
        menu.clear()
        menu.addActions([a["open-film"], a["open-project"]])
        recent = menu.addMenu("Recent")
        for path in self.recent():
            opening = recent.addAction(Path(path).name)
            opening.setToolTip(path)
            opening.triggered.connect(partial(self._open_recent, path))
        recent.setEnabled(bool(self.recent()))
        menu.addSeparator()
        menu.addActions([a["save"], a["save-as"]])
        menu.addSeparator()
        menu.addActions([a["undo"], a["redo"]])
        menu.addSeparator()
        menu.addActions([a["theme"], a["keys"]])
        menu.addSeparator()
        menu.addAction(a["quit"])

    # showing

    def open_view(self, at: int) -> None:
        """Open one of the six views."""
        self.stack.setCurrentIndex(at)
        self.tabs[at].setChecked(True)

    def _film_changed(self) -> None:
        self.playing.stop()
        self.large.set_film(self.session.film)
        self.small.set_film(self.session.film)
        path = self.session.file or (
            self.session.source.media.path if self.session.source else None
        )
        if path:
            self._remember(str(path))

    def _show(self) -> None:
        s = self.session
        name = s.project.name if s.source else "Offcut"
        self._project.setText(f"{name}  ▾")
        self.setWindowTitle(f"{name} – Offcut" if s.source else "Offcut")
        saved = s.history.saved
        self._edited.setText("" if saved or s.source is None else "edited")
        self._saved.setText(
            "" if s.source is None or s.file is None else "saved" if saved else "not saved"
        )
        undo, redo = s.history.undoable, s.history.redoable
        self.actions_by_id["undo"].setText(f"Undo: {undo.words}" if undo else "Undo")
        self.actions_by_id["redo"].setText(f"Redo: {redo.words}" if redo else "Redo")
        for command in self.commands:
            if command.id not in ("undo", "redo", "stop"):
                self.actions_by_id[command.id].setEnabled(self.allowed(command))
        self._write.setEnabled(s.source is not None)
        self._show_place()

    def _show_place(self) -> None:
        s = self.session
        if not self.place.hasFocus():
            self.place.setText(s.words_of(s.playhead))
        if s.source is None:
            self._frame.setText("")
            return
        media = s.source.media
        self._frame.setText(f"frame {s.playhead} of {media.frames}   {rate_words(media.rate)} fps")

    def _show_jobs(self) -> None:
        jobs = self.session.jobs.running
        for part in (self._job_words, self._job_bar, self._job_stop):
            part.setVisible(bool(jobs))
        if jobs:
            job = jobs[-1]
            self._job_words.setText(job.words)
            self._job_bar.setRange(0, 0)
            job.progressed.connect(partial(self._progress, job))

    def _progress(self, job: Job, done: int, whole: int) -> None:
        self._job_bar.setRange(0, whole)
        self._job_bar.setValue(done)
        left = (time.monotonic() - job.began) / max(1, done) * (whole - done)
        self._job_words.setText(f"{job.words}, {left:.0f} s left" if left >= 1 else job.words)

    def say(self, words: str) -> None:
        """Say what was done."""
        self._told.setStyleSheet("")
        self._told.setText(words)
        self._quiet.start()

    def warn(self, words: str) -> None:
        """Say what went wrong; it stays until something else is said."""
        self._quiet.stop()
        self._told.setStyleSheet(f"color: {theme().warn};")
        self._told.setText(words)

    # doing

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
        """Open a film or project, after asking what to do with unsaved work."""
        if self._may_leave():
            self.settings.setValue("folder", str(Path(path).absolute().parent))
            self.session.open_anything(path)

    def _open_recent(self, path: str, _on: bool = False) -> None:
        self.open_path(path)

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
            self.session.save()

    def save_as(self) -> None:
        """Save under a new name."""
        start = Path(self._folder()) / f"{self.session.project.name}{SUFFIX}"
        path, _ = QFileDialog.getSaveFileName(
            self, "Save the project", str(start), f"Offcut projects (*{SUFFIX})"
        )
        if path and self.session.save(path):
            self._remember(str(self.session.file))

    def ask_list(self, kind: str) -> None:
        """Ask where to write a list and write it."""
        suffix, _ = _WRITERS[kind]
        start = Path(self._folder()) / f"{self.session.project.name}{suffix}"
        path, _ = QFileDialog.getSaveFileName(self, f"Write {_article(kind)} {kind}", str(start))
        if path:
            self.write_list(kind, path)

    def write_list(self, kind: str, path: str | Path) -> None:
        """Write the shots as a list and say how many went where."""
        suffix, write = _WRITERS[kind]
        file = Path(path)
        if not file.suffix:
            file = file.with_suffix(suffix)
        try:
            events = events_of(self.session.project)
            write(events, file)
        except OffcutError as error:
            self.warn(str(error))
            return
        self.say(f"{len(events.events)} events written to {file.name}")

    def stop_work(self) -> None:
        """Stop what is under way, or else leave the text field."""
        if self.session.jobs.running:
            for job in self.session.jobs.running:
                job.stop.set()
        self.playing.stop()
        self.setFocus()

    def name_here(self) -> None:
        """Put the cursor into the shot's name."""
        self.open_view(1)
        self.seams.side.name.setFocus()
        self.seams.side.name.selectAll()

    def type_place(self, first: str = "") -> None:
        """Let a person type where to go."""
        self.place.setFocus()
        self.place.setText(first)
        if not first:
            self.place.setText(self.session.words_of(self.session.playhead))
            self.place.selectAll()

    def _typed(self) -> None:
        text = self.place.text()
        self.setFocus()
        if text != self.session.words_of(self.session.playhead):
            self.session.go_to_typed(text)
        self._show_place()

    def turn_theme(self) -> None:
        """Change between Day and Night and remember it."""
        self.set_theme("day" if theme().name == "night" else "night")
        self.settings.setValue("theme", theme().name)

    def set_theme(self, name: str) -> None:
        """Put a theme in force."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, name)
        for button in self.seams.buttons:
            button.restyle()
        self.update()

    def start_theme(self) -> None:
        """Put the remembered theme in force, or the system's."""
        self.set_theme(str(self.settings.value("theme", "") or system_theme()))

    def open_finder(self) -> None:
        """Open the command finder under the top bar."""
        finder = Finder(self.commands, self.allowed, self)
        corner = self.mapToGlobal(self.rect().topLeft())
        finder.move(corner.x() + (self.width() - finder.width()) // 2, corner.y() + 52)
        finder.show()
        finder.field.setFocus()

    def open_sheet(self) -> None:
        """Show all keys."""
        ShortcutSheet(self.commands, self).show()

    # events

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text().isdigit() and self.session.source is not None:
            self.type_place(event.text())
            return
        super().keyPressEvent(event)

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
        self.playing.stop()
        self.session.jobs.stop_all()
        self.large.close()
        self.small.close()
        event.accept()


def _article(kind: str) -> str:
    return "an" if kind[0] in "EO" else "a"


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
