"""What tests do with the real window."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from offcut.app.shell.window import Window
from offcut.core.model.shots import counted_seams

CTRL = Qt.KeyboardModifier.ControlModifier


def press(
    window: Window, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    QTest.keyClick(window, key, modifier)


def frames(window: Window) -> list[int]:
    return [s.frame for s in counted_seams(window.session.source)]


def settled(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(
        lambda: not window.session.jobs.running and window.small.idle and window.large.idle,
        timeout=30_000,
    )


def found(window: Window, qtbot: QtBot) -> None:
    """Wait until the search is over."""
    qtbot.waitUntil(
        lambda: (
            window.session.source is not None
            and window.session.source.searched
            and not window.session.jobs.running
        ),
        timeout=30_000,
    )


def save(window: Window, qtbot: QtBot, path: Path | None = None) -> bool:
    """Save, wait until that is over, and tell whether it is saved."""
    told: list[bool] = []
    window.files.save(path, told.append)
    qtbot.waitUntil(lambda: bool(told), timeout=10_000)
    return told[0]
