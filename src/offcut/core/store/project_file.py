"""The project file: one JSON document, described in docs/project-format.md."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import tempfile
from collections.abc import Mapping
from enum import StrEnum
from fractions import Fraction
from pathlib import Path
from typing import Any, TypeVar

from offcut.core.errors import ProjectError
from offcut.core.model.project import (
    Certainty,
    Former,
    Kind,
    Marker,
    Media,
    Origin,
    Project,
    Reason,
    Seam,
    Source,
    Standing,
    Words,
    Zone,
)

FORMAT = "offcut-project"
VERSION = 1
MAX_BYTES = 256 << 20
MAX_SEAMS = 500_000
MAX_FRAME = 100_000_000
SUFFIX = ".offcut"

_E = TypeVar("_E", bound=StrEnum)


def project_text(project: Project, folder: Path | None = None) -> str:
    """Return a project as its file's text; equal projects give equal text.

    ``folder`` is where the file will lie, so that media can be named relative to it as well.
    """
    document = {
        "format": FORMAT,
        "version": VERSION,
        "name": project.name,
        "record_start": project.record_start,
        "current": project.current,
        "next_id": project.next_id,
        "sources": [_source_out(s, folder) for s in project.sources],
    }
    return json.dumps(document, indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def _source_out(source: Source, folder: Path | None) -> dict[str, Any]:
    media = source.media
    near = os.path.relpath(media.path, folder) if folder else None
    return {
        "media": {
            "path": media.path,
            "near": near,
            "rate": f"{media.rate.numerator}/{media.rate.denominator}",
            "frames": media.frames,
            "width": media.width,
            "height": media.height,
            "start": media.start,
            "drop": media.drop,
            "pixel_shape": f"{media.pixel_shape.numerator}/{media.pixel_shape.denominator}",
            "rotation": media.rotation,
            "fingerprint": media.fingerprint,
        },
        "range": [source.start, source.end],
        "sensitivity": source.sensitivity,
        "searched": source.searched,
        "first": _words_out(source.first),
        "zones": [
            {"start": z.start, "end": z.end, "sensitivity": z.sensitivity} for z in source.zones
        ],
        "markers": [
            {"id": m.id, "start": m.start, "end": m.end, "name": m.name, "note": m.note}
            for m in source.markers
        ],
        "seams": [_seam_out(s) for s in source.seams],
    }


def _words_out(words: Words) -> dict[str, Any]:
    return {"name": words.name, "note": words.note, "set_aside": words.set_aside}


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
        "opening": _words_out(seam.opening) if seam.opening else None,
        "former": {
            "kind": seam.former.kind.value,
            "before": seam.former.before,
            "after": seam.former.after,
        }
        if seam.former
        else None,
    }


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
    aside = backup_of(file).with_suffix(f".{os.getpid()}")
    aside.unlink(missing_ok=True)
    try:
        os.link(file, aside)
    except OSError:
        shutil.copy2(file, aside)  # a file system without links
    os.replace(aside, backup_of(file))


def write_whole(file: Path, data: bytes) -> None:
    """Write a file aside, flush it to disk and rename it over the old. Raises OSError."""
    aside: str | None = None
    try:
        handle, aside = tempfile.mkstemp(prefix=f".{file.name}.", dir=file.parent)
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
        document = json.loads(file.read_bytes())
    except FileNotFoundError as error:
        raise ProjectError(f"{file}: there is no such file") from error
    except OSError as error:
        raise ProjectError(f"{file}: cannot be read ({error.strerror})") from error
    except (ValueError, RecursionError) as error:
        raise ProjectError(f"{file}: not a project, or damaged") from error
    return project_from_document(document, file)


def project_from_document(document: Any, file: Path) -> Project:
    """Return the project a file's document holds. Raises ProjectError naming the file."""
    try:
        return _project_in(document, file)
    except ProjectError:
        raise
    except (KeyError, TypeError, ValueError, IndexError, OverflowError, OSError) as error:
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
    sources = tuple(_source_in(s, file) for s in _list(document, "sources", 10_000))
    ids = [s.id for source in sources for s in source.seams]
    ids += [m.id for source in sources for m in source.markers]
    return Project(
        name=_str(document, "name"),
        sources=sources,
        current=_int(document, "current", 0, max(0, len(sources) - 1)),
        record_start=_str(document, "record_start"),
        next_id=max(_int(document, "next_id", 1, 10**15), max(ids, default=0) + 1),
    )


def _source_in(value: Any, file: Path) -> Source:
    media = _media_in(_dict(value, "media"), file)
    start, end = (int(n) for n in _list(value, "range", 2))
    if not 0 <= start < end <= media.frames:
        raise ValueError("the range does not fit the film")
    seams = tuple(_seam_in(s) for s in _list(value, "seams", MAX_SEAMS))
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
                (_marker_in(m, media.frames) for m in _list(value, "markers", MAX_SEAMS)),
                key=lambda m: (m.start, m.end, m.id),
            )
        ),
        sensitivity=_int(value, "sensitivity", 0, 100),
        first=_words_in(value["first"]),
        searched=bool(value["searched"]),
    )


def _media_in(value: Mapping[str, Any], file: Path) -> Media:
    path = Path(_str(value, "path"))
    near = value.get("near")
    if isinstance(near, str) and near and not path.exists():
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


def _seam_in(value: Any) -> Seam:
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
        opening=_words_in(value["opening"]),
        former=_former_in(value.get("former")),
    )


def _former_in(value: Any) -> Former | None:
    if value is None:
        return None
    kind = _one_of(Kind, value["kind"])
    return Former(kind, _int(value, "before", 0, MAX_FRAME), _int(value, "after", 0, MAX_FRAME))


def _marker_in(value: Any, frames: int) -> Marker:
    start = _int(value, "start", 0, frames - 1)
    end = _int(value, "end", start + 1, frames)
    name, note = _str(value, "name"), _str(value, "note")
    return Marker(_int(value, "id", 0, 10**15), start, end, name, note)


def _words_in(value: Any) -> Words:
    if value is None:
        return Words()
    return Words(_str(value, "name"), _str(value, "note"), bool(value["set_aside"]))


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


def _fraction(holder: Any, key: str) -> Fraction:
    text = _str(holder, key)
    if len(text) > 40:
        raise ValueError(f"{key} is out of range")
    try:
        value = Fraction(text)
    except ZeroDivisionError as error:
        raise ValueError(f"{key} is out of range") from error
    if not 0 < value <= 1000:
        raise ValueError(f"{key} is out of range")
    return value
