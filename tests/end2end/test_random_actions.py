"""Random actions over two projects of two films each: nothing lands in the other one."""

from __future__ import annotations

import os
import random
from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.shell import file_dialogs
from offcut.app.shell.window import Window
from offcut.core.model.project import Project
from offcut.core.model.shots import counted_seams
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.store.project_file import open_project
from windows import save, settled

ACTIONS = int(os.environ.get("OFFCUT_ACTIONS", "200"))
MARK = "made in "


@pytest.fixture
def two(window: Window, films: Path, tmp_path: Path, qtbot: QtBot) -> list[Path]:
    """Two projects of two films each; ids of films and seams are the same in both."""
    saved = []
    s = window.session
    for n in range(2):
        paths = []
        for k in range(2):
            path = films / f"random-{n}{k}.mp4"
            if not path.exists():
                seed, lengths = 9 * n + 3 * k, (30, 25 + 5 * n, 20 + 5 * k)
                encode(path, (p for i, m in enumerate(lengths) for p in scene(seed + i, m)))
            paths.append(path)
        window.files.new_project()
        window.files.open_films(paths)
        qtbot.waitUntil(
            lambda: len(s.project.sources) == 2 and all(x.searched for x in s.project.sources),
            timeout=30_000,
        )
        settled(window, qtbot)
        saved.append(tmp_path / f"project-{n}.offcut")
        assert save(window, qtbot, saved[-1])
    return saved


def test_nothing_lands_elsewhere(
    window: Window, two: list[Path], qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    dice, s = random.Random(int(os.environ.get("OFFCUT_SEED", "7"))), window.session
    buttons = QMessageBox.StandardButton
    answers = [buttons.Save, buttons.Discard, buttons.Cancel]
    monkeypatch.setattr(file_dialogs, "ask", lambda *_: dice.choice(answers))
    first = {path: {x.media.path for x in open_project(path).sources} for path in two}

    def edit() -> None:
        source = s.source
        seams = counted_seams(source) if source is not None else ()
        if source is None or not seams:
            return
        what = dice.randrange(4)
        seam = dice.choice(seams)
        if what == 0:
            s.edit(lambda p, i: strike_seams(p, i, [seam.id]), "Strike")
        elif what == 1:
            s.edit(lambda p, i: keep_seams(p, i, [seam.id]), "Keep")
        elif what == 2:
            frame = dice.randrange(1, source.media.frames)
            s.edit(lambda p, i: place_seam(p, i, frame), "Place")
        else:
            words = f"{MARK}{s.file.stem if s.file is not None else ''}"
            s.edit(lambda p, i: name_shot(p, i, dice.choice(s.shots).start, words), "Name")

    doings = [
        *[edit] * 6,
        *[s.undo] * 3,
        s.redo,
        lambda: window.files.save(),
        lambda: window.dialogs.open_paths([dice.choice(two)]),
        lambda: s.step_film(1),
        lambda: window.search.find(),
        lambda: window.search.stop(),
        lambda: window.open_view(dice.choice(("intake", "seams", "board", "rhythm", "turnover"))),
        QApplication.processEvents,
        QApplication.processEvents,
    ]
    window.files.open_project(two[0])
    settled(window, qtbot)
    for _ in range(ACTIONS):
        dice.choice(doings)()
        if s.file is not None:
            _is_whole(s.project, s.file, first[s.file])
        if dice.random() < 0.05:
            settled(window, qtbot)
    settled(window, qtbot)
    opening = s.history
    while s.history.undoable is not None:
        s.undo()
    assert s.history is opening
    assert s.file is not None
    _is_whole(s.project, s.file, first[s.file])
    for path in two:
        _is_whole(open_project(path), path, first[path])
    monkeypatch.setattr(file_dialogs, "ask", lambda *_: buttons.Discard)


def _is_whole(project: Project, file: Path, films: set[str]) -> None:
    """Hold a project to be its own: its films, and no name that was given in the other one."""
    assert {x.media.path for x in project.sources} == films
    named = [s.opening.name for x in project.sources for s in x.seams]
    for name in [*named, *(x.first.name for x in project.sources)]:
        assert not name.startswith(MARK) or name == f"{MARK}{file.stem}"
