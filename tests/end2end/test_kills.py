"""The real window, killed at any instant while it edits, saves, keeps work aside and searches."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from nursery import nursery
from offcut.core.find import find_seams
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source, name_project
from offcut.core.store.project_file import open_project, save_project
from offcut.core.store.recovery import left_work
from projects import FIRST


def edits_in(project: Project) -> int:
    """Return how many edits a project of the worker has seen."""
    return int(project.name.split()[1])


def kill_windows(film: Path, folder: Path, kills: int, at_once: int = 4) -> list[float]:
    """Kill so many windows at work; return for each how old the first edit lost was, seconds.

    0 where none was lost. Asserts that what is left can be opened and is the work of that time.
    """
    rng = random.Random(7)
    opened = open_source(film)
    found = find_seams(opened).seams
    project = add_source(Project(name="edit 0"), opened.media)
    project = name_project(take_found(project, FIRST, found, 0, opened.media.frames), "edit 0")
    lost: list[float] = []
    with nursery("work_in_window", folder) as start:
        for turn in range(0, kills, at_once):
            workers = []
            for n in range(turn, min(kills, turn + at_once)):
                state = folder / f"state-{n}"
                state.mkdir()
                file = save_project(project, state / "film.offcut")
                workers.append((start(state, file, n), state, file))
            for worker, state, file in workers:
                told = [worker.words.readline().strip() for _ in range(rng.randrange(1, 60))]
                last, when = worker.kill()
                times = {int(n): float(t) for n, t in (w.split() for w in (*told, *last))}
                left = left_work(state / "XDG_STATE_HOME/offcut/recovery")
                assert len(left) <= 1
                survived = max(
                    edits_in(p) for p in (open_project(file), *(x.project for x in left))
                )
                assert all(x.file == file and x.project.sources[0].seams for x in left)
                assert survived <= max(times) + 1
                gone = [t for n, t in times.items() if n > survived]
                lost.append(when - min(gone) if gone else 0.0)
    return lost


def test_a_killed_window_loses_a_second_at_most(four_shots: Path, tmp_path: Path) -> None:
    lost = kill_windows(four_shots, tmp_path, 8)
    assert len(lost) == 8
    assert sorted(lost)[len(lost) // 2] < 1.0
    assert max(lost) < 5.0  # a second is asked for; a busy machine may stand still for longer


@pytest.mark.parametrize("state", ["Z", "X"])
def test_the_dead_who_are_not_taken_away_yet_do_not_run(
    state: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    from offcut.core.store import recovery

    line = f"41 (off) cut) {state} " + " ".join(str(n) for n in range(4, 52))
    monkeypatch.setattr(Path, "read_text", lambda *_: line)
    assert recovery._started(41) == ""
