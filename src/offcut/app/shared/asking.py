"""Asking for files and folders: a dialog begins where the film lies, then where such files went."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from offcut.app.session.session import Session

ANY = "All files (*)"


def ask_file(owner: QWidget, session: Session, kind: str, title: str, forms: str = ANY) -> str:
    """Ask for a file that is there; return its path, empty where none was chosen."""
    path, _ = QFileDialog.getOpenFileName(owner, title, str(_start(session, kind)), forms)
    return _went(session, kind, path)


def ask_files(
    owner: QWidget, session: Session, kind: str, title: str, forms: str = ANY
) -> list[str]:
    """Ask for files that are there."""
    paths, _ = QFileDialog.getOpenFileNames(owner, title, str(_start(session, kind)), forms)
    _went(session, kind, paths[0] if paths else "")
    return list(paths)


def ask_folder(owner: QWidget, session: Session, kind: str, title: str, start: str = "") -> str:
    """Ask for a folder; ``start`` is one to begin in where there is one already."""
    begin = start or str(_start(session, kind))
    folder = QFileDialog.getExistingDirectory(owner, title, begin)
    if folder:
        session.places.went(kind, Path(folder), session.lies_at)
    return folder


def ask_place(
    owner: QWidget, session: Session, kind: str, title: str, name: str, forms: str = ANY
) -> tuple[str, str]:
    """Ask where to keep a file called ``name``; return its path and which of the forms."""
    start = str(_start(session, kind) / name)
    path, form = QFileDialog.getSaveFileName(owner, title, start, forms)
    return _went(session, kind, path), form


def ask(
    owner: QWidget, words: str, buttons: QMessageBox.StandardButton
) -> QMessageBox.StandardButton:
    """Ask a question, letter by letter whatever names are in it; return the button pressed."""
    box = QMessageBox(QMessageBox.Icon.Question, "Offcut", "", buttons, owner)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(words)
    return QMessageBox.StandardButton(box.exec())


def _start(session: Session, kind: str) -> Path:
    return session.places.start(kind, session.lies_at)


def _went(session: Session, kind: str, path: str) -> str:
    if path:
        session.places.went(kind, Path(path).absolute().parent, session.lies_at)
    return path
