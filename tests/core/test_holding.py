"""One project, two windows: the second is told, and nobody is held by the dead."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from offcut.core.store.holding import HeldError, Hold

HOLDER = """
import sys, time
from offcut.core.store.holding import Hold
hold = Hold(__import__("pathlib").Path(sys.argv[1]))
print("held", flush=True)
time.sleep(600)
"""


def test_a_project_is_held_by_one_window_at_a_time(tmp_path: Path) -> None:
    file = tmp_path / "film.offcut"
    first = Hold(file)
    with pytest.raises(HeldError, match=r"film\.offcut: is open in another window") as told:
        Hold(file)
    assert told.value.since is not None
    first.release()
    Hold(file).release()
    assert list(tmp_path.iterdir()) == []


def test_a_killed_process_holds_nothing(tmp_path: Path) -> None:
    file = tmp_path / "film.offcut"
    words = [sys.executable, "-c", HOLDER, str(file)]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout is not None
        assert other.stdout.readline() == "held\n"
        with pytest.raises(HeldError):
            Hold(file)
        other.kill()
    Hold(file).release()


def test_where_no_mark_can_be_written_nothing_is_held(tmp_path: Path) -> None:
    hold = Hold(tmp_path / "nowhere" / "film.offcut")
    hold.release()
