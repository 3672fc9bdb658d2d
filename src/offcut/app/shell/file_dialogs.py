"""Asking for files: what to open, where to save, and whether unsaved work may be left."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSettings
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from offcut.app.session.project_files import ProjectFiles
from offcut.app.session.session import Session
from offcut.core.lists.registry import reading_endings
from offcut.core.store.cuts_file import SUFFIX as CUTS
from offcut.core.store.project_file import SUFFIX

RECENT = 12


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

    # what was opened last

    def recent(self) -> list[str]:
        """Return the files opened last, newest first."""
        known = self._settings.value("recent", [])
        paths = [known] if isinstance(known, str) else known
        return [str(p) for p in paths] if isinstance(paths, list) else []

    def _remember(self, path: str) -> None:
        rest = [p for p in self.recent() if p != path]
        self._settings.setValue("recent", [path, *rest][:RECENT])

    def _folder(self) -> str:
        return str(self._settings.value("folder", str(Path.home())))

    # opening

    def ask_films(self) -> None:
        """Ask for films and bring them in."""
        paths, _ = QFileDialog.getOpenFileNames(self._owner, "Open films", self._folder())
        if paths:
            self.open_paths(paths)

    def ask_folder(self) -> None:
        """Ask for a folder and bring in all films in it."""
        words = "Open a folder of films"
        folder = QFileDialog.getExistingDirectory(self._owner, words, self._folder())
        if folder:
            self.open_paths([folder])

    def paste(self) -> None:
        """Bring in the files and folders that the clipboard names."""
        data = QGuiApplication.clipboard().mimeData()
        paths = [u.toLocalFile() for u in data.urls() if u.isLocalFile()]
        if not paths and data.hasText():
            lines = [line.strip().strip("'\"") for line in data.text().splitlines()[:1000]]
            paths = [str(p) for line in lines if line and (p := Path(line)).exists()]
        if paths:
            self.open_paths(paths)
        else:
            self._s.said.emit("The clipboard names no files")

    def ask_project(self) -> None:
        """Ask for a project and open it."""
        path, _ = QFileDialog.getOpenFileName(
            self._owner, "Open a project", self._folder(), f"Offcut projects (*{SUFFIX})"
        )
        if path:
            self.open_paths([path])

    def open_paths(self, paths: list[str] | list[Path] | list[str | Path]) -> None:
        """Open what is named: films come into the project, another project takes its place."""
        self._settings.setValue("folder", str(Path(paths[0]).absolute().parent))
        if any(str(p).endswith(SUFFIX) for p in paths):
            self.leave_then(lambda: self._files.open_anything(paths))
        else:
            self._files.open_anything(paths)

    def new_project(self) -> None:
        """Begin with an empty project."""
        self.leave_then(self._files.new_project)

    def leave_then(self, go_on: Callable[[], object]) -> None:
        """Offer to save unsaved edits, then go on; or stay, where a person wants to."""
        if self._s.history.saved:
            go_on()
            return
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._owner,
            "Offcut",
            f"Save the changes to {self._s.project.name}?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        if answer == buttons.Save:
            self.save(lambda saved: go_on() if saved else None)
        elif answer == buttons.Discard:
            go_on()

    # saving

    def save(self, then: Callable[[bool], object] | None = None) -> None:
        """Save, asking where the first time."""
        if self._s.file is None:
            self.save_as(then)
        else:
            self._files.save(then=then)

    def save_as(self, then: Callable[[bool], object] | None = None) -> None:
        """Save under a new name."""
        start = Path(self._folder()) / f"{self._s.project.name}{SUFFIX}"
        path, _ = QFileDialog.getSaveFileName(
            self._owner, "Save the project", str(start), f"Offcut projects (*{SUFFIX})"
        )
        if path:
            self._files.save(path, then)

    # lists and cuts

    def ask_list_in(self) -> None:
        """Ask for a cut list and hold it against the film."""
        path, _ = QFileDialog.getOpenFileName(
            self._owner,
            "Cut by a list",
            self._folder(),
            f"Cut lists ({' '.join(f'*{e}' for e in reading_endings())});;All (*)",
        )
        if path:
            self._files.lists.read_list(path)

    def ask_cuts_out(self) -> None:
        """Ask where to write the cuts alone."""
        start = Path(self._folder()) / f"{self._s.project.name}{CUTS}"
        words = "Hand the cuts to a colleague"
        path, _ = QFileDialog.getSaveFileName(self._owner, words, str(start))
        if path:
            self._files.lists.write_cuts(path)

    def ask_cuts_in(self, merge: bool) -> None:
        """Ask for a colleague's cuts and take them in."""
        words = "Merge a colleague's cuts" if merge else "Replace by a colleague's cuts"
        path, _ = QFileDialog.getOpenFileName(self._owner, words, self._folder(), f"Cuts (*{CUTS})")
        if path:
            self._files.lists.take_cuts(path, merge=merge)
