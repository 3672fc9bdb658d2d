"""The lock of a project: a second window on one file is told so, on this machine or another.

The mark is a locked file beside the project. The system lets the lock go when its process ends,
however it ends, so nothing is ever held by the dead.
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import json
import os
import socket
from datetime import UTC, datetime
from pathlib import Path

from offcut.core.errors import ProjectError
from offcut.core.files import behind_links, hidden_beside


class LockedError(ProjectError):
    """The project is open in another window; ``since`` tells when that was opened, if known."""

    def __init__(self, file: Path, since: datetime | None, machine: str) -> None:
        where = f" on {machine}" if machine and machine != socket.gethostname() else ""
        super().__init__(f"{file}: is open in another window{where}")
        self.since = since


class ProjectLock:
    """The right to save over one project; `release` gives it back."""

    def __init__(self, file: Path) -> None:
        """Hold a project. Raises HeldError when another window does.

        Where no mark can be written (a folder that is read-only, a file system without locks)
        nothing is held: saving there fails by itself, or is noticed by what the file holds.
        """
        self.file = file.absolute()
        self._mark = hidden_beside(behind_links(self.file), ".open")
        self._handle: int | None = None
        for _ in range(3):  # the mark may be taken away between its opening and its locking
            try:
                handle = os.open(self._mark, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o666)
            except OSError:
                return
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError as error:
                told = _told(handle)
                os.close(handle)
                if error.errno in (errno.EWOULDBLOCK, errno.EACCES):
                    raise LockedError(self.file, *told) from error
                return
            if _same(handle, self._mark):
                self._handle = handle
                self._tell()
                return
            os.close(handle)

    def _tell(self) -> None:
        assert self._handle is not None
        told = {
            "machine": socket.gethostname(),
            "since": datetime.now(UTC).isoformat(timespec="seconds"),
        }
        with contextlib.suppress(OSError):
            os.ftruncate(self._handle, 0)
            os.pwrite(self._handle, json.dumps(told).encode(), 0)

    def release(self) -> None:
        """Let others save over it."""
        if self._handle is not None:
            with contextlib.suppress(OSError):
                self._mark.unlink()
            os.close(self._handle)
            self._handle = None


def _same(handle: int, path: Path) -> bool:
    try:
        return os.path.samestat(os.fstat(handle), path.stat())
    except OSError:
        return False


def _told(handle: int) -> tuple[datetime | None, str]:
    try:
        told = json.loads(os.pread(handle, 1000, 0))
        return datetime.fromisoformat(told["since"]), str(told["machine"])
    except (OSError, ValueError, TypeError, KeyError):
        return None, ""
