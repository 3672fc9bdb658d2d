"""The project file: one JSON document, saved whole or not at all."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import re
import shutil
import tempfile
import time
from pathlib import Path

from offcut.core.errors import ProjectError
from offcut.core.model.project import Project
from offcut.core.store.document import VERSION, project_text
from offcut.core.store.document_in import MAX_SEAMS, project_from_document

MAX_BYTES = 256 << 20
SUFFIX = ".offcut"


def save_project(project: Project, path: str | Path, *, over: str | None = None) -> Path:
    """Write a project whole or not at all, and keep the one before it as a backup.

    ``over`` is the `stamp_of` the file that was read or written last: when another one lies there
    now, ProjectError is raised and nothing is written. Raises ProjectError naming the file also
    when it cannot be written; the old file is then as it was.
    """
    file = Path(path).absolute()
    text = project_text(project, file.parent).encode()
    if over is not None and file.exists() and stamp_of(file) != over:
        raise ProjectError(f"{file}: was changed by someone else since it was opened here")
    try:
        if file.exists():
            _keep_backup(file)
            _keep_older_format(file)
        write_whole(file, text)
    except OSError as error:
        raise ProjectError(f"{file}: cannot be saved ({error.strerror})") from error
    return file


def stamp_of(path: str | Path) -> str:
    """Return a short hash of what a file holds, empty when there is none."""
    try:
        return hashlib.blake2b(Path(path).read_bytes(), digest_size=16).hexdigest()
    except OSError:
        return ""


def backup_of(path: str | Path) -> Path:
    """Return where the project saved before the last one is kept."""
    file = Path(path)
    return file.with_name(f".{file.name}.before")


def _keep_backup(file: Path) -> None:
    """Keep a file under its backup's name as well; it costs no space until it is replaced."""
    aside = file.with_name(f".{file.name}.{os.getpid()}.part")
    aside.unlink(missing_ok=True)
    try:
        os.link(file, aside)
    except OSError:
        shutil.copy2(file, aside)  # a file system without links
    os.replace(aside, backup_of(file))


def _keep_older_format(file: Path) -> None:
    """Keep a project of an older format for good before it is saved in this one."""
    with file.open("rb") as data:
        written = re.search(rb'"version": *(\d{1,6})\b', data.read(200))
    if written is not None and int(written[1]) < VERSION:
        kept = older_format_of(file, int(written[1]))
        if not kept.exists():
            shutil.copy2(file, kept)


def older_format_of(path: str | Path, version: int) -> Path:
    """Return where a project is kept as it was in an older format."""
    file = Path(path)
    return file.with_name(f"{file.stem}.format-{version}{file.suffix}")


def write_whole(file: Path, data: bytes) -> None:
    """Write a file aside, flush it to disk and rename it over the old. Raises OSError."""
    aside: str | None = None
    try:
        sweep(file.parent, f".{file.name}.")
        handle, aside = tempfile.mkstemp(prefix=f".{file.name}.", suffix=".part", dir=file.parent)
        with os.fdopen(handle, "wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
        mode = file.stat().st_mode & 0o777 if file.exists() else 0o666 & ~_umask()
        os.chmod(aside, mode)
        os.replace(aside, file)
        _flush_folder(file.parent)
    except OSError:
        if aside is not None:
            Path(aside).unlink(missing_ok=True)
        raise


def sweep(folder: Path, head: str) -> None:
    """Take away what a process killed while writing left half written, an hour ago or more."""
    with contextlib.suppress(OSError), os.scandir(folder) as there:
        for entry in there:
            if entry.name.startswith(head) and entry.name.endswith(".part"):
                with contextlib.suppress(OSError):
                    if entry.stat().st_mtime < time.time() - 3600:
                        os.unlink(entry.path)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def open_project(path: str | Path) -> Project:
    """Read a project file. Raises ProjectError with one sentence naming the file."""
    file = Path(path)
    try:
        if file.is_dir():
            raise ProjectError(f"{file}: this is a folder, not a project")
        if file.stat().st_size > MAX_BYTES:
            raise ProjectError(f"{file}: too large for a project")
        data = file.read_bytes()
        if data.count(b'"standing"') > MAX_SEAMS:  # told before it takes a gigabyte to read
            raise ProjectError(f"{file}: has more than {MAX_SEAMS:,} seams")
        document = json.loads(data)
    except FileNotFoundError as error:
        raise ProjectError(f"{file}: there is no such file") from error
    except OSError as error:
        raise ProjectError(f"{file}: cannot be read ({error.strerror})") from error
    except (ValueError, RecursionError) as error:
        raise ProjectError(f"{file}: not a project, or damaged") from error
    return project_from_document(document, file)
