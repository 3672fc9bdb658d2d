"""Asking for files: what to open, where to save, and whether unsaved work may be left."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSettings
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMessageBox, QWidget

from offcut.app.session.jobs import Job
from offcut.app.session.project_files import ProjectFiles
from offcut.app.session.session import Session
from offcut.app.shared.asking import ANY, ask, ask_file, ask_files, ask_folder, ask_place
from offcut.core.files import safe_name
from offcut.core.lists.registry import reading_endings
from offcut.core.store.cuts_file import SUFFIX as CUTS
from offcut.core.store.project_file import SUFFIX

RECENT = 12


def is_there(line: str) -> bool:
    """Tell whether a line names something that is there, whatever is in it."""
    try:
        return Path(line).exists()
    except (OSError, ValueError):
        return False


class FileDialogs(QObject):
    """Asks a person for files and hands them to the session; remembers folders and files."""

    def __init__(
        self, session: Session, files: ProjectFiles, settings: QSettings, owner: QWidget
    ) -> None:
        super().__init__(owner)
        self._s = session
        self._files = files
        self._settings = settings
        self._owner = owner
        files.opened.connect(self._remember)
        files.leaving.connect(self.leave_then)

    # what was opened last

    def recent(self) -> list[str]:
        """Return the files opened last, newest first."""
        known = self._settings.value("recent", [])
        paths = [known] if isinstance(known, str) else known
        return [str(p) for p in paths] if isinstance(paths, list) else []

    def _remember(self, path: str) -> None:
        rest = [p for p in self.recent() if p != path]
        self._settings.setValue("recent", [path, *rest][:RECENT])

    # opening

    def ask_films(self) -> None:
        """Ask for films and bring them in."""
        paths = ask_files(self._owner, self._s, "film", "Open films")
        if paths:
            self.open_paths(paths)

    def ask_folder(self) -> None:
        """Ask for a folder and bring in all films in it."""
        words = "Open a folder of films"
        folder = ask_folder(self._owner, self._s, "film", words)
        if folder:
            self.open_paths([folder])

    def paste(self) -> None:
        """Bring in the files and folders that the clipboard names."""
        data = QGuiApplication.clipboard().mimeData()
        paths = [u.toLocalFile() for u in data.urls() if u.isLocalFile()]
        text = data.text() if not paths and data.hasText() else ""

        def work(_job: Job) -> list[str]:
            lines = [line.strip().strip("'\"") for line in text.splitlines()[:1000]]
            return [line for line in lines if line and is_there(line)]

        if text:
            self._s.work("Looking at the clipboard", work, self._paste, quick=True)
        else:
            self._paste(paths)

    def _paste(self, paths: list[str]) -> None:
        if paths:
            self.open_paths(paths)
        else:
            self._s.said.emit("The clipboard names no files")

    def ask_project(self) -> None:
        """Ask for a project and open it."""
        forms = f"Offcut projects (*{SUFFIX})"
        path = ask_file(self._owner, self._s, "project", "Open a project", forms)
        if path:
            self.open_paths([path])

    def open_paths(self, paths: list[str] | list[Path] | list[str | Path]) -> None:
        """Open what is named: films come into the project, another project takes its place."""
        if any(str(p).endswith(SUFFIX) for p in paths):
            self.leave_then(lambda: self._files.open_anything(paths))
        else:
            self._files.open_anything(paths)

    def new_project(self) -> None:
        """Begin with an empty project."""
        self.leave_then(self._files.new_project)

    def leave_then(
        self, go_on: Callable[[], object], stay: Callable[[], object] | None = None
    ) -> None:
        """Offer to save unsaved edits, then go on; or ``stay``, where a person wants to."""
        if self._s.history.saved:
            go_on()
            return
        buttons = QMessageBox.StandardButton
        answer = ask(
            self._owner,
            f"Save the changes to {self._s.project.name}?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        stay = stay or (lambda: None)
        if answer == buttons.Save:
            self.save(lambda saved: go_on() if saved else stay())
        elif answer == buttons.Discard:
            go_on()
        else:
            stay()

    # saving

    def save(self, then: Callable[[bool], object] | None = None) -> None:
        """Save, asking where the first time."""
        if self._s.file is None:
            self.save_as(then)
        else:
            self._files.save(then=then)

    def save_as(self, then: Callable[[bool], object] | None = None) -> None:
        """Save under a new name."""
        name, _ = safe_name(self._s.project.name or "film")
        forms = f"Offcut projects (*{SUFFIX})"
        path, _ = ask_place(
            self._owner, self._s, "project", "Save the project", f"{name}{SUFFIX}", forms
        )
        if path:
            self._files.save(path, then)
        elif then is not None:
            then(False)

    # lists and cuts

    def ask_list_in(self) -> None:
        """Ask for a cut list and hold it against the film."""
        forms = f"Cut lists ({' '.join(f'*{e}' for e in reading_endings())});;{ANY}"
        path = ask_file(self._owner, self._s, "list", "Cut by a list", forms)
        if path:
            self._files.lists.read_list(path)

    def ask_cuts_out(self) -> None:
        """Ask where to write the cuts alone."""
        name, _ = safe_name(self._s.project.name or "film")
        words = "Hand the cuts to a colleague"
        path, _ = ask_place(self._owner, self._s, "cuts", words, f"{name}{CUTS}")
        if path:
            self._files.lists.write_cuts(path)

    def ask_cuts_in(self, merge: bool) -> None:
        """Ask for a colleague's cuts and take them in."""
        words = "Merge a colleague's cuts" if merge else "Replace by a colleague's cuts"
        path = ask_file(self._owner, self._s, "cuts", words, f"Cuts (*{CUTS})")
        if path:
            self._files.lists.take_cuts(path, merge=merge)
