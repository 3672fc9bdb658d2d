"""What is carried when shots are dragged: their names, never the shots themselves."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QByteArray, QMimeData

from offcut.core.model.project import ShotRef

KIND = "application/x-offcut-shots"


@dataclass(frozen=True)
class Dragged:
    """Shots, and the places of a running order they were taken from (none elsewhere)."""

    refs: tuple[ShotRef, ...]
    uses: tuple[int, ...] = ()


def packed(refs: Sequence[ShotRef], uses: Sequence[int] = ()) -> QMimeData:
    """Return what is carried as data of a drag."""
    mime = QMimeData()
    text = json.dumps({"shots": [[r.source, r.seam] for r in refs], "uses": list(uses)})
    mime.setData(KIND, QByteArray(text.encode()))
    return mime


def unpacked(mime: QMimeData) -> Dragged | None:
    """Return what a drag carries, None for anything else."""
    if not mime.hasFormat(KIND):
        return None
    try:
        held = json.loads(bytes(mime.data(KIND).data()))
        refs = tuple(ShotRef(int(a), int(b)) for a, b in held["shots"])
        return Dragged(refs, tuple(int(u) for u in held["uses"]))
    except (ValueError, KeyError, TypeError):
        return None
