"""Found in the film: the list, what is in a shot, and where else it is told."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from calls import called
from films import encode, scene
from offcut.app.sheets.grades_sheet import GradesSheet
from offcut.app.shell.window import Window
from offcut.app.views.seams.drawers import CONTENTS
from offcut.core.facts.fact import Fact, Sort
from offcut.core.facts.grades import USUAL, grades_in_force
from offcut.core.facts.query import query_of
from offcut.core.model.shots import shots_of
from offcut.core.store.library import Library
from windows import found

_FOUND = Qt.ItemDataRole.UserRole


@pytest.fixture
def looked(opened: Window, qtbot: QtBot) -> Window:
    """The window with the film of four shots, looked through, the list open."""
    with qtbot.waitSignal(opened.facts.came, timeout=60_000):
        opened.actions_by_id["found"].trigger()
    return opened


def select(window: Window, words: str) -> None:
    window.view("seams").found.list.findItems(words, Qt.MatchFlag.MatchExactly)[0].setSelected(True)


def test_the_list_takes_the_place_of_the_seams_and_is_remembered(looked: Window) -> None:
    view = looked.view("seams")
    assert view.left.shows_found
    assert not view.strip.isVisible()
    assert view.found_buttons[0].isVisible()
    assert looked.settings.value("found-shown", type=bool) is True
    heads = [f.head for f in view.found.found]
    assert heads == sorted(heads, key=["Camera", "Light", "Sharpness", "Faces", "Sound", "Colour",
                                       "Text", "No picture of the film"].index)  # fmt: skip
    looked.actions_by_id["found"].trigger()
    assert not view.left.shows_found
    assert view.strip.isVisible()


def test_what_is_selected_is_chosen_counted_and_set_aside(looked: Window) -> None:
    view, session = looked.view("seams"), looked.session
    found = view.found.found[0]
    select(looked, found.words)
    assert set(looked.facts.chosen) == set(found.facts)
    assert f"Play these {len(found.facts)}" in view.found_buttons[0].text()
    looked.actions_by_id["found-aside"].trigger()
    inside = [s for s in session.shots if any(f.start <= s.start and s.end <= f.end
                                             for f in found.facts)]  # fmt: skip
    assert inside
    assert all(s.card.set_aside for s in inside)
    session.undo()
    assert not any(s.card.set_aside for s in session.shots)


def test_they_play_one_after_another_and_stop(looked: Window, qtbot: QtBot) -> None:
    view = looked.view("seams")
    looked.facts.choose([Fact(Sort.LIGHT, "low", 10, 14), Fact(Sort.LIGHT, "low", 130, 134)])
    with qtbot.waitSignal(view.playing.over, timeout=20_000):
        looked.actions_by_id["found-play"].trigger()
        assert view.over.currentWidget() is view.playing
    assert view.over.currentWidget() is not view.playing


def test_the_programme_is_marked_and_what_is_not_is_set_aside(looked: Window) -> None:
    session = looked.session
    looked.actions_by_id["programme"].trigger()
    assert session.marked == (0, 160)
    said: list[str] = []
    session.said.connect(said.append)
    looked.actions_by_id["programme-only"].trigger()
    assert said[-1] == "All of it is programme"


def test_what_is_in_a_shot_stands_in_its_drawer(looked: Window, qtbot: QtBot) -> None:
    view, session = looked.view("seams"), looked.session
    view.drawers.open(CONTENTS)
    drawer = view.contents
    session.go_to(50)
    assert drawer._title.text() == "Shot 2"
    assert drawer._rows[Sort.LIGHT].text()
    qtbot.waitUntil(lambda: len(drawer.stills.frames) > 0, timeout=10_000)
    assert all(40 <= f < 75 for f in drawer.stills.frames)


def test_shots_are_found_by_what_is_in_them_on_the_board(looked: Window, qtbot: QtBot) -> None:
    looked.open_view("board")
    board = looked.view("board")
    shown = {r.key: board.shots.inside(r) for r in board.shots.all_rows}
    qtbot.waitUntil(
        lambda: all(board.shots.inside(r).sought for r in board.shots.all_rows), timeout=10_000
    )
    assert len(shown) == 4
    wanted = board.shots.inside(board.shots.all_rows[0]).facts
    value = next(f for f in wanted if f.sort is Sort.COLOUR).value
    board.find_field.setText(f"shows:{value}")
    qtbot.waitUntil(lambda: bool(board.shots.query), timeout=5_000)
    assert board.shots.rows
    assert all(str(value) in board.shots.inside(r).sought for r in board.shots.rows)


@pytest.mark.usefixtures("measured_once")
def test_it_goes_along_in_lists_and_into_the_library(four_shots: Path, tmp_path: Path) -> None:
    project = tmp_path / "four.offcut"
    assert called("detect", four_shots, "--save", project, "--quiet").returncode == 0
    assert called("facts", project, "--quiet").returncode == 0
    out = tmp_path / "out"
    done = called("turnover", project, "--to", out, "--csv", "--json", "--otio", "--quiet")
    assert done.returncode == 0, done.stderr
    rows = list(csv.DictReader((next(out.glob("*.csv"))).open(encoding="utf-8-sig")))
    assert [bool(row["light"]) for row in rows] == [True] * 4
    assert list(rows[0])[-9:] == [
        "camera", "steadiness", "light", "colour", "focus", "faces", "sound", "text", "part",
    ]  # fmt: skip
    told = json.loads(next(out.glob("*.json")).read_text())
    assert told["shots"][0]["shows"]["light"] == rows[0]["light"]
    otio = json.loads(next(out.glob("*.otio")).read_text())
    clip = otio["tracks"]["children"][0]["children"][0]
    assert clip["metadata"]["offcut"]["shows"]["light"] == rows[0]["light"]
    with Library(tmp_path / "library.db") as library:
        library.take_file(project)
        word = rows[0]["colour"].split(",")[0]
        assert library.find(query_of(f"shows:{word}")).shots
        assert not library.find(query_of("shows:countdown")).shots


def test_other_limits_grade_the_film_anew(looked: Window, qtbot: QtBot) -> None:
    looked.open_grades()
    sheet = looked.findChildren(GradesSheet)[-1]
    assert not any(f.value == "bright" for f in looked.facts.facts)
    with qtbot.waitSignal(looked.facts.came, timeout=60_000):
        sheet.fields["bright"].setValue(-0.9)
    assert any(f.value == "bright" for f in looked.facts.facts)
    sheet.fields["bright"].setValue(-3.0)
    assert "must rise" in sheet.trouble.text()
    assert grades_in_force().bright == -0.9
    with qtbot.waitSignal(looked.facts.came, timeout=60_000):
        sheet.usual.click()
    assert sheet.trouble.text() == ""
    assert grades_in_force() == USUAL
    sheet.accept()


def test_the_chosen_films_are_looked_through_without_being_in_hand(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """What is found of them is in the search and, for a saved project, in the library."""
    other = encode(tmp_path / "other.mp4", (p for s in (5, 6) for p in scene(s, 30)))
    opened.dialogs.open_paths([other])
    found(opened, qtbot)
    session = opened.session
    opened.files.save(str(tmp_path / "two.offcut"))
    qtbot.waitUntil(lambda: session.file is not None, timeout=20_000)
    session.choose([s.id for s in session.project.sources])
    said: list[str] = []
    session.said.connect(said.append)
    opened.actions_by_id["look-films"].trigger()
    qtbot.waitUntil(lambda: "Looked what is in other.mp4" in said, timeout=60_000)
    for source in session.project.sources:
        assert all(opened.facts.in_shot(source, shot).sought for shot in shots_of(source))
    colour = next(
        f.value for f in opened.facts.in_shot(source, shots_of(source)[0]).facts
        if f.sort is Sort.COLOUR
    )  # fmt: skip

    def known() -> bool:
        with Library() as library:
            return bool(library.find(query_of(f"shows:{colour} film:other")).shots)

    qtbot.waitUntil(known, timeout=20_000)


def test_what_comes_of_one_film_is_not_told_of_another(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """Another film is taken in hand while this one is looked at."""
    other = encode(tmp_path / "other.mp4", (p for s in (5, 6) for p in scene(s, 30)))
    opened.dialogs.open_paths([other])
    found(opened, qtbot)
    first, second = opened.session.project.sources
    opened.session.take_in_hand(first.id)
    opened.facts.want("test", True)
    opened.session.take_in_hand(second.id)
    opened.facts.want("test", False)
    with qtbot.waitSignal(opened.facts.known_changed, timeout=60_000):
        opened.facts.look_through([first])
    inside = opened.facts.of(second)
    assert all(end <= 60 for _, end in inside)
    assert {end for _, end in opened.facts.of(first)} == {40, 75, 120, 160}
