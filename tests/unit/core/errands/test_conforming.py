"""A folder of originals looked through."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest

from offcut.core.errands.conforming import rushes_in
from offcut.core.errors import OffcutError


class StopsWhenAsked(threading.Event):
    """Set from the second time on that somebody asks."""

    asked = 0

    def is_set(self) -> bool:
        self.asked += 1
        return self.asked > 1


def test_looking_through_a_folder_ends_once_it_is_stopped(tmp_path: Path) -> None:
    for n in range(2000):
        (tmp_path / f"{n}.mov").write_bytes(b"no film")
    stop = StopsWhenAsked()
    with pytest.raises(OffcutError, match="stopped"):
        rushes_in([tmp_path], stop=stop)
    assert stop.asked < 20
