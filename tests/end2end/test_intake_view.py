"""Intake in the real window: what arrives, what is set of it, and the work it is put to."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from itertools import chain
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl
from PySide6.QtGui import QDropEvent, QGuiApplication
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.shell.window import Window
from offcut.core.media.proxy import ProxyPieces
from offcut.core.model.project import Project
from offcut.core.model.run import Holes
from offcut.core.model.source import Framed, Framing, Source
from offcut.core.model.ticket import Fields, Flash, ProxyUse
from offcut.core.model.verbs.ticket import set_proxy_use
from offcut.core.store.project_file import read_project
from scans import deep, in_a_gate, write_run
from windows import CTRL, press, save, settled

GATE, LIVE = (320, 240), (52, 14, 304, 228)


@pytest.fixture(scope="session")
def tapes(films: Path) -> Path:
    """A folder as people are handed it: a roll with holes, two movies, and other files."""
    folder = films / "tapes"
    if not folder.exists():
        shots = chain(*(scene(n, 20) for n in (1, 2, 3, 4)))
        scans = (deep(in_a_gate(p, GATE, LIVE, n)) for n, p in enumerate(shots))
        told = {"dpx:FrameRate": 24.0}
        write_run(folder / "roll", scans, first=100, holes=[110, 131, 132], bits=10, told=told)
        encode(folder / "b-side.mp4", chain(scene(5, 30), scene(6, 30)))
        encode(folder / "a-side.mp4", chain(scene(7, 40), scene(8, 25)))
        (folder / "readme.txt").write_text("two sides and a roll\n" * 20)
        (folder / "broken.mov").write_bytes(b"not a film at all" * 50)
    return folder


@pytest.fixture
def intake(window: Window, tapes: Path, qtbot: QtBot) -> Window:
    """The window with the folder brought in and searched, in Intake."""
    window.dialogs.open_paths([tapes])
    s = window.session
    qtbot.waitUntil(
        lambda: len(s.project.sources) == 3 and all(x.searched for x in s.project.sources),
        timeout=60_000,
    )
    settled(window, qtbot)
    return window


def names(window: Window) -> list[str]:
    return [Path(s.media.path).name for s in window.view("intake").shelf.films.sources]


def states(window: Window) -> list[str]:
    model = window.view("intake").shelf.films
    return [model.states[s.id].words for s in model.sources]


def choose(window: Window, *rows: int) -> None:
    s = window.session
    s.take_in_hand(s.project.sources[rows[-1]].id)
    s.choose(s.project.sources[r].id for r in rows)


def test_a_folder_is_one_shelf_of_films(window: Window, tapes: Path, qtbot: QtBot) -> None:
    said: list[str] = []
    window.session.said.connect(said.append)
    window.session.failed.connect(said.append)
    window.session.lost.connect(said.append)
    window.dialogs.open_paths([tapes])
    qtbot.waitUntil(
        lambda: (
            all(x.searched for x in window.session.project.sources)
            and window.session.view == "intake"
        ),
        timeout=60_000,
    )
    settled(window, qtbot)
    assert names(window) == ["a-side.mp4", "b-side.mp4", "K07_[0100-0179].dpx"]
    assert states(window) == ["1 seam", "1 seam", "3 seams; 3 pictures missing"]
    assert any("broken.mov: not a film that can be read" in w for w in said)
    assert "1 file left out, no film: readme.txt" in said
    assert any("3 films, 5 seams, 0 doubtful" in w for w in said)
    assert window.slim.isVisible()
    assert not window.ribbon.isVisible()
    # the same again brings nothing new
    window.dialogs.open_paths([tapes])
    settled(window, qtbot)
    assert len(window.session.project.sources) == 3


def test_the_gate_is_found_and_is_dragged_for_all_that_are_chosen(
    intake: Window, qtbot: QtBot
) -> None:
    s, view = intake.session, intake.view("intake")
    choose(intake, 2)
    source = s.source
    assert source is not None
    assert source.framed is Framed.FOUND
    assert source.framing.left >= LIVE[0]
    assert "found" in view.ticket.framing.text()
    picture = view.live.picture
    inside = picture.inside()
    grip = QPoint(round(inside.left()), round(inside.center().y()))
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=grip)
    QTest.mouseMove(picture, grip + QPoint(20, 0))
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=grip + QPoint(20, 0))
    moved = s.project.sources[2].framing
    assert moved.left > source.framing.left
    assert (moved.top, moved.right, moved.bottom) == (
        source.framing.top, source.framing.right, source.framing.bottom,
    )  # fmt: skip
    assert s.project.sources[2].framed is Framed.SET
    settled(intake, qtbot)
    s.undo()
    assert s.project.sources[2].framing == source.framing


def test_what_is_set_goes_for_all_chosen_as_one_undo(intake: Window, qtbot: QtBot) -> None:
    s, ticket = intake.session, intake.view("intake").ticket
    before = s.project
    choose(intake, 0, 1)
    assert ticket.head.text() == "2 films chosen"
    assert ticket.rate.currentText() == "25"
    ticket.squeeze.lineEdit().setText("1.33")
    ticket.squeeze.lineEdit().setModified(True)
    ticket.squeeze.lineEdit().editingFinished.emit()
    assert [x.media.pixel_shape for x in s.project.sources] == [Fraction("1.33")] * 2 + [1]
    s.undo()
    assert s.project == before
    choose(intake, 0, 2)
    assert ticket.rate.lineEdit().placeholderText() == "differ"
    assert ticket.rate.currentText() == ""
    assert ticket.display.currentText() == "as it is"
    ticket.rate.textActivated.emit("18")
    assert [x.media.rate for x in s.project.sources] == [18, 25, 18]
    assert s.film is not None
    assert s.film.media.rate == 18
    ticket.start.setText("10:00:00:00")
    ticket.start.setModified(True)
    ticket.start.editingFinished.emit()
    assert s.project.sources[0].media.start == 36_000 * 18
    ticket.reel.setText("K07")
    ticket.reel.setModified(True)
    ticket.reel.editingFinished.emit()
    ticket.fields.textActivated.emit("the upper line first")
    ticket.flash.textActivated.emit("the shot before")
    ticket.sensitivity.setText("70")
    ticket.sensitivity.setModified(True)
    ticket.sensitivity.editingFinished.emit()
    ticket.proxies.button(2).click()
    for source in (s.project.sources[0], s.project.sources[2]):
        told = source.ticket
        assert (told.reel, told.fields, told.flash) == ("K07", Fields.TOP, Flash.BEFORE)
        assert (told.proxy, source.sensitivity) == (ProxyUse.NEVER, 70)
    settled(intake, qtbot)
    failed: list[str] = []
    s.failed.connect(failed.append)
    ticket.rate.textActivated.emit("fast")
    assert failed == ["fast is no rate: type frames per second, such as 18 or 23.976"]
    # by other fields the pictures are measured anew, and what is found then is no step to undo
    while _without_seams(s.project) != _without_seams(before):
        assert s.history.undoable is not None
        s.undo()


def test_the_display_changes_what_is_seen_everywhere(intake: Window, qtbot: QtBot) -> None:
    s, view = intake.session, intake.view("intake")
    choose(intake, 2)
    settled(intake, qtbot)
    size = view.live.picture.seen_size()
    before = intake.large.picture(s.playhead, *size)
    assert before is not None
    view.ticket.display.textActivated.emit("film log (Cineon)")
    settled(intake, qtbot)
    qtbot.waitUntil(lambda: intake.large.picture(s.playhead, *size) is not None, timeout=10_000)
    after = intake.large.picture(s.playhead, *size)
    middle = (size[0] // 2, size[1] // 2)
    assert before.pixelColor(*middle) != after.pixelColor(*middle)
    failed: list[str] = []
    s.failed.connect(failed.append)
    view.ticket.take_cube("/nowhere/at-all.cube")
    assert failed == ["/nowhere/at-all.cube: there is no such file"]
    assert s.source is not None
    assert s.source.ticket.display == "cineon"


def test_holes_are_told_and_closed(intake: Window, qtbot: QtBot) -> None:
    s, live = intake.session, intake.view("intake").live
    choose(intake, 2)
    words = "K07 holds 77 of 80 pictures: 110 and 131 to 132 are missing"
    assert live.holes.text() == words
    assert live.buttons[Holes.HOLD].isChecked()
    live.buttons[Holes.CLOSE].click()
    settled(intake, qtbot)
    assert s.source is not None
    assert s.source.media.frames == 77
    assert s.film is not None
    assert len(s.film.index) == 77
    assert [x.frame for x in s.source.seams if x.score > 50] == [19, 37, 57]
    s.undo()
    settled(intake, qtbot)
    assert len(s.film.index) == 80
    choose(intake, 0)
    assert not live.holes.isVisibleTo(live)


def test_labels_lie_in_any_order_and_are_chosen_by_keys(intake: Window, qtbot: QtBot) -> None:
    view = intake.view("intake")
    view.order.setCurrentIndex(view.order.findData("length"))
    view.order.activated.emit(view.order.currentIndex())
    assert names(intake) == ["K07_[0100-0179].dpx", "a-side.mp4", "b-side.mp4"]
    assert intake.settings.value("shelf-order") == "length"
    view.shelf.setFocus()
    QTest.keyClick(view.shelf, Qt.Key.Key_A, CTRL)
    assert len(intake.session.chosen_sources) == 3
    intake.menu_of("film").actions()[0].trigger()
    assert intake.search.busy
    settled(intake, qtbot)
    intake.actions_by_id["take-films-out"].trigger()
    assert intake.session.project.sources == ()
    intake.session.undo()
    assert len(intake.session.project.sources) == 3
    settled(intake, qtbot)


def test_the_queue_has_an_order_and_is_held_and_gone_on_with(
    window: Window, tapes: Path, qtbot: QtBot, tmp_path: Path
) -> None:
    window.files.search_at_once = False
    window.dialogs.open_paths([tapes])
    s, search = window.session, window.search
    qtbot.waitUntil(lambda: len(s.project.sources) == 3, timeout=20_000)
    settled(window, qtbot)
    first, second, third = (x.id for x in s.project.sources)
    search.hold()
    search.find_all([first, second, third])
    panel = window.view("intake").under_way
    assert panel.isVisibleTo(panel.parentWidget())
    assert search.waiting_ids == (first, second, third)
    assert "held" in states(window)
    search.move(third, -1)
    search.move(third, -1)
    assert search.waiting_ids == (third, first, second)
    search.take_off([second])
    assert search.waiting_ids == (third, first)
    assert save(window, qtbot, tmp_path / "tapes.offcut")
    # what is still to do is in the file, and goes on when it is opened again
    assert read_project(tmp_path / "tapes.offcut").waiting == (third, first)
    window.files.open_project(tmp_path / "tapes.offcut")
    qtbot.waitUntil(
        lambda: {x.id for x in s.project.sources if x.searched} >= {first, third}, timeout=60_000
    )
    settled(window, qtbot)
    assert not search.busy


def test_closing_with_work_under_way_asks_nothing_and_keeps_what_waits(
    window: Window, tapes: Path, qtbot: QtBot, tmp_path: Path
) -> None:
    window.files.search_at_once = False
    window.dialogs.open_paths([tapes])
    s = window.session
    qtbot.waitUntil(lambda: len(s.project.sources) == 3, timeout=20_000)
    settled(window, qtbot)
    path = tmp_path / "tapes.offcut"
    assert save(window, qtbot, path)
    window.search.hold()
    ids = [x.id for x in s.project.sources]
    window.search.find_all(ids)
    assert window.close()
    assert read_project(path).waiting == tuple(ids)


def test_a_proxy_is_made_shown_while_moving_and_left_for_the_film_by_a_key(
    intake: Window, qtbot: QtBot
) -> None:
    s = intake.session
    choose(intake, 0)
    assert s.source is not None
    pieces = ProxyPieces(s.source.media)
    intake.actions_by_id["make-proxies"].trigger()
    qtbot.waitUntil(lambda: pieces.share() == 1, timeout=30_000)
    settled(intake, qtbot)
    size = intake.view("intake").live.picture.seen_size()
    intake.large.set_moving(True)
    s.go_to(50)
    qtbot.waitUntil(lambda: intake.large.is_stand_in(50, *size), timeout=10_000)
    intake.large.set_moving(False)
    s.go_to(51)
    s.go_to(50)
    qtbot.waitUntil(
        lambda: (
            intake.large.picture(50, *size) is not None and not intake.large.is_stand_in(50, *size)
        ),
        timeout=10_000,
    )
    said: list[str] = []
    s.said.connect(said.append)
    press(intake, Qt.Key.Key_E)
    assert said == ["The film itself is shown always"]
    assert not intake.large.use_proxy
    press(intake, Qt.Key.Key_E)
    assert intake.large.use_proxy


def test_the_same_for_all_films(intake: Window, qtbot: QtBot) -> None:
    s = intake.session
    choose(intake, 0)
    s.edit_chosen(lambda p, i: p, "nothing")
    view = intake.view("intake")
    view.ticket.squeeze.textActivated.emit("2")
    view.live.take_framing(Framing(4, 4, 4, 4))
    settled(intake, qtbot)
    view.alike.click()
    first, second, roll = s.project.sources
    assert second.framing == first.framing == Framing(4, 4, 4, 4)
    assert roll.framing != first.framing  # its pictures have another size
    assert [x.ticket.squeeze for x in s.project.sources] == [2, 2, 2]
    settled(intake, qtbot)


def test_films_come_by_drop_and_by_paste(window: Window, tapes: Path, qtbot: QtBot) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tapes / "a-side.mp4"))])
    drop = QDropEvent(
        QPoint(10, 10).toPointF(), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    window.dropEvent(drop)
    qtbot.waitUntil(lambda: len(window.session.project.sources) == 1, timeout=20_000)
    QGuiApplication.clipboard().setText(str(tapes / "b-side.mp4"))
    window.actions_by_id["paste-films"].trigger()
    qtbot.waitUntil(lambda: len(window.session.project.sources) == 2, timeout=20_000)
    settled(window, qtbot)


def test_what_was_found_stays_where_no_proxy_can_be_written(
    window: Window, tapes: Path, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "file").write_text("no folder")
    s = window.session
    s.room = replace(s.room, proxy_folder=tmp_path / "file")
    window.files.search_at_once = False
    window.dialogs.open_paths([tapes / "a-side.mp4"])
    qtbot.waitUntil(lambda: bool(s.project.sources), timeout=20_000)
    failed: list[str] = []
    s.lost.connect(failed.append)
    s.edit_chosen(lambda p, i: set_proxy_use(p, i, ProxyUse.ALWAYS), "Proxy always")
    window.search.find()
    qtbot.waitUntil(lambda: bool(failed), timeout=30_000)
    settled(window, qtbot)
    assert s.source is not None
    assert s.source.searched
    assert [x.frame for x in s.source.seams if x.score > 50] == [40]
    assert any("proxies cannot be written" in words for words in failed)


def _without_seams(project: Project) -> list[Source]:
    return [replace(source, seams=()) for source in project.sources]
