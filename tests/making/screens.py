"""A screen of its own for a program that draws (Xvfb)."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

NO_SCREEN = shutil.which("Xvfb") is None


@contextmanager
def a_screen(size: str = "1280x800") -> Iterator[dict[str, str]]:
    """Yield what a program on a screen of its own is given as its environment."""
    with contextlib.suppress(OSError):  # a fresh machine may lack the sockets' folder
        Path("/tmp/.X11-unix").mkdir(mode=0o1777, exist_ok=True)
    read, write = os.pipe()
    with subprocess.Popen(
        [
            "Xvfb",
            "-displayfd",
            str(write),
            "-screen",
            "0",
            f"{size}x24",
            "-nolisten",
            "tcp",
            "-noreset",
        ],  # else it begins anew as its last client goes, and refuses the next meanwhile
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    ) as server:
        os.close(write)
        with os.fdopen(read) as said:
            number = said.readline().strip()
        try:
            yield {**os.environ, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb"}
        finally:
            server.terminate()
