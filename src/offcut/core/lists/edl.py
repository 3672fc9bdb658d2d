"""CMX 3600 edit decision lists, read as they are in the world and written by the book.

The layout is that of the CMX 3600 list: event number, reel, channels, transition with its
length, source in and out, record in and out; notes begin with an asterisk. Real lists are
spaced with tabs, have longer reels and numbers, and say more; what is not understood is told
with its line, and the rest is used.
"""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from functools import partial
from pathlib import Path

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.incoming import MAX_EVENTS, ListMarker, ReadEvent, ReadList, Trouble, text_of
from offcut.core.lists.outgoing import Event, EventList, write_list
from offcut.core.model.seam import Kind
from offcut.core.timecode import (
    Rate,
    base_of,
    can_drop,
    frame_from_timecode,
    frames_per_day,
    rate_from,
    rate_words,
)

_TIME = re.compile(r"\d{1,2}[:;.,]\d{2}[:;.,]\d{2}[:;.,]\d{2,3}")
_NUMBER = re.compile(r"[A-Z]{0,2}\d{1,8}[A-Z]?")
_HOW = re.compile(r"(C|D|W\d{1,4}|K|KB|KO)", re.IGNORECASE)
_CHANNELS = re.compile(r"(NONE|B|[AV]{1,2}\d{0,2}(?:[/+]?[AV]{1,2}\d{0,2})*)", re.IGNORECASE)
_VIDEO = re.compile(r"V(\d{0,2})", re.IGNORECASE)
_BLACK = ("BL", "BLK", "BLACK")


class _Reader:
    def __init__(self, rate: Rate) -> None:
        self.rate = rate
        self.drop = False
        self.first_drop: bool | None = None
        self.record_drop = False
        self.title = ""
        self.events: list[ReadEvent] = []
        self.markers: list[ListMarker] = []
        self.troubles: list[Trouble] = []
        self.comments: list[str] = []
        self.sound = 0
        self.highest = 0
        self.last_was_sound = False
        self._from: ReadEvent | None = None

    def trouble(self, line: int, text: str, why: str) -> None:
        self.troubles.append(Trouble(line, " ".join(text.split()), why))

    def frame(self, word: str, drop: bool) -> int:
        """Return the frame of a timecode."""
        self.highest = max(self.highest, int(re.split("[:;.,]", word)[-1]))
        return frame_from_timecode(re.sub("[:;.,]", ":", word), self.rate, drop)

    def drops(self, words: list[str]) -> list[bool]:
        """Return which timecodes of a line are drop-frame.

        Where one of them is marked so (a mark other than a colon before its frames), the marks
        rule; else the code mode in force does.
        """
        marked = [(w[-3] if w[-3] in ":;.," else w[-4]) != ":" for w in words]
        if not any(marked):
            marked = [self.drop] * len(words)
        return [m and can_drop(self.rate) for m in marked]

    # lines

    def line(self, number: int, text: str) -> None:
        words = text.split()
        if not words:
            return
        head = words[0].upper()
        if head.startswith("TITLE:") or (head == "TITLE" and words[1:2] == [":"]):
            self.title = text.split(":", 1)[1].strip()
        elif head.startswith("FCM"):
            self._code_mode(number, text)
        elif head.startswith("M2"):
            self._speed(number, text, words)
        elif head[0] in "*>#" or head in ("SPLIT:", "AUD", "AUDIO", "EFFECTS", "GPI", "VID"):
            self._note(number, text)
        elif _NUMBER.fullmatch(head) and any(_TIME.fullmatch(w) for w in words):
            self._event(number, text, words)
        elif _NUMBER.fullmatch(head) and sum(c in ":;" for c in text) >= 3:
            self.trouble(number, text, "its timecodes cannot be read:")
        else:
            self.trouble(number, text, "not understood:")

    def _code_mode(self, number: int, text: str) -> None:
        word = text.split(":", 1)[-1].upper().replace("-", " ")
        if "NON" in word and "DROP" in word:
            self.drop = False
        elif "DROP" in word:
            if not can_drop(self.rate):
                self.trouble(number, text, "there is no drop-frame at this rate:")
            self.drop = True
        else:
            self.trouble(number, text, "not understood:")
            return
        if self.first_drop is None:
            self.first_drop = self.drop and can_drop(self.rate)

    def _event(self, line: int, text: str, words: list[str]) -> None:
        times = [w for w in words if _TIME.fullmatch(w)]
        if len(times) != 4 or words[-4:] != times:
            self.trouble(line, text, f"has {len(times)} timecodes in place of 4 at its end:")
            return
        middle = words[1:-4]
        length = None
        if len(middle) >= 2 and middle[-1].isdigit() and _HOW.fullmatch(middle[-2]):
            length = int(middle.pop())
        elif len(middle) >= 2 and middle[-2].upper() == "K" and middle[-1].upper() in ("B", "O"):
            middle[-2:] = ["K" + middle[-1].upper()]
        elif len(middle) >= 3 and middle[-1].upper() in ("F", "(F)") and middle[-2].isdigit():
            length = int(middle[-2])
            middle[-2:] = []
        if len(middle) < 3 or not _HOW.fullmatch(middle[-1]):
            self.trouble(line, text, "its transition cannot be read:")
            return
        how, channels, reel = middle[-1].upper(), middle[-2], " ".join(middle[:-2])
        if not _CHANNELS.fullmatch(channels):
            self.trouble(line, text, f"its channels “{channels}” cannot be read:")
            return
        try:
            drops = self.drops(times)
            source_in, source_out, record_in, record_out = map(self.frame, times, drops)
        except TimecodeError as error:
            self.trouble(line, text, f"{error}:")
            return
        day = frames_per_day(self.rate, drops[0])
        if source_in - source_out > day // 2:
            source_out += day  # a tape that ran past midnight
        if record_out < record_in:
            self.trouble(line, text, "ends before it begins on the record side:")
            return
        if source_out < source_in:
            self.trouble(line, text, "ends before it begins on the source side:")
            return
        video = _VIDEO.search(channels)
        if video is None and channels.upper() != "B":
            self.sound += 1
            self.last_was_sound = True
            return
        self.last_was_sound = False
        track = max(1, int(video[1] or 1)) if video else 1
        mixed = length or 0
        event = ReadEvent(
            number=words[0],
            line=line,
            reel=reel,
            source_in=source_in,
            source_out=source_out,
            record_in=record_in,
            record_out=record_out,
            track=track,
            kind=Kind.DISSOLVE if how == "D" else Kind.WIPE if how[0] == "W" else Kind.CUT,
            mix_in=record_in if mixed else 0,
            mix_out=record_in + mixed if mixed else 0,
            drop=drops[0],
            black=reel.upper() in _BLACK,
            over=how in ("K", "KO"),
        )
        if how == "D" or how[0] == "W":
            if length is None:
                self.trouble(line, text, "has a transition without a length:")
                event = replace(event, kind=Kind.CUT)
            elif not mixed:
                event = replace(event, kind=Kind.CUT)
        if not self.events:
            self.record_drop = drops[2]
        if len(self.events) >= MAX_EVENTS:
            raise ListError(f"more than {MAX_EVENTS} events")
        self._from = None
        if not event.length:
            self._from = event  # the first line of a transition: what is mixed from
            return
        natural = event.source_out - event.source_in
        if natural != event.length:
            speed = Fraction(natural, event.length)
            event = replace(event, speed=speed.limit_denominator(10_000))
        self.events.append(event)

    def _speed(self, line: int, text: str, words: list[str]) -> None:
        found = re.search(r"(-?\d+(?:\.\d+)?)\s+(?:\d{1,2}[:;.,]){3}\d{2,3}\s*$", text)
        if found is None or len(words) < 3:
            self.trouble(line, text, "its speed cannot be read:")
            return
        if self.last_was_sound or not self.events or self._from is not None:
            return  # the speed of sound, or of what is mixed from
        speed = Fraction(found[1]) / base_of(self.rate)
        if abs(speed) > 100:
            self.trouble(line, text, "its speed is out of range:")
            return
        event = self.events[-1]
        # a list rounds its speed to a tenth of a frame a second: the lengths tell it exactly
        exact = event.speed if speed > 0 and abs(speed - event.speed) < Fraction(1, 50) else speed
        self.events[-1] = replace(event, speed=exact)

    def _note(self, line: int, text: str) -> None:
        said = text.strip().lstrip("*").strip()
        if said.upper().startswith(RATE_COMMENT):
            self.comments.append(said)
            return
        if not self.events and self._from is None and not self.last_was_sound:
            self.comments.append(said)
            return
        if self.last_was_sound or not self.events:
            return
        event = self.events[-1]
        comments = (*event.comments, said)
        upper = said.upper()
        clip, note = event.clip, event.note
        mixed = event.mix_out > event.mix_in
        if upper.startswith("TO CLIP NAME:") or (
            upper.startswith("FROM CLIP NAME:") and not (mixed and event.kind is not Kind.CUT)
        ):
            clip = said.split(":", 1)[1].strip()
        elif upper.startswith("FROM CLIP NAME:") and not clip:
            clip = ""  # what is mixed from; the event's own comes as TO CLIP NAME
        elif upper.startswith(("COMMENT:", "NOTE:")):
            note = f"{note} {said.split(':', 1)[1].strip()}".strip()
        elif upper.startswith("SCENE:"):
            event = replace(event, scene=said.split(":", 1)[1].strip())
        elif upper.startswith("LOC:"):
            self._locator(line, text, said)
        self.events[-1] = replace(event, comments=comments, clip=clip, note=note)

    def _locator(self, line: int, text: str, said: str) -> None:
        words = said.split(None, 3)
        if len(words) < 2 or not _TIME.fullmatch(words[1]):
            self.trouble(line, text, "its locator cannot be read:")
            return
        try:
            frame = self.frame(words[1], self.drops(words[1:2])[0])
        except TimecodeError as error:
            self.trouble(line, text, f"{error}:")
            return
        rest = words[2:]
        name = rest[-1] if len(rest) > 1 or (rest and not rest[0].isupper()) else ""
        self.markers.append(ListMarker(frame, name))


def read_edl(path: str | Path, rate: Rate) -> ReadList:
    """Read a CMX 3600 list whose timecodes run at ``rate``.

    Raises ListError naming the file when there is not one event in it; single lines that cannot
    be understood are told in ``troubles``.
    """
    reader = _Reader(rate)
    text = text_of(path)
    try:
        for number, line in enumerate(text.splitlines(), start=1):
            reader.line(number, line[:2000])
    except ListError as error:
        raise ListError(f"{path}: {error}") from error
    if not reader.events:
        first = f"; {reader.troubles[0]}" if reader.troubles else ""
        raise ListError(f"{path}: not one picture event can be read in it{first}")
    return ReadList(
        path=str(path),
        form="EDL",
        rate=rate,
        drop=bool(reader.first_drop) or reader.record_drop,
        title=reader.title,
        events=tuple(_told_apart(reader.events)),
        markers=tuple(reader.markers),
        sound=reader.sound,
        troubles=tuple(reader.troubles),
        comments=tuple(reader.comments),
        highest=reader.highest,
    )


def told_rate(listed: ReadList) -> Rate | None:
    """Return the rate that a list's own comments tell, None where they tell none."""
    for comment in listed.comments:
        if comment.upper().startswith(RATE_COMMENT):
            try:
                return rate_from(comment.split(":", 1)[1].strip())
            except TimecodeError:
                return None
    return None


def _told_apart(events: list[ReadEvent]) -> list[ReadEvent]:
    """Give an event without a name of its own in a mix the one its comments have."""
    named = []
    for event in events:
        if not event.clip:
            own = [c for c in event.comments if c.upper().startswith("FROM CLIP NAME:")]
            if own and not any(c.upper().startswith("TO CLIP NAME:") for c in event.comments):
                event = replace(event, clip=own[-1].split(":", 1)[1].strip())
        named.append(event)
    return named


# writing


_LINE = "{number:03d}  {reel:<8s} V     {how:<8s} {times}"
_MIXES = {Kind.DISSOLVE: "D", Kind.FADE: "D", Kind.WIPE: "W001"}
BLACK = "BL"
RATE_COMMENT = "FRAME RATE:"
"""The comment of the first event that tells the rate; the format has no other place for it."""


def edl_text(events: EventList) -> str:
    """Return the list as CMX 3600 text with CRLF line ends.

    A shot of the film is an event with a straight cut at its seam: a mix is in its pictures
    already, and how long it is stands in a comment. Between originals a mix is made again: a
    dissolve or wipe with its two lines, a fade as a dissolve to black and one out of it. Markers
    become locators, a shot that does not run as shot a speed line.
    """
    lines = [
        f"TITLE: {_plain(events.title)[:70]}",
        f"FCM: {'DROP FRAME' if events.drop else 'NON-DROP FRAME'}",
        "",
    ]
    films = _reels(events)
    number = 0

    def line(reel: str, how: str, source: Event | None, *frames: int) -> str:
        words = partial(events.source_words, source) if source else events.words
        times = " ".join([*map(words, frames[:2]), *map(events.words, frames[2:])])
        return _LINE.format(number=number, reel=reel, how=how, times=times)

    for place, event in enumerate(events.events):
        reel, mix = _reel(event.reel) or films[event.film.path], event.mix
        after = events.events[place + 1].mix if place + 1 < len(events.events) else None
        source_out = after.left_at if after else event.source_out
        record_out = after.start if after else event.record_out
        number += 1
        if mix is None:
            times = (event.source_in, source_out, event.record_in, record_out)
            lines.append(line(reel, "C", event, *times))
        else:
            before = events.events[place - 1]
            left = _reel(before.reel) or films[before.film.path]
            start, middle = mix.start, event.record_in
            lines.append(line(left, "C", before, mix.left_at, mix.left_at, start, start))
            times = (mix.source_in, source_out, start, record_out)
            from_clip = f"* FROM CLIP NAME: {_plain(before.name)}"
            if mix.kind is Kind.FADE:
                dark = middle - start
                lines.append(line(BLACK, _mixed(mix.kind, dark), None, 0, dark, start, middle))
                lines.append(from_clip)
                number += 1
                lines.append(line(BLACK, "C", None, dark, dark, middle, middle))
                times = (event.source_in, source_out, middle, record_out)
                start = middle
            lines.append(line(reel, _mixed(mix.kind, mix.end - start), event, *times))
        if event.speed != 1:
            fps = float(event.speed * base_of(events.rate))
            shown = f"{'-' if fps < 0 else ''}{abs(fps):05.1f}"
            at = events.source_words(event, times[0])
            lines.append(f"M2   {reel:<8s} {shown:>11s}                {at}")
        if mix is not None and mix.kind is not Kind.FADE:
            lines.append(from_clip)
        lines.append(f"* {'FROM' if mix is None else 'TO'} CLIP NAME: {_plain(event.name)}")
        if not event.reel:
            lines.append(f"* SOURCE FILE: {_plain(event.film.name)}")
        if event.joined_by is not Kind.CUT and mix is None:
            lines.append(f"* JOINED BY A {event.joined_by.value.upper()} OF {event.mixed} FRAMES")
        lines += _said_of(events, event)
        if not place:  # some readers take no comment before the first event
            lines.append(f"* {RATE_COMMENT} {rate_words(events.rate)}")
    return "\r\n".join(lines) + "\r\n"


def _said_of(events: EventList, event: Event) -> list[str]:
    """Return the comments of an event: its markers, scene, note, and what a list said of it."""
    lines = []
    for marker in event.markers:
        at = events.words(event.record_in + marker.start - event.start)
        lines.append(f"* LOC: {at} YELLOW  {_plain(marker.name or marker.note)}".rstrip())
    if event.scene:
        lines.append(f"* SCENE: {_plain(event.scene)}")
    if event.note:
        lines.append(f"* COMMENT: {_plain(event.note)}")
    return lines + [f"* {_plain(c)}" for c in event.comments]


def _mixed(kind: Kind, frames: int) -> str:
    return f"{_MIXES[kind]:<4s} {frames:03d}"


def _reels(events: EventList) -> dict[str, str]:
    """Return a reel name for each film, by its path; no two the same."""
    reels: dict[str, str] = {}
    for event in events.events:
        if event.film.path in reels:
            continue
        reel, number = reel_from(event.film.reel or event.film.name), 1
        while reel in reels.values():
            number += 1
            reel = (
                f"{reel_from(event.film.reel or event.film.name)[: 8 - len(str(number))]}{number}"
            )
        reels[event.film.path] = reel
    return reels


def reel_from(clip: str) -> str:
    """Return a reel name of at most eight characters that CMX 3600 allows, from a file name."""
    letters = re.sub(r"[^A-Z0-9]", "", Path(clip).stem.upper())
    return letters[:8] or "AX"


def _reel(reel: str) -> str:
    """Return a reel name as an EDL can hold it: no spaces, 32 characters at most."""
    return re.sub(r"\s+", "_", reel.strip())[:32]


def _plain(text: str) -> str:
    return " ".join(text.split())


def write_edl(events: EventList, path: str | Path) -> Path:
    """Write the list as an EDL. Raises ListError."""
    return write_list(path, edl_text(events))
