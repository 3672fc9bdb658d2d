"""Edge notes: what is in the film, under the rolls, from frame to frame."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.shell.window import Window
from offcut.app.views.seams.edge_notes import EdgeNotes
from offcut.core.facts.fact import SORTS, Fact, FactCertainty
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


def test_every_fact_has_words() -> None:
    told = {
        fact_words(Fact("camera", "pan right", 0, 62, figures={"speed": 0.4})):
            "pans right over 62 frames, 0.4 picture widths a second",
        fact_words(Fact("camera", "zoom in", 0, 20, figures={"speed": 1.2})):
            "zooms in over 20 frames, 1.20 times a second",
        fact_words(Fact("faces", 2, 0, 9, FactCertainty.PERHAPS, {"size": "close"})):
            "2 faces, close (perhaps)",
        fact_words(Fact("light", "dark", 0, 9, figures={"stops": -3.24})):
            "dark, -3.2 stops about 18 % grey",
    }  # fmt: skip
    for words, wanted in told.items():
        assert words == wanted
    values = {"camera": "still", "steadiness": "slight", "faces": 0, "loudness": -23.0}
    assert all(fact_words(Fact(sort, values.get(sort, "x"), 0, 1)) for sort in SORTS)
