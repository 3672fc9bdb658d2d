"""A report for the makers: versions and the end of the log, without pictures and private paths."""

from __future__ import annotations

import platform
import re
from pathlib import Path

import av
import platformdirs
from PySide6.QtCore import qVersion

from offcut import __version__

LINES = 200
_PATH = re.compile(r"(?:file://)?(?:~|\.{0,2})/(?:[^\s/'\":;,<>|]+(?: [^\s/'\":;,<>|]+)*/)+")


def log_file() -> Path:
    """Return where the log is written."""
    return Path(platformdirs.user_state_path("offcut")) / "offcut.log"


def fall_file() -> Path:
    """Return where a fall of the whole process is written: what each thread did then."""
    return log_file().with_name("fall.txt")


def report_text(what: str) -> str:
    """Return a report on something that went wrong, for a person to send."""
    head = [
        f"Offcut {__version__}: {without_folders(what)}",
        f"Python {platform.python_version()}, Qt {qVersion()}, PyAV {av.__version__}",
        f"{platform.system()} {platform.release()} {platform.machine()}",
        "",
    ]
    lines = _end_of(log_file()) or ["(no log)"]
    fell = _end_of(fall_file())
    if fell:
        lines += ["", "The last fall:", *fell]
    return "\n".join([*head, *(without_folders(line) for line in lines)]) + "\n"


def _end_of(file: Path) -> list[str]:
    try:
        return file.read_text("utf-8", "replace").splitlines()[-LINES:]
    except OSError:
        return []


def without_folders(text: str) -> str:
    """Leave out the folders of every path; the names of files stay."""
    return _PATH.sub("", text)
