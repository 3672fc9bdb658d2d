"""Reading a document back into a project: everything in it is distrusted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from enum import StrEnum
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

from offcut.core.errors import ProjectError
from offcut.core.model.card import Card, Original, OriginalFile
from offcut.core.model.handover import Asked, Handover
from offcut.core.model.project import Order, OrderUse, Project, Ruling, Scene, ShotRef
from offcut.core.model.rules import (
    FRACTION_LONG,
    MAX_FRAME,
    MAX_HANDOVERS,
    MAX_HOLES,
    MAX_ID,
    MAX_NUMBER,
    MAX_REASONS,
    MAX_SEAMS,
    MAX_SOURCES,
    MAX_SPEED,
    MOST_COMMENTS,
    MOST_LONG,
    fault_of_project,
)
from offcut.core.model.run import Holes, Run
from offcut.core.model.scene_look import Pattern, Tint
from offcut.core.model.seam import AsFound, Certainty, Former, Kind, Origin, Reason, Seam, Standing
from offcut.core.model.source import (
    WHOLE,
    Framed,
    Framing,
    Marker,
    MarkerColour,
    Media,
    Source,
    Zone,
)
from offcut.core.model.ticket import Fields, Flash, ProxyUse, Ticket
from offcut.core.store.document import FORMAT, VERSION
from offcut.core.store.migrations import upgraded

_E = TypeVar("_E", bound=StrEnum)

UNFIT = (KeyError, TypeError, ValueError, IndexError, AttributeError, OverflowError, OSError)
"""What reading a document of the wrong shape may raise."""


class SavedProject(NamedTuple):
    """What a project file holds.

    The project, the film that was looked at (0 for none), and those whose seams were to be found.
    """

    project: Project
    in_hand: int
    waiting: tuple[int, ...] = ()


def project_from_document(document: Any, file: Path) -> SavedProject:
    """Return what a file's document holds. Raises ProjectError naming the file."""
    try:
        saved = _project_in(document, file)
    except ProjectError:
        raise
    except UNFIT as error:
        raise ProjectError(f"{file}: damaged project ({_place(error)})") from error
    fault = fault_of_project(saved.project)
    if fault:
        raise ProjectError(f"{file}: damaged project ({fault})")
    return saved


def _place(error: Exception) -> str:
    if isinstance(error, KeyError):
        return f"{error.args[0]} is missing"
    if isinstance(error, OSError):
        return "the way to a film makes no sense"
    return str(error)[:120] or "something has the wrong shape"


def _project_in(document: Any, file: Path) -> SavedProject:
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ProjectError(f"{file}: not an Offcut project")
    version = int_in(document, "version", 1, 10**9)
    if version > VERSION:
        raise ProjectError(
            f"{file}: written by a newer Offcut (format {version}, this one reads up to {VERSION})"
        )
    document = upgraded(document, version)
    sources = tuple(source_in(s, file) for s in list_in(document, "sources", MAX_SOURCES))
    scenes = scenes_in(document)
    orders = tuple(_order_in(o) for o in list_in(document, "orders", MAX_SEAMS))
    ids = [s.id for s in sources] + [s.id for s in scenes] + [o.id for o in orders]
    ids += [s.id for source in sources for s in source.seams]
    ids += [m.id for source in sources for m in source.markers]
    ids += [u.id for order in orders for u in order.uses]
    project = Project(
        name=str_in(document, "name"),
        sources=sources,
        scenes=scenes,
        orders=orders,
        record_start=str_in(document, "record_start"),
        next_id=max(int_in(document, "next_id", 1, MAX_ID), max(ids, default=0) + 1),
        handovers=tuple(_handover_in(h) for h in list_in(document, "handovers", MAX_HANDOVERS)),
        waved=_waved_in(document),
        rulings=tuple(_ruling_in(r) for r in list_in(document, "rulings", MAX_SEAMS)),
    )
    in_hand = document["in_hand"]
    known = isinstance(in_hand, int) and project.holds(in_hand)
    waiting = tuple(
        i for i in list_in(document, "waiting", MAX_SOURCES) if isinstance(i, int) and i in ids
    )
    return SavedProject(project, in_hand if known else 0, waiting)


def scenes_in(document: Any) -> tuple[Scene, ...]:
    """Return the scenes of a document. Raises one of UNFIT."""
    return tuple(
        Scene(
            int_in(s, "id", 1, MAX_ID),
            str_in(s, "name"),
            _one_of(Pattern, s["pattern"]),
            _one_of(Tint, s["tint"]),
        )
        for s in list_in(document, "scenes", MAX_SEAMS)
    )


def _order_in(value: Any) -> Order:
    uses = tuple(_use_in(u) for u in list_in(value, "uses", MAX_SEAMS))
    return Order(int_in(value, "id", 1, MAX_ID), str_in(value, "name"), uses)


def _use_in(value: Any) -> OrderUse:
    source = int_in(value, "source", 0, MAX_ID)
    start, end = (
        None if value[k] is None else int_in(value, k, 0, MAX_FRAME) for k in ("start", "end")
    )
    piece = value["seam"] is None
    ref = None if piece else ShotRef(source, int_in(value, "seam", 0, MAX_ID))
    return OrderUse(int_in(value, "id", 1, MAX_ID), source, ref, start, end, str_in(value, "name"))


def _waved_in(document: Any) -> tuple[tuple[ShotRef, ...], ...]:
    groups = list_in(document, "waved", MAX_SEAMS)
    return tuple(tuple(ShotRef(int(a), int(b)) for a, b in group) for group in groups)


def _ruling_in(value: Any) -> Ruling:
    new, old, offset = value["new"], value["old"], value["offset"]
    return Ruling(
        ShotRef(int(new[0]), int(new[1])),
        int_in(value, "against", 1, MAX_ID),
        None if old is None else ShotRef(int(old[0]), int(old[1])),
        None if offset is None else int_in(value, "offset", -MAX_FRAME, MAX_FRAME),
    )


def _handover_in(value: Any) -> Handover:
    asked = dict_in(value, "asked")
    plain = Asked()
    given: dict[str, Any] = {}
    for field in fields(Asked):
        usual = getattr(plain, field.name)
        if field.name not in asked:
            continue
        if isinstance(usual, bool):
            given[field.name] = bool(asked[field.name])
        elif isinstance(usual, int):
            given[field.name] = int_in(asked, field.name, 0, MAX_ID)
        elif isinstance(usual, str):
            given[field.name] = str_in(asked, field.name)
        elif field.name == "picked":
            pairs = list_in(asked, "picked", MAX_SEAMS // 2 - 3)
            given["picked"] = tuple((int(a), int(b)) for a, b in pairs)
        elif field.name == "chosen":
            given["chosen"] = tuple(int(n) for n in list_in(asked, "chosen", MAX_SEAMS - 3))
        else:
            given[field.name] = tuple(str(n) for n in list_in(asked, field.name, 100))
    return Handover(
        when=str_in(value, "when"),
        folder=str_in(value, "folder"),
        asked=Asked(**given),
        files=tuple(str(n) for n in list_in(value, "files", MAX_SEAMS)),
        seconds=_number(value, "seconds", 0, 1e9),
    )


def source_in(value: Any, file: Path | None) -> Source:
    """Return a source from the document of ``file``. Raises one of UNFIT."""
    media = media_in(dict_in(value, "media"), file)
    start, end = (int(n) for n in list_in(value, "range", 2))
    framing = _framing_in(value) if "framing" in value else WHOLE
    seams = tuple(seam_in(s) for s in list_in(value, "seams", MAX_SEAMS))
    return Source(
        id=int_in(value, "id", 1, MAX_ID),
        media=media,
        start=start,
        end=end,
        seams=tuple(sorted(seams, key=lambda s: (s.frame, s.id))),
        zones=tuple(
            Zone(
                int_in(z, "start", 0, MAX_FRAME),
                int_in(z, "end", 0, MAX_FRAME),
                None if z["sensitivity"] is None else int_in(z, "sensitivity", 0, 100),
            )
            for z in list_in(value, "zones", MAX_SEAMS)
        ),
        markers=tuple(
            sorted(
                (marker_in(m) for m in list_in(value, "markers", MAX_SEAMS)),
                key=lambda m: (m.start, m.end, m.id),
            )
        ),
        sensitivity=int_in(value, "sensitivity", 0, 100),
        first=card_in(value["first"]),
        searched=bool(value["searched"]),
        framing=framing,
        framed=_one_of(Framed, value["framed"]),
        ticket=_ticket_in(dict_in(value, "ticket")),
    )


def _ticket_in(value: Mapping[str, Any]) -> Ticket:
    rate, start, stops = value["own_rate"], value["own_start"], value["stops"]
    return Ticket(
        own_rate=None if rate is None else _fraction(value, "own_rate"),
        own_start=None if start is None else int_in(value, "own_start", -MAX_FRAME, MAX_FRAME),
        own_drop=bool(value["own_drop"]),
        reel=str_in(value, "reel"),
        squeeze=_fraction(value, "squeeze"),
        display=str_in(value, "display"),
        fields=_one_of(Fields, value["fields"]),
        proxy=_one_of(ProxyUse, value["proxy"]),
        stops=None if stops is None else bool(stops),
        flash=_one_of(Flash, value["flash"]),
        file_numbers=bool(value["file_numbers"]),
    )


def _run_in(value: Any) -> Run | None:
    if value is None:
        return None
    missing = [(int(a), int(b)) for a, b in list_in(value, "missing", MAX_HOLES)]
    return Run(
        head=str_in(value, "head"),
        tail=str_in(value, "tail"),
        digits=int_in(value, "digits", 1, 30),
        first=int_in(value, "first", 0, MAX_NUMBER),
        last=int_in(value, "last", 0, MAX_NUMBER),
        missing=tuple(missing),
        holes=_one_of(Holes, value["holes"]),
        rate_told=bool(value["rate_told"]),
    )


def _framing_in(value: Any) -> Framing:
    left, top, right, bottom = (int(n) for n in list_in(value, "framing", 4))
    return Framing(left, top, right, bottom)


def media_in(value: Mapping[str, Any], file: Path | None) -> Media:
    """Return the facts of a film from the document of ``file``. Raises one of UNFIT."""
    path = Path(str_in(value, "path"))
    near = value.get("near")
    run = _run_in(value["run"])
    if file is not None and isinstance(near, str) and near and not _is_there(path, run):
        beside = (file.absolute().parent / near).resolve()
        path = beside if _is_there(beside, run) else path
    return Media(
        path=str(path),
        rate=_fraction(value, "rate"),
        frames=int_in(value, "frames", 1, MAX_FRAME),
        width=int_in(value, "width", 1, 100_000),
        height=int_in(value, "height", 1, 100_000),
        start=int_in(value, "start", -MAX_FRAME, MAX_FRAME),
        drop=bool(value["drop"]),
        pixel_shape=_fraction(value, "pixel_shape"),
        rotation=int_in(value, "rotation", -360, 360),
        fingerprint=str_in(value, "fingerprint"),
        codec=str_in(value, "codec"),
        run=run,
        fields=_first_field(value["fields"]),
    )


def _first_field(value: Any) -> str:
    """Return which field comes first, empty for whole pictures."""
    if value not in ("", "top", "bottom"):
        raise ValueError("fields")
    return str(value)


def _is_there(path: Path, run: Run | None) -> bool:
    """Tell whether a film lies at a path; a run does where its first picture is."""
    return (path if run is None else path.with_name(run.name_of(run.first))).is_file()


def seam_in(value: Any) -> Seam:
    """Return a seam from a file's document. Raises KeyError, TypeError or ValueError."""
    score = _number(value, "score", 0, 100)
    frame = int_in(value, "frame", 0, MAX_FRAME)
    start, end = int_in(value, "start", 0, MAX_FRAME), int_in(value, "end", 0, MAX_FRAME)
    return Seam(
        id=int_in(value, "id", 0, MAX_ID),
        frame=frame,
        start=start,
        end=end,
        kind=_one_of(Kind, value["kind"]),
        score=score,
        certainty=_one_of(Certainty, value["certainty"]),
        standing=_one_of(Standing, value["standing"]),
        origin=_one_of(Origin, value["origin"]),
        reasons=tuple(_reason_in(r) for r in list_in(value, "reasons", MAX_REASONS)),
        opening=card_in(value["opening"]),
        former=_former_in(value.get("former")),
        as_found=_as_found_in(value.get("as_found")),
    )


def _reason_in(value: Any) -> Reason:
    text, code = str_in(value, "text"), str_in(value, "code")
    return Reason(text, _number(value, "weight", 0, 1), bool(value["against"]), code)


def _former_in(value: Any) -> Former | None:
    if value is None:
        return None
    kind = _one_of(Kind, value["kind"])
    return Former(kind, int_in(value, "before", 0, MAX_FRAME), int_in(value, "after", 0, MAX_FRAME))


def _as_found_in(value: Any) -> AsFound | None:
    if value is None:
        return None
    return AsFound(int_in(value, "frame", 0, MAX_FRAME), bool(value["gradual"]))


def marker_in(value: Any) -> Marker:
    """Return a marker from a file's document. Raises KeyError, TypeError or ValueError."""
    start, end = int_in(value, "start", 0, MAX_FRAME), int_in(value, "end", 0, MAX_FRAME)
    name, note = str_in(value, "name"), str_in(value, "note")
    colour = _one_of(MarkerColour, value["colour"])
    return Marker(int_in(value, "id", 0, MAX_ID), start, end, name, note, colour)


def card_in(value: Any) -> Card:
    """Return the card of a shot from a file's document."""
    if value is None:
        return Card()
    original = value.get("original")
    return Card(
        str_in(value, "name"),
        str_in(value, "note"),
        bool(value["set_aside"]),
        None if original is None else _original_in(original),
        int_in(value, "scene", 0, MAX_ID),
    )


def _original_in(value: Any) -> Original:
    comments = list_in(value, "comments", MOST_COMMENTS) if "comments" in value else []
    return Original(
        reel=str_in(value, "reel"),
        start=int_in(value, "start", -MAX_FRAME, MAX_FRAME),
        at=int_in(value, "at", -MAX_FRAME, MAX_FRAME),
        clip=str_in(value, "clip"),
        drop=bool(value["drop"]),
        speed=_fraction(value, "speed", low=-MAX_SPEED),
        comments=tuple(str(c)[:MOST_LONG] for c in comments),
        file=_original_file_in(value["file"]) if value.get("file") is not None else None,
    )


def _original_file_in(value: Any) -> OriginalFile:
    return OriginalFile(
        str_in(value, "path"),
        int_in(value, "start", 0, MAX_FRAME),
        int_in(value, "frames", 1, MAX_FRAME),
        int_in(value, "width", 0, MAX_FRAME),
        int_in(value, "height", 0, MAX_FRAME),
    )


def _one_of(kind: type[_E], value: Any) -> _E:
    return kind(value)


def dict_in(holder: Any, key: str) -> Mapping[str, Any]:
    """Return an object. Raises KeyError or TypeError."""
    value = holder[key]
    if not isinstance(value, dict):
        raise TypeError(f"{key} is not an object")
    return value


def list_in(holder: Any, key: str, most: int) -> list[Any]:
    """Return a list of so many entries at most. Raises KeyError, TypeError or ValueError."""
    value = holder[key]
    if not isinstance(value, list):
        raise TypeError(f"{key} is not a list")
    if len(value) > most:
        raise ValueError(f"{key} has {len(value)} entries, more than {most}")
    return value


def int_in(holder: Any, key: str, low: int, high: int) -> int:
    """Return a whole number in a range. Raises KeyError, TypeError or ValueError."""
    value = holder[key]
    if not isinstance(value, int) or isinstance(value, bool):
        raise TypeError(f"{key} is not a whole number")
    if not low <= value <= high:
        raise ValueError(f"{key} is out of range")
    return value


def _number(holder: Any, key: str, low: float, high: float) -> float:
    value = holder[key]
    if not isinstance(value, int | float) or isinstance(value, bool):
        raise TypeError(f"{key} is not a number")
    if not low <= value <= high:  # what is no number at all is not in there either
        raise ValueError(f"{key} is out of range")
    return float(value)


def str_in(holder: Any, key: str) -> str:
    """Return a text. Raises KeyError or TypeError."""
    value = holder[key]
    if not isinstance(value, str):
        raise TypeError(f"{key} is not text")
    return value


def _fraction(holder: Any, key: str, low: int = 0) -> Fraction:
    text = str_in(holder, key)
    if len(text) > FRACTION_LONG:
        raise ValueError(f"{key} is out of range")
    try:
        value = Fraction(text)
    except ZeroDivisionError as error:
        raise ValueError(f"{key} is out of range") from error
    if not low <= value <= MAX_SPEED or (not low and not value):
        raise ValueError(f"{key} is out of range")
    return value
