"""The framing in the real window: found, dragged, typed, taken as one edit."""

from __future__ import annotations

from itertools import chain
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from films import barred, encode, scene
from offcut.app.sheets.framing_sheet import FramingSheet
from offcut.app.shell.window import Window
from offcut.core.model.source import WHOLE, Framing
from offcut.core.model.verbs.searching import set_framing
from windows import settled

BARS = Framing(0, 24, 0, 24)


@pytest.fixture
def sheet(window: Window, qtbot: QtBot, tmp_path: Path) -> FramingSheet:
    pictures = chain(*(barred(scene(seed, 30), BARS) for seed in (3, 8)))
    window.dialogs.open_paths([encode(tmp_path / "bars.mp4", pictures)])
    qtbot.waitUntil(lambda: window.session.source is not None, timeout=20_000)
    settled(window, qtbot)
    assert window.session.source is not None
    assert window.session.source.framing == BARS  # found by itself
    window.session.edit(lambda p, s: set_framing(p, s, WHOLE), "The whole picture")
    window.search.find()
    settled(window, qtbot)
    window.actions_by_id["framing"].trigger()
    return window.findChildren(FramingSheet)[-1]


def test_bars_are_found_and_the_seams_looked_for_inside(
    sheet: FramingSheet, window: Window, qtbot: QtBot
) -> None:
    assert sheet.framing == WHOLE
    qtbot.mouseClick(sheet.find_it, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: sheet.framing == BARS, timeout=10_000)
    assert sheet.take.text() == "Take it and find the seams again"
    qtbot.mouseClick(sheet.take, Qt.MouseButton.LeftButton)
    s = window.session
    assert s.source is not None
    assert s.source.framing == BARS
    settled(window, qtbot)
    assert [x.start for x in s.shots] == [0, 30]
    s.undo()
    assert s.source.framing == WHOLE
    window.view("turnover").output.framing.setChecked(True)
    assert window.view("turnover").asked().framing


def test_edges_are_dragged_and_typed(sheet: FramingSheet, qtbot: QtBot) -> None:
    picture = sheet.picture
    inside = picture.inside().toRect()
    start = QPoint(inside.center().x(), inside.top() + 2)
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
    scale = inside.height() / 160  # the film is 192x160
    QTest.mouseMove(picture, QPoint(start.x(), 12 + round(20 * scale)))
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton)
    assert sheet.framing == Framing(0, 20, 0, 0)
    sheet.fields["right"].setValue(30)
    assert sheet.framing == Framing(0, 20, 30, 0)
    assert sheet._size.text() == "162 × 140"
    sheet.fields["left"].setValue(170)  # nothing would be left
    assert not sheet.take.isEnabled()
    qtbot.mouseClick(sheet.whole, Qt.MouseButton.LeftButton)
    assert sheet.framing == WHOLE
    assert sheet.take.text() == "Take it"
