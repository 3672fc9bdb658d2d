"""Migrations: documents of older project formats brought to the present one, step by step.

They work on the plain document, before anything in it is trusted: what has the wrong shape raises
KeyError, TypeError or ValueError, as reading it would.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from offcut.core.model.scene_look import Pattern, Tint, next_look

Document = dict[str, Any]


def upgraded(document: Document, version: int) -> Document:
    """Return a project's document as the present version writes it."""
    for step in _STEPS[version - 1 :]:
        document = step(document)
    return document


def upgraded_cuts(document: Document, version: int) -> Document:
    """Return the document of a file of cuts as the present version writes it."""
    if version >= 8:
        return document
    document = _cuts_of_five(document, version)
    source = document["source"]
    if version < 6:
        source = _with_plain_markers(source)
    return document | {"source": _with_fields(source)}


def _cuts_of_five(document: Document, version: int) -> Document:
    if version >= 5:
        return document
    document = document | {"scenes": _with_looks(document["scenes"])} if version > 2 else document
    if version == 4:
        return document
    source = dict(document["source"])
    if version < 3:
        names: dict[str, int] = {}
        source["id"] = 1
        _name_scenes(source, names, 2)
        document = document | {"scenes": _with_looks(_scenes(names))}
    return document | {"source": _with_ticket(source)}


def _to_two(document: Document) -> Document:
    """Format 1 knew nothing of lists that come in (the originals of shots) nor of hand-overs."""
    return document | {"handovers": []}


def _to_three(document: Document) -> Document:
    """Format 2 knew sources by their place, scenes by their names, and no running orders."""
    next_id = int(document["next_id"])
    sources = [dict(source) for source in document["sources"]]
    for source in sources:
        ids = [int(s["id"]) for s in source["seams"]] + [int(m["id"]) for m in source["markers"]]
        next_id = max([next_id, *(i + 1 for i in ids)])
    for source in sources:
        source["id"] = next_id
        next_id += 1
    names: dict[str, int] = {}
    for source in sources:
        next_id = _name_scenes(source, names, next_id)
    current = int(document["current"])
    if sources and not 0 <= current < len(sources):
        raise ValueError("current is out of range")
    bench = sources[current] if sources else None
    return document | {
        "in_hand": bench["id"] if bench else None,
        "next_id": next_id,
        "sources": sources,
        "scenes": _scenes(names),
        "orders": [],
        "handovers": [_handover(h, bench, names) for h in document["handovers"]],
    }


def _scenes(names: dict[str, int]) -> list[Document]:
    return [{"id": scene_id, "name": name} for name, scene_id in names.items()]


def _name_scenes(source: Document, names: dict[str, int], next_id: int) -> int:
    """Put ids in place of the scenes' names in a source; return the next free id."""

    def card(value: Any) -> Any:
        nonlocal next_id
        if value is None:
            return None
        name = value.get("scene", "")
        if not isinstance(name, str):
            raise TypeError("scene is not text")
        if name and name not in names:
            names[name] = next_id
            next_id += 1
        return dict(value) | {"scene": names.get(name, 0)}

    source["first"] = card(source["first"])
    source["seams"] = [dict(s) | {"opening": card(s["opening"])} for s in source["seams"]]
    return next_id


def _handover(handover: Any, bench: Document | None, names: dict[str, int]) -> Document:
    """Return a hand-over whose shots are known by the seams that open them."""
    asked = dict(handover["asked"])
    chosen = [int(frame) for frame in asked.get("chosen", [])]
    openers: dict[int, int] = {}
    if bench is not None:
        openers = {int(s["frame"]): int(s["id"]) for s in bench["seams"]}
        openers[int(bench["range"][0])] = 0
    asked["chosen"] = [openers[frame] for frame in chosen if frame in openers]
    asked["scene"] = names.get(str(asked.get("scene", "")), 0)
    asked["source"] = bench["id"] if bench else 0
    return dict(handover) | {"asked": asked}


def _to_four(document: Document) -> Document:
    """Format 3 knew no tickets, no runs of stills, and framings set by hand alone."""
    sources = [_with_ticket(dict(source)) for source in document["sources"]]
    return document | {"sources": sources, "waiting": []}


def _with_ticket(source: Document) -> Document:
    media = dict(source["media"]) | {"codec": "", "run": None}
    ticket = {
        "own_rate": None,
        "own_start": None,
        "own_drop": False,
        "reel": "",
        "squeeze": "1/1",
        "display": "",
        "fields": "",
        "proxy": "slow",
        "stops": False,
        "flash": "split",
        "file_numbers": False,
    }
    return source | {"media": media, "framed": "set", "ticket": ticket}


def _to_five(document: Document) -> Document:
    """Format 4 knew no looks of scenes, and running orders as shots without ids."""
    next_id = int(document["next_id"])
    ids = [int(o["id"]) for o in document["orders"]]
    ids += [int(s["id"]) for s in document["scenes"]]
    for source in document["sources"]:
        ids += [int(source["id"]), *(int(s["id"]) for s in source["seams"])]
        ids += [int(m["id"]) for m in source["markers"]]
    next_id = max([next_id, *(i + 1 for i in ids)])
    orders = []
    for order in document["orders"]:
        uses = []
        for ref in order["shots"]:
            plain = {"id": next_id, "start": None, "end": None, "name": ""}
            uses.append(plain | {"source": ref["source"], "seam": ref["seam"]})
            next_id += 1
        orders.append({"id": order["id"], "name": order["name"], "uses": uses})
    return document | {
        "next_id": next_id,
        "scenes": _with_looks(document["scenes"]),
        "orders": orders,
        "waved": [],
    }


def _with_looks(scenes: list[Document]) -> list[Document]:
    """Give scenes the looks they would have got one after another."""
    looks: list[tuple[Pattern, Tint]] = []
    for _ in scenes:
        looks.append(next_look(looks))
    return [
        dict(scene) | {"pattern": pattern.value, "tint": tint.value}
        for scene, (pattern, tint) in zip(scenes, looks, strict=True)
    ]


def _to_six(document: Document) -> Document:
    """Format 5 knew no colours of markers."""
    return document | {"sources": [_with_plain_markers(s) for s in document["sources"]]}


def _with_plain_markers(source: Document) -> Document:
    return source | {"markers": [dict(m) | {"colour": ""} for m in source["markers"]]}


def _to_seven(document: Document) -> Document:
    """Format 6 knew nothing of versions, nor of the files of originals."""
    return document | {"rulings": []}


def _to_eight(document: Document) -> Document:
    """Format 7 did not say which field comes first, and knew no whips."""
    return document | {"sources": [_with_fields(s) for s in document["sources"]]}


def _with_fields(source: Document) -> Document:
    return source | {"media": dict(source["media"]) | {"fields": ""}}


_STEPS: tuple[Callable[[Document], Document], ...] = (
    _to_two,
    _to_three,
    _to_four,
    _to_five,
    _to_six,
    _to_seven,
    _to_eight,
)
"""What brings format 1 to 2, 2 to 3 and so on: a new format is a step at the end."""
