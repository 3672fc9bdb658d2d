"""One smoke test on a real X screen, and the demo drawn to a picture."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtGui import QImage

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
sys.exit(status if shown == [True] else 9)
"""


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="Xvfb is not installed")
def test_the_window_opens_on_a_real_screen(tmp_path: Path) -> None:
    with contextlib.suppress(OSError):  # a fresh machine may lack the sockets' folder
        Path("/tmp/.X11-unix").mkdir(mode=0o1777, exist_ok=True)
    read, write = os.pipe()
    with subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.PIPE,
    ) as screen:
        os.close(write)
        with os.fdopen(read) as said:
            number = said.readline().strip()
        try:
            env = {
                **os.environ,
                "DISPLAY": f":{number}",
                "QT_QPA_PLATFORM": "xcb",
                "XDG_CONFIG_HOME": str(tmp_path),
            }
            done = subprocess.run(
                [sys.executable, "-c", SMOKE],
                env=env,
                capture_output=True,
                text=True,
                timeout=60,
                check=False,
            )
        finally:
            screen.terminate()
        assert screen.stderr is not None
        assert done.returncode == 0, (number, screen.stderr.read(), done.stderr)


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
