"""The real window, killed at any instant while it edits, saves, searches and hands over."""

from __future__ import annotations

import random
from fractions import Fraction
from pathlib import Path

import cv2
import pytest

from nursery import nursery
from offcut.core.errands.seams import find_seams
from offcut.core.files import unsealed
from offcut.core.lists.registry import read_list
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


def whole_files(state: Path) -> int:
    """Hold what a killed window wrote last to be whole, and count all of it.

    Lists, movies, stills, proxies, and what is kept of films; what was being written is hidden.
    """
    made = [f for f in (state / "out").rglob("*") if f.is_file() and not f.name.startswith(".")]
    count = len(made)
    for file in sorted(made, key=lambda f: f.stat().st_mtime_ns)[-12:]:
        if file.suffix in (".edl", ".otio"):
            assert read_list(file, Fraction(25)).events, file
        elif file.suffix == ".png":
            assert cv2.imread(str(file)) is not None, file
        else:
            assert open_source(file).media.frames, file
    for piece in (state / "XDG_CACHE_HOME").rglob("proxies/*/*.mp4"):
        if not piece.name.startswith("."):
            first, _, last = piece.stem.partition("-")
            assert open_source(piece).media.frames == int(last) - int(first), piece
            count += 1
    for kept in (state / "XDG_CACHE_HOME/offcut").glob("[is]*/**/*.npz"):  # indexes and signals
        unsealed(kept.read_bytes())
        count += 1
    return count


def kill_windows(
    film: Path, folder: Path, kills: int, at_once: int = 4, most: int = 60
) -> tuple[list[float], int]:
    """Kill so many windows at work, each after ``most`` edits at most, and look at what they leave.

    Returns for each how old the first edit lost was, in seconds and 0 where none was, and how many
    files were found that were handed over or kept. Asserts that
    what is left can be opened and is the work of that time.
    """
    rng = random.Random(7)
    opened = open_source(film)
    found = find_seams(opened).seams
    project = add_source(Project(name="edit 0"), opened.media)
    project = name_project(take_found(project, FIRST, found, 0, opened.media.frames), "edit 0")
    lost: list[float] = []
    counted: list[int] = []
    with nursery("work_in_window", folder) as start:
        for turn in range(0, kills, at_once):
            workers = []
            for n in range(turn, min(kills, turn + at_once)):
                state = folder / f"state-{n}"
                state.mkdir()
                file = save_project(project, state / "film.offcut")
                workers.append((start(state, file, n), state, file))
            for worker, state, file in workers:
                told = [worker.words.readline().strip() for _ in range(rng.randrange(1, most))]
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
                counted.append(whole_files(state))
                lost.append(when - min(gone) if gone else 0.0)
    return lost, sum(counted)


def test_a_killed_window_loses_a_second_at_most(four_shots: Path, tmp_path: Path) -> None:
    lost, files = kill_windows(four_shots, tmp_path, 6, most=40)
    assert len(lost) == 6
    assert files > 6
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
