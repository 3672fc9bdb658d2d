"""Large libraries, loaded on a thread of their own."""

from __future__ import annotations

import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from offcut.core.machine.loading import loaded_apart

SLOW = """
import sys
half, go_on = sys.offcut_gate
half.set()
assert go_on.wait(20)
WHOLE = True
"""


def test_who_asks_while_another_loads_gets_the_whole_module(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "slow_library.py").write_text(SLOW)
    half, go_on = threading.Event(), threading.Event()
    monkeypatch.syspath_prepend(tmp_path)
    monkeypatch.setattr(sys, "offcut_gate", (half, go_on), raising=False)

    def ask() -> Any:
        return loaded_apart("slow_library").WHOLE

    with ThreadPoolExecutor(2) as threads:
        first = threads.submit(ask)
        assert half.wait(20)
        second = threads.submit(ask)
        assert not second.done()
        go_on.set()
        assert first.result(20)
        assert second.result(20)
    sys.modules.pop("slow_library")
