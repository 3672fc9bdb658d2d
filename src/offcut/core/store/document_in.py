"""Reading a document back into a project: everything in it is distrusted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from enum import StrEnum
from fractions import Fraction
from pathlib import Path
from typing import Any, TypeVar

from offcut.core.errors import ProjectError
from offcut.core.model.handover import Asked, Handover
from offcut.core.model.project import (
    WHOLE,
    Certainty,
    Former,
    Framing,
    Kind,
    Marker,
    Media,
    Origin,
    Original,
    Project,
    Reason,
    Seam,
    Source,
    Standing,
    Words,
    Zone,
)
from offcut.core.store.document import FORMAT, VERSION

MAX_SEAMS = 500_000
MAX_FRAME = 100_000_000
MOST_COMMENTS, MOST_LONG = 40, 400

_E = TypeVar("_E", bound=StrEnum)

UNFIT = (KeyError, TypeError, ValueError, IndexError, AttributeError, OverflowError, OSError)
"""What reading a document of the wrong shape may raise."""


def project_from_document(document: Any, file: Path) -> Project:
    """Return the project a file's document holds. Raises ProjectError naming the file."""
    try:
        return _project_in(document, file)
    except ProjectError:
        raise
    except UNFIT as error:
        raise ProjectError(f"{file}: damaged project ({_place(error)})") from error


def _place(error: Exception) -> str:
    if isinstance(error, KeyError):
        return f"{error.args[0]} is missing"
    if isinstance(error, OSError):
        return "the way to a film makes no sense"
    return str(error)[:120] or "something has the wrong shape"


def _project_in(document: Any, file: Path) -> Project:
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ProjectError(f"{file}: not an Offcut project")
    version = _int(document, "version", 1, 10**9)
    if version > VERSION:
        raise ProjectError(
            f"{file}: written by a newer Offcut (format {version}, this one reads up to {VERSION})"
        )
    document = _upgraded(document, version)
    sources = tuple(source_in(s, file) for s in _list(document, "sources", 10_000))
    ids = [s.id for source in sources for s in source.seams]
    ids += [m.id for source in sources for m in source.markers]
    return Project(
        name=_str(document, "name"),
        sources=sources,
        current=_int(document, "current", 0, max(0, len(sources) - 1)),
        record_start=_str(document, "record_start"),
        next_id=max(_int(document, "next_id", 1, 10**15), max(ids, default=0) + 1),
        handovers=tuple(_handover_in(h) for h in _list(document, "handovers", 10_000)),
    )


def _upgraded(document: dict[str, Any], version: int) -> dict[str, Any]:
    """Return a document as this version writes it.

    Format 1 knew nothing of lists that come in (the originals of shots) nor of hand-overs.
    """
    return document | {"handovers": []} if version == 1 else document


def _handover_in(value: Any) -> Handover:
    asked = _dict(value, "asked")
    plain = Asked()
    given: dict[str, Any] = {}
    for field in fields(Asked):
        usual = getattr(plain, field.name)
        if field.name not in asked:
            continue
        if isinstance(usual, bool):
            given[field.name] = bool(asked[field.name])
        elif isinstance(usual, int):
            given[field.name] = _int(asked, field.name, 0, MAX_FRAME)
        elif isinstance(usual, str):
            given[field.name] = _str(asked, field.name)
        elif field.name == "chosen":
            given["chosen"] = tuple(int(n) for n in _list(asked, "chosen", MAX_SEAMS))
        else:
            given[field.name] = tuple(str(n) for n in _list(asked, field.name, 100))
    return Handover(
        when=_str(value, "when"),
        folder=_str(value, "folder"),
        asked=Asked(**given),
        files=tuple(str(n) for n in _list(value, "files", MAX_SEAMS)),
        seconds=_number(value, "seconds", 0, 1e9),
    )


def source_in(value: Any, file: Path | None) -> Source:
    """Return a source from the document of ``file``. Raises one of UNFIT."""
    media = _media_in(_dict(value, "media"), file)
    start, end = (int(n) for n in _list(value, "range", 2))
    if not 0 <= start < end <= media.frames:
        raise ValueError("the range does not fit the film")
    framing = _framing_in(value, media) if "framing" in value else WHOLE
    seams = tuple(seam_in(s) for s in _list(value, "seams", MAX_SEAMS))
    if len({s.id for s in seams}) != len(seams):
        raise ValueError("two seams have the same id")
    return Source(
        media=media,
        start=start,
        end=end,
        seams=tuple(sorted(seams, key=lambda s: (s.frame, s.id))),
        zones=tuple(
            Zone(
                _int(z, "start", 0, MAX_FRAME),
                _int(z, "end", 0, MAX_FRAME),
                None if z["sensitivity"] is None else _int(z, "sensitivity", 0, 100),
            )
            for z in _list(value, "zones", MAX_SEAMS)
        ),
        markers=tuple(
            sorted(
                (marker_in(m, media.frames) for m in _list(value, "markers", MAX_SEAMS)),
                key=lambda m: (m.start, m.end, m.id),
            )
        ),
        sensitivity=_int(value, "sensitivity", 0, 100),
        first=words_in(value["first"]),
        searched=bool(value["searched"]),
        framing=framing,
    )


def _framing_in(value: Any, media: Media) -> Framing:
    left, top, right, bottom = (int(n) for n in _list(value, "framing", 4))
    framing = Framing(left, top, right, bottom)
    if min(left, top, right, bottom) < 0 or min(framing.size(media)) < 1:
        raise ValueError("the framing does not fit the film")
    return framing


def _media_in(value: Mapping[str, Any], file: Path | None) -> Media:
    path = Path(_str(value, "path"))
    near = value.get("near")
    if file is not None and isinstance(near, str) and near and not path.exists():
        beside = (file.absolute().parent / near).resolve()
        path = beside if beside.is_file() else path
    return Media(
        path=str(path),
        rate=_fraction(value, "rate"),
        frames=_int(value, "frames", 1, MAX_FRAME),
        width=_int(value, "width", 1, 100_000),
        height=_int(value, "height", 1, 100_000),
        start=_int(value, "start", -MAX_FRAME, MAX_FRAME),
        drop=bool(value["drop"]),
        pixel_shape=_fraction(value, "pixel_shape"),
        rotation=_int(value, "rotation", -360, 360),
        fingerprint=_str(value, "fingerprint"),
    )


def seam_in(value: Any) -> Seam:
    """Return a seam from a file's document. Raises KeyError, TypeError or ValueError."""
    score = _number(value, "score", 0, 100)
    frame = _int(value, "frame", 0, MAX_FRAME)
    start, end = _int(value, "start", 0, MAX_FRAME), _int(value, "end", 0, MAX_FRAME)
    if end < start:
        raise ValueError(f"the seam at frame {frame} ends before it starts")
    return Seam(
        id=_int(value, "id", 0, 10**15),
        frame=frame,
        start=start,
        end=end,
        kind=_one_of(Kind, value["kind"]),
        score=score,
        certainty=_one_of(Certainty, value["certainty"]),
        standing=_one_of(Standing, value["standing"]),
        origin=_one_of(Origin, value["origin"]),
        reasons=tuple(
            Reason(_str(r, "text"), _number(r, "weight", 0, 1), bool(r["against"]), _str(r, "code"))
            for r in _list(value, "reasons", 50)
        ),
        opening=words_in(value["opening"]),
        former=_former_in(value.get("former")),
    )


def _former_in(value: Any) -> Former | None:
    if value is None:
        return None
    kind = _one_of(Kind, value["kind"])
    return Former(kind, _int(value, "before", 0, MAX_FRAME), _int(value, "after", 0, MAX_FRAME))


def marker_in(value: Any, frames: int) -> Marker:
    """Return a marker from a file's document. Raises KeyError, TypeError or ValueError."""
    start = _int(value, "start", 0, frames - 1)
    end = _int(value, "end", start + 1, frames)
    name, note = _str(value, "name"), _str(value, "note")
    return Marker(_int(value, "id", 0, 10**15), start, end, name, note)


def words_in(value: Any) -> Words:
    """Return the words of a shot from a file's document."""
    if value is None:
        return Words()
    original = value.get("original")
    return Words(
        _str(value, "name"),
        _str(value, "note"),
        bool(value["set_aside"]),
        None if original is None else _original_in(original),
        _str(value, "scene") if "scene" in value else "",
    )


def _original_in(value: Any) -> Original:
    comments = _list(value, "comments", MOST_COMMENTS) if "comments" in value else []
    return Original(
        reel=_str(value, "reel"),
        start=_int(value, "start", -MAX_FRAME, MAX_FRAME),
        at=_int(value, "at", -MAX_FRAME, MAX_FRAME),
        clip=_str(value, "clip"),
        drop=bool(value["drop"]),
        speed=_fraction(value, "speed", low=-1000),
        comments=tuple(str(c)[:MOST_LONG] for c in comments),
    )


def _one_of(kind: type[_E], value: Any) -> _E:
    return kind(value)


def _dict(holder: Any, key: str) -> Mapping[str, Any]:
    value = holder[key]
    if not isinstance(value, dict):
        raise TypeError(f"{key} is not an object")
    return value


def _list(holder: Any, key: str, most: int) -> list[Any]:
    value = holder[key]
    if not isinstance(value, list):
        raise TypeError(f"{key} is not a list")
    if len(value) > most:
        raise ValueError(f"{key} has {len(value)} entries, more than {most}")
    return value


def _int(holder: Any, key: str, low: int, high: int) -> int:
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


def _str(holder: Any, key: str) -> str:
    value = holder[key]
    if not isinstance(value, str):
        raise TypeError(f"{key} is not text")
    return value


def _fraction(holder: Any, key: str, low: int = 0) -> Fraction:
    text = _str(holder, key)
    if len(text) > 40:
        raise ValueError(f"{key} is out of range")
    try:
        value = Fraction(text)
    except ZeroDivisionError as error:
        raise ValueError(f"{key} is out of range") from error
    if not low <= value <= 1000 or (not low and not value):
        raise ValueError(f"{key} is out of range")
    return value
