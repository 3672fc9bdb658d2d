"""Reading CMX 3600 edit decision lists as they are in the world.

The layout is that of the CMX 3600 list: event number, reel, channels, transition with its
length, source in and out, record in and out; notes begin with an asterisk. Real lists are
spaced with tabs, have longer reels and numbers, and say more; what is not understood is told
with its line, and the rest is used.
"""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.listed import (
    MAX_EVENTS,
    ListedEvent,
    ListMarker,
    ReadList,
    Trouble,
    text_of,
)
from offcut.core.model.project import Kind
from offcut.core.timecode import Rate, base_of, can_drop, frame_from_timecode, frames_per_day

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
        self.events: list[ListedEvent] = []
        self.markers: list[ListMarker] = []
        self.troubles: list[Trouble] = []
        self.comments: list[str] = []
        self.sound = 0
        self.highest = 0
        self.last_was_sound = False
        self._from: ListedEvent | None = None

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
        event = ListedEvent(
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


def _told_apart(events: list[ListedEvent]) -> list[ListedEvent]:
    """Give an event without a name of its own in a mix the one its comments have."""
    named = []
    for event in events:
        if not event.clip:
            own = [c for c in event.comments if c.upper().startswith("FROM CLIP NAME:")]
            if own and not any(c.upper().startswith("TO CLIP NAME:") for c in event.comments):
                event = replace(event, clip=own[-1].split(":", 1)[1].strip())
        named.append(event)
    return named
