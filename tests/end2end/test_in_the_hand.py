"""Small things that a person meets: fields, notices, offsets, what comes first."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.session import standing
from offcut.app.session.room import Room
from offcut.app.session.seam_search import SeamSearch
from offcut.app.shared.offset_field import OffsetField
from offcut.app.shell.window import Window
from offcut.core.errands import searching
from offcut.core.errors import MediaError
from offcut.core.model.rules import fault_of_ids
from offcut.core.model.ticket import ProxyUse
from offcut.core.model.verbs.ticket import set_proxy_use
from windows import CTRL, frames, press, settled


def type_into(field: QLineEdit, text: str, qtbot: QtBot) -> None:
    field.setFocus()
    qtbot.waitUntil(field.hasFocus)
    QTest.keyClicks(field, text)


def test_return_takes_a_name_and_gives_the_keys_back_so_that_undo_undoes_it(
    opened: Window, qtbot: QtBot
) -> None:
    opened.activateWindow()
    opened.open_view("board")
    board = opened.view("board")
    press(opened, Qt.Key.Key_Home)
    board.card.type_scene()
    field = board.card.scene
    type_into(field, "Harbour", qtbot)
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert [s.name for s in opened.session.project.scenes] == ["Harbour"]
    qtbot.waitUntil(lambda: not field.hasFocus())
    press(opened, Qt.Key.Key_Z, CTRL)
    assert not opened.session.project.scenes
    # a field with nothing of its own to undo lets it through as well
    press(opened, Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert opened.session.project.scenes
    board.card.type_name()
    qtbot.waitUntil(board.card.name.hasFocus)
    QTest.keyClick(board.card.name, Qt.Key.Key_Z, CTRL)
    assert not opened.session.project.scenes
    # one that has, undoes its own
    QTest.keyClicks(board.card.name, "Quay")
    event = QKeyEvent(QKeyEvent.Type.ShortcutOverride, Qt.Key.Key_Z, CTRL)
    QApplication.sendEvent(board.card.name, event)
    assert event.isAccepted()


def test_a_result_that_is_refused_stays_as_a_notice_until_it_is_read(
    opened: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = opened.session.project
    monkeypatch.setattr(
        "offcut.core.model.rules.fault_of_ids", lambda _seams: "two seams have the same id"
    )
    monkeypatch.setattr(
        "offcut.app.session.seam_search.take_found",
        lambda p, *_a, **_k: _with_one_less(p),
    )
    opened.search.find()
    qtbot.waitUntil(opened.notices.isVisible, timeout=20_000)
    settled(opened, qtbot)
    words = opened.notices.words.text()
    assert "two seams have the same id" in words
    assert "Ctrl+R" in words
    opened.status.say("something else")
    assert opened.notices.isVisible()
    assert opened.session.project == before
    assert opened.search.troubles
    opened.notices.buttons[-1].click()
    assert not opened.notices.isVisible()
    monkeypatch.undo()
    assert not fault_of_ids(opened.session.source.seams)
    opened.search.find()
    settled(opened, qtbot)
    assert not opened.search.troubles


def _with_one_less(project):  # type: ignore[no-untyped-def]
    from dataclasses import replace

    source = project.sources[0]
    return replace(project, sources=(replace(source, seams=source.seams[1:]),))


def test_films_that_could_not_be_searched_say_why_on_their_label_and_in_one_notice(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for n in range(3):
        encode(tmp_path / f"{n}.mp4", [*scene(n, 20), *scene(n + 9, 20)])
    plain = searching.find_seams

    def failing(film, *words, **more):  # type: ignore[no-untyped-def]
        if film.media.path.endswith("1.mp4"):
            raise MediaError(f"{film.media.path}: its pictures cannot be read")
        return plain(film, *words, **more)

    monkeypatch.setattr(searching, "find_seams", failing)
    window.dialogs.open_paths([tmp_path])
    qtbot.waitUntil(lambda: len(window.session.project.sources) == 3, timeout=20_000)
    qtbot.waitUntil(window.notices.isVisible, timeout=20_000)
    settled(window, qtbot)
    assert "1.mp4: its pictures cannot be read" in window.notices.words.text()
    states = window.view("intake").shelf.films.states
    words = [states[s.id].words for s in window.session.project.sources]
    assert words[1] == "not searched: its pictures cannot be read"
    assert [s.searched for s in window.session.project.sources] == [True, False, True]


def test_proxies_are_made_after_all_seams_are_found(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    window.session.room = Room(proxy_folder=tmp_path / "proxies")
    window.files.search_at_once = False
    paths = [encode(tmp_path / f"{n}.mp4", scene(n, 40)) for n in range(2)]
    window.dialogs.open_paths(paths)
    qtbot.waitUntil(lambda: len(window.session.project.sources) == 2, timeout=20_000)
    window.session.choose([s.id for s in window.session.project.sources])
    window.session.edit_chosen(lambda p, i: set_proxy_use(p, i, ProxyUse.ALWAYS), "Proxy always")
    done: list[str] = []
    window.session.jobs.changed.connect(lambda: done.extend(j.words for j in _new(window, done)))
    ids = [s.id for s in window.session.project.sources]
    window.search.find_all(ids)
    qtbot.waitUntil(lambda: not window.search.busy, timeout=30_000)
    order = [w for w in done if w in ("Finding seams", "Making a proxy")]
    assert order == ["Finding seams"] * 2 + ["Making a proxy"] * 2


def _new(window: Window, done: list[str]) -> list[object]:
    running = window.session.jobs.running
    return running[-1:] if running and len(running) == 1 else []


def test_an_offset_is_a_timecode(opened: Window) -> None:
    field = OffsetField("Offset", lambda: opened.session.clock)
    second = opened.session.second
    field.show_value(3600 * second)
    assert field.text() == "01:00:00:00"
    field.show_value(-2)
    assert field.text() == "−00:00:00:02"
    for typed, value in (("-1:00", -second), ("90", 90), ("01:00:00:00", 3600 * second)):
        assert field.valueFromText(typed) == value


def test_the_first_save_begins_in_the_films_folder(
    opened: Window, four_shots: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[str] = []
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda _o, _t, start, _f: (asked.append(start), ("", ""))[1]
    )
    opened.actions_by_id["save"].trigger()
    assert [Path(a).parent for a in asked] == [four_shots.parent]


def test_parts_of_tally_stand_in_one_place_whether_a_page_is_empty_or_not(
    opened: Window, qtbot: QtBot
) -> None:
    opened.open_view("tally")
    tally = opened.view("tally")
    places = []
    for page in ("lists", "versions", "originals"):
        tally.open_page(page)
        button = tally.sections.buttons[page]
        places.append(button.mapTo(opened, button.rect().topLeft()).y())
    assert len(set(places)) == 1


def test_a_search_again_finds_the_same(opened: Window, qtbot: QtBot) -> None:
    before = frames(opened)
    assert isinstance(opened.search, SeamSearch)
    press(opened, Qt.Key.Key_R, CTRL)
    settled(opened, qtbot)
    assert frames(opened) == before


def open_on(film: Path) -> int:
    """Return how often this process has a film open."""
    count = 0
    for entry in os.scandir("/proc/self/fd"):
        try:
            count += os.readlink(entry.path) == str(film)
        except OSError:
            continue
    return count


def test_decoders_that_nobody_asks_of_are_closed(
    opened: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    s = opened.session
    assert s.source is not None
    film = Path(s.source.media.path)
    monkeypatch.setattr(standing, "IDLE", 0.1)
    opened.open_view("board")
    for turn in range(2):
        frame = 70 + turn
        opened.small.want("test", [frame], 48, 28)
        qtbot.waitUntil(
            lambda frame=frame: opened.small.picture(frame, 48, 28) is not None, timeout=9000
        )
        settled(opened, qtbot)
        # the large picture's decoder stands where it may be stepped on from
        qtbot.waitUntil(lambda: open_on(film) <= 1, timeout=15_000)
