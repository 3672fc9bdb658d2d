"""The Board in the real window: shots named, sorted, picked and ordered, by keys and by hand."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from films import encode, picture_of
from offcut.app.session.session import Session
from offcut.app.shell.window import Window
from offcut.app.views.board.board_shots import ASIDE, EVERY, ORDER, UNSORTED
from offcut.app.views.board.naming_sheet import NamingSheet
from offcut.app.views.board.scene_looks_sheet import SceneLooksSheet
from offcut.app.views.board.shot_tiles import SHEET
from offcut.app.views.board.view import BoardView
from offcut.core.facts.in_shot import InShot
from offcut.core.model.orders import uses_of
from offcut.core.model.scene_look import Pattern, Tint
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.store.library import Library
from windows import CTRL, press, save, settled

pytestmark = pytest.mark.usefixtures("measured_once")

SHIFT = Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier


@pytest.fixture
def board(opened: Window, qtbot: QtBot) -> Iterator[BoardView]:
    """The Board with four shots, looked at."""
    opened.activateWindow()
    press(opened, Qt.Key.Key_3, CTRL)
    view: BoardView = opened.view("board")
    ready(opened, view, qtbot)
    view.canvas.setFocus()
    yield view
    view.stop_playing()


def ready(window: Window, view: BoardView, qtbot: QtBot) -> None:
    settled(window, qtbot)
    qtbot.waitUntil(lambda: view.looking.done and view.pictures.idle, timeout=20_000)
    settled(window, qtbot)


def key(window: Window, *keys: Qt.Key, mod: Qt.KeyboardModifier | None = None) -> None:
    for one in keys:
        press(window, one, mod or Qt.KeyboardModifier.NoModifier)


def test_shots_are_shown_by_the_frame_that_tells_most_and_by_their_middle_again(
    opened: Window, board: BoardView, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = board.shots.rows[0]
    assert row.shot is not None
    middle, still = board.shots.frame_of(row), row.shot.start + 3
    monkeypatch.setattr(board.shots, "inside", lambda _row: InShot((), "", "", still))
    assert board.shots.frame_of(row) == middle
    key(opened, Qt.Key.Key_W, mod=SHIFT)
    assert board.shots.frame_of(row) == still
    board.show_layout(SHEET)
    board.canvas.viewport().grab()
    assert still in [w.frame for w in board.canvas.tiles.wanted]
    key(opened, Qt.Key.Key_W, mod=SHIFT)
    assert board.shots.frame_of(row) == middle


def starts(view: BoardView) -> list[int]:
    return [r.shot.start for r in view.shots.rows if r.shot]


def chosen(view: BoardView) -> list[int]:
    return [r.shot.start for r in view.shots.chosen_rows if r.shot]


def names(s: Session) -> list[str]:
    return [shot.card.name for shot in s.shots]


def choose(view: BoardView, *places: int) -> None:
    view.shots.choose([view.shots.rows[n].key for n in places])


# layouts


def test_the_same_shots_are_chosen_in_all_three_layouts(board: BoardView, opened: Window) -> None:
    assert starts(board) == [0, 40, 75, 120]
    choose(board, 1, 2)
    assert chosen(board) == [40, 75]
    for _ in range(2):
        key(opened, Qt.Key.Key_W)
        assert chosen(board) == [40, 75]
    assert board.shown.currentWidget() is board.table
    rows = {i.row() for i in board.table.selectionModel().selectedRows()}
    assert rows == {1, 2}
    board.table.selectRow(3)
    assert chosen(board) == [120]
    key(opened, Qt.Key.Key_W)
    assert board.shown.currentWidget() is board.canvas
    assert chosen(board) == [120]
    assert [r.seam for r in opened.session.picked] == [opened.session.shots[3].opened_by.id]


def test_shots_are_chosen_by_click_shift_control_frame_and_keys(
    board: BoardView, opened: Window, qtbot: QtBot
) -> None:
    canvas = board.canvas.viewport()

    def middle(n: int) -> QPoint:
        x, y, wide, high = board.canvas.laid.boxes[n]
        return QPoint(int(x + wide / 2), int(y + high / 2))

    left = Qt.MouseButton.LeftButton
    QTest.mouseClick(canvas, left, Qt.KeyboardModifier.NoModifier, middle(1))
    assert chosen(board) == [40]
    assert opened.session.playhead == 40
    QTest.mouseClick(canvas, left, SHIFT, middle(3))
    assert chosen(board) == [40, 75, 120]
    QTest.mouseClick(canvas, left, CTRL, middle(2))
    assert chosen(board) == [40, 120]
    QTest.mouseClick(canvas, left, Qt.KeyboardModifier.NoModifier, middle(0))
    key(opened, Qt.Key.Key_Right)
    assert chosen(board) == [40]
    key(opened, Qt.Key.Key_Right, mod=SHIFT)
    assert chosen(board) == [40, 75]
    key(opened, Qt.Key.Key_Home)
    assert chosen(board) == [0]
    key(opened, Qt.Key.Key_End, mod=SHIFT)
    assert chosen(board) == [0, 40, 75, 120]
    key(opened, Qt.Key.Key_A, mod=CTRL)
    assert len(chosen(board)) == 4
    x, y, wide, high = board.canvas.laid.boxes[0]
    QTest.mousePress(canvas, left, Qt.KeyboardModifier.NoModifier, QPoint(4, int(y + high + 60)))
    to = QPoint(int(x + wide + 4), int(y + 20))
    QTest.mouseMove(canvas, to)
    assert chosen(board) == [0]
    QTest.mouseRelease(canvas, left, Qt.KeyboardModifier.NoModifier, to)


def test_the_pointer_plays_across_a_strip(board: BoardView, qtbot: QtBot) -> None:
    x, y, wide, _high = board.canvas.laid.boxes[1]
    board.canvas._hover = None
    QTest.mouseMove(board.canvas.viewport(), QPoint(int(x + wide * 0.75), int(y + 40)))
    qtbot.waitUntil(lambda: board.canvas._hover is not None, timeout=3000)
    n, share = board.canvas._hover
    assert n == 1
    assert share == pytest.approx(0.75, abs=0.05)
    board.canvas.viewport().repaint()
    wanted = {w.frame for w in board.canvas.tiles.wanted}
    assert any(64 <= f <= 68 for f in wanted)  # three quarters of 40 to 75


def test_other_orders_and_another_size(board: BoardView, opened: Window, qtbot: QtBot) -> None:
    board.shots.sort_by("length")
    assert starts(board) == [75, 0, 120, 40]
    board.shots.sort_by("light")
    lights = [board.shots.light_of(r) for r in board.shots.rows]
    assert lights == sorted(lights, reverse=True)
    assert min(lights) >= 0
    choose(board, 2)
    here = chosen(board)
    board.shots.sort_by("likeness")
    assert starts(board)[:1] == here
    before = board.canvas.size_now
    key(opened, Qt.Key.Key_Plus, mod=CTRL)
    assert board.canvas.size_now > before
    again = Window(opened.settings)
    qtbot.addWidget(again)
    assert again.open_view("board").shots.sort == "likeness"
    assert again.open_view("board").canvas.size_now == board.canvas.size_now


def test_the_table_is_typed_into_and_its_columns_are_chosen(
    board: BoardView, opened: Window
) -> None:
    board.show_layout("table")
    model = board.table.shots_model
    titles = [model.headerData(n, Qt.Orientation.Horizontal, 0) for n in range(model.columnCount())]
    place = {t.rstrip(" ↑↓"): n for n, t in enumerate(titles)}
    name, scene, note, film = (place[t] for t in ("Name", "Scene", "Note", "Film"))
    role = Qt.ItemDataRole.EditRole
    assert model.setData(model.index(1, name), "Quay", role)
    assert model.setData(model.index(1, scene), "Harbour", role)
    assert model.setData(model.index(2, note), "grain", role)
    s = opened.session
    assert names(s) == ["", "Quay", "", ""]
    assert s.project.scenes[0].name == "Harbour"
    assert s.shots[2].card.note == "grain"
    assert board.table.isColumnHidden(film)
    board.table.show_column(film, True)
    assert model.index(0, film).data() == "four-shots.mp4"
    board.table._sort(place["Length"])
    assert starts(board)[0] == 75
    board.table._sort(place["Length"])  # once more turns it round
    assert starts(board)[-1] == 75
    board.table._sort(place["Note"])
    assert starts(board)[0] == 75
    assert board.tools.sort.currentText() == "By note"
    for _ in range(3):
        press(opened, Qt.Key.Key_Z, CTRL)
    assert names(s) == ["", "", "", ""]


# cards


def test_n_names_and_goes_on_to_the_next(board: BoardView, opened: Window) -> None:
    choose(board, 0)
    key(opened, Qt.Key.Key_N)
    assert board.card.name.hasFocus()
    for word in ("Dawn", "Quay", "Tower"):
        QTest.keyClicks(board.card.name, word)
        QTest.keyClick(board.card.name, Qt.Key.Key_Return)
    assert names(opened.session) == ["Dawn", "Quay", "Tower", ""]
    assert chosen(board) == [120]


def test_one_name_note_and_scene_for_many_and_differ_where_they_do(
    board: BoardView, opened: Window
) -> None:
    s = opened.session
    choose(board, 1)
    board.actions_on.name("Quay")
    choose(board, 0, 1)
    assert board.card.title.text() == "2 shots chosen"
    assert board.card.name.placeholderText() == "differ"
    assert board.card.name.text() == ""
    key(opened, Qt.Key.Key_G, mod=CTRL)
    assert board.card.scene.hasFocus()
    QTest.keyClicks(board.card.scene, "The depot")
    QTest.keyClick(board.card.scene, Qt.Key.Key_Return)
    assert [x.card.scene for x in s.shots] == [s.project.scenes[0].id] * 2 + [0, 0]
    assert s.history.undoable.words == "Put 2 shots into “The depot”"
    board.card.note.setFocus()
    QTest.keyClicks(board.card.note, "grain heavier")
    board.canvas.setFocus()
    assert [x.card.note for x in s.shots] == ["grain heavier", "grain heavier", "", ""]
    press(opened, Qt.Key.Key_Z, CTRL)
    assert [x.card.note for x in s.shots] == [""] * 4


def test_the_name_of_a_scene_completes(board: BoardView, opened: Window) -> None:
    choose(board, 0)
    board.actions_on.put_in_scene("Harbour")
    choose(board, 2)
    key(opened, Qt.Key.Key_G, mod=CTRL)
    QTest.keyClicks(board.card.scene, "har")
    completer = board.card.scene.completer()
    assert completer.currentCompletion() == "Harbour"
    completer.activated[str].emit("Harbour")
    board.card.scene.setText("Harbour")  # as the list of completions does
    QTest.keyClick(board.card.scene, Qt.Key.Key_Return)
    s = opened.session
    assert s.shots[2].card.scene == s.shots[0].card.scene == s.project.scenes[0].id
    assert len(s.project.scenes) == 1


def test_a_note_typed_goes_to_the_shots_it_was_typed_for(board: BoardView, opened: Window) -> None:
    choose(board, 0)
    board.card.note.setFocus()
    QTest.keyClicks(board.card.note, "for the first")
    board.shots.step(2)
    assert [x.card.note for x in opened.session.shots] == ["for the first", "", "", ""]


def test_names_by_a_pattern_are_shown_before_and_undone_in_one_step(
    board: BoardView, opened: Window
) -> None:
    choose(board, 1, 2)
    board.actions_on.put_in_scene("Quay")
    key(opened, Qt.Key.Key_N, mod=CTRL | SHIFT)
    sheet = opened.findChildren(NamingSheet)[-1]
    assert [sheet.table.item(n, 1).text() for n in range(2)] == ["Quay_01", "Quay_02"]
    sheet.pattern.setText("{wrong}")
    assert "no field {wrong}" in sheet.told.text()
    assert not sheet.go.isEnabled()
    sheet.pattern.setText("{scene}_{number}")
    sheet.first.setValue(5)
    sheet.go.click()
    assert names(opened.session) == ["", "Quay_05", "Quay_06", ""]
    board.name_many()
    sheet = opened.findChildren(NamingSheet)[-1]
    sheet.by_words.setChecked(True)
    sheet.sought.setText("quay_")
    sheet.put_in.setText("Bell ")
    assert [sheet.table.item(n, 0).text() for n in range(2)] == ["Quay_05", "Quay_06"]
    sheet.go.click()
    assert names(opened.session) == ["", "Bell 05", "Bell 06", ""]
    press(opened, Qt.Key.Key_Z, CTRL)
    press(opened, Qt.Key.Key_Z, CTRL)
    assert names(opened.session) == [""] * 4


def test_cards_stay_through_rolling_striking_and_undo(board: BoardView, opened: Window) -> None:
    s = opened.session
    choose(board, 1)
    board.actions_on.name("Quay")
    seam = s.shots[1].opened_by.id
    s.edit(lambda p, i: roll_seam(p, i, seam, 5), "Roll")
    assert chosen(board) == [45]
    s.edit(lambda p, i: strike_seams(p, i, [seam]), "Strike")
    assert starts(board) == [0, 75, 120]
    press(opened, Qt.Key.Key_Z, CTRL)
    assert board.shots.rows[1].title == "Quay"


# scenes


def test_scenes_are_made_renamed_looked_ordered_joined_and_removed(
    board: BoardView, opened: Window
) -> None:
    s = opened.session
    choose(board, 0, 1)
    key(opened, Qt.Key.Key_G, mod=CTRL | SHIFT)
    first = board.groups.scene_id
    assert first
    assert s.history.undoable.words == "Make a scene of 2 shots"
    assert starts(board) == [0, 40]
    board.groups.currentItem().setText("The depot")
    assert s.project.scene_name(first) == "The depot"
    board.shots.show_group(EVERY)
    choose(board, 2)
    board.actions_on.put_in_scene("Quay")
    second = s.project.scenes[1].id
    board.shots.show_group(second)
    board.scene_look()
    sheet = opened.findChildren(SceneLooksSheet)[-1]
    sheet.patterns[Pattern.DOTS].click()
    sheet.tints[Tint.PLUM].click()
    sheet.accept()
    assert (s.project.scene(second).pattern, s.project.scene(second).tint) == (
        Pattern.DOTS, Tint.PLUM,
    )  # fmt: skip
    board.groups.step_scene(-1)
    assert [x.id for x in s.project.scenes] == [second, first]
    board.shots.show_group(first)
    board.join_scene()
    assert [x.id for x in s.project.scenes] == [second]
    assert starts(board) == [0, 40, 75]
    board.remove_scene()
    assert s.project.scenes == ()
    assert board.shots.group == EVERY
    for _ in range(2):
        press(opened, Qt.Key.Key_Z, CTRL)
    assert len(s.project.scenes) == 2


def test_shots_go_into_scenes_by_dragging(board: BoardView, opened: Window) -> None:
    s = opened.session
    scene = board.actions_on.new_scene()
    refs = [r.ref for r in board.shots.rows]
    board.groups.dropped(refs[1:3], scene)
    assert [x.card.scene for x in s.shots] == [0, scene, scene, 0]
    board.groups.dropped(refs[2:3], UNSORTED)
    assert [x.card.scene for x in s.shots] == [0, scene, 0, 0]
    # onto a strip: into its scene
    x, y, wide, high = board.canvas.laid.boxes[1]
    board.canvas.dropped(tuple(refs[3:4]), (), QPointF(x + wide / 2, y + high / 2))
    assert s.shots[3].card.scene == scene
    board.groups.dropped(refs[:1], ASIDE)
    assert s.shots[0].card.set_aside
    # and back out of the bag
    board.canvas.dropped(tuple(refs[:1]), (), QPointF(5, 5))
    assert not s.shots[0].card.set_aside


def test_scenes_are_bands_on_the_ribbon(board: BoardView, opened: Window) -> None:
    before = opened.slim.grab().toImage()
    choose(board, 1)
    board.actions_on.put_in_scene("Quay")
    assert opened.slim.grab().toImage() != before
    opened.open_view("seams")
    with_band = opened.ribbon.grab().toImage()
    opened.session.undo()
    assert opened.ribbon.grab().toImage() != with_band


# suggestions


def test_what_looks_like_one_place_is_taken_or_waved_away(
    window: Window, tmp_path: Path, qtbot: QtBot
) -> None:
    order = (1, 2, 1, 2, 3)
    noise = {s: _textured(s) for s in (1, 2, 3)}
    pictures = (noise[s](t) for s in order for t in range(40))
    film = encode(tmp_path / "talk.mp4", pictures, options={"crf": "14"})
    window.dialogs.open_paths([film])
    qtbot.waitUntil(lambda: bool(window.session.source and window.session.source.searched),
                    timeout=30_000)  # fmt: skip
    view: BoardView = window.open_view("board")
    ready(window, view, qtbot)
    assert starts(view) == [0, 40, 80, 120, 160]
    s = window.session
    groups = [[r.seam for r in x.refs] for x in view.looking.suggestions]
    opener = [0, *(x.opened_by.id for x in s.shots[1:])]
    assert sorted(groups) == sorted([[opener[0], opener[2]], [opener[1], opener[3]]])
    card = view.suggestions.cards[0]
    assert "2 shots, one set-up" in card.accessibleName()
    assert "likeness" in card.accessibleName()
    QTest.mouseClick(card, Qt.MouseButton.LeftButton)
    assert len(chosen(view)) == 2
    window.activateWindow()
    take = view.suggestions.take[0]
    take.setFocus()
    QTest.keyClick(take, Qt.Key.Key_Space)  # a button gone to by keys has Space to itself
    assert not view.playing.player.playing
    assert [x.name for x in s.project.scenes] == ["Place 1"]
    assert len(view.looking.suggestions) == 1
    view.suggestions.wave[0].click()
    assert view.looking.suggestions == ()
    assert "No more" in view.suggestions._none.text()
    press(window, Qt.Key.Key_Z, CTRL)
    assert len(view.looking.suggestions) == 1


def _textured(seed: int):  # type: ignore[no-untyped-def]
    import numpy as np

    rng = np.random.default_rng(seed)
    base = rng.integers(20, 235, (14, 24, 3)).repeat(8, 0).repeat(8, 1)
    fine = rng.integers(-30, 30, (56, 96, 1)).repeat(2, 0).repeat(2, 1)

    def at(t: int):  # type: ignore[no-untyped-def]
        picture = np.clip(base + fine, 0, 255)
        x = (t * (2 + seed)) % 150
        picture[30:60, x : x + 20] = (250, 250, 250)
        return picture.astype(np.uint8)

    return at


# set aside, folded, slivers


def test_a_sets_aside_and_takes_back_f_folds(board: BoardView, opened: Window) -> None:
    s = opened.session
    choose(board, 1, 2)
    key(opened, Qt.Key.Key_A)
    assert starts(board) == [0, 120]
    assert [r.shot.start for r in board.shots.bag] == [40, 75]
    assert chosen(board) == [40, 75]  # they are still chosen, in the bag
    key(opened, Qt.Key.Key_A)
    assert starts(board) == [0, 40, 75, 120]
    choose(board, 1)
    key(opened, Qt.Key.Key_F)
    assert starts(board) == [0, 75, 120]
    assert chosen(board) == [0]
    press(opened, Qt.Key.Key_Z, CTRL)
    assert len(s.shots) == 4
    board.shots.show_group(ASIDE)
    assert starts(board) == []
    s.set_sliver_limit(36)
    board.shots.show_group(EVERY)
    board.find_field.setText("sliver")
    assert starts(board) == [40]


# running orders


def test_an_order_is_filled_arranged_trimmed_and_shows_its_time(
    board: BoardView, opened: Window, qtbot: QtBot
) -> None:
    s = opened.session
    choose(board, 2, 0)
    key(opened, Qt.Key.Key_R, mod=SHIFT)
    order = s.project.orders[0]
    assert board.shots.group == ORDER
    assert starts(board) == [0, 75]
    board.shots.show_group(EVERY)
    choose(board, 3)
    key(opened, Qt.Key.Key_R)
    key(opened, Qt.Key.Key_R)  # the same once more
    board.actions_on.show_order(order.id)
    assert starts(board) == [0, 75, 120, 120]
    assert board.left.order_time.text() == "0:07"  # 165 frames at 25
    board.shots.step(3)
    key(opened, Qt.Key.Key_Up, mod=ALT)
    key(opened, Qt.Key.Key_Up, mod=ALT)
    assert starts(board) == [0, 120, 75, 120]
    key(opened, Qt.Key.Key_Down, mod=ALT)
    assert starts(board) == [0, 75, 120, 120]
    board.shots.step(1)
    for _ in range(3):
        key(opened, Qt.Key.Key_BracketRight)
    key(opened, Qt.Key.Key_BracketRight, mod=ALT)
    shown = uses_of(s.project, s.project.orders[0])
    assert (shown[1].shot.start, shown[1].shot.end) == (78, 121)
    assert s.playhead == 120  # the last frame of it is looked at
    assert len(board.card.picture._frames(board.shots.rows[1])) == 2
    key(opened, Qt.Key.Key_Delete, mod=SHIFT)
    shown = uses_of(s.project, s.project.orders[0])
    assert (shown[1].shot.start, shown[1].shot.end) == (75, 120)
    uses = [r.use.id for r in board.shots.rows]
    x, y, _w, _h = board.canvas.laid.boxes[0]
    board.canvas.dropped((), (uses[3],), QPointF(x + 2, y + 5))
    assert starts(board) == [120, 0, 75, 120]
    choose(board, 0, 1)
    key(opened, Qt.Key.Key_Delete)
    assert starts(board) == [75, 120]
    # uses that are chosen keep their in and out in a new order, and fold as whole shots
    board.shots.step(1)
    key(opened, Qt.Key.Key_BracketLeft)
    assert starts(board) == [75, 119]
    key(opened, Qt.Key.Key_R, mod=SHIFT)
    assert starts(board) == [119]
    assert board.hand_over.text() == f"Hand over {s.project.orders[1].name}"
    board.canvas.setFocus()  # its name was to be typed
    board.shots.choose_all()
    key(opened, Qt.Key.Key_F)
    assert [x.start for x in s.shots] == [0, 40, 75]
    for _ in range(2):
        press(opened, Qt.Key.Key_Z, CTRL)
    board.actions_on.show_order(order.id)
    board.copy_order()
    assert len(s.project.orders) == 2
    board.orders.currentItem().setText("Night only")
    assert s.project.orders[1].name == "Night only"
    board.remove_order()
    assert len(s.project.orders) == 1


def test_a_shot_its_film_no_longer_has_shows_as_gone_and_says_why(
    board: BoardView, opened: Window
) -> None:
    s = opened.session
    choose(board, 1)
    board.new_order()
    seam = s.shots[1].opened_by.id
    s.edit(lambda p, i: strike_seams(p, i, [seam]), "Strike")
    assert board.shots.rows[0].title == "gone: its seam was struck"
    s.undo()
    assert board.shots.rows[0].title == "Shot 2"


def test_pieces_are_picked_by_hand_whatever_the_seams_say(board: BoardView, opened: Window) -> None:
    s = opened.session
    press(opened, Qt.Key.Key_2, CTRL)
    for first, last in ((20, 59), (100, 139)):
        s.go_to(first)
        key(opened, Qt.Key.Key_I)
        s.go_to(last)
        key(opened, Qt.Key.Key_O)
        key(opened, Qt.Key.Key_B)
        assert s.marked is None
    press(opened, Qt.Key.Key_3, CTRL)
    board.actions_on.show_order(s.project.orders[0].id)
    assert [(r.shot.start, r.shot.end) for r in board.shots.rows] == [(20, 60), (100, 140)]
    # a place is filled before, after or instead of another
    s.mark(5, 15)
    board.shots.step(1)
    board.fill(0)
    s.mark(6, 16)
    board.shots.step(2)
    board.fill(None)
    assert starts(board) == [20, 5, 6]
    # a piece is named, and made a shot
    board.shots.step(1)
    board.actions_on.name("Bell")
    board.actions_on.make_shots()
    assert [x.start for x in s.shots][:3] == [0, 5, 15]
    assert s.shots[1].card.name == "Bell"
    assert board.shots.rows[1].ref is not None
    key(opened, Qt.Key.Key_B)
    assert "Mark a range first" in opened.status.told.text()


def test_a_list_is_read_in_as_a_running_order(
    board: BoardView, opened: Window, tmp_path: Path, qtbot: QtBot
) -> None:
    (tmp_path / "trailer.edl").write_text(
        "TITLE: Trailer\nFCM: NON-DROP FRAME\n\n"
        "001  FOUR     V     C        01:00:03:00 01:00:04:20 01:00:00:00 01:00:01:20\n"
        "002  FOUR     V     C        01:00:00:10 01:00:01:00 01:00:01:20 01:00:02:10\n"
    )
    from offcut.app.sheets.list_sheet import ListSheet

    opened.dialogs.open_paths([tmp_path / "trailer.edl"])
    qtbot.waitUntil(lambda: bool(opened.findChildren(ListSheet)), timeout=10_000)
    opened.findChildren(ListSheet)[-1].as_order.click()
    assert opened.session.project.orders[0].name == "Trailer"
    assert [(r.shot.start, r.shot.end) for r in board.shots.rows] == [(75, 120), (10, 25)]
    assert opened.session.view == "board"
    settled(opened, qtbot)


def test_chosen_shots_and_orders_are_handed_over(
    board: BoardView, opened: Window, qtbot: QtBot
) -> None:
    choose(board, 1, 3)
    assert board.hand_over.text() == "Hand over 2 shots"
    board.hand_over.click()
    turnover = opened.view("turnover")
    assert opened.session.view == "turnover"
    assert turnover.choices.which == "picked"
    qtbot.waitUntil(lambda: turnover.plan is not None, timeout=10_000)
    assert [i.shot.start for i in turnover.plan.items] == [40, 120]
    opened.open_view("board")
    board.new_order()
    board.shots.choose([])
    board.hand_over.click()
    assert turnover.choices.which == "order"
    assert turnover.choices.order_id == opened.session.order_id
    settled(opened, qtbot)


# playing and opening


def test_space_plays_the_chosen_shots_back_to_back(
    board: BoardView, opened: Window, qtbot: QtBot
) -> None:
    choose(board, 1, 3)
    frames: list[tuple[int, int]] = []
    board.playing.player.shown.connect(lambda _i, stretch, frame: frames.append((stretch, frame)))
    with qtbot.waitSignal(board.playing.player.ended, timeout=15_000):
        key(opened, Qt.Key.Key_Space)
        assert board.middle.currentWidget() is board.playing
    assert {s for s, _f in frames} == {0, 1}
    assert all(40 <= f < 75 for s, f in frames if s == 0)
    assert all(120 <= f < 160 for s, f in frames if s == 1)
    assert board.middle.currentIndex() == 0
    board.play_shown()
    key(opened, Qt.Key.Key_Escape)
    assert not board.playing.player.playing


def test_enter_opens_the_shots_first_seam_in_seams(board: BoardView, opened: Window) -> None:
    choose(board, 2)
    key(opened, Qt.Key.Key_Return)
    s = opened.session
    assert s.view == "seams"
    assert s.playhead == 75
    assert s.selected == (s.shots[2].opened_by.id,)


def test_keys_of_the_board_are_its_own(board: BoardView, opened: Window) -> None:
    s = opened.session
    choose(board, 1)
    kept = s.shots[1].opened_by.standing
    key(opened, Qt.Key.Key_Delete)  # strikes in Seams, takes out of an order here
    assert s.shots[1].opened_by.standing is kept
    press(opened, Qt.Key.Key_2, CTRL)
    s.select(s.shots[1].opened_by.id)
    key(opened, Qt.Key.Key_Return)
    assert s.view == "seams"
    assert s.shots[1].opened_by.judged


# finding


def test_results_come_as_one_types(board: BoardView, opened: Window) -> None:
    choose(board, 1)
    board.actions_on.name("Night shot of the bridge")
    key(opened, Qt.Key.Key_F, mod=CTRL)
    assert board.find_field.hasFocus()
    QTest.keyClicks(board.find_field, "bri")
    assert starts(board) == [40]
    board.find_field.setText("> 1.5 s")
    assert starts(board) == [0, 75, 120]
    board.find_field.setText("nothing")
    assert starts(board) == []
    assert "No shot is like that" in board.canvas._empty_words()
    QTest.keyClick(board.find_field, Qt.Key.Key_Escape)
    assert len(starts(board)) == 4
    QTest.keyClick(board.find_field, Qt.Key.Key_Down)
    assert board.canvas.hasFocus()


def test_everywhere_finds_opens_and_takes_shots_of_other_projects(
    board: BoardView, opened: Window, tmp_path: Path, qtbot: QtBot
) -> None:
    s = opened.session
    choose(board, 2)
    board.actions_on.name("The old quay")
    other = tmp_path / "other.offcut"
    assert save(opened, qtbot, other)
    opened.files.new_project()
    film = encode(tmp_path / "here.mp4", (picture_of(n) for n in range(30)))
    opened.dialogs.open_paths([film])
    qtbot.waitUntil(lambda: bool(s.source and s.source.searched), timeout=30_000)
    ready(opened, board, qtbot)
    key(opened, Qt.Key.Key_F, mod=CTRL | SHIFT)
    board.find_field.setText("old quay")
    qtbot.waitUntil(lambda: board.library.list.count() == 1, timeout=10_000)
    shot = board.library.current
    assert (shot.project, shot.start, shot.end, shot.there) == (other, 75, 120, True)
    board.library.take_here(into_order=True)
    qtbot.waitUntil(lambda: bool(s.project.orders), timeout=10_000)
    assert [Path(x.media.path).name for x in s.project.sources] == ["here.mp4", "four-shots.mp4"]
    shown = uses_of(s.project, s.project.orders[0])
    assert [u.title for u in shown] == ["The old quay"]
    press(opened, Qt.Key.Key_Z, CTRL)  # the film and the place in one step
    assert (len(s.project.sources), s.project.orders) == (1, ())
    press(opened, Qt.Key.Key_Z, CTRL | SHIFT)
    assert len(s.project.sources) == 2
    ready(opened, board, qtbot)
    # Enter opens the project there
    board.library.list.setFocus()
    key(opened, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: s.file == other, timeout=10_000)
    settled(opened, qtbot)
    qtbot.waitUntil(lambda: chosen(board) == [75], timeout=5_000)
    assert s.playhead == 75
    # a project that went says so
    ready(opened, board, qtbot)
    other.rename(tmp_path / "moved.offcut")
    board.everywhere.setChecked(True)
    board.find_field.setText("old")
    qtbot.waitUntil(lambda: board.library.list.count() == 1 and not board.library.current.there,
                    timeout=10_000)  # fmt: skip
    board.library.open_there()
    assert "moved or went" in opened.status.told.text()


def test_a_project_need_not_be_known_in_the_library(
    board: BoardView, opened: Window, tmp_path: Path, qtbot: QtBot
) -> None:
    opened.files.keep_library = False
    assert save(opened, qtbot, tmp_path / "secret.offcut")
    with Library() as library:
        assert library.projects() == []
    opened.files.keep_library = True
    assert save(opened, qtbot, tmp_path / "known.offcut")
    with Library() as library:
        assert library.projects() == [tmp_path / "known.offcut"]


def test_right_clicks_offer_what_can_be_done(board: BoardView, opened: Window) -> None:
    for kind in ("board-shot", "board-use", "board-scene", "board-order", "board"):
        assert opened.menu_of(kind).actions()
    asked: list[str] = []
    board.menu_wanted.disconnect()
    board.menu_wanted.connect(lambda kind, _place: asked.append(kind))
    x, y, wide, _h = board.canvas.laid.boxes[0]
    from PySide6.QtGui import QContextMenuEvent

    place = QPoint(int(x + wide / 2), int(y + 20))
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, QPoint(0, 0))
    QApplication.sendEvent(board.canvas.viewport(), event)
    assert asked == ["board-shot"]
