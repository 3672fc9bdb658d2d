"""The real window, offscreen, with a film in it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from offcut.app.shell import file_dialogs
from offcut.app.shell.window import Window
from offcut.app.theme import load_fonts
from windows import found


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    discard = QMessageBox.StandardButton.Discard
    monkeypatch.setattr(file_dialogs, "ask", lambda *_: discard)
    load_fonts()
    made = Window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    made.set_theme("day")
    qtbot.addWidget(made)
    made.show()
    yield made
    made.close()


@pytest.fixture
def opened(window: Window, four_shots: Path, qtbot: QtBot) -> Window:
    """The window with the film of four shots in it, its seams found."""
    window.dialogs.open_paths([four_shots])
    found(window, qtbot)
    return window
