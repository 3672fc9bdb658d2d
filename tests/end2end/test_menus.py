"""The right click: everything under the pointer has its menu, from the same tables of commands."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from offcut.app.commands.menus import MENUS
from offcut.app.shell.window import Window
from offcut.core.model.seam import Standing
from windows import CTRL, frames, press, settled

pytestmark = pytest.mark.usefixtures("measured_once")


@pytest.fixture
def asked(opened: Window, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The kinds of menu that are asked for; none is shown, for it would wait for a person."""
    kinds: list[str] = []
    opened.ribbon.menu_wanted.disconnect(opened.show_menu)
    opened.view("seams").menu_wanted.disconnect(opened.show_menu)
    opened.ribbon.menu_wanted.connect(lambda kind, _place: kinds.append(kind))
    opened.view("seams").menu_wanted.connect(lambda kind, _place: kinds.append(kind))
    return kinds


def right_click(part: QWidget, place: QPoint) -> None:
    event = QContextMenuEvent(
        QContextMenuEvent.Reason.Mouse, place, part.mapToGlobal(place), Qt.KeyboardModifier(0)
    )
    QApplication.sendEvent(part, event)


def test_the_ribbon_has_menus_for_what_lies_on_it(opened: Window, asked: list[str]) -> None:
    w, ribbon = opened, opened.ribbon

    def x_of(frame: int) -> int:
        return round(16 + ribbon.stretch.x_of(frame))

    right_click(ribbon, QPoint(x_of(75), 110))
    assert asked[-1] == "seam"
    assert w.session.seam_here() is not None
    assert w.session.playhead == 75
    right_click(ribbon, QPoint(x_of(100), 110))
    assert asked[-1] == "shot"
    assert w.session.playhead == 100
    right_click(ribbon, QPoint(x_of(100), 4))
    assert asked[-1] == "ribbon"
    w.session.go_to(20)
    press(w, Qt.Key.Key_M)
    w.setFocus()
    w.session.go_to(100)


def test_pictures_lists_and_drawers_have_menus(
    opened: Window, asked: list[str], qtbot: QtBot
) -> None:
    w, seams = opened, opened.view("seams")
    w.session.go_to(20)
    right_click(seams.pair, QPoint(80, 80))
    assert asked[-1] == "picture"
    press(w, Qt.Key.Key_Down)
    right_click(seams.pair, QPoint(80, 80))
    assert asked[-1] == "seam"
    settled(w, qtbot)
    view = seams.list.view
    view.customContextMenuRequested.emit(view.visualRect(view.model().index(1)).center())
    assert asked[-1] == "seam"
    w.session.go_to(30)
    press(w, Qt.Key.Key_M)
    w.setFocus()
    w.session.mark(50, 90)
    press(w, Qt.Key.Key_H)
    ranges = seams.drawers.ranges
    for listed, kind in ((ranges.markers, "marker"), (ranges.zones, "zone")):
        listed.customContextMenuRequested.emit(listed.visualItemRect(listed.item(0)).center())
        assert asked[-1] == kind


@pytest.mark.parametrize("kind", MENUS)
def test_every_menu_is_made_of_commands(opened: Window, kind: str) -> None:
    menu = opened.menu_of(kind)
    words = [a.text() for a in menu.actions() if not a.isSeparator()]
    assert len(words) == len(set(words)) == len([i for i in MENUS[kind] if i])
    assert all(words)


def test_what_a_menu_says_is_done(opened: Window) -> None:
    w = opened
    press(w, Qt.Key.Key_Down)
    menu = w.menu_of("seam")
    next(a for a in menu.actions() if a.text().startswith("Strike")).trigger()
    assert frames(w) == [75, 120]
    source = w.session.source
    assert source is not None
    assert [x.frame for x in source.seams if x.standing is Standing.STRUCK] == [40]
    press(w, Qt.Key.Key_Z, CTRL)
    assert frames(w) == [40, 75, 120]


def test_an_empty_window_has_nothing_to_ask_about(window: Window) -> None:
    kinds: list[str] = []
    window.ribbon.menu_wanted.connect(lambda kind, _place: kinds.append(kind))
    right_click(window.ribbon, QPoint(200, 110))
    right_click(window.view("seams").pair, QPoint(80, 80))
    assert kinds == []
