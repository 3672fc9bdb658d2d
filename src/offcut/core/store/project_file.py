"""The project file: one JSON document, saved whole or not at all."""

from __future__ import annotations

import hashlib
import json
import os
import re
import shutil
from collections.abc import Sequence
from pathlib import Path

from offcut.core.errors import ProjectError
from offcut.core.files import behind_links, hidden_beside, write_whole
from offcut.core.model.project import Project
from offcut.core.model.rules import MAX_SEAMS, fault_of_project
from offcut.core.store.document import VERSION, project_text, text_bytes
from offcut.core.store.document_in import SavedProject, project_from_document

MAX_BYTES = 256 << 20
SUFFIX = ".offcut"


def save_project(
    project: Project,
    path: str | Path,
    *,
    over: str | None = None,
    in_hand: int = 0,
    waiting: Sequence[int] = (),
) -> Path:
    """Write a project whole or not at all, and keep the one before it as a backup.

    ``in_hand`` is the film that is looked at, to open on it again, ``waiting`` those whose seams
    are still to be found. ``over`` is the `stamp_of` the file that was read or written last: when
    another one lies there now, ProjectError is raised and nothing is written. Raises ProjectError
    naming the file also when it cannot be written, or holds what could not be read again; the old
    file is then as it was.
    """
    named = Path(path).absolute()
    file = behind_links(named)
    fault = fault_of_project(project)
    if fault:
        raise ProjectError(f"{named}: not saved, for it could not be opened again ({fault})")
    text = text_bytes(project_text(project, file.parent, in_hand, waiting))
    if over is not None and file.exists() and stamp_of(file) != over:
        raise ProjectError(f"{named}: was changed by someone else since it was opened here")
    try:
        if file.exists():
            _keep_backup(file)
            _keep_older_format(file)
        write_whole(file, text)
    except OSError as error:
        raise ProjectError(f"{named}: cannot be saved ({error.strerror})") from error
    return named


def stamp_of(path: str | Path) -> str:
    """Return a short hash of what a file holds, empty when there is none."""
    try:
        return hashlib.blake2b(Path(path).read_bytes(), digest_size=16).hexdigest()
    except OSError:
        return ""


def backup_of(path: str | Path) -> Path:
    """Return where the project saved before the last one is kept."""
    return hidden_beside(behind_links(Path(path)), ".before")


def _keep_backup(file: Path) -> None:
    """Keep a file under its backup's name as well; it costs no space until it is replaced."""
    aside = hidden_beside(file, f".{os.getpid()}.part")
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
    file, end = behind_links(Path(path)), f".format-{version}"
    return file.with_name(f"{file.stem[:200]}{end}{file.suffix}")


def open_project(path: str | Path) -> Project:
    """Read a project. Raises ProjectError with one sentence naming the file."""
    return read_project(path).project


def read_project(path: str | Path) -> SavedProject:
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
    return project_from_document(document, behind_links(file.absolute()))
