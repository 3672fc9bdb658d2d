"""Cuts alone as a file: one source's seams, words, zones and markers for a colleague.

``NAME.cuts.json``: ``format`` is "offcut-cuts", ``version`` 2; ``film`` names the film (without
its folder), ``source`` holds one source just as the project file does (docs/project-format.md).
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from offcut.core.errors import ProjectError
from offcut.core.model.cuts import Cuts, cuts_of
from offcut.core.model.project import Source
from offcut.core.store.document import VERSION, laid_out, source_out
from offcut.core.store.document_in import UNFIT, source_in
from offcut.core.store.project_file import MAX_BYTES, write_whole

FORMAT = "offcut-cuts"
SUFFIX = ".cuts.json"


def cuts_text(source: Source) -> str:
    """Return the cuts of a source as their file's text, without the way to the film."""
    body = source_out(source, None)
    name = Path(source.media.path).name
    body["media"] |= {"path": name, "near": name}
    document = {"format": FORMAT, "version": VERSION, "film": name, "source": body}
    return laid_out(document)


def write_cuts(source: Source, path: str | Path) -> Path:
    """Write the cuts alone. Raises ProjectError naming the file."""
    file = Path(path)
    if not file.name.endswith(".json"):
        file = file.with_name(file.name + SUFFIX)
    try:
        write_whole(file, cuts_text(source).encode())
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
    if isinstance(version, int) and version > VERSION:
        raise ProjectError(
            f"{file}: written by a newer Offcut (format {version}, this one reads up to {VERSION})"
        )
    try:
        return cuts_of(source_in(document["source"], None))
    except UNFIT as error:
        raise ProjectError(f"{file}: damaged cuts ({str(error)[:120]})") from error
