"""Turnover in the real window: choose, check, hand over, the same again."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from offcut.app.session.session import Session
from offcut.app.shell.window import Window
from offcut.app.views.turnover.view import TurnoverView
from offcut.core.lists.registry import read_list
from offcut.core.model.handover import Asked
from offcut.core.model.orders import ref_of
from offcut.core.model.project import ShotRef
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.rolling import roll_seam
from windows import CTRL, press, settled

pytestmark = pytest.mark.usefixtures("measured_once")


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


def refs(session: Session, place: int) -> tuple[ShotRef | None, ...]:
    """The shots of a running order."""
    return tuple(u.shot for u in session.project.orders[place].uses)


def tick(view: TurnoverView, shot: ShotRef) -> None:
    """Tick a shot that is not in the running order."""
    items = (view.choices.shots.item(row) for row in range(view.choices.shots.count()))
    item = next(
        i
        for i in items
        if i.data(Qt.ItemDataRole.UserRole).shot == shot
        and i.checkState() == Qt.CheckState.Unchecked
    )
    item.setCheckState(Qt.CheckState.Checked)


def said(view: TurnoverView) -> str:
    found = view.outcome.remarks
    return " / ".join(found.item(n).text() for n in range(found.count()))


def test_choosing_checking_and_handing_over(
    view: TurnoverView, opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    assert view.outcome.go.text() == "Hand over 4 shots: 1 file"
    view.output.lists["csv"].setChecked(True)
    view.output.stills.setCurrentIndex(1)
    view.output.pattern.setText("{number}-{name}")
    planned(opened, qtbot)
    assert view.outcome.go.text() == "Hand over 4 shots: 6 files"
    assert "002-The quay" in view.output.preview.text()
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
    assert not view.choices.same.isHidden()


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
    view.output.pattern.setText("{nonsense}")
    planned(opened, qtbot)
    assert "There is no field {nonsense}" in said(view)
    assert not view.outcome.go.isEnabled()
    view.output.pattern.setText("{number}")
    view.output.lists["edl"].setChecked(False)
    planned(opened, qtbot)
    assert "Nothing is asked for" in said(view)
    view.output.lists["edl"].setChecked(True)
    view.outcome.folder.setText("")
    planned(opened, qtbot)
    assert "Choose a folder" in said(view)


def test_shots_are_chosen_one_by_one_or_by_the_marked_range(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    view.choices.radio["order"].setChecked(True)
    planned(opened, qtbot)
    assert "No shot goes" in said(view)
    view.choices.shots.item(2).setCheckState(Qt.CheckState.Checked)
    planned(opened, qtbot)
    assert view.outcome.go.text() == "Hand over 1 shot: 1 file"
    opened.session.mark(0, 60)
    view.choices.radio["marked"].setChecked(True)
    planned(opened, qtbot)
    assert view.outcome.go.text() == "Hand over 2 shots: 1 file"
    assert view.choices.shots.count() == 2


def test_chosen_shots_are_put_into_a_running_order_by_keys(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    choices, s = view.choices, opened.session
    assert choices.film_order.isHidden()
    choices.radio["order"].setChecked(True)
    assert not choices.film_order.isHidden()
    source = s.source
    assert source is not None
    dawn, quay, _tower, bell = (ref_of(source, shot) for shot in s.shots)
    starts = [shot.start for shot in s.shots]
    for shot in (dawn, quay, bell):
        tick(view, shot)
    order = s.project.orders[0]
    assert refs(s, 0) == (dawn, quay, bell)
    choices.shots.setCurrentRow(2)
    for _ in range(3):  # the last at the top
        qtbot.keyClick(choices.shots, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert refs(s, 0) == (bell, dawn, quay)
    planned(opened, qtbot)
    wanted = (starts[3], starts[0], starts[1])
    assert view.plan is not None
    assert tuple(i.shot.start for i in view.plan.items) == wanted
    assert "another order than the film" in said(view)
    # an edit elsewhere leaves the order as it is
    s.edit(lambda p, i: name_shot(p, i, 0, "Dawn"), "Name", 0)
    planned(opened, qtbot)
    assert refs(s, 0) == (bell, dawn, quay)
    choices.film_order.setChecked(True)
    planned(opened, qtbot)
    assert tuple(i.shot.start for i in view.plan.items) == tuple(sorted(wanted))
    asked = Asked(source=s.in_hand, which="order", order=order.id, film_order=True)
    assert choices.asked() == asked
    # every step of it is an edit, and is taken back
    for _ in range(4):
        press(opened, Qt.Key.Key_Z, CTRL)
    assert refs(s, 0) == (dawn, quay)


def test_a_running_order_goes_on_with_the_film(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    choices, s = view.choices, opened.session
    choices.radio["order"].setChecked(True)
    source = s.source
    assert source is not None
    quay, tower = (ref_of(source, shot) for shot in s.shots[1:3])
    for shot in (quay, tower):
        tick(view, shot)
    choices.put_in_again(0)
    assert refs(s, 0) == (quay, quay, tower)
    choices.rename_order("Trailer")
    # a rolled shot keeps its place, a struck one is shown as gone, and comes back
    s.edit(lambda p, i: roll_seam(p, i, quay.seam, 5), "Roll")
    planned(opened, qtbot)
    assert view.plan is not None
    assert [i.shot.start for i in view.plan.items] == [45, 45, 75]
    s.edit(lambda p, i: strike_seams(p, i, [quay.seam]), "Strike")
    planned(opened, qtbot)
    assert [choices.shots.item(n).text().strip()[:4] for n in range(2)] == ["gone", "gone"]
    assert [i.shot.start for i in view.plan.items] == [75]
    assert "2 places" in said(view)
    opened.session.undo()
    planned(opened, qtbot)
    assert [i.shot.start for i in view.plan.items] == [45, 45, 75]
    # there may be many
    choices.new_order()
    assert s.project.orders[0].name == "Trailer"
    assert s.project.orders[1].uses == ()
    choices.remove_order()
    assert [o.name for o in s.project.orders] == ["Trailer"]


def test_a_scene_goes_and_is_given_in_the_film_drawer(
    view: TurnoverView, opened: Window, qtbot: QtBot
) -> None:
    choices = view.choices
    assert not choices.radio["scene"].isEnabled()
    opened.session.go_to(50)
    drawer = opened.view("seams").drawers.film
    drawer.scene.setText("At the quay")
    drawer.scene.editingFinished.emit()
    (quay,) = opened.session.project.scenes
    assert quay.name == "At the quay"
    assert opened.session.shot_here().card.scene == quay.id  # type: ignore[union-attr]
    choices.show_shots()
    choices.radio["scene"].setChecked(True)
    planned(opened, qtbot)
    assert choices.shots.count() == 1
    assert view.outcome.go.text() == "Hand over 1 shot: 1 file"
    assert choices.asked() == Asked(source=opened.session.in_hand, which="scene", scene=quay.id)
    opened.session.undo()
    planned(opened, qtbot)
    assert not choices.radio["scene"].isEnabled()
    assert "No shot goes" in said(view)


def test_a_finding_leads_back_to_its_seam(view: TurnoverView, opened: Window, qtbot: QtBot) -> None:
    view.output.shortest.setValue(38)
    planned(opened, qtbot)
    found = view.outcome.remarks
    row = next(n for n in range(found.count()) if "1 shot under" in found.item(n).text())
    found.itemClicked.emit(found.item(row))
    assert opened.session.view == "seams"
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
    view.output.lists["vtt"].setChecked(True)
    view.output.handles.setValue(7)
    view.outcome.ask_folder.emit()
    assert view.outcome.folder.text() == other
    planned(opened, qtbot)
    qtbot.mouseClick(view.outcome.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.outcome.stack.currentIndex() == 1, timeout=30_000)
    qtbot.mouseClick(view.outcome.more, Qt.MouseButton.LeftButton)
    view.output.lists["vtt"].setChecked(False)
    view.output.handles.setValue(0)
    view.outcome.folder.setText("/elsewhere")
    qtbot.mouseClick(view.choices.same, Qt.MouseButton.LeftButton)
    planned(opened, qtbot)
    assert view.output.lists["vtt"].isChecked()
    assert view.asked().handles == 7
    assert view.outcome.folder.text() == other
    assert "2 files there already" in said(view)
