"""What nobody looks at follows once it is seen, and then once for all that happened."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from offcut.app.shared.when_seen import when_seen


class Told(QObject):
    changed = Signal(str)


def test_it_follows_at_once_where_it_is_seen_and_later_where_not(qtbot: QtBot) -> None:
    told, widget, heard = Told(), QWidget(), []
    qtbot.addWidget(widget)
    when_seen(told.changed, widget, lambda: heard.append(1))
    told.changed.emit("one")
    told.changed.emit("two")
    assert heard == []
    widget.show()
    assert heard == [1]
    told.changed.emit("three")
    assert heard == [1, 1]
    widget.hide()
    widget.show()
    assert heard == [1, 1]  # nothing happened in between
