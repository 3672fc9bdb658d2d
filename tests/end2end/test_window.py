"""Driving the real window: open, find, check, mend, hand over, save, come back."""

from __future__ import annotations

from pathlib import Path

import opentimelineio as otio
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.sheets.key_sheet import KeySheet
from offcut.app.shell import file_dialogs
from offcut.app.shell.finder import Finder
from offcut.app.shell.main import settle
from offcut.app.shell.window import Window
from offcut.app.theme import DAY, NIGHT
from offcut.core.model.seam import Origin, Standing
from windows import CTRL, frames, press, save


def test_a_days_walk_through_the_whole_job(opened: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w, s = opened, opened.session
    assert frames(w) == [40, 75, 120]
    press(w, Qt.Key.Key_Down)
    assert s.playhead == 40
    press(w, Qt.Key.Key_Delete)
    assert frames(w) == [75, 120]
    s.go_to(100)
    press(w, Qt.Key.Key_Plus)
    assert frames(w) == [75, 100, 120]
    press(w, Qt.Key.Key_BracketRight)
    press(w, Qt.Key.Key_BracketRight)
    assert frames(w) == [75, 102, 120]
    press(w, Qt.Key.Key_Z, CTRL)
    assert frames(w) == [75, 101, 120]
    assert "Undone: Roll the seam" in w.status.told.text()
    press(w, Qt.Key.Key_Y, CTRL)
    assert frames(w) == [75, 102, 120]
    s.go_to(80)
    w.view("seams").drawers.film.name.setFocus()
    w.view("seams").drawers.film.name.setText("The bridge")
    QTest.keyClick(w.view("seams").drawers.film.name, Qt.Key.Key_Return)
    assert [x.card.name for x in s.shots] == ["", "The bridge", "", ""]

    edl = tmp_path / f"{s.project.name}.edl"
    press(w, Qt.Key.Key_Return, CTRL)
    w.view("turnover").outcome.folder.setText(str(tmp_path))
    w.view("turnover").output.changed.emit()
    qtbot.waitUntil(w.view("turnover").outcome.go.isEnabled, timeout=10_000)
    press(w, Qt.Key.Key_Return, CTRL)
    qtbot.waitUntil(lambda: edl.exists() and not s.jobs.running, timeout=10_000)
    assert w.status.told.text() == f"1 file written to {tmp_path}"
    w.actions_by_id["view-seams"].trigger()
    clips = list(otio.adapters.read_from_file(str(edl), rate=25).find_clips())
    assert [c.source_range.start_time.to_frames() for c in clips] == [
        90000 + f for f in (0, 75, 102, 120)
    ]

    project = tmp_path / "film.offcut"
    assert save(w, qtbot, project)
    saved = s.project
    w.dialogs.open_paths([project])
    qtbot.waitUntil(lambda: s.film is not None and not s.jobs.running, timeout=20_000)
    assert s.project == saved
    assert frames(w) == [75, 102, 120]
    assert w.dialogs.recent()[0] == str(project)


def test_keeping_goes_on_down_the_list_until_all_is_judged(opened: Window) -> None:
    w, s = opened, opened.session
    press(w, Qt.Key.Key_D)
    for _ in range(len(s.doubts)):
        press(w, Qt.Key.Key_Return)
    assert {x.standing for x in s.doubts} == {Standing.KEPT}
    press(w, Qt.Key.Key_D)
    assert w.status.told.text() == "Every seam is judged"


def test_the_list_shows_the_seams_and_a_click_parks_on_one(opened: Window, qtbot: QtBot) -> None:
    view = opened.view("seams").list.view
    settle(opened)
    index = view.model().index(1)
    qtbot.mouseClick(
        view.viewport(), Qt.MouseButton.LeftButton, pos=view.visualRect(index).center()
    )
    seam = opened.view("seams").list.model.seams[1]
    assert opened.session.playhead == seam.frame
    assert opened.view("seams").pair.seam_shown() == seam
    assert seam.kind.value in index.data()


def test_dragging_a_seam_in_the_strip_rolls_it(opened: Window, qtbot: QtBot) -> None:
    strip = opened.view("seams").strip
    press(opened, Qt.Key.Key_Down)
    settle(opened)
    wide = strip._tile()[0] + 3
    x = int(strip._left() - 1.5 + (40 - strip._first()) * wide)
    qtbot.mousePress(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, 60))
    qtbot.mouseMove(strip, QPoint(x + 2 * wide, 60))
    qtbot.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=QPoint(x + 2 * wide, 60))
    assert frames(opened) == [42, 75, 120]
    press(opened, Qt.Key.Key_Z, CTRL)
    assert frames(opened) == [40, 75, 120]


def test_the_ribbon_seeks_pans_and_zooms(opened: Window, qtbot: QtBot) -> None:
    ribbon, s = opened.ribbon, opened.session
    x = int(16 + ribbon.stretch.x_of(100))
    qtbot.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(x + 2, 80))
    assert s.playhead == 100
    x = int(16 + ribbon.stretch.x_of(75))
    qtbot.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(x, 80))
    assert s.selected
    assert s.playhead == 75
    before = ribbon.stretch
    ribbon.zoom(3.0)
    assert ribbon.stretch.right - ribbon.stretch.left < (before.right - before.left) / 2
    left = ribbon.stretch.left
    qtbot.mousePress(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(300, 80))
    qtbot.mouseMove(ribbon, QPoint(500, 80))
    qtbot.mouseRelease(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(500, 80))
    assert ribbon.stretch.left < left
    settle(opened)
    lit = opened.ribbon.grab().toImage()
    colours = {lit.pixelColor(x, 60).name() for x in range(20, lit.width() - 20, 7)}
    assert len(colours) > 5  # pictures, not an empty roll


def test_sensitivity_is_one_edit_and_moves_no_judgement(opened: Window) -> None:
    w, s = opened, opened.session
    press(w, Qt.Key.Key_Down)
    press(w, Qt.Key.Key_Return)
    curve = w.view("seams").drawers.film.curve
    curve.chosen.emit(0, False)
    assert s.source.sensitivity == 50
    curve.chosen.emit(0, True)
    assert frames(w) == [40]
    press(w, Qt.Key.Key_Z, CTRL)
    assert frames(w) == [40, 75, 120]


def test_typing_a_timecode_moves_the_playhead(opened: Window) -> None:
    for key in (Qt.Key.Key_1, Qt.Key.Key_0, Qt.Key.Key_3):
        QTest.keyClick(opened.focusWidget() or opened, key)
    QTest.keyClick(opened.status.place, Qt.Key.Key_Return)
    assert opened.session.playhead == 103
    opened.status.type_place("01:00:02:00")
    QTest.keyClick(opened.status.place, Qt.Key.Key_Return)
    assert opened.session.playhead == 50
    opened.status.type_place("09:00:00:00")
    QTest.keyClick(opened.status.place, Qt.Key.Key_Return)
    assert "outside the film" in opened.status.told.text()


def test_play_across_a_seam_loops_and_stops_on_it(opened: Window, qtbot: QtBot) -> None:
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Space)
    assert opened.player.speed == 1
    qtbot.waitUntil(lambda: opened.session.playhead > 20, timeout=5000)
    press(opened, Qt.Key.Key_Space)
    assert (opened.player.speed, opened.session.playhead) == (0, 40)


def test_l_goes_faster_and_k_stops(opened: Window) -> None:
    for speed in (1, 2, 4, 8, 8):
        press(opened, Qt.Key.Key_L)
        assert opened.player.speed == speed
    press(opened, Qt.Key.Key_K)
    press(opened, Qt.Key.Key_J)
    assert opened.player.speed == -1
    press(opened, Qt.Key.Key_K)


def test_stopping_the_search_keeps_what_was_found(
    window: Window, qtbot: QtBot, films: Path
) -> None:
    path = films / "long.mp4"
    if not path.exists():
        pictures = (p for s in range(30, 42) for p in scene(s, 75))
        encode(path, pictures, options={"preset": "ultrafast"})
    window.dialogs.open_paths([path])
    qtbot.waitUntil(lambda: len(window.session.shots) > 2, timeout=20_000)
    press(window, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: not window.session.jobs.running, timeout=20_000)
    assert len(window.session.shots) > 2
    assert window.session.source is not None


def test_a_broken_film_says_so_and_loses_nothing(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    broken = tmp_path / "broken.mp4"
    broken.write_bytes(b"nothing")
    before = opened.session.project
    opened.dialogs.open_paths([broken])
    qtbot.waitUntil(lambda: "broken.mp4" in opened.notices.words.text(), timeout=10_000)
    assert opened.session.project == before


def test_unsaved_work_is_asked_about(opened: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    press(opened, Qt.Key.Key_Down)
    press(opened, Qt.Key.Key_Delete)
    asked = []

    def answer(*words: object) -> QMessageBox.StandardButton:
        asked.append(words)
        return QMessageBox.StandardButton.Cancel

    monkeypatch.setattr(file_dialogs, "ask", answer)
    assert opened.close() is False
    assert asked
    discard = QMessageBox.StandardButton.Discard
    monkeypatch.setattr(file_dialogs, "ask", lambda *_: discard)


def test_the_finder_does_what_it_finds(opened: Window) -> None:
    opened.open_finder()
    finder = opened.findChildren(Finder)[-1]
    QTest.keyClicks(finder.field, "after")
    QTest.keyClick(finder.field, Qt.Key.Key_Return)
    assert opened.session.playhead == 40


def test_every_action_has_words_and_no_two_share_a_key(opened: Window) -> None:
    for view in {c.view for c in opened.commands}:
        keys = [k for c in opened.commands if c.view == view for k in c.keys]
        assert len(keys) == len(set(keys))
    assert all(c.words for c in opened.commands)
    opened.open_keys()
    assert opened.findChildren(KeySheet)


def test_both_themes_are_neutral_and_readable(opened: Window) -> None:
    def luminance(c: QColor) -> float:
        # Relative luminance and contrast, WCAG 2.1.
        parts = [
            v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4
            for v in (c.redF(), c.greenF(), c.blueF())
        ]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    for look in (DAY, NIGHT):
        for part in ("bench", "panel", "raised", "line", "text", "faint", "ink", "bar"):
            c = look.colour(part)
            assert max(c.red(), c.green(), c.blue()) - min(c.red(), c.green(), c.blue()) <= 2
        for ground in ("bench", "panel", "raised"):
            for text in ("text", "faint", "warn"):
                a, b = luminance(look.colour(text)), luminance(look.colour(ground))
                assert (max(a, b) + 0.05) / (min(a, b) + 0.05) >= 4.5, (look.name, text, ground)
    opened.turn_theme()
    assert opened.settings.value("theme") == "night"


def test_it_fits_in_the_smallest_window(opened: Window) -> None:
    opened.resize(1100, 700)
    QApplication.processEvents()
    assert opened.width() == 1100
    assert opened.height() == 700
    for part in (
        opened.view("seams").strip,
        opened.view("seams").pair,
        opened.view("seams").reasons,
        opened.view("seams").drawers,
    ):
        corner = part.mapTo(opened, QPointF(part.width(), part.height()))
        assert corner.x() <= 1100
        assert corner.y() <= 700


def test_a_placed_seam_says_where_it_comes_from(opened: Window) -> None:
    opened.session.go_to(20)
    press(opened, Qt.Key.Key_Plus)
    seam = opened.session.seam_here()
    assert seam is not None
    assert seam.origin is Origin.PLACED


def test_a_picture_that_is_still_being_read_is_spoken_of(
    opened: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    pair = opened.view("seams").pair
    qtbot.waitUntil(lambda: opened.large.idle and not pair.waiting, timeout=10_000)
    held = opened.large.picture
    monkeypatch.setattr(opened.large, "picture", lambda *_: None)
    opened.session.go_to(63)
    assert not pair.waiting  # not at once
    qtbot.waitUntil(lambda: pair.waiting, timeout=5000)
    monkeypatch.setattr(opened.large, "picture", held)
    qtbot.waitUntil(lambda: opened.large.idle and not pair.waiting, timeout=10_000)
