"""What is told of a fall of the whole process."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

from offcut.app.shell import error_report

FALLING = """
import faulthandler
from PySide6.QtWidgets import QApplication
from offcut.app.shell.main import watch_over
from offcut.app.shell.window import Window
app = QApplication([])
window = Window()
watch_over(window)
faulthandler._sigsegv()
"""


def test_a_fall_is_written_down_and_told_in_the_report(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    homes = {f"XDG_{n}_HOME": str(tmp_path / n) for n in ("CONFIG", "STATE", "DATA")}
    quiet = {k: v for k, v in os.environ.items() if k != "PYTHONFAULTHANDLER"}
    fell = subprocess.run(
        [sys.executable, "-c", FALLING], env={**quiet, **homes}, capture_output=True, check=False
    )
    assert fell.returncode < 0, fell.stderr
    for name, home in homes.items():
        monkeypatch.setenv(name, home)
    told = error_report.report_text("it fell")
    assert "The last fall:" in told
    assert "Segmentation fault" in told
    assert str(tmp_path) not in told
