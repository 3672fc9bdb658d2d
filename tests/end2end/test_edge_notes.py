"""Edge notes: what is in the film, under the rolls, from frame to frame."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.shell.window import Window
from offcut.app.views.seams.edge_notes import EdgeNotes
from offcut.core.facts.fact import SORTS, Fact, FactCertainty, Sort
from offcut.core.facts.fact_words import fact_words
from windows import found


def notes_of(window: Window) -> EdgeNotes:
    notes: EdgeNotes = window.view("seams").notes
    return notes


def place_of(notes: EdgeNotes, fact: Fact) -> QPointF:
    """The middle of a note as it is drawn."""
    notes.grab()  # it is laid out where it is painted
    room = next(laid.room for laid in notes._laid if laid.fact is fact)
    return room.center()


def test_notes_are_looked_for_once_they_are_shown(opened: Window, qtbot: QtBot) -> None:
    view, session = opened.view("seams"), opened.session
    assert not view.notes.isVisible()
    assert view.facts.facts == ()
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["edge-notes"].trigger()
    assert view.notes.isVisible()
    light = [f for f in view.facts.facts if f.sort == "light"]
    assert [f.start for f in light] == [0, 40, 75, 120]
    place = place_of(view.notes, light[2])
    QTest.mouseClick(view.notes, Qt.MouseButton.LeftButton, pos=place.toPoint())
    assert session.playhead == 75
    QTest.mouseDClick(view.notes, Qt.MouseButton.LeftButton, pos=place.toPoint())
    assert session.marked == (75, 120)
    assert view.notes.note_at(QPointF(-5, -5)) is None
    opened.actions_by_id["edge-notes"].trigger()
    assert not view.notes.isVisible()


def test_notes_are_cut_anew_where_a_seam_is_struck(opened: Window, qtbot: QtBot) -> None:
    view, session = opened.view("seams"), opened.session
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["edge-notes"].trigger()
    session.go_to_seam(session.in_hand, 75)
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["strike"].trigger()
    light = [f for f in view.facts.facts if f.sort == "light"]
    assert not any(f.start < 75 < f.end and f.end <= 75 for f in light)
    assert {f.start for f in light} >= {0, 40, 120}
    bounds = {0, 40, 120, 160}
    assert all(f.end in bounds for f in light if f.start == 120)


def test_another_film_has_its_own_notes(opened: Window, qtbot: QtBot, tmp_path: Path) -> None:
    view = opened.view("seams")
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["edge-notes"].trigger()
    other = encode(tmp_path / "other.mp4", (p for s in (5, 6) for p in scene(s, 30)))
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.dialogs.open_paths([other])
        found(opened, qtbot)
        opened.session.take_in_hand(opened.session.project.sources[-1].id)
    assert max(f.end for f in view.facts.facts) == 60


def test_several_are_chosen_and_made_shots_markers_pieces_or_set_aside(
    opened: Window, qtbot: QtBot
) -> None:
    """Ctrl and Shift choose; each thing that is done is one undo."""
    view, session = opened.view("seams"), opened.session
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["edge-notes"].trigger()
    notes, facts = view.notes, view.facts
    light = [f for f in facts.facts if f.sort == "light"]
    first, second, third, fourth = (place_of(notes, f).toPoint() for f in light)
    left, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier
    QTest.mouseClick(notes, left, pos=first)
    assert facts.chosen == (light[0],)
    QTest.mouseClick(notes, left, keys.ControlModifier, third)
    assert facts.chosen == (light[0], light[2])
    QTest.mouseClick(notes, left, keys.ControlModifier, first)
    assert facts.chosen == (light[2],)
    QTest.mouseClick(notes, left, pos=second)
    QTest.mouseClick(notes, left, keys.ShiftModifier, fourth)
    assert facts.chosen == tuple(light[1:])
    opened.actions_by_id["found-markers"].trigger()
    assert session.source is not None
    assert [(m.start, m.end) for m in session.source.markers] == [(40, 75), (75, 120), (120, 160)]
    session.undo()
    assert session.source.markers == ()
    opened.actions_by_id["found-order"].trigger()
    assert session.order is not None
    assert [u.shot is not None for u in session.order.uses] == [True] * 3
    opened.actions_by_id["found-aside"].trigger()
    assert [s.card.set_aside for s in session.shots] == [False, True, True, True]
    session.undo()
    opened.actions_by_id["found-range"].trigger()
    assert session.marked == (40, 160)
    notes.menu_wanted.disconnect()
    asked: list[str] = []
    notes.menu_wanted.connect(lambda kind, _at: asked.append(kind))
    QTest.mouseClick(notes, Qt.MouseButton.RightButton, pos=third)
    assert asked == ["note"]
    assert len(facts.chosen) == 3


def test_stretches_inside_a_shot_become_shots_of_their_own(opened: Window, qtbot: QtBot) -> None:
    view, session = opened.view("seams"), opened.session
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["edge-notes"].trigger()
    view.facts.choose([Fact(Sort.CAMERA, "pan left", 84, 100)])
    opened.actions_by_id["found-shots"].trigger()
    assert [s.start for s in session.shots] == [0, 40, 75, 84, 100, 120]
    session.undo()
    assert [s.start for s in session.shots] == [0, 40, 75, 120]


def test_what_is_chosen_stays_so_where_seams_are_judged(opened: Window, qtbot: QtBot) -> None:
    view = opened.view("seams")
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["edge-notes"].trigger()
    light = [f for f in view.facts.facts if f.sort == "light"]
    view.facts.choose(light[:2])
    opened.session.go_to_seam(opened.session.in_hand, 120)
    with qtbot.waitSignal(view.facts.came, timeout=60_000):
        opened.actions_by_id["strike"].trigger()
    assert [(f.start, f.end) for f in view.facts.chosen] == [(0, 40), (40, 75)]


def test_lanes_are_chosen_four_at_most_and_remembered(opened: Window, qtbot: QtBot) -> None:
    view = opened.view("seams")
    said: list[str] = []
    opened.session.said.connect(said.append)
    view.notes.show_lane("text", True)
    assert view.notes.lanes == ("camera", "light", "faces", "sound")
    assert "4 lanes" in said[-1]
    view.notes.show_lane("sound", False)
    view.notes.show_lane("colours", True)
    assert view.notes.lanes == ("camera", "light", "faces", "colours")
    again = EdgeNotes(opened.session, view.facts, opened.settings)
    assert again.lanes == view.notes.lanes
    for lane in again.lanes:
        again.show_lane(lane, False)
    assert len(again.lanes) == 1


def test_every_fact_has_words() -> None:
    told = {
        fact_words(Fact(Sort.CAMERA, "pan right", 0, 62, figures={"speed": 0.4})):
            "pans right over 62 frames, 0.4 picture widths a second",
        fact_words(Fact(Sort.CAMERA, "zoom in", 0, 20, figures={"speed": 1.2})):
            "zooms in over 20 frames, 1.20 times a second",
        fact_words(Fact(Sort.FACES, 2, 0, 9, FactCertainty.PERHAPS, {"size": "close"})):
            "2 faces, close (perhaps)",
        fact_words(Fact(Sort.LIGHT, "dark", 0, 9, figures={"stops": -3.24})):
            "dark, -3.2 stops about 18 % grey",
    }  # fmt: skip
    for words, wanted in told.items():
        assert words == wanted
    values = {"camera": "still", "steadiness": "slight", "faces": 0, "loudness": -23.0}
    assert all(fact_words(Fact(sort, values.get(sort, "x"), 0, 1)) for sort in SORTS)
