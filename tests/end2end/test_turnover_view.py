"""Turnover in the real window: choose, check, hand over, the same again."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from offcut.app.shell.window import Window
from offcut.app.views.turnover.view import TurnoverView
from offcut.core.lists.registry import read_list
from offcut.core.model.handover import Asked
from offcut.core.model.verbs.cards import name_shot
from windows import settled


@pytest.fixture
def view(opened: Window, qtbot: QtBot, tmp_path: Path) -> TurnoverView:
    opened.session.edit(lambda p, s: name_shot(p, s, 50, "The quay"), "Name", 0)
    opened.actions_by_id["view-turnover"].trigger()
    opened.view("turnover").outcome.folder.setText(str(tmp_path / "out"))
    planned(opened, qtbot)
    return opened.view("turnover")


def planned(window: Window, qtbot: QtBot) -> None:
    view = window.view("turnover")
    view._soon.stop()
    view.plan = None
    view._check()
    qtbot.waitUntil(lambda: view.plan is not None, timeout=10_000)
    settled(window, qtbot)


def said(view: TurnoverView) -> str:
    found = view.outcome.findings
    return " / ".join(found.item(n).text() for n in range(found.count()))


def test_choosing_checking_and_handing_over(
    view: TurnoverView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    assert view.outcome.go.text() == "Hand over 4 shots: 1 file"
    view.becomes.lists["csv"].setChecked(True)
    view.becomes.stills.setCurrentIndex(1)
    view.becomes.pattern.setText("{number}-{name}")
    planned(opened, qtbot)
    assert view.outcome.go.text() == "Hand over 4 shots: 6 files"
    assert "002-The quay" in view.becomes.preview.text()
    assert not list(tmp_path.glob("out/*"))
    qtbot.mouseClick(view.outcome.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.outcome.stack.currentIndex() == 1, timeout=30_000)
    settled(opened, qtbot)
    assert view.outcome.done.text() == "6 files written"
    written = sorted(p.name for p in (tmp_path / "out").iterdir())
    assert "002-The quay.png" in written
    assert len(written) == 6
    listed = read_list(tmp_path / "out" / next(n for n in written if n.endswith(".edl")), 25)
    assert [e.clip for e in listed.events][1] == "The quay"
    # it is kept with the project, and can be done the same again
    assert len(opened.session.project.handovers) == 1
    assert not view.goes.same.isHidden()


def test_what_is_there_is_never_written_over_without_a_word(
    view: TurnoverView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "out").mkdir()
    there = tmp_path / "out" / f"{opened.session.project.name}.edl"
    there.write_text("mine")
    planned(opened, qtbot)
    assert "1 file there already" in said(view)
    assert not view.outcome.go.isEnabled()
    view.outcome.over.setChecked(True)
    assert view.outcome.go.isEnabled()
    qtbot.mouseClick(view.outcome.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.outcome.stack.currentIndex() == 1, timeout=30_000)
    assert there.read_text().startswith("TITLE:")


def test_what_the_check_stops_cannot_be_handed_over(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    view.becomes.pattern.setText("{nonsense}")
    planned(opened, qtbot)
    assert "There is no field {nonsense}" in said(view)
    assert not view.outcome.go.isEnabled()
    view.becomes.pattern.setText("{number}")
    view.becomes.lists["edl"].setChecked(False)
    planned(opened, qtbot)
    assert "Nothing is asked for" in said(view)
    view.becomes.lists["edl"].setChecked(True)
    view.outcome.folder.setText("")
    planned(opened, qtbot)
    assert "Choose a folder" in said(view)


def test_shots_are_chosen_one_by_one_or_by_the_marked_range(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    view.goes.radio["chosen"].setChecked(True)
    planned(opened, qtbot)
    assert "No shot goes" in said(view)
    view.goes.shots.item(2).setCheckState(Qt.CheckState.Checked)
    planned(opened, qtbot)
    assert view.outcome.go.text() == "Hand over 1 shot: 1 file"
    opened.session.mark(0, 60)
    view.goes.radio["marked"].setChecked(True)
    planned(opened, qtbot)
    assert view.outcome.go.text() == "Hand over 2 shots: 1 file"
    assert view.goes.shots.count() == 2


def test_chosen_shots_are_put_into_a_running_order_by_keys(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    goes = view.goes
    assert goes.film_order.isHidden()
    goes.radio["chosen"].setChecked(True)
    assert not goes.film_order.isHidden()
    starts = [s.start for s in opened.session.shots]
    for row in (0, 1, 3):
        goes.shots.item(row).setCheckState(Qt.CheckState.Checked)
    goes.shots.setCurrentRow(3)
    for _ in range(3):
        qtbot.keyClick(goes.shots, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    qtbot.keyClick(goes.shots, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)  # at the top
    wanted = (starts[3], starts[0], starts[1])
    assert goes.chosen() == wanted
    planned(opened, qtbot)
    assert view.plan is not None
    assert tuple(i.shot.start for i in view.plan.items) == wanted
    assert "another order than the film" in said(view)
    # an edit elsewhere leaves the order as it is
    opened.session.edit(lambda p, s: name_shot(p, s, 0, "Dawn"), "Name", 0)
    planned(opened, qtbot)
    assert goes.chosen() == wanted
    goes.film_order.setChecked(True)
    planned(opened, qtbot)
    assert tuple(i.shot.start for i in view.plan.items) == tuple(sorted(wanted))
    goes.take(Asked(which="chosen", chosen=wanted, film_order=False))
    assert goes.asked() == Asked(which="chosen", chosen=wanted)


def test_a_scene_goes_and_is_given_in_the_film_drawer(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    goes = view.goes
    assert not goes.radio["scene"].isEnabled()
    opened.session.go_to(50)
    drawer = opened.view("seams").drawers.film
    drawer.scene.setText("At the quay")
    drawer.scene.editingFinished.emit()
    assert opened.session.shot_here().card.scene == "At the quay"  # type: ignore[union-attr]
    goes.show_shots()
    goes.radio["scene"].setChecked(True)
    planned(opened, qtbot)
    assert goes.shots.count() == 1
    assert view.outcome.go.text() == "Hand over 1 shot: 1 file"
    assert goes.asked() == Asked(which="scene", scene="At the quay")
    opened.session.undo()
    planned(opened, qtbot)
    assert not goes.radio["scene"].isEnabled()
    assert "No shot goes" in said(view)


def test_a_finding_leads_back_to_its_seam(view: TurnoverView, opened: Window, qtbot: QtBot) -> None:
    view.becomes.shortest.setValue(38)
    planned(opened, qtbot)
    found = view.outcome.findings
    row = next(n for n in range(found.count()) if "1 shot under" in found.item(n).text())
    found.itemClicked.emit(found.item(row))
    assert opened.stack.currentIndex() == 1
    assert opened.session.playhead == 40


def test_the_same_again_asks_for_what_was_asked(
    view: TurnoverView,
    opened: Window,
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    other = str(tmp_path / "other")
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: other)
    view.becomes.lists["vtt"].setChecked(True)
    view.becomes.handles.setValue(7)
    view.outcome.ask_folder.emit()
    assert view.outcome.folder.text() == other
    planned(opened, qtbot)
    qtbot.mouseClick(view.outcome.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.outcome.stack.currentIndex() == 1, timeout=30_000)
    qtbot.mouseClick(view.outcome.more, Qt.MouseButton.LeftButton)
    view.becomes.lists["vtt"].setChecked(False)
    view.becomes.handles.setValue(0)
    view.outcome.folder.setText("/elsewhere")
    qtbot.mouseClick(view.goes.same, Qt.MouseButton.LeftButton)
    planned(opened, qtbot)
    assert view.becomes.lists["vtt"].isChecked()
    assert view.asked().handles == 7
    assert view.outcome.folder.text() == other
    assert "2 files there already" in said(view)
