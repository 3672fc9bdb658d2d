"""Names of what is handed over, from a pattern; always safe to be a file's name."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from offcut.core.errors import OffcutError
from offcut.core.files import safe_name
from offcut.core.lists.outgoing import Pick
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project
from offcut.core.model.source import Media
from offcut.core.timecode import timecode_from_frame

FIELDS: Mapping[str, str] = {
    "project": "the project’s name",
    "source": "the film’s file name",
    "number": "counted from the first number",
    "name": "the shot’s name",
    "scene": "the scene it belongs to",
    "reel": "the reel a list gave it",
    "in": "timecode of its first frame",
    "out": "timecode of the frame after its last",
    "frame": "its first frame",
    "kind": "how it is joined to the one before",
}


def pattern_problem(pattern: str, fields: Iterable[str] = FIELDS) -> str:
    """Return what is wrong with a pattern of some fields in a sentence, empty when nothing is."""
    if not pattern.strip():
        return "the pattern of the names is empty"
    bare = re.sub(r"\{(\w+)\}", "", pattern)
    for word in re.findall(r"\{(\w+)\}", pattern):
        if word not in fields:
            known = ", ".join(f"{{{f}}}" for f in fields)
            return f"there is no field {{{word}}}; there are {known}"
    if "{" in bare or "}" in bare:
        return "a brace in the pattern of the names has no partner"
    return ""


def shot_names(
    project: Project, picks: Sequence[Pick], asked: Asked
) -> tuple[list[str], list[str]]:
    """Return a name for each shot, each once and safe, and sentences on what was mended.

    Raises OffcutError for a pattern that cannot be used.
    """
    problem = pattern_problem(asked.pattern)
    if problem:
        raise OffcutError(problem)
    mended: set[str] = set()
    taken: dict[str, int] = {}
    names: list[str] = []
    for place, (source, shot) in enumerate(picks):
        media = source.media

        def words(frame: int, media: Media = media) -> str:
            label = timecode_from_frame(media.start + frame, media.rate, media.drop)
            return re.sub("[:;]", "-", label)

        number = asked.first + place * asked.step
        original = shot.card.original
        values = {
            "project": project.name,
            "source": Path(media.path).stem,
            "number": f"{number:0{max(1, asked.padding)}d}",
            "name": shot.title,
            "scene": project.scene_name(shot.card.scene),
            "reel": original.reel if original else "",
            "in": words(shot.start),
            "out": words(shot.end),
            "frame": str(shot.start),
            "kind": shot.opened_by.kind.value if shot.opened_by else "start",
        }
        raw = filled(asked.pattern, values)
        name, why = safe_name(raw)
        if why:
            mended.add(why)
        key = name.casefold()
        count = taken.get(key, 0)
        taken[key] = count + 1
        while count:
            count += 1
            other = f"{name}-{count}"
            if other.casefold() not in taken:
                mended.add("names that would be the same got a number")
                name = other
                taken[name.casefold()] = 1
                break
        names.append(name)
    return names, sorted(mended)


def filled(pattern: str, values: Mapping[str, str]) -> str:
    """Return the pattern with its fields filled in; an empty one takes its joint with it."""
    raw = re.sub(r"\{(\w+)\}", lambda m: values[m[1]] or "\0", pattern)
    return re.sub(r"[-_., ]*\0", "", re.sub(r"^(\0[-_., ]*)+", "", raw))
