"""Every way of mending, in the real window on real films, by keyboard and mouse."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QListView,
    QWidget,
)
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.sheets.key_sheet import KeySheet
from offcut.app.shell.main import settle
from offcut.app.shell.window import Window
from offcut.app.views.seams.difference import difference
from offcut.app.views.seams.drawers import RANGES
from offcut.app.views.seams.pair_view import Look
from offcut.core.model.seam import Kind, Reason, Seam, Standing
from offcut.core.model.source import Zone
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.searching import take_found
from projects import FIRST
from windows import CTRL, frames, press

pytestmark = pytest.mark.usefixtures("measured_once")

SHIFT = Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier
LEFT = Qt.MouseButton.LeftButton


def seam_at(window: Window, frame: int) -> Seam:
    source = window.session.source
    assert source is not None
    return next(s for s in source.seams if s.frame == frame)


def mark(window: Window, start: int, end: int) -> None:
    """Mark frames [start, end) with the keys."""
    window.session.go_to(start)
    press(window, Qt.Key.Key_I)
    window.session.go_to(end - 1)
    press(window, Qt.Key.Key_O)
    assert window.session.marked == (start, end)


@pytest.fixture
def dissolved(opened: Window) -> Window:
    """The film of four shots with a dissolve of 20 frames placed at 100, parked on it."""
    w = opened
    w.session.go_to(100)
    w.session.edit(lambda p, s: place_seam(p, s, 100, kind=Kind.DISSOLVE, span=20), "place", 100)
    w.session.select(seam_at(w, 100).id)
    settle(w)
    return w


# spans and kinds


def test_g_places_a_dissolve_about_the_playhead_or_over_the_marked_range(opened: Window) -> None:
    w = opened
    w.session.go_to(100)
    press(w, Qt.Key.Key_G)
    seam = seam_at(w, 100)
    assert (seam.kind, seam.start, seam.end) == (Kind.DISSOLVE, 94, 106)
    press(w, Qt.Key.Key_Z, CTRL)
    mark(w, 90, 110)
    press(w, Qt.Key.Key_G)
    seam = seam_at(w, 100)
    assert (seam.start, seam.end) == (90, 110)


def test_both_ends_of_a_span_are_moved_by_keys(dissolved: Window) -> None:
    w = dissolved
    press(w, Qt.Key.Key_BracketLeft, CTRL)
    press(w, Qt.Key.Key_BracketLeft, CTRL)
    press(w, Qt.Key.Key_BracketRight, ALT)
    press(w, Qt.Key.Key_BracketRight, ALT)
    seam = w.session.seam_here()
    assert seam is not None
    assert (seam.start, seam.frame, seam.end) == (88, 100, 112)
    assert seam.standing is Standing.KEPT


def test_both_ends_of_a_span_are_dragged_in_the_strip(dissolved: Window, qtbot: QtBot) -> None:
    w, strip = dissolved, dissolved.view("seams").strip
    for begin, to, expected in ((90, 86, (86, 110)), (110, 114, (86, 114))):
        qtbot.mousePress(strip, LEFT, pos=QPoint(round(strip.x_of(begin)), 60))
        qtbot.mouseMove(strip, QPoint(round(strip.x_of(to)), 60))
        qtbot.mouseRelease(strip, LEFT, pos=QPoint(round(strip.x_of(to)), 60))
        seam = w.session.seam_here()
        assert seam is not None
        assert (seam.start, seam.end) == expected
        settle(w)
    press(w, Qt.Key.Key_Z, CTRL)
    press(w, Qt.Key.Key_Z, CTRL)
    assert (seam_at(w, 100).start, seam_at(w, 100).end) == (90, 110)


def test_a_long_span_is_shown_whole_in_the_strip(dissolved: Window) -> None:
    strip = dissolved.view("seams").strip
    assert 0 < strip.x_of(90) < strip.x_of(110) < strip.width()


def test_c_makes_it_one_cut_at_the_middle_and_back(dissolved: Window) -> None:
    w = dissolved
    press(w, Qt.Key.Key_C)
    assert seam_at(w, 100).kind is Kind.CUT
    press(w, Qt.Key.Key_C)
    seam = seam_at(w, 100)
    assert (seam.kind, seam.start, seam.end) == (Kind.DISSOLVE, 90, 110)


def test_the_kind_of_several_is_changed_at_once(opened: Window) -> None:
    w = opened
    press(w, Qt.Key.Key_A, CTRL)
    w.actions_by_id["kind-fade"].trigger()
    source = w.session.source
    assert source is not None
    assert {s.kind for s in source.seams if s.id in w.session.selected} == {Kind.FADE}
    press(w, Qt.Key.Key_Z, CTRL)
    assert seam_at(w, 40).kind is Kind.CUT


# rolling and placing


def test_dragging_a_seam_on_the_ribbon_rolls_it_with_live_pictures(
    opened: Window, qtbot: QtBot
) -> None:
    w, ribbon = opened, opened.ribbon
    shown: list[object] = []
    w.session.dragging.connect(shown.append)
    x = round(16 + ribbon.stretch.x_of(75))
    to = round(16 + ribbon.stretch.x_of(80))
    qtbot.mousePress(ribbon, LEFT, pos=QPoint(x, 110))
    qtbot.mouseMove(ribbon, QPoint(to, 110))
    assert w.view("seams").pair._frames() == [79, 80]
    qtbot.mouseRelease(ribbon, LEFT, pos=QPoint(to, 110))
    assert frames(w) == [40, 80, 120]
    assert shown[-1] is None
    press(w, Qt.Key.Key_Z, CTRL)
    assert frames(w) == [40, 75, 120]


def test_a_seam_is_rolled_to_a_timecode_typed(opened: Window) -> None:
    w = opened
    w.session.select(seam_at(w, 75).id)
    press(w, Qt.Key.Key_Y)
    w.status.place.setText("01:00:03:05")
    QTest.keyClick(w.status.place, Qt.Key.Key_Return)
    assert frames(w) == [40, 80, 120]
    assert w.session.playhead == 80
    press(w, Qt.Key.Key_Y)
    w.status.place.setText("+100")
    QTest.keyClick(w.status.place, Qt.Key.Key_Return)
    assert "outside the film" in w.status.told.text()
    assert frames(w) == [40, 80, 120]


def test_a_drag_never_crosses_a_neighbour(opened: Window, qtbot: QtBot) -> None:
    w, ribbon = opened, opened.ribbon
    x = round(16 + ribbon.stretch.x_of(75))
    far = round(16 + ribbon.stretch.x_of(155))
    qtbot.mousePress(ribbon, LEFT, pos=QPoint(x, 110))
    qtbot.mouseMove(ribbon, QPoint(far, 110))
    qtbot.mouseRelease(ribbon, LEFT, pos=QPoint(far, 110))
    assert frames(w) == [40, 119, 120]


def test_one_seam_is_found_in_the_marked_range(opened: Window, qtbot: QtBot) -> None:
    w = opened
    w.session.select(seam_at(w, 75).id)
    press(w, Qt.Key.Key_Delete)
    assert frames(w) == [40, 120]
    mark(w, 60, 90)
    press(w, Qt.Key.Key_R)
    qtbot.waitUntil(lambda: 75 in frames(w), timeout=20_000)
    assert w.session.playhead == 75
    assert seam_at(w, 75).standing is Standing.KEPT


# the marked range


def test_a_marked_range_is_struck_in_one_edit(opened: Window) -> None:
    w = opened
    mark(w, 60, 130)
    press(w, Qt.Key.Key_Delete, CTRL)
    assert frames(w) == [40]
    assert "Strike 2 seams" in w.status.told.text()
    press(w, Qt.Key.Key_Z, CTRL)
    assert frames(w) == [40, 75, 120]


def test_an_out_point_before_the_in_point_begins_a_new_range(opened: Window) -> None:
    w = opened
    mark(w, 60, 130)
    w.session.go_to(20)
    press(w, Qt.Key.Key_O)
    assert w.session.marked == (0, 21)
    press(w, Qt.Key.Key_X, SHIFT)
    assert w.session.marked is None


def test_a_zone_is_hushed_listed_changed_and_taken_away(opened: Window, qtbot: QtBot) -> None:
    w, ranges = opened, opened.view("seams").drawers.ranges
    mark(w, 60, 130)
    press(w, Qt.Key.Key_H)
    assert frames(w) == [40]
    w.view("seams").drawers.open(RANGES)
    assert "hushed" in ranges.zones.item(0).text()
    ranges.zones.setCurrentRow(0)
    ranges.level.setValue(80)
    assert w.session.source is not None
    assert w.session.source.zones == (Zone(60, 130, 80),)
    assert frames(w) == [40, 75, 120]
    qtbot.mouseClick(ranges._drop_zone, LEFT)
    assert w.session.source.zones == ()
    press(w, Qt.Key.Key_Z, CTRL)
    assert w.session.source.zones == (Zone(60, 130, 80),)


def test_only_the_range_is_searched_and_then_the_whole_again(opened: Window, qtbot: QtBot) -> None:
    w, s = opened, opened.session
    mark(w, 60, 100)
    w.actions_by_id["search-only"].trigger()
    qtbot.waitUntil(lambda: not s.jobs.running, timeout=20_000)
    assert (s.shots[0].start, s.shots[-1].end) == (60, 100)
    assert frames(w) == [75]
    w.actions_by_id["search-whole"].trigger()
    qtbot.waitUntil(lambda: not s.jobs.running, timeout=20_000)
    assert frames(w) == [40, 75, 120]


def test_a_range_is_played_round_and_round(opened: Window, qtbot: QtBot) -> None:
    w = opened
    mark(w, 50, 54)
    press(w, Qt.Key.Key_Space, SHIFT)
    seen: list[int] = []
    w.session.moved.connect(seen.append)
    qtbot.waitUntil(lambda: any(b < a for a, b in pairwise(seen)), timeout=5000)
    press(w, Qt.Key.Key_K)
    assert set(seen) <= set(range(50, 54))


# several at once


def test_every_seam_with_a_flash_is_struck_in_two_clicks(
    window: Window, qtbot: QtBot, films: Path
) -> None:
    still = [next(scene(n, 1)) for n in (70, 71)]
    lit = [np.clip(p.astype(int) * 1.5 + 110, 0, 255).astype(np.uint8) for p in still]
    pictures = [(lit if t % 60 in (20, 21, 41) else still)[t // 120] for t in range(240)]
    path = encode(films / "flashes.mp4", pictures)
    window.dialogs.open_paths([path])
    s = window.session
    qtbot.waitUntil(
        lambda: s.source is not None and s.source.searched and not s.jobs.running, timeout=30_000
    )
    # put flashes in as seams that detection would have doubted
    flash = Reason("the same picture returns after 1 to 3 frames", 0.9, True, "flash")
    found = [Seam(0, f, f, f, score=55.0, reasons=(flash,)) for f in (20, 41, 80, 101)] + [
        replace(seam_at(window, 120), id=0)
    ]
    s.history.replace(lambda p: take_found(p, FIRST, found, 0, 240))
    s.refresh()
    assert frames(window) == [20, 41, 80, 101, 120]
    listed = window.view("seams").list
    listed.groups.aboutToShow.emit()  # the first click opens the menu
    action = next(a for a in listed.groups.actions() if a.text().startswith("a flash"))
    assert action.text() == "a flash: 4"
    action.trigger()  # the second click
    assert frames(window) == [120]
    press(window, Qt.Key.Key_Z, CTRL)
    assert len(frames(window)) == 5


def test_several_are_selected_in_the_list_and_kept_together(opened: Window, qtbot: QtBot) -> None:
    w, view = opened, opened.view("seams").list.view
    settle(w)
    for row, modifier in ((0, Qt.KeyboardModifier.NoModifier), (2, SHIFT)):
        place = view.visualRect(view.model().index(row)).center()
        qtbot.mouseClick(view.viewport(), LEFT, modifier, pos=place)
    assert len(w.session.selected) == 3
    press(w, Qt.Key.Key_Return)
    chosen = w.session.selected_seams
    assert [x.standing for x in chosen] == [Standing.KEPT] * 3
    assert "Keep 3 seams" in w.status.told.text()
    press(w, Qt.Key.Key_Delete, SHIFT)
    assert {x.standing for x in w.session.selected_seams} == {Standing.OPEN}


# slivers


@pytest.fixture
def slivered(opened: Window, qtbot: QtBot) -> Window:
    """Two slivers in the film of four shots, each a few frames of the shot it was cut from."""
    w = opened
    for frame in (36, 123):
        w.session.edit(lambda p, s, f=frame: place_seam(p, s, f), "place")
    w.session.set_sliver_limit(10)
    w.session.changed.emit()
    w.session.go_to(0)
    press(w, Qt.Key.Key_S)
    qtbot.waitUntil(lambda: not w.session.jobs.running, timeout=20_000)
    return w


def test_slivers_are_listed_shortest_first_with_what_they_look_like(slivered: Window) -> None:
    drawer = slivered.view("seams").drawers.slivers
    told = [drawer.list.item(i).text() for i in range(drawer.list.count())]
    assert [t.split("\n")[0].split("   ")[1] for t in told] == ["3 frames", "4 frames"]
    assert "after" in told[0]
    assert "before" in told[1]


def test_all_slivers_fold_into_what_they_look_like_at_once(slivered: Window, qtbot: QtBot) -> None:
    w, drawer = slivered, slivered.view("seams").drawers.slivers
    drawer.list.clearSelection()
    qtbot.mouseClick(drawer.nearer, LEFT)
    assert frames(w) == [40, 75, 120]
    press(w, Qt.Key.Key_Z, CTRL)
    assert frames(w) == [36, 40, 75, 120, 123]


def test_one_sliver_folds_to_the_chosen_side_or_is_set_aside(
    slivered: Window, qtbot: QtBot
) -> None:
    w, drawer = slivered, slivered.view("seams").drawers.slivers
    drawer.list.setCurrentRow(1)
    assert w.session.playhead == 36
    qtbot.mouseClick(drawer.after, LEFT)
    assert frames(w) == [36, 75, 120, 123]
    settle(w)
    drawer.list.setCurrentRow(0)
    qtbot.mouseClick(drawer.aside, LEFT)
    assert any(x.card.set_aside for x in w.session.shots)


def test_the_limit_is_suggested_from_the_film_and_remembered(
    slivered: Window, qtbot: QtBot
) -> None:
    drawer = slivered.view("seams").drawers.slivers
    assert drawer._suggest.isEnabled()
    drawer._suggest.click()
    assert slivered.session.sliver_limit == 0
    qtbot.waitUntil(lambda: drawer.limit.value() == slivered.session.sliver_frames, timeout=5000)
    drawer.limit.setValue(17)
    slivered.session.history.mark_saved()
    slivered.close()
    assert int(str(slivered.settings.value("sliver-limit"))) == 17


def test_f_folds_back_two_halves_split_by_mistake(opened: Window) -> None:
    w = opened
    w.session.go_to(60)
    press(w, Qt.Key.Key_Plus)
    press(w, Qt.Key.Key_F)
    assert frames(w) == [40, 75, 120]
    w.session.go_to(50)
    press(w, Qt.Key.Key_F, SHIFT)
    assert frames(w) == [40, 120]


# markers


def test_m_marks_the_playhead_or_the_range_and_the_marker_is_named(
    opened: Window, qtbot: QtBot
) -> None:
    w, ranges = opened, opened.view("seams").drawers.ranges
    w.session.go_to(30)
    press(w, Qt.Key.Key_M)
    QTest.keyClicks(ranges.name, "The bell")
    QTest.keyClick(ranges.name, Qt.Key.Key_Return)
    w.setFocus()
    mark(w, 50, 70)
    press(w, Qt.Key.Key_M)
    w.setFocus()
    source = w.session.source
    assert source is not None
    assert [(m.start, m.end, m.name) for m in source.markers] == [
        (30, 31, "The bell"),
        (50, 70, "Marker 2"),
    ]
    w.session.go_to(0)
    press(w, Qt.Key.Key_Down, SHIFT)
    assert w.session.playhead == 30
    w.session.go_to(90)
    ranges.markers.setCurrentRow(0)
    qtbot.mouseClick(ranges._move, LEFT)
    assert [m.start for m in w.session.source.markers] == [50, 90]
    qtbot.mouseClick(ranges._drop, LEFT)
    assert len(w.session.source.markers) == 1


def test_markers_zones_and_the_range_are_drawn_on_the_ribbon(opened: Window) -> None:
    w = opened
    plain = w.ribbon.grab().toImage()
    mark(w, 60, 100)
    press(w, Qt.Key.Key_H)
    press(w, Qt.Key.Key_M)
    w.setFocus()
    settle(w)
    drawn = w.ribbon.grab().toImage()
    x = round(16 + w.ribbon.stretch.x_of(80))
    rows = {y for y in range(drawn.height()) if plain.pixel(x, y) != drawn.pixel(x, y)}
    assert any(40 < y < 60 for y in rows)
    assert any(y > 150 for y in rows)


# looking


def test_the_pair_is_looked_at_in_three_ways(opened: Window, qtbot: QtBot) -> None:
    w, pair = opened, opened.view("seams").pair
    press(w, Qt.Key.Key_Down)
    settle(w)
    side = pair.grab().toImage()
    press(w, Qt.Key.Key_P)
    assert pair.shown_look is Look.SWAP
    before = pair._after
    qtbot.waitUntil(lambda: pair._after != before, timeout=5000)
    press(w, Qt.Key.Key_P)
    settle(w)
    assert pair.shown_look is Look.DIFFERENCE
    assert pair.grab().toImage() != side
    press(w, Qt.Key.Key_P)
    QTest.keyPress(w, Qt.Key.Key_V)
    assert pair.shown_look is Look.SWAP
    QTest.keyRelease(w, Qt.Key.Key_V)
    assert pair.shown_look is Look.SIDE


def test_the_difference_of_equal_pictures_is_even_grey(opened: Window) -> None:
    w = opened
    settle(w)
    picture = w.large.picture(0, *w.view("seams").pair._size(w.view("seams").pair._cells()[0]))
    assert picture is not None
    apart = difference(picture, picture)
    assert {apart.pixelColor(x, 10).name() for x in range(0, apart.width(), 9)} == {"#808080"}


def test_nearer_and_farther_move_both_pictures(opened: Window, qtbot: QtBot) -> None:
    w, pair = opened, opened.view("seams").pair
    press(w, Qt.Key.Key_Down)
    press(w, Qt.Key.Key_Equal, CTRL)
    press(w, Qt.Key.Key_Equal, CTRL)
    assert pair.near == pytest.approx(2.25)
    middle = pair._middle.x()
    qtbot.mousePress(pair, LEFT, pos=QPoint(100, 100))
    qtbot.mouseMove(pair, QPoint(60, 100))
    qtbot.mouseRelease(pair, LEFT, pos=QPoint(60, 100))
    assert pair._middle.x() > middle
    press(w, Qt.Key.Key_0, CTRL)
    assert pair.near == 1.0


def test_the_picture_takes_the_whole_screen_and_gives_it_back(opened: Window) -> None:
    w = opened
    press(w, Qt.Key.Key_F11)
    assert w.isFullScreen()
    assert not w.ribbon.isVisible()
    press(w, Qt.Key.Key_Escape)
    QApplication.processEvents()
    assert not w.isFullScreen()
    assert w.ribbon.isVisible()


# keys


def test_a_key_can_be_changed_and_is_remembered(opened: Window, qtbot: QtBot) -> None:
    w = opened
    w.open_keys()
    sheet = w.findChildren(KeySheet)[-1]
    line = sheet.lines["doubtful"]
    line.setFocus()
    line.setChecked(True)
    QTest.keyClick(line, Qt.Key.Key_Q)
    assert line.text() == "Q"
    sheet.close()
    w.setFocus()
    press(w, Qt.Key.Key_Q)
    assert w.session.selected == (w.session.doubts[0].id,)
    assert str(w.settings.value("keys/doubtful")) == "Q"
    table = w.actions_table
    strike = next(c for c in w.commands if c.id == "strike")
    table.set_keys(strike, ("Q",))  # who had it loses it
    assert table.keys_of(next(c for c in w.commands if c.id == "doubtful")) == ()
    table.reset_keys()
    assert table.keys_of(strike) == ("Del",)


def test_bare_keys_are_left_to_text_fields(opened: Window) -> None:
    w = opened
    w.actions_by_id["name"].trigger()
    QTest.keyClicks(w.view("seams").drawers.film.name, "find x")
    assert w.view("seams").drawers.film.name.text() == "find x"
    assert frames(w) == [40, 75, 120]


def test_every_control_can_be_reached_and_has_a_name(opened: Window) -> None:
    kinds = (QAbstractButton, QLineEdit, QAbstractSpinBox, QListView)
    nameless = [
        type(part).__name__
        for part in opened.findChildren(QWidget)
        if isinstance(part, kinds)
        and not part.objectName().startswith("qt_")
        and not isinstance(part.parent().parent(), QComboBox)  # its list; the box has the name
        and not (part.accessibleName() or getattr(part, "text", str)())
    ]
    assert nameless == []
