"""What the Board shows: other names move nothing, and what is sorted by looks follows them."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
from PySide6.QtCore import QSettings
from pytestqt.qtbot import QtBot

from offcut.app.session.session import Session
from offcut.app.views.board.board_shots import BoardShots
from offcut.core.facts.looks import ShotLook
from offcut.core.model.verbs.cards import name_shot, set_shot_aside
from projects import cut_film


def shown(tmp_path: Path) -> tuple[Session, BoardShots, list[str]]:
    """Return a film's shots on the Board, and what is heard of them."""
    session = Session()
    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    shots, heard = BoardShots(session, settings), []
    session.put_in(cut_film(Fraction(25), False), None)
    shots.changed.connect(lambda: heard.append("changed"))
    shots.renamed.connect(lambda: heard.append("renamed"))
    return session, shots, heard


def test_another_name_is_put_in_its_place(qtbot: QtBot, tmp_path: Path) -> None:
    session, shots, heard = shown(tmp_path)
    before = shots.rows
    frame = before[2].shot.start if before[2].shot is not None else 0
    session.edit(lambda p, s: name_shot(p, s, frame, "The quay"), "Name it")
    assert heard == ["renamed"]
    assert [row.title for row in shots.rows][2] == "The quay"
    assert [a is b for a, b in zip(before, shots.rows, strict=True)].count(False) == 1
    session.edit(lambda p, s: set_shot_aside(p, s, frame), "Set it aside")
    assert heard == ["renamed", "changed"]
    assert len(shots.rows) == len(before) - 1
    assert [row.title for row in shots.bag] == ["The quay"]
    session.undo()
    session.undo()
    assert shots.rows == before


def test_rows_by_light_follow_as_shots_are_looked_at(qtbot: QtBot, tmp_path: Path) -> None:
    _session, shots, heard = shown(tmp_path)
    shots.sort_by("light")
    keys = [row.key for row in shots.rows]
    nothing = np.zeros((1, 9, 16, 3), np.float16), np.zeros((1, 64), np.float16)
    looks = []
    for light, row in enumerate(shots.rows):  # the last one is the lightest
        assert row.ref is not None
        assert row.shot is not None
        span = row.shot.start, row.shot.end
        looks.append((row.ref, span, ShotLook((row.shot.start,), float(light), *nothing)))
    shots.take_looks(looks)
    assert heard[-1] == "changed"
    assert [row.key for row in shots.rows] == keys[::-1]
