"""One smoke test on a real X screen, and the demo drawn to a picture."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtGui import QImage

from screens import NO_SCREEN, a_screen

SMOKE = """
import sys
from PySide6.QtCore import QTimer
from offcut.app.shell import main
from offcut.app.shell.window import Window
shown = []
class Brief(Window):
    def showEvent(self, event):
        super().showEvent(event)
        QTimer.singleShot(0, lambda: (shown.append(self.windowHandle() is not None), self.close()))
main.Window = Brief
status = main.run_window()
main.leave(status if shown == [True] else 9)
"""


@pytest.mark.skipif(NO_SCREEN, reason="Xvfb is not installed")
def test_the_window_opens_on_a_real_screen(tmp_path: Path) -> None:
    with a_screen() as screen:
        done = subprocess.run(
            [sys.executable, "-c", SMOKE],
            env=screen | {"XDG_CONFIG_HOME": str(tmp_path)},
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )
    assert done.returncode == 0, done.stderr


def test_the_demo_is_drawn_to_a_picture(tmp_path: Path) -> None:
    picture = tmp_path / "demo.png"
    done = subprocess.run(
        [sys.executable, "-m", "offcut.cli", "demo", "--screenshot", str(picture)],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    image = QImage(str(picture))
    assert (image.width(), image.height()) == (1280, 800)
