"""Troubles in the real window: projects held, films gone, cuts handed on, a report, settings."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.sheets.settings_sheet import MB, SettingsSheet
from offcut.app.shell.error_report import log_file, without_folders
from offcut.app.shell.window import Window
from offcut.core.model.seam import Standing
from offcut.core.store.project_file import open_project
from offcut.core.store.thumbnails import thumbnails_file
from windows import found, press, save, settled


@pytest.fixture
def saved(window: Window, four_shots: Path, qtbot: QtBot, tmp_path: Path) -> tuple[Path, Path]:
    """A project saved beside nothing, its film on a shelf of its own."""
    shelf = tmp_path / "shelf"
    shelf.mkdir()
    film = Path(shutil.copy(four_shots, shelf / "tram.mp4"))
    window.dialogs.open_paths([film])
    found(window, qtbot)
    settled(window, qtbot)
    (tmp_path / "work").mkdir()
    project = tmp_path / "work" / "tram.offcut"
    assert save(window, qtbot, project)
    return project, film


def another(qtbot: QtBot, tmp_path: Path) -> Window:
    made = Window(QSettings(str(tmp_path / "other.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    made.show()
    return made


def test_a_second_window_gets_a_copy_and_cannot_save_over_the_first(
    window: Window, saved: tuple[Path, Path], qtbot: QtBot, tmp_path: Path
) -> None:
    project, _ = saved
    second = another(qtbot, tmp_path)
    second.dialogs.open_paths([project])
    qtbot.waitUntil(second.notices.isVisible, timeout=20_000)
    settled(second, qtbot)
    assert "tram.offcut: is open in another window" in second.notices.words.text()
    assert second.session.file is None
    assert second.session.project.name.endswith("copy")
    before = project.read_bytes()
    assert not save(second, qtbot, project)
    assert "is open in another window" in second.notices.words.text()
    assert project.read_bytes() == before
    assert save(second, qtbot, tmp_path / "mine.offcut")
    window.close()
    assert save(second, qtbot, project)
    second.close()


def test_a_project_can_be_opened_again_in_the_same_window(
    window: Window, saved: tuple[Path, Path], qtbot: QtBot
) -> None:
    window.dialogs.open_paths([saved[0]])
    settled(window, qtbot)
    assert window.session.file == saved[0]
    assert not window.notices.isVisible()
    press(window, Qt.Key.Key_Down)
    press(window, Qt.Key.Key_Delete)
    assert save(window, qtbot)


def test_a_missing_film_leaves_everything_else_to_work_on(
    window: Window, saved: tuple[Path, Path], qtbot: QtBot, tmp_path: Path
) -> None:
    project, film = saved
    window.close()
    attic = tmp_path / "attic"
    attic.mkdir()
    film.rename(attic / "quite another name.mp4")
    again = another(qtbot, tmp_path)
    again.dialogs.open_paths([project])
    qtbot.waitUntil(again.notices.isVisible, timeout=20_000)
    settled(again, qtbot)
    assert "tram.mp4" in again.notices.words.text()
    assert again.session.film is None
    assert len(again.session.shots) == 4
    # thumbnails come from the disk
    assert thumbnails_file().exists()
    qtbot.waitUntil(lambda: 0 in [f for laid in again.ribbon._laid for _, f in laid.tiles])
    settled(again, qtbot)
    size = again.ribbon._tile()
    frames = [f for laid in again.ribbon._laid for _, f in laid.tiles]
    shown = [again.small.picture(f, *size) for f in frames]
    assert len(shown) >= 4
    assert None not in shown
    first = shown[0]
    assert first is not None
    assert first.pixelColor(3, 3) != first.pixelColor(size[0] // 2, size[1] // 2)
    # so does the trace
    trace = again.session.trace
    assert len(trace) == 160
    assert {int(f) for f in np.argsort(trace)[-3:]} == {40, 75, 120}
    # judging goes on, and so does saving
    press(again, Qt.Key.Key_Down)
    press(again, Qt.Key.Key_Delete)
    assert again.session.source is not None
    seams = again.session.source.seams
    assert [s.frame for s in seams if s.standing is Standing.STRUCK] == [40]
    assert save(again, qtbot)
    # and the film is found by what is in it
    again.finding.look_for_films(attic)
    qtbot.waitUntil(lambda: again.session.film is not None, timeout=20_000)
    settled(again, qtbot)
    assert not again.notices.isVisible()
    assert again.session.source.media.path == str(attic / "quite another name.mp4")
    assert not again.session.history.saved
    press(again, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert again.session.source.media.path == str(attic / "quite another name.mp4")
    assert save(again, qtbot)
    assert open_project(project).sources[0].media.path.endswith("quite another name.mp4")
    again.close()


def test_a_film_with_the_right_name_and_another_content_is_asked_about(
    window: Window, saved: tuple[Path, Path], qtbot: QtBot, tmp_path: Path
) -> None:
    project, film = saved
    window.close()
    encode(film, scene(1, 100))
    again = another(qtbot, tmp_path)
    again.dialogs.open_paths([project])
    qtbot.waitUntil(again.notices.isVisible, timeout=20_000)
    settled(again, qtbot)
    assert "100 frames, 60 fewer" in again.notices.words.text()
    assert again.session.film is None
    use, *_ = again.notices.buttons
    assert use.text() == "Use it anyway"
    qtbot.mouseClick(use, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: again.session.film is not None, timeout=20_000)
    settled(again, qtbot)
    assert [s.end for s in again.session.shots] == [40, 75, 100]
    again.close()


def test_a_colleagues_cuts_are_merged_as_one_edit(
    window: Window,
    saved: tuple[Path, Path],
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    out = tmp_path / "tram.cuts.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(out), ""))
    press(window, Qt.Key.Key_Down)
    press(window, Qt.Key.Key_Delete)
    window.actions_by_id["cuts-out"].trigger()
    settled(window, qtbot)
    assert out.exists()
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(window.session.shots) == 4
    window.actions_by_id["cuts-merge"].trigger()
    settled(window, qtbot)
    assert len(window.session.shots) == 3
    assert "1 decision taken over" in window.status.told.text()
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(window.session.shots) == 4
    window.actions_by_id["cuts-replace"].trigger()
    settled(window, qtbot)
    assert len(window.session.shots) == 3
    out.write_text('{"format": "offcut-cuts"}')
    window.actions_by_id["cuts-merge"].trigger()
    settled(window, qtbot)
    assert "tram.cuts.json" in window.status.told.text()


def test_a_report_names_no_folders(window: Window, qtbot: QtBot) -> None:
    log_file().parent.mkdir(parents=True, exist_ok=True)
    log_file().write_text(
        'Traceback\n  File "/home/ada/Films/My films/tram.mp4", line 3\n'
        "OSError: [Errno 2] No such file: '/mnt/private stuff/line-7.mov'\n"
    )
    window.troubles.show_unexpected("KeyError: /home/ada/secret/x.mp4")
    copy, go_on = window.notices.buttons
    qtbot.mouseClick(copy, Qt.MouseButton.LeftButton)
    text = QGuiApplication.clipboard().text()
    for private in ("ada", "private", "secret", "My films"):
        assert private not in text
    for kept in ("tram.mp4", "line-7.mov", "KeyError: x.mp4", "Python 3", "Qt 6"):
        assert kept in text
    assert not window.notices.isVisible()
    assert go_on.text() == "Go on"
    assert without_folders("3/4 of it; and/or") == "3/4 of it; and/or"


def test_limits_are_set_and_caches_emptied_in_the_settings(opened: Window, qtbot: QtBot) -> None:
    settled(opened, qtbot)
    opened.actions_by_id["settings"].trigger()
    sheet = opened.findChildren(SettingsSheet)[-1]
    settled(opened, qtbot)
    sheet.fields["pictures-bytes"].setValue(16)
    assert opened.limits.get("pictures-bytes") == 16 * MB
    assert opened.session.pictures.held_bytes <= 16 * MB
    sheet.fields["signals-bytes"].setValue(100)
    assert opened.session.room.signals == 100 * MB
    assert sheet._sizes["signals-bytes"].text() != "0.0 MB"
    qtbot.mouseClick(sheet.empty, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: sheet._sizes["signals-bytes"].text() == "0.0 MB", timeout=10_000)
    sheet.close()
