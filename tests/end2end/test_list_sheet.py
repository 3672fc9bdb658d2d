"""Cutting by a list in the real window."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from offcut.app.sheets.list_sheet import ListSheet
from offcut.app.shell.window import Window
from offcut.core.lists.outgoing import events_of, going
from offcut.core.lists.timelines.xml import write_xml
from offcut.core.tally.cutting import Use
from windows import settled

pytestmark = pytest.mark.usefixtures("measured_once")

LIST = """TITLE: FOUR SHOTS
001  A1  V  C  00:00:00:00 00:00:01:15 10:00:00:00 10:00:01:15
* FROM CLIP NAME: QUAY
002  A2  V  C  00:10:00:00 00:10:01:10 10:00:01:15 10:00:03:00
* FROM CLIP NAME: TOWER
* LOC: 10:00:02:00 RED     THE BELL
* ASC_SAT 0.9
003  A3  V  C  00:00:00:00 00:00:01:22 10:00:03:00 10:00:04:22
004  A4  V  C  00:00:00:00 00:00:01:13 10:00:04:22 10:00:06:10
what is this
"""


@pytest.fixture
def sheet(opened: Window, qtbot: QtBot, tmp_path: Path) -> ListSheet:
    path = tmp_path / "four.edl"
    path.write_text(LIST)
    opened.dialogs.open_paths([path])
    qtbot.waitUntil(lambda: bool(opened.findChildren(ListSheet)), timeout=10_000)
    settled(opened, qtbot)
    return opened.findChildren(ListSheet)[-1]


def foreseen(sheet: ListSheet, qtbot: QtBot) -> str:
    """Wait until the button says what will come of it."""
    qtbot.waitUntil(sheet.cut.isEnabled, timeout=10_000)
    return sheet.cut.text()


def test_a_list_is_laid_on_the_film_by_itself(sheet: ListSheet, opened: Window) -> None:
    # the film begins at 01:00:00:00, the list at 10:00:00:00, its last join two frames late
    assert sheet.place.text() == "10:00:00:00"
    assert sheet._agree.text() == "2 of 3 joins lie on a found seam"
    assert "1 line could not be used" in sheet.doubts.text()
    assert sheet.lines.item(0).text() == "line 10: not understood: “what is this”"
    rows = [sheet.table.joins.shown[n].off for n in range(3)]
    assert rows == [0, 0, 2]
    sheet.only.setChecked(True)
    assert len(sheet.table.joins.shown) == 1


def test_the_offset_is_moved_live_and_found_again(
    sheet: ListSheet, opened: Window, qtbot: QtBot
) -> None:
    sheet.set_offset(sheet.offset - 1)
    assert sheet.place.text() == "09:59:59:24"
    assert sheet._agree.text().startswith("0 of 3")
    sheet.place.setText("10:00:00:02")
    sheet.place.editingFinished.emit()
    assert sheet._agree.text().startswith("1 of 3")
    sheet.find_offset()
    qtbot.waitUntil(lambda: sheet._agree.text().startswith("2 of 3"), timeout=10_000)
    settled(opened, qtbot)
    size = sheet.table._rows.thumb()
    assert opened.small.picture(40, *size) is not None


def test_the_film_is_cut_by_it_as_one_edit(sheet: ListSheet, opened: Window, qtbot: QtBot) -> None:
    assert foreseen(sheet, qtbot) == "Cut the film: 4 shots"
    sheet.cut.click()
    s = opened.session
    assert [x.start for x in s.shots] == [0, 40, 75, 120]
    assert s.shots[1].title == "TOWER"
    assert s.shots[1].card.original is not None
    assert s.shots[1].card.original.reel == "A2"
    assert s.source is not None
    assert [(m.start, m.name) for m in s.source.markers] == [(50, "THE BELL")]
    s.go_to(60)
    facts = opened.view("seams").drawers.film._facts
    assert (facts["Reel"].text(), facts["Source in"].text()) == ("A2", "00:10:00:00")
    assert facts["Reel"].toolTip() == "Source out 00:10:01:10\nASC_SAT 0.9"
    opened.actions_by_id["undo"].trigger()
    assert s.shots[1].title == "Shot 2"
    assert all(x.card.original is None for x in s.shots)
    assert s.source.markers == ()


def test_a_witness_weighs_and_the_list_alone_replaces(
    sheet: ListSheet, opened: Window, qtbot: QtBot
) -> None:
    for button in sheet.uses.buttons():
        if button.property("use") == Use.WITNESS.value:
            button.setChecked(True)
    assert foreseen(sheet, qtbot).startswith("Weigh the seams")
    assert not sheet.at_found.isVisibleTo(sheet)
    for button in sheet.uses.buttons():
        if button.property("use") == Use.ALONE.value:
            button.setChecked(True)
    assert foreseen(sheet, qtbot) == "Cut the film: 4 shots"
    sheet.cut.click()
    assert [x.start for x in opened.session.shots] == [0, 40, 75, 122]


def test_a_list_that_cannot_be_read_gets_one_sentence(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "bad.edl"
    path.write_text("nothing\n")
    opened.dialogs.open_paths([path])
    settled(opened, qtbot)
    assert "bad.edl: not one picture event" in opened.notices.words.text()
    assert not opened.findChildren(ListSheet)


def read_in(window: Window, qtbot: QtBot, path: Path) -> ListSheet:
    """Open a list over the window and wait until it lies on the film."""
    before = len(window.findChildren(ListSheet))
    window.dialogs.open_paths([path])
    qtbot.waitUntil(lambda: len(window.findChildren(ListSheet)) > before, timeout=20_000)
    settled(window, qtbot)
    return window.findChildren(ListSheet)[-1]


def test_a_list_that_marks_places_is_offered_as_markers(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "notes.edl"
    lines = ["TITLE: NOTES"]
    for number, (frame, colour, name) in enumerate([(10, "RED", "bell"), (75, "CYAN", "door")], 1):
        ends = [f"01:00:0{f // 25}:{f % 25:02d}" for f in (frame, frame + 1)]
        lines.append(f"{number:03d}  FILM  V  C  {' '.join(ends + ends)}")
        lines.append(f"* LOC: {ends[0]} {colour}  {name}")
    path.write_text("\n".join(lines))
    seams = opened.session.source.seams
    sheet = read_in(opened, qtbot, path)
    assert sheet.use is Use.MARKERS
    assert foreseen(sheet, qtbot) == "Mark the film: 2 markers"
    assert sheet._agree.text() == "2 of 2 places lie on the film"
    assert [sheet.places.item(n, 1).text() for n in (0, 1)] == ["bell", "door"]
    sheet.cut.click()
    marked = [(m.start, m.name, m.colour.value) for m in opened.session.source.markers]
    assert marked == [(10, "bell", "red"), (75, "door", "cyan")]
    assert opened.session.source.seams == seams
    opened.actions_by_id["undo"].trigger()
    assert not opened.session.source.markers


def test_chapters_in_text_are_markers_by_the_time_of_the_film(
    opened: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "chapters.txt"
    path.write_text("00:00:00 Start\n00:00:03 - The quay\n00:09:00 Beyond the end\n")
    sheet = read_in(opened, qtbot, path)
    foreseen(sheet, qtbot)
    assert sheet._agree.text() == "2 of 3 places lie on the film"
    assert not sheet.uses.buttons()[0].isEnabled()  # there is nothing to cut by
    sheet.cut.click()
    assert [(m.start, m.name) for m in opened.session.source.markers] == [
        (0, "Start"), (75, "The quay")
    ]  # fmt: skip


def test_a_bin_of_shots_names_them(opened: Window, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "day.ale"
    path.write_text(
        "Heading\nFIELD_DELIM\tTABS\nFPS\t25\n\nColumn\nName\tStart\tEnd\tScene\n\nData\n"
        "12A-3\t01:00:00:00\t01:00:01:15\t12\n12B-1\t01:00:01:15\t01:00:03:00\t12\n"
    )
    sheet = read_in(opened, qtbot, path)
    assert sheet.use is Use.NAMES
    assert foreseen(sheet, qtbot) == "Name the shots: 2 shots"
    sheet.cut.click()
    shots = opened.session.shots
    assert [s.card.name for s in shots[:2]] == ["12A-3", "12B-1"]
    assert opened.session.project.scene_name(shots[1].card.scene) == "12"


def test_a_timeline_in_xml_cuts_the_film(opened: Window, qtbot: QtBot, tmp_path: Path) -> None:
    source = opened.session.source
    path = write_xml(events_of(opened.session.project, going(source)), tmp_path / "cut.xml")
    sheet = read_in(opened, qtbot, path)
    assert sheet.use is Use.TOGETHER
    whole = len(opened.session.shots) - 1
    assert sheet._agree.text() == f"{whole} of {whole} joins lie on a found seam"
