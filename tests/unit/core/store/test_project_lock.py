"""One project, two windows: the second is told, and nobody is held by the dead."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from offcut.core.store.project_lock import LockedError, ProjectLock

HOLDER = """
import sys, time
from offcut.core.store.project_lock import ProjectLock
hold = ProjectLock(__import__("pathlib").Path(sys.argv[1]))
print("held", flush=True)
time.sleep(600)
"""


def test_a_project_is_held_by_one_window_at_a_time(tmp_path: Path) -> None:
    file = tmp_path / "film.offcut"
    first = ProjectLock(file)
    with pytest.raises(LockedError, match=r"film\.offcut: is open in another window") as told:
        ProjectLock(file)
    assert told.value.since is not None
    first.release()
    ProjectLock(file).release()
    assert list(tmp_path.iterdir()) == []


def test_a_killed_process_holds_nothing(tmp_path: Path) -> None:
    file = tmp_path / "film.offcut"
    words = [sys.executable, "-c", HOLDER, str(file)]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout is not None
        assert other.stdout.readline() == "held\n"
        with pytest.raises(LockedError):
            ProjectLock(file)
        other.kill()
    ProjectLock(file).release()


def test_where_no_mark_can_be_written_nothing_is_held(tmp_path: Path) -> None:
    hold = ProjectLock(tmp_path / "nowhere" / "film.offcut")
    hold.release()
