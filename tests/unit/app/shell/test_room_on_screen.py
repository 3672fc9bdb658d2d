"""The window lies inside the screen's free room, its frame counted."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QMargins, QRect

from offcut.app.shell.room_on_screen import WANTED, place_in

FRAME = QMargins(2, 34, 2, 2)


@pytest.mark.parametrize("free", [
    QRect(0, 0, 1280, 800), QRect(0, 28, 1366, 740), QRect(1920, 0, 1280, 770),
    QRect(0, 0, 2560, 1440), QRect(60, 30, 1100, 600),
])  # fmt: skip
@pytest.mark.parametrize("at", [(0, 0), (-300, -50), (5000, 5000)])
def test_nothing_of_it_lies_outside(free: QRect, at: tuple[int, int]) -> None:
    placed = place_in(free, FRAME, QRect(*at, WANTED.width(), WANTED.height()))
    assert free.contains(placed.marginsAdded(FRAME))
    assert placed.width() == min(WANTED.width(), free.width() - 4)
    assert placed.height() == min(WANTED.height(), free.height() - 36)
