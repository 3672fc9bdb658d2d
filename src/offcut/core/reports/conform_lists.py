"""Lists of originals: what was found for each shot, and what has to be pulled of each file."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from offcut.core.errands.conforming import Conform, Pull, conform_words, pulls_of
from offcut.core.errors import OffcutError
from offcut.core.lists.ale import write_ale
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.outgoing import (
    Event,
    EventList,
    Film,
    record_start_of,
    write_list,
    write_list_bytes,
)
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source
from offcut.core.reports.pair_sheet import PaperPair, PaperSide, pairs_pdf
from offcut.core.tally.originals.clips import Clip, Match
from offcut.core.timecode import timecode_from_frame
from offcut.core.words import many


def conform_document(conform: Conform) -> dict[str, Any]:
    """Return what `offcut originals --json` prints, as docs/formats.md describes it."""
    return {
        "shots": [_shot_in_json(conform, n) for n in range(len(conform.found))],
        "without": [n for n, f in enumerate(conform.found, start=1) if f.best is None],
        "unused": [c.media.path for c in conform.unused],
        "shared": {
            clip.media.path: [conform.found.index(f) + 1 for f in users]
            for clip, users in conform.shared
        },
    }


def _shot_in_json(conform: Conform, place: int) -> dict[str, Any]:
    found = conform.found[place]
    start, end = found.shot
    told: dict[str, Any] = {"shot": place + 1, "start": start, "end": end}
    match = found.best
    if match is None:
        return told | {
            "file": None, "in": None, "out": None, "speed": None, "flopped": False, "by": None,
            "certainty": None, "reasons": [], "others": [],
        }  # fmt: skip
    first, last = match.span(end - start)
    return told | {
        "file": conform.clips[match.clip].media.path,
        "in": first,
        "out": last,
        "speed": float(match.speed),
        "flopped": match.reframing.flopped,
        "by": match.by.value,
        "certainty": match.certainty.value,
        "reframed": match.reframing.words,
        "reasons": [r.text for r in match.reasons],
        "others": [
            {"file": conform.clips[m.clip].media.path, "in": m.first} for m in found.matches[1:]
        ],
    }


def conform_text(conform: Conform) -> str:
    """Return the originals line by line, to be read on a terminal."""
    media = conform.source.media
    lines = []
    for number, found in enumerate(conform.found, start=1):
        at = timecode_from_frame(media.start + found.shot[0], media.rate, media.drop)
        match = found.best
        if match is None:
            lines.append(f"{number:4d}  {at}  no original was found")
            continue
        clip = conform.clips[match.clip]
        first, last = match.span(found.shot[1] - found.shot[0])
        name = Path(clip.media.path).name
        where = f"{_at(clip, first)}  {_at(clip, last)}"
        lines.append(f"{number:4d}  {at}  {name}  {where}  {_how(match)}")
    return "\n".join([*lines, *conform_words(conform)])


def _how(match: Match) -> str:
    """Return how an original was found, in a few words."""
    pace = f"at {float(match.speed):.0%}" if match.speed != 1 else ""
    said = (f"by its {match.by.value}", match.certainty.value, match.reframing.words, pace)
    return ", ".join(w for w in said if w)


def _at(clip: Clip, frame: int) -> str:
    return timecode_from_frame(clip.media.start + frame, clip.media.rate, clip.media.drop)


def pairs_sheet(conform: Conform, paper: str = "A4") -> bytes:
    """Return every shot with its original on paper, in the film's order."""
    source = conform.source
    media = source.media
    shots = {s.start: s.title for s in shots_of(source)}
    pairs = []
    for found in conform.found:
        start, end = found.shot
        match = found.best
        frame = (start + end) // 2
        length = many(end - start, "frame")
        place = "  ".join(timecode_from_frame(media.start + f, media.rate, media.drop)
                          for f in (start, end))  # fmt: skip
        film = PaperSide(source, frame, place, length)
        if match is None:
            none = PaperSide(None, 0, "")
            pairs.append(PaperPair("no original was found", shots.get(start, ""), (none, film), ""))
            continue
        clip = conform.clips[match.clip]
        first, last = match.span(end - start)
        here = match.first + round((frame - start) * match.speed)
        whole = Source(0, clip.media, 0, clip.media.frames)
        original = PaperSide(
            whole, min(max(0, here), clip.media.frames - 1),
            f"{_at(clip, first)}  {_at(clip, last)}", many(last - first, "frame"),
            match.reframing.flopped,
        )  # fmt: skip
        pairs.append(
            PaperPair(
                Path(clip.media.path).name,
                shots.get(start, ""),
                (original, film),
                ", ".join([_how(match), *(r.text for r in match.reasons if r.against)]),
            )
        )
    heads = (
        f"Originals of {Path(media.path).name}", many(len(conform.found), "shot"),
        ", ".join(conform_words(conform)), "",
    )  # fmt: skip
    return pairs_pdf(heads, ("original", "film"), pairs, paper)


def write_pairs_sheet(path: str | Path, conform: Conform) -> Path:
    """Write the sheet of the pairs. Raises OffcutError where there are none."""
    file = Path(path)
    if not any(f.best is not None for f in conform.found):
        raise OffcutError(f"{file}: no original was found, so there are no pairs")
    return write_list_bytes(file, pairs_sheet(conform))


_HEADS = ("file", "reel", "in", "out", "frames", "first frame", "after frame", "shots")


def pull_csv(pulls: Sequence[Pull]) -> str:
    """Return a pull list as comma-separated rows."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(_HEADS)
    for pull in pulls:
        clip = pull.clip
        rows.writerow(
            (
                Path(clip.media.path).name, clip.reel or Path(clip.media.path).stem,
                _at(clip, pull.start), _at(clip, pull.end), pull.end - pull.start, pull.start,
                pull.end, " ".join(map(str, pull.shots)),
            )
        )  # fmt: skip
    return out.getvalue()


def write_pull_list(path: str | Path, conform: Conform, project: Project, handles: int = 0) -> Path:
    """Write the frames needed of each original in the form a file's ending asks for: .csv, .edl or
    .ale. Raises OffcutError for another ending, and where nothing is needed.
    """
    file = Path(path)
    pulls = pulls_of(conform, handles)
    if not pulls:
        raise OffcutError(f"{file}: no original was found, so there is nothing to pull")
    ending = file.suffix.lower()
    if ending == ".csv":
        return write_list(file, pull_csv(pulls), "utf-8-sig")
    if ending not in (".edl", ".ale"):
        raise OffcutError(f"{file}: a pull list is .csv, .edl or .ale")
    events = _events(pulls, conform, project)
    return write_edl(events, file) if ending == ".edl" else write_ale(events, file)


def _events(pulls: Sequence[Pull], conform: Conform, project: Project) -> EventList:
    media = conform.source.media
    at = record_start_of(project.record_start, media.rate, media.drop)
    events = []
    for number, pull in enumerate(pulls, start=1):
        clip = pull.clip.media
        film = Film(
            Path(clip.path).name, clip.path, clip.start, clip.frames, pull.clip.reel, clip.run,
            clip.width, clip.height,
        )  # fmt: skip
        length = pull.end - pull.start
        used = ", ".join(map(str, pull.shots))
        events.append(
            Event(
                number, film, Path(clip.path).stem, f"for shot {used}", clip.start + pull.start,
                clip.start + pull.end, at, at + length, start=pull.start, source_drop=clip.drop,
            )
        )  # fmt: skip
        at += length
    return EventList(f"{project.name}, pull list", media.rate, media.drop, tuple(events))
