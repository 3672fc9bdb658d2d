"""Nothing lost in the real window: kept aside while working, offered back after a fall."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings, Qt
from pytestqt.qtbot import QtBot

from offcut.app.session.recovery_saver import WAIT_MS
from offcut.app.shell.main import watch_over
from offcut.app.shell.window import Window
from offcut.core.model.verbs.sources import name_project
from offcut.core.store.project_file import open_project, save_project
from offcut.core.store.recovery import left_work, recovery_folder
from windows import CTRL, frames, press, save


def kept_files() -> list[Path]:
    return list(recovery_folder().glob("*.json"))


def fall(window: Window) -> None:
    """Make what the window keeps look like the leavings of a process that is gone."""
    (path,) = kept_files()
    held = json.loads(path.read_text())
    held["process"][1] = "1"
    path.write_text(json.dumps(held))


def test_an_edit_is_kept_within_a_second_and_saving_clears_it(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    assert kept_files() == []
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Delete)
    assert WAIT_MS <= 500
    qtbot.waitUntil(lambda: len(kept_files()) == 1, timeout=5000)
    assert save(opened, qtbot, tmp_path / "film.offcut")
    qtbot.waitUntil(lambda: kept_files() == [], timeout=5000)


def test_left_work_is_offered_and_brought_back_unsaved(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Delete)
    assert frames(opened) == [75, 120]
    qtbot.waitUntil(lambda: len(kept_files()) == 1, timeout=5000)
    fall(opened)
    again = Window(QSettings(str(tmp_path / "other.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(again)
    again.show()
    again.troubles.offer_left_work()
    qtbot.waitUntil(again.notices.isVisible, timeout=5000)
    qtbot.mouseClick(again.notices.buttons[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(
        lambda: again.session.film is not None and not again.session.jobs.running, timeout=20_000
    )
    assert frames(again) == [75, 120]
    assert not again.session.history.saved
    again.close()


def test_left_work_can_be_forgotten(opened: Window, qtbot: QtBot) -> None:
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: len(kept_files()) == 1, timeout=5000)
    fall(opened)
    opened.troubles.offer_left_work()
    qtbot.waitUntil(opened.notices.isVisible, timeout=5000)
    qtbot.mouseClick(opened.notices.buttons[1], Qt.MouseButton.LeftButton)
    assert left_work() == []
    assert not opened.notices.isVisible()


def test_closing_leaves_nothing_behind(opened: Window, qtbot: QtBot) -> None:
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: len(kept_files()) == 1, timeout=5000)
    opened.close()
    assert kept_files() == []


def test_a_project_changed_on_disk_is_noticed_before_saving_over_it(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "film.offcut"
    assert save(opened, qtbot, path)
    save_project(name_project(open_project(path), "theirs"), path)
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Delete)
    press(opened, Qt.Key.Key_S, CTRL)
    qtbot.waitUntil(lambda: "changed by someone else" in opened.notices.words.text(), timeout=5000)
    assert open_project(path).name == "theirs"
    assert not opened.session.history.saved


def test_an_unexpected_error_keeps_the_work_and_says_so(
    opened: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    watch_over(opened)
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Delete)
    error = RuntimeError("the lamp went out")
    sys.excepthook(RuntimeError, error, None)
    assert len(kept_files()) == 1
    assert "the lamp went out" in opened.notices.words.text()
    assert frames(opened) == [75, 120]
