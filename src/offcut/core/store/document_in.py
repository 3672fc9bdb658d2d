"""Reading a document back into a project: everything in it is distrusted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any, NamedTuple

from offcut.core.errors import ProjectError
from offcut.core.model.handover import Handover
from offcut.core.model.project import Order, Project, Ruling, Scene, ShotRef
from offcut.core.model.rules import fault_of_media, fault_of_project
from offcut.core.model.run import Run
from offcut.core.model.source import Media, Source
from offcut.core.store.document import FORMAT, VERSION
from offcut.core.store.migrations import upgraded
from offcut.core.store.shapes import UNFIT, entries, shaped, text, whole


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
    version = whole(document["version"], "version")
    if not 1 <= version <= 10**9:
        raise ValueError("version is out of range")
    if version > VERSION:
        raise ProjectError(
            f"{file}: written by a newer Offcut (format {version}, this one reads up to {VERSION})"
        )
    document = upgraded(document, version)
    sources = tuple(source_in(s, file) for s in entries(document["sources"], "sources"))
    scenes = scenes_in(document)
    orders = shaped(document["orders"], tuple[Order, ...])
    ids = [s.id for s in sources] + [s.id for s in scenes] + [o.id for o in orders]
    ids += [s.id for source in sources for s in source.seams]
    ids += [m.id for source in sources for m in source.markers]
    ids += [u.id for order in orders for u in order.uses]
    project = Project(
        name=text(document["name"], "name"),
        sources=sources,
        scenes=scenes,
        orders=orders,
        record_start=text(document["record_start"], "record_start"),
        next_id=max(whole(document["next_id"], "next_id"), max(ids, default=0) + 1),
        handovers=shaped(document["handovers"], tuple[Handover, ...]),
        waved=shaped(document["waved"], tuple[tuple[ShotRef, ...], ...]),
        rulings=shaped(document["rulings"], tuple[Ruling, ...]),
    )
    in_hand = document["in_hand"]
    known = isinstance(in_hand, int) and project.holds(in_hand)
    waiting = (i for i in entries(document["waiting"], "waiting") if isinstance(i, int))
    return SavedProject(
        project, in_hand if known else 0, tuple(i for i in waiting if project.holds(i))
    )


def scenes_in(document: Any) -> tuple[Scene, ...]:
    """Return the scenes of a document. Raises one of UNFIT."""
    return shaped(document["scenes"], tuple[Scene, ...])


def source_in(value: Any, file: Path | None) -> Source:
    """Return a source from the document of ``file``. Raises one of UNFIT."""
    start, end = entries(value["range"], "range", 2)
    source = shaped({"framing": [0] * 4, **value, "start": start, "end": end}, Source)
    return replace(
        source,
        media=_where_it_lies(source.media, value["media"], file),
        seams=tuple(sorted(source.seams, key=lambda s: (s.frame, s.id))),
        markers=tuple(sorted(source.markers, key=lambda m: (m.start, m.end, m.id))),
    )


def media_in(value: Any, file: Path | None) -> Media:
    """Return the facts of a film from the document of ``file``. Raises one of UNFIT."""
    media = shaped(value, Media)
    fault = fault_of_media(media)
    if fault:
        raise ValueError(fault)
    return _where_it_lies(media, value, file)


def _where_it_lies(media: Media, value: Mapping[str, Any], file: Path | None) -> Media:
    """Return a film with the way to it; a film that moved along with its project is found."""
    path, near = Path(media.path), value.get("near")
    if file is not None and isinstance(near, str) and near and not _is_there(path, media.run):
        beside = (file.absolute().parent / near).resolve()
        path = beside if _is_there(beside, media.run) else path
    return replace(media, path=str(path))


def _is_there(path: Path, run: Run | None) -> bool:
    """Tell whether a film lies at a path; a run does where its first picture is."""
    return (path if run is None else path.with_name(run.name_of(run.first))).is_file()
