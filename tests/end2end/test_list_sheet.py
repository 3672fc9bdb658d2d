"""Cutting by a list in the real window."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from offcut.app.sheets.list_sheet import ListSheet
from offcut.app.shell.window import Window
from offcut.core.tally.cutting import Use
from windows import settled

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
    assert not sheet.at_found.isEnabled()
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
    assert "bad.edl: not one picture event" in opened.status.told.text()
    assert not opened.findChildren(ListSheet)
