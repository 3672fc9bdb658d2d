"""Listed: what a cut list that came with a film says, whatever its format was."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

from offcut.core.errors import ListError
from offcut.core.model.seam import Kind
from offcut.core.timecode import Rate, can_drop, frame_from_timecode

MAX_BYTES = 64 << 20
MAX_EVENTS = 200_000


@dataclass(frozen=True, slots=True)
class ReadEvent:
    """One event; all frames count from timecode zero at the list's rate, outs are exclusive.

    Attributes: ``number`` as the list writes it; ``line`` where it stands in the file, 0 where
    the format has no lines; ``track`` video track from 1; ``kind`` how it is joined to what was
    before, mixed over the record frames [``mix_in``, ``mix_out``); ``over`` True for a key that
    is laid over the picture; ``black`` True for black; ``comments`` everything said about it.
    """

    number: str
    line: int
    reel: str
    source_in: int
    source_out: int
    record_in: int
    record_out: int
    track: int = 1
    kind: Kind = Kind.CUT
    mix_in: int = 0
    mix_out: int = 0
    clip: str = ""
    note: str = ""
    scene: str = ""
    speed: Fraction = Fraction(1)
    drop: bool = False
    black: bool = False
    over: bool = False
    comments: tuple[str, ...] = ()

    @property
    def length(self) -> int:
        """Frames on the record side."""
        return self.record_out - self.record_in


@dataclass(frozen=True, slots=True)
class ListMarker:
    """A locator: a record frame, with its words."""

    frame: int
    name: str


@dataclass(frozen=True, slots=True)
class Trouble:
    """A line that was not understood, or says something odd: its number, its text, and why."""

    line: int
    text: str
    why: str

    def __str__(self) -> str:
        where = f"line {self.line}: " if self.line else ""
        quoted = f" “{self.text[:80]}”" if self.text else ""
        return f"{where}{self.why}{quoted}"


@dataclass(frozen=True)
class ReadList:
    """A list that was read.

    Attributes: ``events`` of the picture, in the list's order; ``sound`` how many events were
    sound alone; ``troubles`` what was not understood; ``comments`` before the first event;
    ``highest`` the highest frames field met, which tells a rate that is too low.
    """

    path: str
    form: str
    rate: Rate
    drop: bool
    title: str = ""
    events: tuple[ReadEvent, ...] = ()
    markers: tuple[ListMarker, ...] = ()
    sound: int = 0
    troubles: tuple[Trouble, ...] = ()
    comments: tuple[str, ...] = field(default=())
    highest: int = 0

    @property
    def name(self) -> str:
        """The file's name."""
        return Path(self.path).name


def text_of(path: str | Path) -> str:
    """Return a list's text: UTF-8, UTF-16 with its mark, or else Latin-1. Raises ListError."""
    file = Path(path)
    try:
        if file.is_dir():
            raise ListError(f"{file}: this is a folder, not a list")
        if file.stat().st_size > MAX_BYTES:
            raise ListError(f"{file}: too large for a cut list")
        data = file.read_bytes()
    except FileNotFoundError as error:
        raise ListError(f"{file}: there is no such file") from error
    except OSError as error:
        raise ListError(f"{file}: cannot be read ({error.strerror})") from error
    if not data.strip():
        raise ListError(f"{file}: the file is empty")
    for encoding in ("utf-16",) if data[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",):
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            pass
    if b"\0" in data[:4096]:
        raise ListError(f"{file}: not a cut list, but something else than text")
    return data.decode("latin-1")


def seen_events(events: Iterable[ReadEvent]) -> list[ReadEvent]:
    """Return what is seen: of several tracks the highest that has a picture, in record order.

    Keys laid over the picture are left out: they are no join. An event that is covered in its
    middle comes twice.
    """
    shown = [e for e in events if not e.over and e.length > 0]
    if len({e.track for e in shown}) <= 1:
        return sorted(shown, key=lambda e: (e.record_in, e.record_out))
    edges = sorted({f for e in shown for f in (e.record_in, e.record_out)})
    pieces: list[ReadEvent] = []
    by_start = sorted(shown, key=lambda e: e.record_in)
    active: list[ReadEvent] = []
    at = 0
    for start, end in pairwise(edges):
        while at < len(by_start) and by_start[at].record_in <= start:
            active.append(by_start[at])
            at += 1
        active = [e for e in active if e.record_out > start]
        if not active:
            continue
        top = max(active, key=lambda e: (e.track, e.record_in))
        last = pieces[-1] if pieces else None
        if last is not None and last.record_out == start and _whole(last) == _whole(top):
            pieces[-1] = _piece(top, last.record_in, end)
        else:
            pieces.append(_piece(top, start, end))
    return pieces


def _whole(event: ReadEvent) -> tuple[int, str, int]:
    return event.line, event.number, event.source_in - round(event.record_in * event.speed)


def _piece(event: ReadEvent, start: int, end: int) -> ReadEvent:
    if (start, end) == (event.record_in, event.record_out):
        return event
    source_in = event.source_in + round((start - event.record_in) * event.speed)
    source_out = event.source_in + round((end - event.record_in) * event.speed)
    kept = start == event.record_in
    return replace(
        event,
        record_in=start,
        record_out=end,
        source_in=source_in,
        source_out=source_out,
        kind=event.kind if kept else Kind.CUT,
        mix_in=event.mix_in if kept else 0,
        mix_out=event.mix_out if kept else 0,
    )


def frame_from_word(word: str, rate: Rate) -> int:
    """Return the frame that a timecode or a plain number in a row means.

    Raises TimecodeError or ValueError.
    """
    if word.isdigit():
        if len(word) > 9:
            raise ValueError("a frame number out of range")
        return int(word)
    drop = (";" in word or "." in word[-4:] or "," in word[-4:]) and can_drop(rate)
    return frame_from_timecode(re.sub("[;.,]", ":", word), rate, drop)


def frames_field(word: str) -> int:
    """Return what a timecode has in its frames, 0 for anything else."""
    fields = re.split("[:;.,]", word)
    return int(fields[-1]) if len(fields) == 4 and fields[-1].isdigit() else 0
