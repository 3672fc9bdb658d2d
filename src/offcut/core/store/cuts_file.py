"""Cuts alone as a file: one source's seams, cards, zones and markers for a colleague.

``NAME.cuts.json``: ``format`` is "offcut-cuts", ``version`` as that of the project file; ``film``
names the film (without its folder), ``scenes`` those its cards name, ``source`` holds one source
just as the project file does (docs/project-format.md).
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from offcut.core.errors import ProjectError
from offcut.core.files import write_whole
from offcut.core.model.cuts import Cuts, cuts_of
from offcut.core.model.project import Project
from offcut.core.model.rules import MAX_ID, fault_of_project
from offcut.core.store.document import VERSION, laid_out, source_out, text_bytes
from offcut.core.store.document_in import scenes_in, source_in
from offcut.core.store.migrations import upgraded_cuts
from offcut.core.store.project_file import MAX_BYTES
from offcut.core.store.shapes import UNFIT, plain

FORMAT = "offcut-cuts"
SUFFIX = ".cuts.json"


def cuts_text(project: Project, source_id: int) -> str:
    """Return the cuts of a source as their file's text, without the way to the film."""
    source = project.source(source_id)
    scenes = plain(cuts_of(project, source_id).scenes)
    body = source_out(source, None)
    name = Path(source.media.path).name
    body["media"] |= {"path": name, "near": name}
    head = {"format": FORMAT, "version": VERSION, "film": name, "scenes": scenes}
    return laid_out(head | {"source": body})


def write_cuts(project: Project, source_id: int, path: str | Path) -> Path:
    """Write the cuts alone. Raises ProjectError naming the file."""
    file = Path(path)
    if not file.name.endswith(".json"):
        file = file.with_name(file.name + SUFFIX)
    try:
        write_whole(file, text_bytes(cuts_text(project, source_id)))
    except OSError as error:
        raise ProjectError(f"{file}: cannot be written ({error.strerror})") from error
    return file


def read_cuts(path: str | Path) -> Cuts:
    """Read cuts alone. Raises ProjectError with one sentence naming the file."""
    file = Path(path)
    try:
        if file.stat().st_size > MAX_BYTES:
            raise ProjectError(f"{file}: too large for a file of cuts")
        document: Any = json.loads(file.read_bytes())
    except OSError as error:
        raise ProjectError(f"{file}: cannot be read ({error.strerror})") from error
    except (ValueError, RecursionError) as error:
        raise ProjectError(f"{file}: not a file of cuts, or damaged") from error
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ProjectError(f"{file}: not a file of cuts that Offcut wrote")
    version = document.get("version")
    if not isinstance(version, int) or version < 1:
        raise ProjectError(f"{file}: not a file of cuts that Offcut wrote")
    if version > VERSION:
        raise ProjectError(
            f"{file}: written by a newer Offcut (format {version}, this one reads up to {VERSION})"
        )
    try:
        document = upgraded_cuts(document, version)
        source = source_in(document["source"], None)
        project = Project(sources=(source,), scenes=scenes_in(document), next_id=MAX_ID)
    except UNFIT as error:
        raise ProjectError(f"{file}: damaged cuts ({str(error)[:120]})") from error
    fault = fault_of_project(project)
    if fault:
        raise ProjectError(f"{file}: damaged cuts ({fault})")
    return cuts_of(project, source.id)
