"""A project as the document its file holds, as docs/project-format.md describes it."""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from offcut.core.model.project import Project
from offcut.core.model.seam import Seam
from offcut.core.model.source import Media, Source
from offcut.core.store.shapes import plain

FORMAT = "offcut-project"
VERSION = 8


def project_text(
    project: Project,
    folder: Path | None = None,
    in_hand: int = 0,
    waiting: Sequence[int] = (),
) -> str:
    """Return a project as its file's text; equal projects give equal text.

    ``folder`` is where the file will lie, so that media can be named relative to it as well;
    ``in_hand`` the id of the film that is looked at, to open on it again; ``waiting`` those whose
    seams are to be found, in order.
    """
    document = {
        "format": FORMAT,
        "version": VERSION,
        "name": project.name,
        "record_start": project.record_start,
        "in_hand": in_hand or None,
        "waiting": list(waiting),
        "next_id": project.next_id,
        "scenes": plain(project.scenes),
        "orders": plain(project.orders),
        "waved": [plain(group) for group in project.waved],
        "rulings": plain(project.rulings),
        "sources": [source_out(s, folder) for s in project.sources],
        "handovers": plain(project.handovers),
    }
    return laid_out(document)


def text_bytes(text: str) -> bytes:
    """Return a document's text as its file's bytes.

    Names of files that are no UTF-8 hold single surrogates; they pass, both ways.
    """
    return text.encode("utf-8", "surrogatepass")


def laid_out(document: dict[str, Any]) -> str:
    """Return a document as text: indented, but each seam, marker and the like on one line.

    A change to one seam is then one line of difference. A tuple holds seams as they are.
    """
    global _told
    known = _told
    now: _Lines = {}

    def lines(value: Any, depth: int, name: str) -> str:
        inner = "\n" + " " * (depth + 1)
        if isinstance(value, dict) and value and name != "item":
            parts = (f"{_in_json(k)}: {lines(v, depth + 1, k)}" for k, v in value.items())
            return f"{{{inner}{f',{inner}'.join(parts)}\n{' ' * depth}}}"
        if isinstance(value, list) and value and name in _LISTS:
            below = "source" if name == "sources" else "item"
            parts = (lines(v, depth + 1, below) for v in value)
            return f"[{inner}{f',{inner}'.join(parts)}\n{' ' * depth}]"
        if isinstance(value, tuple) and value:
            return f"[{inner}{f',{inner}'.join(_seam_lines(value, known, now))}\n{' ' * depth}]"
        return _in_json(value)

    text = lines(document, 0, "") + "\n"
    _told = now
    return text


_LISTS = ("sources", "zones", "markers", "handovers", "scenes", "orders", "waved", "rulings")

_in_json = json.JSONEncoder(ensure_ascii=False, allow_nan=False).encode
_Lines = dict[int, tuple[Seam, str]]
_told: _Lines = {}
"""The seams of the last document and their lines, by identity.

Work is written aside after every edit, and an edit changes few of thousands of seams.
"""


def _seam_lines(seams: Sequence[Seam], known: _Lines, now: _Lines) -> list[str]:
    """Return each seam as a line, one that is known as it was; ``now`` takes them all."""
    lines = []
    for seam in seams:
        line = known.get(id(seam))
        if line is None or line[0] is not seam:
            line = seam, _in_json(plain(seam))
        now[id(seam)] = line
        lines.append(line[1])
    return lines


def source_out(source: Source, folder: Path | None) -> dict[str, Any]:
    """Return a source as `laid_out` takes it."""
    return {
        "id": source.id,
        "media": media_out(source.media, folder),
        "range": [source.start, source.end],
        "sensitivity": source.sensitivity,
        "searched": source.searched,
        "framing": plain(source.framing),
        "framed": source.framed.value,
        "ticket": plain(source.ticket),
        "first": plain(source.first),
        "zones": plain(source.zones),
        "markers": plain(source.markers),
        "seams": source.seams,
    }


def media_out(media: Media, folder: Path | None) -> dict[str, Any]:
    """Return the facts of a film as a document holds them."""
    facts: dict[str, Any] = plain(media)
    return facts | {"near": os.path.relpath(media.path, folder) if folder else None}
