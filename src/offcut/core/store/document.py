"""A project as the document its file holds, as docs/project-format.md describes it."""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from offcut.core.model.card import Card
from offcut.core.model.handover import Handover
from offcut.core.model.project import Order, Project, Scene
from offcut.core.model.run import Run
from offcut.core.model.seam import Seam
from offcut.core.model.source import Media, Source
from offcut.core.model.ticket import Ticket

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
        "scenes": [scene_out(s) for s in project.scenes],
        "orders": [_order_out(o) for o in project.orders],
        "waved": [[[r.source, r.seam] for r in group] for group in project.waved],
        "rulings": [
            {
                "new": [r.new.source, r.new.seam],
                "against": r.against,
                "old": [r.old.source, r.old.seam] if r.old is not None else None,
                "offset": r.offset,
            }
            for r in project.rulings
        ],
        "sources": [source_out(s, folder) for s in project.sources],
        "handovers": [_handover_out(h) for h in project.handovers],
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
            line = seam, _in_json(_seam_out(seam))
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
        "framing": [
            source.framing.left,
            source.framing.top,
            source.framing.right,
            source.framing.bottom,
        ],
        "framed": source.framed.value,
        "ticket": _ticket_out(source.ticket),
        "first": _card_out(source.first),
        "zones": [
            {"start": z.start, "end": z.end, "sensitivity": z.sensitivity} for z in source.zones
        ],
        "markers": [asdict(m) for m in source.markers],
        "seams": source.seams,
    }


def media_out(media: Media, folder: Path | None) -> dict[str, Any]:
    """Return the facts of a film as a document holds them."""
    return {
        "path": media.path,
        "near": os.path.relpath(media.path, folder) if folder else None,
        "rate": f"{media.rate.numerator}/{media.rate.denominator}",
        "frames": media.frames,
        "width": media.width,
        "height": media.height,
        "start": media.start,
        "drop": media.drop,
        "pixel_shape": f"{media.pixel_shape.numerator}/{media.pixel_shape.denominator}",
        "rotation": media.rotation,
        "fingerprint": media.fingerprint,
        "codec": media.codec,
        "run": _run_out(media.run) if media.run else None,
        "fields": media.fields,
    }


def _run_out(run: Run) -> dict[str, Any]:
    return {
        "head": run.head,
        "tail": run.tail,
        "digits": run.digits,
        "first": run.first,
        "last": run.last,
        "missing": [list(gap) for gap in run.missing],
        "holes": run.holes.value,
        "rate_told": run.rate_told,
    }


def _ticket_out(ticket: Ticket) -> dict[str, Any]:
    own = ticket.own_rate
    return {
        "own_rate": f"{own.numerator}/{own.denominator}" if own is not None else None,
        "own_start": ticket.own_start,
        "own_drop": ticket.own_drop,
        "reel": ticket.reel,
        "squeeze": f"{ticket.squeeze.numerator}/{ticket.squeeze.denominator}",
        "display": ticket.display,
        "fields": ticket.fields.value,
        "proxy": ticket.proxy.value,
        "stops": ticket.stops,
        "flash": ticket.flash.value,
        "file_numbers": ticket.file_numbers,
    }


def scene_out(scene: Scene) -> dict[str, Any]:
    """Return a scene as a document holds it."""
    return {
        "id": scene.id,
        "name": scene.name,
        "pattern": scene.pattern.value,
        "tint": scene.tint.value,
    }


def _order_out(order: Order) -> dict[str, Any]:
    return {
        "id": order.id,
        "name": order.name,
        "uses": [
            {
                "id": u.id,
                "source": u.source,
                "seam": u.shot.seam if u.shot is not None else None,
                "start": u.start,
                "end": u.end,
                "name": u.name,
            }
            for u in order.uses
        ],
    }


def _handover_out(handover: Handover) -> dict[str, Any]:
    return {
        "when": handover.when,
        "folder": handover.folder,
        "asked": asdict(handover.asked),
        "files": list(handover.files),
        "seconds": handover.seconds,
    }


def _card_out(card: Card) -> dict[str, Any]:
    original = card.original
    return {
        "name": card.name,
        "note": card.note,
        "set_aside": card.set_aside,
        "scene": card.scene,
        "original": {
            "reel": original.reel,
            "clip": original.clip,
            "start": original.start,
            "at": original.at,
            "drop": original.drop,
            "speed": f"{original.speed.numerator}/{original.speed.denominator}",
            "comments": list(original.comments),
            "file": {
                "path": original.file.path,
                "start": original.file.start,
                "frames": original.file.frames,
                "width": original.file.width,
                "height": original.file.height,
            }
            if original.file is not None
            else None,
        }
        if original
        else None,
    }


def _seam_out(seam: Seam) -> dict[str, Any]:
    return {
        "id": seam.id,
        "frame": seam.frame,
        "start": seam.start,
        "end": seam.end,
        "kind": seam.kind.value,
        "score": seam.score,
        "certainty": seam.certainty.value,
        "standing": seam.standing.value,
        "origin": seam.origin.value,
        "reasons": [
            {"text": r.text, "weight": r.weight, "against": r.against, "code": r.code}
            for r in seam.reasons
        ],
        "opening": _card_out(seam.opening) if seam.opening else None,
        "former": {
            "kind": seam.former.kind.value,
            "before": seam.former.before,
            "after": seam.former.after,
        }
        if seam.former
        else None,
        **_as_found_out(seam),
    }


def _as_found_out(seam: Seam) -> dict[str, Any]:
    known = seam.as_found
    if known is None:
        return {}
    return {"as_found": {"frame": known.frame, "gradual": known.gradual}}
