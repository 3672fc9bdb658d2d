"""Events: what every list format says of a project, before it is put in that format's words."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple

from offcut.core.errors import ListError, OffcutError
from offcut.core.files import write_whole
from offcut.core.model.card import Original
from offcut.core.model.project import Project
from offcut.core.model.run import Run
from offcut.core.model.seam import Kind
from offcut.core.model.shots import Shot, shots_of
from offcut.core.model.source import Marker, Source
from offcut.core.timecode import Rate, can_drop, frame_from_timecode, timecode_from_frame
from offcut.core.words import printable


@dataclass(frozen=True, slots=True)
class Mix:
    """A gradual join that can be made again from the originals of both its shots.

    Record frames [``start``, ``end``); ``source_in`` is this shot's source at ``start``, and
    ``left_at`` that of the shot before.
    """

    kind: Kind
    start: int
    end: int
    source_in: int
    left_at: int


@dataclass(frozen=True, slots=True)
class Film:
    """The film an event's shot is in: file name, path, timecode of frame 0, and its frames.

    ``reel`` is the name its ticket gives it, often empty; ``run`` how its stills are numbered;
    ``width`` and ``height`` are its picture's, in pixels.
    """

    name: str
    path: str
    start: int
    frames: int
    reel: str = ""
    run: Run | None = None
    width: int = 0
    height: int = 0


@dataclass(frozen=True, slots=True)
class Event:
    """One shot in a list; all frames count from timecode zero, out points are exclusive.

    ``source_in`` and ``source_out`` are on the film's own timecode (or the camera original's),
    ``record_in`` and ``record_out`` on the list's; ``start`` is its first frame in the film.
    ``joined_by`` is how it is joined to the event before, over ``mixed`` frames. ``reel`` is
    empty for the film itself. ``markers`` are those inside it, in frames of the film; ``head``
    and ``tail`` the handles it has. ``mix`` is set in a list of originals where both shots of a
    gradual join have one; ``comments`` are what else the list said of an original;
    ``source_drop`` True where its source is counted drop-frame; ``original`` what the shot was
    made from, in every list; ``numbers`` the numbers [first, after) of its files, None where
    frames are counted from 0; ``shows`` what is in the shot, in words by sort.
    """

    number: int
    film: Film
    name: str
    note: str
    source_in: int
    source_out: int
    record_in: int
    record_out: int
    joined_by: Kind = Kind.CUT
    mixed: int = 0
    start: int = 0
    reel: str = ""
    clip: str = ""
    speed: Fraction = Fraction(1)
    markers: tuple[Marker, ...] = ()
    head: int = 0
    tail: int = 0
    scene: str = ""
    mix: Mix | None = None
    comments: tuple[str, ...] = ()
    source_drop: bool = False
    original: Original | None = None
    numbers: tuple[int, int] | None = None
    shows: Mapping[str, str] = field(default_factory=dict)

    @property
    def counted(self) -> tuple[int, int]:
        """Its frames [start, end) in the film; by its files' numbers where those were asked."""
        return self.numbers or (self.start, self.start + self.length)

    def number_of(self, frame: int) -> int:
        """Return a frame of the film as it is counted here."""
        run = self.film.run
        return run.number_of(frame) if self.numbers is not None and run is not None else frame

    @property
    def length(self) -> int:
        """Frames on the record side."""
        return self.record_out - self.record_in

    @property
    def original_span(self) -> tuple[int, int]:
        """The frames [in, out) of its original; both 0 where it has none."""
        if self.original is None:
            return 0, 0
        return self.original.span(self.start, self.start + self.length)


@dataclass(frozen=True, slots=True)
class EventList:
    """A list of events, of one film or several that run at one rate."""

    title: str
    rate: Rate
    drop: bool
    events: tuple[Event, ...]

    @property
    def shows(self) -> tuple[str, ...]:
        """The sorts of what is in the shots, where it is known of one of them."""
        return next((tuple(e.shows) for e in self.events if e.shows), ())

    @property
    def one_film(self) -> bool:
        """True when all events are of the same film."""
        return len({e.film.path for e in self.events}) <= 1

    def words(self, frame: int) -> str:
        """Return a frame's timecode label."""
        return timecode_from_frame(frame, self.rate, self.drop)

    def reel_words(self, event: Event) -> tuple[str, str, str]:
        """Return reel, in and out of an event's original; empty where it has none."""
        original = event.original
        if original is None:
            return "", "", ""
        first, last = (
            timecode_from_frame(f, self.rate, original.drop and can_drop(self.rate))
            for f in event.original_span
        )
        return original.reel, first, last

    def source_words(self, event: Event, frame: int) -> str:
        """Return the label of a frame of an event's source, as its reel counts."""
        return timecode_from_frame(frame, self.rate, event.source_drop)


def with_plain_texts(events: EventList) -> EventList:
    """Return a list whose texts have nothing in them that a form of others may stumble over.

    A text is then one line of what can be printed.
    """
    return _with_texts(events, lambda text: printable(" ".join(text.split())))


def with_unicode_texts(events: EventList) -> EventList:
    """Return a list whose texts are Unicode; a file's name need not be."""
    return _with_texts(events, lambda text: text.encode("utf-8", "replace").decode())


def _with_texts(events: EventList, change: Callable[[str], str]) -> EventList:
    return replace(
        events,
        title=change(events.title),
        events=tuple(
            replace(
                e,
                film=replace(e.film, name=change(e.film.name), reel=change(e.film.reel)),
                name=change(e.name),
                note=change(e.note),
                reel=change(e.reel),
                clip=change(e.clip),
                scene=change(e.scene),
                comments=tuple(map(change, e.comments)),
                original=_with_original_texts(e.original, change),
                markers=tuple(
                    replace(m, name=change(m.name), note=change(m.note)) for m in e.markers
                ),
            )
            for e in events.events
        ),
    )


def _with_original_texts(
    original: Original | None, change: Callable[[str], str]
) -> Original | None:
    if original is None:
        return None
    comments = tuple(map(change, original.comments))
    reel, clip = change(original.reel), change(original.clip)
    return replace(original, reel=reel, clip=clip, comments=comments)


def record_start_of(text: str, rate: Rate, drop: bool) -> int:
    """Return the frame at which the record side begins; a drop-frame film is counted so.

    Raises TimecodeError.
    """
    if drop and text.count(":") == 3:
        head, _, last = text.rpartition(":")
        text = f"{head};{last}"
    return frame_from_timecode(text, rate, drop and can_drop(rate))


class Pick(NamedTuple):
    """A shot that goes, and the source it is in."""

    source: Source
    shot: Shot


def going(source: Source) -> tuple[Pick, ...]:
    """Return the shots of a source that are not set aside."""
    return tuple(Pick(source, s) for s in shots_of(source) if not s.card.set_aside)


def events_of(
    project: Project,
    picks: Sequence[Pick],
    *,
    record_start: str | None = None,
    originals: bool = False,
    handles: int = 0,
    shows: Callable[[Pick], Mapping[str, str]] = lambda _pick: {},
) -> EventList:
    """Return the list of the shots that go, in their order.

    The record side begins at ``record_start`` (a timecode at the film's rate; the project's
    own when None) and has no gaps. With ``originals`` a shot's source is the reel and timecode
    that a list gave it, where it has one. ``handles`` are cut short at the ends of the film.
    ``shows`` tells what is in a shot, in words by sort.
    Raises OffcutError for no shots, and for films that run at different rates.
    """
    if not picks:
        raise OffcutError("there is no shot to make a list of")
    media = picks[0].source.media
    if any(p.source.media.rate != media.rate for p in picks):
        raise OffcutError("the shots are of films that run at different rates")
    text = project.record_start if record_start is None else record_start
    at = record_start_of(text, media.rate, media.drop)
    events: list[Event] = []
    before: Pick | None = None
    for pick in picks:
        event = _event(project, pick, before, len(events) + 1, at, originals, handles)
        told = shows(pick)
        events.append(replace(event, shows=told) if told else event)
        at += pick.shot.length
        before = pick
    return EventList(project.name, media.rate, media.drop, tuple(events))


def _event(
    project: Project,
    pick: Pick,
    before: Pick | None,
    number: int,
    at: int,
    originals: bool,
    handles: int,
) -> Event:
    source, shot = pick
    media = source.media
    opener = shot.opened_by
    original = shot.card.original if originals else None
    film = Film(
        Path(media.path).name, media.path, media.start, media.frames, source.ticket.reel, media.run,
        media.width, media.height,
    )  # fmt: skip
    source_in, source_out = media.start + shot.start, media.start + shot.end
    numbers = None
    if media.run is not None and source.ticket.file_numbers:
        numbers = media.run.number_of(shot.start), media.run.number_of(shot.end - 1) + 1
        source_in, source_out = numbers
        film = replace(film, start=media.run.first)
    if original is not None:
        source_in, source_out = original.span(shot.start, shot.end)
        film = _film_of(original) or film
    follows = before is not None and before.source.id == source.id
    return Event(
        number=number,
        film=film,
        name=shot.title,
        note=shot.card.note,
        source_in=source_in,
        source_out=source_out,
        record_in=at,
        record_out=at + shot.length,
        joined_by=opener.kind if opener else Kind.CUT,
        mixed=opener.end - opener.start if opener else 0,
        start=shot.start,
        numbers=numbers,
        reel=original.reel if original and original.file is None else "",
        clip=original.clip if original else "",
        speed=original.speed if original else Fraction(1),
        comments=original.comments if original else (),
        original=shot.card.original,
        source_drop=(original or media).drop and can_drop(media.rate),
        markers=tuple(m for m in source.markers if shot.start <= m.start < shot.end),
        head=min(handles, shot.start),
        tail=min(handles, media.frames - shot.end),
        scene=project.scene_name(shot.card.scene),
        mix=_mix_of(before.shot, shot, at) if originals and before and follows else None,
    )


def _film_of(original: Original) -> Film | None:
    """Return the file of an original as the film an event is taken from, None where it is not
    known.
    """
    file = original.file
    if file is None:
        return None
    return Film(
        Path(file.path).name, file.path, file.start, file.frames, original.reel, None, file.width,
        file.height,
    )  # fmt: skip


def _mix_of(before: Shot, shot: Shot, at: int) -> Mix | None:
    """Return the mix between two shots that follow one another in the film, the later ``at``.

    None for a cut, where an original is not known or runs backwards, and where a span reaches
    into another one.
    """
    seam, ours, theirs = shot.opened_by, shot.card.original, before.card.original
    if seam is None or not seam.gradual or ours is None or theirs is None:
        return None
    clear_from = before.opened_by.end if before.opened_by else before.start
    if before.end != shot.start or seam.start < clear_from or seam.end >= shot.end:
        return None
    source_in, left_at = ours.timecode_at(seam.start), theirs.timecode_at(seam.start)
    if seam.kind is Kind.FADE and not seam.start < seam.frame < seam.end:
        return None
    if min(ours.speed, theirs.speed) <= 0 or min(source_in, left_at) < 0:
        return None
    start = at - (seam.frame - seam.start)
    return Mix(seam.kind, start, start + seam.end - seam.start, source_in, left_at)


def write_list(path: str | Path, text: str, encoding: str = "utf-8") -> Path:
    """Write a list's text, all or nothing. Raises ListError naming the file."""
    return write_list_bytes(path, text.encode(encoding, errors="replace"))


def write_list_bytes(path: str | Path, data: bytes) -> Path:
    """Write a list's bytes, all or nothing. Raises ListError naming the file."""
    file = Path(path)
    try:
        write_whole(file, data)
    except OSError as error:
        raise ListError(f"{file}: cannot be written ({error.strerror})") from error
    return file
