"""Events: what every list format says of a project, before it is put in that format's words."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from offcut.core.errors import ListError, OffcutError
from offcut.core.model.project import Kind, Project
from offcut.core.model.shots import Shot, shots_of
from offcut.core.timecode import Rate, frame_from_timecode, timecode_from_frame


@dataclass(frozen=True, slots=True)
class Event:
    """One shot in a list; all frames count from timecode zero, out points are exclusive.

    ``source_in`` and ``source_out`` are on the film's own timecode, ``record_in`` and
    ``record_out`` on the list's. ``joined_by`` is how it is joined to the event before, over
    ``mixed`` frames.
    """

    number: int
    name: str
    note: str
    source_in: int
    source_out: int
    record_in: int
    record_out: int
    joined_by: Kind = Kind.CUT
    mixed: int = 0

    @property
    def length(self) -> int:
        """Frames."""
        return self.source_out - self.source_in


@dataclass(frozen=True, slots=True)
class EventList:
    """A list of events of one source."""

    title: str
    rate: Rate
    drop: bool
    clip: str
    path: str
    events: tuple[Event, ...]
    source_start: int
    source_frames: int

    def words(self, frame: int) -> str:
        """Return a frame's timecode label."""
        return timecode_from_frame(frame, self.rate, self.drop)


def events_of(project: Project, *, record_start: str | None = None) -> EventList:
    """Return the list of all shots that are not set aside, in the film's order.

    The record side begins at ``record_start`` (a timecode at the film's rate; the project's
    own when None) and has no gaps. Raises OffcutError for a project without a source.
    """
    if not project.sources:
        raise OffcutError("the project has no source to make a list of")
    source = project.source
    media = source.media
    text = project.record_start if record_start is None else record_start
    if media.drop and text.count(":") == 3:
        head, _, last = text.rpartition(":")
        text = f"{head};{last}"
    at = frame_from_timecode(text, media.rate, media.drop)
    events: list[Event] = []
    for shot in _going(shots_of(source)):
        opener = shot.opened_by
        events.append(
            Event(
                number=len(events) + 1,
                name=shot.title,
                note=shot.words.note,
                source_in=media.start + shot.start,
                source_out=media.start + shot.end,
                record_in=at,
                record_out=at + shot.length,
                joined_by=opener.kind if opener else Kind.CUT,
                mixed=opener.end - opener.start if opener else 0,
            )
        )
        at += shot.length
    return EventList(
        project.name,
        media.rate,
        media.drop,
        Path(media.path).name,
        media.path,
        tuple(events),
        media.start,
        media.frames,
    )


def _going(shots: Iterable[Shot]) -> list[Shot]:
    return [s for s in shots if not s.words.set_aside]


def write_text(path: str | Path, text: str, encoding: str = "utf-8") -> Path:
    """Write a list's text, all or nothing. Raises ListError naming the file."""
    file = Path(path)
    aside = file.with_name(f".{file.name}.part")
    try:
        aside.write_bytes(text.encode(encoding, errors="replace"))
        aside.replace(file)
    except OSError as error:
        aside.unlink(missing_ok=True)
        raise ListError(f"{file}: cannot be written ({error.strerror})") from error
    return file
