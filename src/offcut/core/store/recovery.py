"""Recovery: unsaved work written aside within a second of each edit, and found again after a fall.

Every running window has one file in the state folder. It goes when the work is saved or given up;
one that is left and whose process is gone is work that can be brought back.
"""

from __future__ import annotations

import contextlib
import json
import os
import uuid
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import platformdirs

from offcut.core.errors import ProjectError
from offcut.core.files import sweep, write_whole
from offcut.core.model.project import Project
from offcut.core.store.document import project_text, text_bytes
from offcut.core.store.document_in import project_from_document
from offcut.core.store.project_file import MAX_BYTES

FORMAT = "offcut-recovery"


def recovery_folder() -> Path:
    """Return the folder that holds the work of running windows."""
    return Path(platformdirs.user_state_path("offcut")) / "recovery"


@dataclass(frozen=True)
class LeftWork:
    """Work that a fallen process left: the project, the film that was looked at, where it was
    saved, and from when it is.
    """

    path: Path
    project: Project
    in_hand: int
    file: Path | None
    when: datetime

    def forget(self) -> None:
        """Give it up."""
        self.path.unlink(missing_ok=True)


class Recovery:
    """The net under one running window; keeps one file."""

    def __init__(self, folder: Path | None = None) -> None:
        self._path = (folder or recovery_folder()) / f"{uuid.uuid4().hex}.json"

    def keep(self, project: Project, file: Path | None, in_hand: int = 0) -> None:
        """Write the work aside, whole or not at all. Raises ProjectError when it cannot be."""
        head = {
            "format": FORMAT,
            "version": 1,
            "process": _this_process(),
            "file": str(file) if file else None,
            "when": datetime.now(UTC).isoformat(timespec="milliseconds"),
        }
        text = f'{json.dumps(head)[:-1]}, "project": {project_text(project, None, in_hand)}}}'
        try:
            self._path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(self._path, text_bytes(text))
        except OSError as error:
            words = f"{self._path.parent}: work cannot be kept for recovery ({error.strerror})"
            raise ProjectError(words) from error

    def clear(self) -> None:
        """The work is saved or given up."""
        self._path.unlink(missing_ok=True)


def left_work(folder: Path | None = None) -> list[LeftWork]:
    """Return the work that fallen processes left, newest first; unreadable files are left out."""
    found: list[LeftWork] = []
    place = folder or recovery_folder()
    sweep(place, "")
    for path in place.glob("*.json") if place.is_dir() else ():
        with contextlib.suppress(Exception):  # whatever is wrong with one, others are offered
            if path.stat().st_size > MAX_BYTES:
                continue
            held = json.loads(path.read_bytes())
            if held["format"] != FORMAT or _runs(held["process"]):
                continue
            file = Path(held["file"]) if isinstance(held["file"], str) else None
            saved = project_from_document(held["project"], path)
            when = datetime.fromisoformat(held["when"])
            when = (when if when.tzinfo is not None else when.replace(tzinfo=UTC)).astimezone()
            found.append(LeftWork(path, saved.project, saved.in_hand, file, when))
    return sorted(found, key=lambda left: left.when, reverse=True)


def _this_process() -> list[int | str]:
    return [os.getpid(), _started(os.getpid()), _boot()]


def _runs(process: object) -> bool:
    """Tell whether the process that wrote a file still runs: same number, start and boot."""
    if not isinstance(process, list) or len(process) != 3 or not isinstance(process[0], int):
        return False
    started = _started(process[0])
    return bool(started) and [started, _boot()] == process[1:]


def _started(pid: int) -> str:
    """Return when a process was started, in ticks since the boot; empty when none runs."""
    try:
        told = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
        return "" if told[0] in ("Z", "X") else told[19]  # dead, and not taken away yet
    except (OSError, IndexError):
        return ""


def _boot() -> str:
    try:
        return Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    except OSError:
        return ""
