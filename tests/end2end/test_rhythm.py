"""Rhythm in the real window: what is studied, the skyline by hand, what is beside, what is kept."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from films import beeped
from offcut.app.shell.window import Window
from offcut.app.views.rhythm.view import RhythmView
from offcut.core.model.orders import ref_of
from offcut.core.model.verbs.cards import put_in_scene, set_shot_aside
from offcut.core.model.verbs.orders import add_order
from offcut.core.rhythm.length_files import read_lengths
from offcut.core.rhythm.subjects import StudyOf, Subject
from windows import CTRL, found, press, save, settled

pytestmark = pytest.mark.usefixtures("measured_once")

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def rhythm(opened: Window, qtbot: QtBot) -> RhythmView:
    """Rhythm with four shots of 40, 35, 45 and 40 frames, looked along."""
    opened.activateWindow()
    press(opened, Qt.Key.Key_4, CTRL)
    view: RhythmView = opened.view("rhythm")
    ready(opened, view, qtbot)
    return view


def ready(window: Window, view: RhythmView, qtbot: QtBot) -> None:
    settled(window, qtbot)
    qtbot.waitUntil(
        lambda: not view.study.signals.busy and view.pictures.idle and not view._soon.isActive(),
        timeout=20_000,
    )
    settled(window, qtbot)


def at(view: RhythmView, seconds: float, share: float = 0.8) -> QPoint:
    """Where a moment of the axis lies on the skyline's surface, so far down."""
    area = view.skyline.area
    low, high = area.viewRange()[1]
    place = area.mapViewToScene(QPointF(seconds, high - share * (high - low)))
    return view.skyline.mapFromScene(place)


def drag(view: RhythmView, first: float, last: float) -> None:
    surface = view.skyline.viewport()
    QTest.mousePress(surface, LEFT, pos=at(view, first))
    for share in (0.3, 0.6, 1.0):
        QTest.mouseMove(surface, at(view, first + (last - first) * share))
        # a bare move event has no button; pyqtgraph asks which are down
    QTest.mouseRelease(surface, LEFT, pos=at(view, last))


def shown(view: RhythmView, name: str) -> str:
    return view.figures.lines[name].words[1]


def test_a_film_is_studied_as_soon_as_rhythm_is_opened(rhythm: RhythmView) -> None:
    assert shown(rhythm, "shots") == "4"
    assert shown(rhythm, "mean") == "1.60 s"
    assert shown(rhythm, "echo") == "–"
    assert set(rhythm.lanes.shown_lanes) >= {"light", "movement"}
    assert rhythm.near_card.aside.text() == "seconds"
    assert list(rhythm.left.subjects.buttons) == ["film:1", "range:1"]
    assert not rhythm.left.subjects.buttons["range:1"].isEnabled()


def test_a_click_goes_there_and_pointing_shows_the_shot(
    rhythm: RhythmView, opened: Window, qtbot: QtBot
) -> None:
    QTest.mouseClick(rhythm.skyline.viewport(), LEFT, pos=at(rhythm, 2.0))
    assert opened.session.playhead == pytest.approx(50, abs=1)
    assert rhythm.shot.words[0] == "Shot 2"
    assert rhythm.skyline.here == 1
    QTest.mouseMove(rhythm.skyline.viewport(), at(rhythm, 4.0))
    qtbot.waitUntil(lambda: rhythm.shot.place == 2)
    assert rhythm.shot.words == ("Shot 3", "1.80 s", "the longest shot here")
    opened.session.go_to(130)
    assert rhythm.skyline.here == 3


def test_a_drag_marks_the_range_and_all_figures_follow(
    rhythm: RhythmView, opened: Window, qtbot: QtBot
) -> None:
    rhythm.study.mark_part(1.0, 5.0)
    assert opened.session.marked == (25, 125)
    assert rhythm.study.subject == Subject(StudyOf.RANGE, 1)
    assert shown(rhythm, "shots") == "2"
    assert shown(rhythm, "seconds") == "0:03"
    assert rhythm.left.subjects.buttons["range:1"].isChecked()
    press(opened, Qt.Key.Key_W)
    assert opened.session.marked is None
    assert shown(rhythm, "shots") == "4"
    drag(rhythm, 1.8, 6.2)
    qtbot.waitUntil(lambda: opened.session.marked is not None)
    first, last = opened.session.marked or (0, 0)
    assert (first, last) == (pytest.approx(45, abs=3), pytest.approx(155, abs=3))
    assert shown(rhythm, "shots") == "3"  # the first shot's middle lies before it
    opened.session.mark(None, None)
    assert rhythm.study.subject == Subject(StudyOf.FILM, 1)
    opened.session.go_to(40)
    press(opened, Qt.Key.Key_I)
    assert shown(rhythm, "shots") == "4"  # a range marked by keys is not yet what is studied
    rhythm.left.subjects.step(1)
    assert shown(rhythm, "shots") == "3"


def test_the_skyline_is_zoomed_and_moved_with_the_ribbon(
    rhythm: RhythmView, opened: Window
) -> None:
    opened.session.go_to(80)
    press(opened, Qt.Key.Key_Up, CTRL)  # the ribbon's own zoom
    left, right = opened.session.bench.stretch or (0, 0)
    assert right - left == pytest.approx(100)
    assert rhythm.skyline.shown == pytest.approx((left / 25, right / 25))
    rhythm.skyline.push(0.1)
    again = opened.session.bench.stretch or (0, 0)
    assert again[0] == pytest.approx(left + 10)
    assert (opened.ribbon.stretch.left, opened.ribbon.stretch.right) == again
    press(opened, Qt.Key.Key_0, CTRL)
    assert opened.session.bench.stretch == (0, 160)


def test_a_list_stands_beside_and_comes_back_with_the_project(
    rhythm: RhythmView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    assert save(opened, qtbot, tmp_path / "line.offcut")
    ferry = tmp_path / "ferry #2.csv"
    ferry.write_text("seconds\n" + "\n".join(["4.5", "6", "5", "7.25", "8", "6.5"]))
    rhythm.study.hold_file(str(ferry))
    ready(opened, rhythm, qtbot)
    assert rhythm.figures.lines["shots"].words == ("Shots", "4", "6")
    assert "4 shots are too few" in rhythm.figures.differs.text()
    rhythm.study.hold_subject(Subject(StudyOf.FILM, 1))
    assert len(rhythm.left.beside_lines) == 2
    rhythm.left.beside_lines[1].click()
    assert rhythm.figures.lines["shots"].words == ("Shots", "4", "4")
    opened.files.open_project(tmp_path / "line.offcut")
    qtbot.waitUntil(lambda: len(rhythm.study.beside) == 2, timeout=10_000)
    ready(opened, rhythm, qtbot)
    names = {b.lengths.name for b in rhythm.study.beside}
    assert names == {"ferry #2", "four-shots"}
    rhythm.left.beside_lines[0].setFocus()
    press(opened, Qt.Key.Key_Delete)
    assert len(rhythm.study.beside) == 1
    opened.session.put_in(opened.session.project, None)
    assert not rhythm.study.beside


def test_what_a_film_shows_never_gets_into_the_next_project(
    rhythm: RhythmView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    signals, project = rhythm.study.signals, opened.session.project
    signals._keys.clear()
    signals.want(project.sources)
    (late,) = [job for job in opened.session.jobs.running if "light and sound" in job.words]
    told: list[object] = []
    late.ended.connect(lambda: told.append(dict(signals.films)))
    opened.session.put_in(project, None)  # its film has the same id
    assert signals._job is not late
    qtbot.waitUntil(lambda: bool(told))
    ready(opened, rhythm, qtbot)
    assert set(signals.films) == {1}  # it was looked at anew, and not given up
    assert set(rhythm.lanes.shown_lanes) >= {"light", "movement"}


def test_what_cannot_be_put_beside_is_said(
    rhythm: RhythmView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    said: list[str] = []
    opened.session.lost.connect(said.append)
    words = tmp_path / "words.csv"
    words.write_text("nothing here\nat all\n")
    rhythm.study.hold_file(str(words))
    qtbot.waitUntil(lambda: bool(said))
    assert "words.csv" in said[0]
    assert not rhythm.study.beside


def test_scenes_orders_and_what_is_set_aside(
    rhythm: RhythmView, opened: Window, qtbot: QtBot
) -> None:
    s = opened.session
    s.edit(lambda p, i: put_in_scene(p, i, 50, "Harbour"), "Scene")
    s.edit(lambda p, i: put_in_scene(p, i, 130, "Harbour"), "Scene")
    refs = [ref_of(s.source, s.shots[n]) for n in (3, 0, 0)]
    s.edit_project(lambda p: add_order(p, "Trailer", tuple(refs)), "Order")
    assert "scenes" in rhythm.lanes.shown_lanes
    rhythm.left.subjects.buttons["scene:" + str(s.project.scenes[0].id)].click()
    assert shown(rhythm, "shots") == "2"
    assert rhythm.study.axis.film == 0
    rhythm.skyline.go_to(2.0)
    assert s.playhead == pytest.approx(120 + 15, abs=1)
    rhythm.study.mark_part(0.0, 1.4)
    assert shown(rhythm, "shots") == "1"
    rhythm.study.whole_again()
    press(opened, Qt.Key.Key_PageDown)
    assert shown(rhythm, "shots") == "3"
    s.undo()  # the order is gone, and with it what was studied
    assert rhythm.study.subject == Subject(StudyOf.FILM, 1)
    s.edit(lambda p, i: set_shot_aside(p, i, 50, True), "Aside")
    assert shown(rhythm, "shots") == "3"
    rhythm.skyline.setFocus()
    press(opened, Qt.Key.Key_A)
    assert shown(rhythm, "shots") == "4"
    assert rhythm.left.aside_box.isChecked()


def test_how_it_is_shown_is_remembered(
    rhythm: RhythmView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    press(opened, Qt.Key.Key_G)
    press(opened, Qt.Key.Key_BracketRight)
    rhythm.left.limit.setValue(1.5)
    assert rhythm.figures.lines["under"].words[:2] == ("Under 1.5 s", "25 %")
    assert rhythm.study.manner.log
    assert rhythm.left.smoothing_words.text() == "8 shots"
    rhythm.left.show_boxes["light"].setChecked(False)
    assert "movement" in rhythm.lanes.shown_lanes
    assert "light" not in rhythm.lanes.shown_lanes
    press(opened, Qt.Key.Key_V)
    assert (rhythm.near_card.shown, rhythm.far_card.shown) == ("pulse", "movement")
    opened.set_theme("night")
    press(opened, Qt.Key.Key_1, CTRL)
    opened.settings.sync()
    again = Window(QSettings(opened.settings.fileName(), QSettings.Format.IniFormat))
    qtbot.addWidget(again)
    view: RhythmView = again.view("rhythm")
    assert view.study.manner == rhythm.study.manner
    assert not view.left.shows("light")
    assert (view.near_card.shown, view.far_card.shown) == ("pulse", "movement")


def test_each_figure_says_what_it_is(rhythm: RhythmView, opened: Window) -> None:
    rhythm.figures.lines["mean"].click()
    assert rhythm.figures.explained.isVisible()
    told = rhythm.figures.explained.text()
    assert "average shot length" in told
    assert "cited from memory" in told
    rhythm.figures.lines["spectrum"].click()
    assert "It takes 128 shots" in rhythm.figures.explained.text()
    rhythm.figures.lines["spectrum"].click()
    assert not rhythm.figures.explained.isVisible()
    for line in rhythm.figures.lines.values():
        line.click()


def test_everything_can_be_kept_and_copied(
    rhythm: RhythmView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    rhythm.skyline.pick(2)
    rhythm.skyline.pick(0)
    assert rhythm.skyline.picked_places == [0, 2]
    keeping = rhythm.keeping
    keeping.keep_page(str(tmp_path / "page.pdf"))
    keeping.keep_figures(str(tmp_path / "l.csv"))
    keeping.keep_figures(str(tmp_path / "l.xlsx"))
    keeping.keep_charts(str(tmp_path), "svg")
    keeping.keep_charts(str(tmp_path), "png", ["pulse"])
    keeping.keep_reference(str(tmp_path / "r.lengths.json"))
    settled(opened, qtbot)
    there = {f.name for f in tmp_path.iterdir() if f.is_file()}
    assert {"page.pdf", "l.csv", "l-figures.csv", "l.xlsx", "skyline.svg", "light.svg"} <= there
    assert "pulse.png" in there
    (again,) = read_lengths(tmp_path / "r.lengths.json")
    assert again.held.tolist() == [1.6, 1.4, 1.8, 1.6]
    clipboard = QGuiApplication.clipboard()
    press(opened, Qt.Key.Key_C, CTRL)
    assert clipboard.text().splitlines()[1] == "Shots\t4"
    keeping.copy_lengths()
    assert clipboard.text().splitlines() == ["1.6", "1.4", "1.8", "1.6"]
    keeping.copy_chart("spread")
    settled(opened, qtbot)
    assert clipboard.mimeData().hasImage()
    assert b"<svg" in bytes(clipboard.mimeData().data("image/svg+xml").data())
    failed: list[str] = []
    opened.session.lost.connect(failed.append)
    keeping.keep_page(str(tmp_path / "no" / "folder" / "page.pdf"))
    qtbot.waitUntil(lambda: bool(failed))
    assert "cannot be written" in failed[0]


def test_menus_hold_what_can_be_done(rhythm: RhythmView, opened: Window) -> None:
    asked: list[str] = []
    rhythm.menu_wanted.disconnect()
    rhythm.menu_wanted.connect(lambda kind, _place: asked.append(kind))
    QTest.mouseClick(rhythm.skyline.viewport(), Qt.MouseButton.RightButton, pos=at(rhythm, 1.0))
    assert "rhythm-skyline" in asked
    for kind in (
        "rhythm-skyline",
        "rhythm-chart",
        "rhythm-figures",
        "rhythm-beside",
        "rhythm-keep",
    ):
        assert opened.menu_of(kind).actions()
    words = [a.text() for a in rhythm.beside_menu().actions()]
    assert words[-1] == "A film, a list or another project…"


def test_sound_gives_a_lane_and_an_empty_project_says_what_to_do(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    window.activateWindow()
    view: RhythmView = window.open_view("rhythm")
    assert "Bring a film in" in view._empty.text()
    window.dialogs.open_paths([beeped(tmp_path / "beeps.mov", "pcm_s16le", steady=0.1)])
    found(window, qtbot)
    ready(window, view, qtbot)
    assert "loudness" in view.lanes.shown_lanes
    assert shown(view, "shots") == str(len(window.session.shots))
