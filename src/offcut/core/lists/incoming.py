"""Listed: what a cut list that came with a film says, whatever its format was."""

from __future__ import annotations

import codecs
import heapq
import io
import re
from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

from offcut.core.errors import ListError
from offcut.core.machine.stopping import is_stopped, tell
from offcut.core.model.kinds import spans
from offcut.core.model.seam import Kind
from offcut.core.model.source import MarkerColour
from offcut.core.timecode import Rate, can_drop, frame_from_timecode

MAX_BYTES = 64 << 20
MAX_EVENTS = 200_000
MAX_LINES = 2_000_000
LONGEST_LINE = 2000
"""Characters of a line that are looked at."""
MAX_BAD_LINES = 200_000
"""A file with more lines that are not understood is no list."""
TROUBLES_KEPT = 200
"""So many of them are kept word for word, the others only counted."""
COMMENTS_KEPT = 200
"""So many comments of one event are kept."""


@dataclass(frozen=True, slots=True)
class ReadEvent:
    """One event; all frames count from timecode zero at the list's rate, outs are exclusive.

    Attributes: ``number`` as the list writes it; ``line`` where it stands in the file, 0 where
    the format has no lines; ``track`` video track from 1; ``kind`` how it is joined to what was
    before, mixed over the record frames [``mix_in``, ``mix_out``); ``over`` True for a key that
    is laid over the picture; ``black`` True for black; ``speed`` 0 for a picture that stands
    still; ``comments`` everything said about it. Where its source is not known, ``source_out`` is
    ``source_in``.
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
    """A locator: ``length`` record frames from ``frame`` on, 1 for a point, with its words."""

    frame: int
    name: str
    length: int = 1
    note: str = ""
    colour: MarkerColour = MarkerColour.NONE


@dataclass(frozen=True, slots=True)
class Trouble:
    """A line that was not understood, or says something odd: its number, its text, and why.

    ``used`` True where the line was used all the same.
    """

    line: int
    text: str
    why: str
    used: bool = False

    def __str__(self) -> str:
        where = f"line {self.line}: " if self.line else ""
        quoted = f" “{self.text[:80]}”" if self.text else ""
        return f"{where}{self.why}{quoted}"


class ListTroubles:
    """Collects what was odd while a list is read: the first word for word, the others counted.

    ``lost`` lines could not be used, ``odd`` ones were used all the same.
    """

    def __init__(self, path: str | Path) -> None:
        self.path = path
        self.kept: list[Trouble] = []
        self.lost = 0
        self.odd = 0

    def add(self, line: int, text: str, why: str, *, used: bool = False) -> None:
        """Keep account of one. Raises ListError where there are far too many."""
        if used:
            self.odd += 1
        else:
            self.lost += 1
        if self.lost > MAX_BAD_LINES:
            first = f"; {self.kept[0]}" if self.kept else ""
            words = f"more than {MAX_BAD_LINES:,} lines cannot be understood: not a cut list"
            raise ListError(f"{self.path}: {words}{first}")
        if len(self.kept) < TROUBLES_KEPT:
            short = " ".join(text[:400].split())[:200]
            self.kept.append(Trouble(line, short, why if len(why) < 300 else f"{why[:299]}…", used))

    def refusal(self, words: str) -> ListError:
        """Return the error of a list that nothing can be read in: why, and what was odd first."""
        first = f"; {self.kept[0]}" if self.kept else ""
        return ListError(f"{self.path}: {words}{first}")

    def told_by(self, listed: ReadList) -> ReadList:
        """Return a list that tells these as well."""
        if not self.kept:
            return listed
        return replace(
            listed,
            troubles=(*listed.troubles, *self.kept)[:TROUBLES_KEPT],
            lost=listed.lost + self.lost,
            odd=listed.odd + self.odd,
        )


@dataclass(frozen=True)
class ReadList:
    """A list that was read.

    Attributes: ``events`` of the picture, in the list's order; ``sound`` how many events were
    sound alone; ``troubles`` what was not understood or is odd, the first of them, ``lost`` and
    ``odd`` how many of either there are; ``comments`` before the first event; ``highest`` the
    highest frames field met, which tells a rate that is too low; ``told_rate`` the rate it tells
    itself, None where it tells none; ``bin`` True for a bin of shots, which have no record side:
    it is then as their source side; ``marks`` True where it only marks places, ``from_zero`` where
    these count from the film's first frame.
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
    lost: int = 0
    odd: int = 0
    told_rate: Rate | None = None
    bin: bool = False
    marks: bool = False
    from_zero: bool = False

    @property
    def name(self) -> str:
        """The file's name."""
        return Path(self.path).name


# the door


def lines_of(path: str | Path, longest: int = LONGEST_LINE) -> Iterator[tuple[int, str]]:
    """Yield each line of a list with its number, and nothing in it that steers a terminal.

    No more than ``longest`` characters of a line are given.

    UTF-8, UTF-16 with its mark or without, or else Western European; any line ends; what follows
    a Ctrl-Z is no part of the file. Raises ListError naming the file.
    """
    data = _bytes_of(path)
    encoding = _encoding_of(data, path)
    raw = io.BytesIO(data)
    lines = io.TextIOWrapper(raw, encoding, errors="replace", newline=None)
    number = 0
    while line := lines.readline(1 << 16):
        rest, number = line, number + 1
        while rest and not rest.endswith("\n"):
            rest = lines.readline(1 << 16)  # nobody reads so long a line to its end
        if number > MAX_LINES:
            raise ListError(f"{path}: more than {MAX_LINES:,} lines: not a cut list")
        if not number % 1000:
            tell(raw.tell(), len(data))
            if is_stopped():
                raise ListError(f"{path}: reading it was stopped")
        before, ends, _ = line[:longest].partition("\x1a")
        yield number, harmless_line(before, longest)
        if ends:
            return


def text_of(path: str | Path) -> str:
    """Return the whole text of a file as it is. Raises ListError."""
    data = _bytes_of(path)
    return data.decode(_encoding_of(data, path), errors="replace")


def _bytes_of(path: str | Path) -> bytes:
    file = Path(path)
    try:
        if file.is_dir():
            raise ListError(f"{file}: this is a folder, not a list")
        if file.stat().st_size > MAX_BYTES:
            raise ListError(f"{file}: too large for a cut list")
        with file.open("rb") as opened:
            data = opened.read(MAX_BYTES + 1)
    except FileNotFoundError as error:
        raise ListError(f"{file}: there is no such file") from error
    except OSError as error:
        raise ListError(f"{file}: cannot be read ({error.strerror})") from error
    except ValueError as error:
        raise ListError(f"{file}: this is no name of a file") from error
    if len(data) > MAX_BYTES:
        raise ListError(f"{file}: too large for a cut list")
    if not data.strip(b" \t\r\n\x1a\0"):
        raise ListError(f"{file}: the file is empty")
    return data


def _encoding_of(data: bytes, path: str | Path) -> str:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16"
    head = data[:4096].split(b"\x1a")[0]
    if b"\0" in head:
        head = data[:4096]
    half = len(head) // 2
    if half and b"\0" in head:
        for odd, encoding in ((1, "utf-16-le"), (0, "utf-16-be")):
            own = head[odd::2].count(0)
            if own > half * 0.7 and head[1 - odd :: 2].count(0) < half * 0.1:
                return encoding
        raise ListError(f"{path}: not a cut list, but something else than text")
    decoder = codecs.getincrementaldecoder("utf-8")()
    view = memoryview(data)
    try:
        for at in range(0, len(data), 1 << 20):
            decoder.decode(view[at : at + (1 << 20)])
        decoder.decode(b"", final=True)
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8-sig"


_STEERING = re.compile(r"\x1b(?:\[[0-9;?]*[@-~]|\][^\x07\x1b]{0,200}(?:\x07|\x1b\\)|[@-Z\\^_]?)")


def harmless_line(text: str, longest: int = LONGEST_LINE) -> str:
    """Return a line without what steers a terminal, turns its writing around, or is not seen.

    Tabs stay, other white space is a space.
    """
    text = text[:longest].rstrip("\r\n")
    if text.isprintable():
        return text
    spaced = (c if c == "\t" or not c.isspace() else " " for c in _STEERING.sub("", text))
    return "".join(c for c in spaced if c == "\t" or c.isprintable())


# what is seen


def seen_events(events: Iterable[ReadEvent]) -> list[ReadEvent]:
    """Return what is seen: of several tracks the highest that has a picture, in record order.

    Keys laid over the picture are left out: they are no join. An event that is covered in its
    middle comes twice.
    """
    shown = [e for e in events if not e.over and e.length > 0]
    if len({e.track for e in shown}) <= 1:
        return sorted(shown, key=lambda e: (e.record_in, e.record_out))
    edges = sorted({f for e in shown for f in (e.record_in, e.record_out)})
    by_start = sorted(range(len(shown)), key=lambda n: shown[n].record_in)
    pieces: list[ReadEvent] = []
    begun: list[tuple[int, int, int]] = []  # the highest track first, of one the latest event
    at = 0
    for start, end in pairwise(edges):
        while at < len(by_start) and shown[by_start[at]].record_in <= start:
            event = shown[by_start[at]]
            heapq.heappush(begun, (-event.track, -event.record_in, by_start[at]))
            at += 1
        while begun and shown[begun[0][2]].record_out <= start:
            heapq.heappop(begun)
        if not begun:
            continue
        top = shown[begun[0][2]]
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
    source_in, source_out = event.source_in, event.source_out
    if source_out > source_in and event.speed:
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
        mix_out=min(event.mix_out, end) if kept else 0,
    )


def marks_only(events: Sequence[ReadEvent], locators: Iterable[ListMarker] = ()) -> bool:
    """Tell whether events only mark places: a frame each, on one reel, with gaps between.

    Nobody cuts so: it is how places are handed on in a form that has only events.
    """
    if not events or any(e.length > 1 or e.over or spans(e.kind) for e in events):
        return False
    located = {m.frame for m in locators}
    named = all(e.record_in in located for e in events)
    if len(events) == 1:
        return named
    order = sorted(events, key=lambda e: e.record_in)
    gaps = any(b.record_in > a.record_out for a, b in pairwise(order))
    return gaps and (named or len({e.reel.upper() for e in events}) == 1)


def markers_of_list(listed: ReadList) -> tuple[ListMarker, ...]:
    """Return the places a list marks: its locators, and each other event as one of its length."""
    events: dict[int, deque[ReadEvent]] = {}
    for event in listed.events:
        if not event.over:
            events.setdefault(event.record_in, deque()).append(event)
    found = []
    for marker in listed.markers:
        of_it = events.get(marker.frame)
        if of_it:
            event = of_it.popleft()
            if listed.marks and not marker.note:
                marker = replace(marker, note=event.note)
        found.append(marker)
    for event in (e for left in events.values() for e in left):
        name = event.clip or event.note or next(iter(event.comments), "")
        note = event.note if event.note != name else ""
        found.append(ListMarker(event.record_in, name, event.length, note))
    return tuple(sorted(found, key=lambda m: (m.frame, m.length)))


# words in rows


def frame_from_word(word: str, rate: Rate) -> int:
    """Return the frame that a timecode or a plain number in a row means.

    Raises TimecodeError or ValueError.
    """
    if word.isascii() and word.isdigit():
        if len(word) > 9:
            raise ValueError("a frame number out of range")
        return int(word)
    drop = (";" in word or "." in word[-4:] or "," in word[-4:]) and can_drop(rate)
    return frame_from_timecode(re.sub("[;.,]", ":", word[:40]), rate, drop)


def frames_field(word: str) -> int:
    """Return what a timecode has in its frames, 0 for anything else."""
    fields = re.split("[:;.,]", word[:40])
    last = fields[-1]
    return int(last) if len(fields) == 4 and last.isascii() and last.isdigit() else 0
