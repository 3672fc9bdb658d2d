"""Nothing is lost, and nothing lands in the wrong place, in the real window."""

from __future__ import annotations

import ast
import sys
import threading
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QSettings, Qt, QThread
from PySide6.QtWidgets import QAbstractItemView, QLabel, QMessageBox
from pytestqt.qtbot import QtBot

import offcut.app
from offcut.app.session import lists_and_cuts, project_files
from offcut.app.session.settings_rules import RULES
from offcut.app.sheets.settings_sheet import SettingsSheet
from offcut.app.shell import file_dialogs
from offcut.app.shell.main import watch_over
from offcut.app.shell.window import Window
from offcut.app.views.rhythm.figures_panel import FiguresPanel
from offcut.core.errors import ProjectError
from offcut.core.model.project import Project
from offcut.core.model.shots import counted_seams
from offcut.core.model.verbs.sources import name_project
from offcut.core.store.cuts_file import write_cuts
from offcut.core.store.project_file import open_project, read_project, save_project
from offcut.core.store.project_lock import ProjectLock
from offcut.core.store.recovery import LeftWork, Recovery, recovery_folder
from windows import press, save, settled

pytestmark = pytest.mark.usefixtures("measured_once")

BUTTON = QMessageBox.StandardButton


class Gate:
    """Holds a function back on the thread it is called on, until it is opened."""

    def __init__(self, function: Callable[..., Any]) -> None:
        self._function = function
        self._open = threading.Event()
        self.reached = threading.Event()

    def __call__(self, *words: Any, **named: Any) -> Any:
        self.reached.set()
        assert self._open.wait(20)
        return self._function(*words, **named)

    def open(self) -> None:
        self._open.set()


def other(path: Path, name: str, film: Path | None = None) -> Path:
    """Save a project of another name; with the film of a window's project where that is given."""
    project = read_project(film).project if film is not None else Project()
    return save_project(name_project(project, name), path)


def strike_first(window: Window) -> None:
    press(window, Qt.Key.Key_Down)
    press(window, Qt.Key.Key_Delete)


def left(project: Project, tmp_path: Path) -> LeftWork:
    return LeftWork(tmp_path / "left.json", project, 0, None, datetime.now(UTC))


def test_bringing_work_back_asks_before_edits_are_left(
    opened: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    strike_first(opened)
    before, asked = opened.session.project, []
    monkeypatch.setattr(file_dialogs, "ask", lambda *w: asked.append(w[1]) or BUTTON.Cancel)
    opened.troubles._show_left(left(name_project(Project(), "lost"), tmp_path))
    qtbot.mouseClick(opened.notices.buttons[0], Qt.MouseButton.LeftButton)
    settled(opened, qtbot)
    assert asked
    assert opened.session.project is before
    monkeypatch.setattr(file_dialogs, "ask", lambda *_: BUTTON.Discard)


def test_edits_made_while_another_project_loads_are_asked_about(
    opened: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = other(tmp_path / "other.offcut", "other")
    assert save(opened, qtbot, tmp_path / "own.offcut")
    gate = Gate(project_files.read_project)
    monkeypatch.setattr(project_files, "read_project", gate)
    answers = [BUTTON.Cancel, BUTTON.Discard]
    monkeypatch.setattr(file_dialogs, "ask", lambda *_: answers.pop(0))
    opened.dialogs.open_paths([path])
    qtbot.waitUntil(gate.reached.is_set)
    strike_first(opened)
    edited = opened.session.project
    gate.open()
    settled(opened, qtbot)
    assert opened.session.project is edited
    assert not opened.session.history.saved
    ProjectLock(path).release()  # the project that did not come is free
    opened.dialogs.open_paths([path])  # asked, and given up: it comes
    settled(opened, qtbot)
    assert opened.session.project.name == "other"


def test_of_two_projects_the_one_asked_for_last_is_opened(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    slow, quick = (other(tmp_path / f"{n}.offcut", n) for n in ("slow", "quick"))
    gate = Gate(read_project)

    def read(path: Path) -> Any:
        return gate(path) if path == slow else read_project(path)

    monkeypatch.setattr(project_files, "read_project", read)
    window.files.open_project(slow)
    qtbot.waitUntil(gate.reached.is_set)
    window.files.open_project(quick)
    qtbot.waitUntil(lambda: window.session.file == quick, timeout=10_000)
    gate.open()
    settled(window, qtbot)
    assert window.session.file == quick
    ProjectLock(slow).release()


def test_a_project_opened_twice_at_once_is_no_copy(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path = other(tmp_path / "twice.offcut", "twice")
    window.files.open_project(path)
    window.files.open_project(path)
    qtbot.waitUntil(lambda: window.session.file is not None, timeout=10_000)
    settled(window, qtbot)
    assert (window.session.file, window.session.project.name) == (path, "twice")
    assert not window.notices.isVisible()


def test_a_colleagues_cuts_never_reach_the_next_project(
    opened: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    own = tmp_path / "own.offcut"
    assert save(opened, qtbot, own)
    cuts = write_cuts(opened.session.project, opened.session.in_hand, tmp_path / "theirs.cuts")
    path = other(tmp_path / "next.offcut", "next", own)
    gate = Gate(lists_and_cuts.read_cuts)
    monkeypatch.setattr(lists_and_cuts, "read_cuts", gate)
    opened.files.lists.take_cuts(cuts, merge=False)
    qtbot.waitUntil(gate.reached.is_set)
    opened.files.open_project(path)
    qtbot.waitUntil(lambda: opened.session.file == path, timeout=10_000)
    opened.view("seams")
    strike_first(opened)
    fresh = [s.frame for s in counted_seams(opened.session.source)]
    gate.open()
    settled(opened, qtbot)
    assert [s.frame for s in counted_seams(opened.session.source)] == fresh


def test_saving_that_fails_holds_no_project(
    opened: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "full.offcut"

    def full(*_words: object, **_named: object) -> Path:
        raise ProjectError(f"{path}: cannot be saved (No space left on device)")

    monkeypatch.setattr(project_files, "save_project", full)
    strike_first(opened)
    assert not save(opened, qtbot, path)
    ProjectLock(path).release()  # nobody holds it


def test_saving_never_fails_for_the_library(
    opened: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("offcut.core.store.library.Library.take", lambda *_: 1 / 0)
    assert save(opened, qtbot, tmp_path / "film.offcut")


def test_a_failure_on_a_worker_is_told_on_the_interface_thread(
    opened: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    for hook in ("excepthook", "unraisablehook"):
        monkeypatch.setattr(sys, hook, getattr(sys, hook))
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    watch_over(opened)
    told_on: list[QThread] = []
    tell = opened.troubles.show_unexpected

    def show(what: str) -> None:
        told_on.append(QThread.currentThread())
        tell(what)

    monkeypatch.setattr(opened.troubles, "show_unexpected", show)

    def fail() -> None:
        raise RuntimeError("the lamp went out")

    threading.Thread(target=fail).start()
    qtbot.waitUntil(lambda: "the lamp went out" in opened.notices.words.text(), timeout=5000)
    assert told_on == [opened.thread()]
    assert [b.text() for b in opened.notices.buttons] == ["Copy a report", "Go on"]


def test_a_reader_of_pictures_that_failed_goes_on(
    opened: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[str] = []
    monkeypatch.setattr(sys, "excepthook", lambda _k, error, _t: told.append(str(error)))
    board = opened.view("board")
    held, fails = board.pictures.films, [True]

    def films() -> Any:
        if fails and fails.pop():
            raise RuntimeError("dictionary changed size during iteration")
        return held()

    monkeypatch.setattr(board.pictures, "films", films)
    opened.open_view("board")
    there = board.pictures
    qtbot.waitUntil(lambda: bool(told) and there.idle and there.held_bytes > 0, timeout=20_000)


MARKUP = "<img src='/a/fifo'><h1>&amp;"


def test_names_are_shown_letter_by_letter(opened: Window, qtbot: QtBot) -> None:
    opened.session.take_in(lambda p: name_project(p, MARKUP))
    opened.session.refresh()
    opened.session.lost.emit(MARKUP)
    for view in ("intake", "seams", "board", "rhythm", "tally", "turnover"):
        opened.open_view(view)
    settled(opened, qtbot)
    own = [panel.explained for panel in opened.findChildren(FiguresPanel)]  # escaped by itself
    labels = [one for one in opened.findChildren(QLabel) if one not in own]
    assert len(labels) > 50
    rich = [one.text() for one in labels if one.textFormat() != Qt.TextFormat.PlainText]
    assert not rich
    for listed in opened.findChildren(QAbstractItemView):
        assert not any(isinstance(one, QLabel) and "<" in one.text() for one in listed.children())


def _calls(name: str) -> list[tuple[Path, ast.Call]]:
    found = []
    for file in Path(str(offcut.app.__file__)).parent.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            called = node.func if isinstance(node, ast.Call) else None
            told = getattr(called, "attr", getattr(called, "id", ""))
            if isinstance(node, ast.Call) and told == name:
                found.append((file, node))
    return found


def test_no_tooltip_and_no_question_shows_markup_from_a_name() -> None:
    """A tip is our own words, or passes through `plain`; labels and questions have one maker."""
    for file, call in _calls("setToolTip"):
        what = call.args[0]
        plain = isinstance(what, ast.Call) and getattr(what.func, "id", "") == "plain"
        own = isinstance(what, ast.Call) and getattr(what.func, "attr", "") == "toolTip"
        literal = isinstance(what, ast.Constant)
        command = file.name == "actions.py"  # the table's own words
        assert plain or own or literal or command, f"{file}:{call.lineno}"
    assert {file.name for file, _ in _calls("QLabel")} <= {"parts.py", "figures_panel.py"}
    assert {file.name for file, _ in _calls("QMessageBox")} <= {"asking.py"}


ABSURD = {
    "signals-bytes": 10**30, "pictures-bytes": "many", "sliver-limit": -5, "rhythm-limit": "nan",
    "rhythm-smoothing": "1e999", "board-bin-size": 10**12, "library": "perhaps",
    "places": "[[[", "window-place": 7, "rhythm-upper": "-1",
}  # fmt: skip


def test_absurd_settings_fall_back_and_are_told_once(qtbot: QtBot, tmp_path: Path) -> None:
    settings = QSettings(str(tmp_path / "absurd.ini"), QSettings.Format.IniFormat)
    for key, value in ABSURD.items():
        settings.setValue(key, str(value))
    settings.sync()
    window = Window(settings)
    qtbot.addWidget(window)
    window.show()
    assert f"{len(ABSURD)} settings made no sense" in window.notices.words.text()
    window.open_settings()
    (sheet,) = window.findChildren(SettingsSheet)
    assert sheet.fields["signals-bytes"].value() == 4096
    for view in ("intake", "board", "rhythm", "tally", "turnover"):
        window.open_view(view)
    window.close()
    again = Window(settings)
    qtbot.addWidget(again)
    assert not again.notices.words.text()
    again.close()
    assert RULES


def test_the_newest_edit_is_kept_at_once(opened: Window, qtbot: QtBot) -> None:
    gate = Gate(Recovery.keep)
    first = [gate]

    def keep(recovery: Recovery, *words: Any) -> None:
        (first.pop() if first else Recovery.keep)(recovery, *words)

    opened.recovery._recovery.keep = keep.__get__(opened.recovery._recovery)  # type: ignore[method-assign]
    strike_first(opened)
    qtbot.waitUntil(gate.reached.is_set, timeout=5000)
    opened.session.edit_project(lambda p: name_project(p, "newest"), "Name it")
    gate.open()
    opened.recovery.keep_at_once()
    (kept,) = recovery_folder().glob("*.json")
    assert '"newest"' in kept.read_text()


def test_saving_goes_through_a_link(opened: Window, qtbot: QtBot, tmp_path: Path) -> None:
    real, link = tmp_path / "store" / "real.offcut", tmp_path / "link.offcut"
    real.parent.mkdir()
    other(real, "before")
    link.symlink_to(real)
    assert save(opened, qtbot, link)
    assert link.is_symlink()
    assert open_project(real).sources == open_project(link).sources != ()
    assert (real.parent / f".{real.name}.before").exists()
