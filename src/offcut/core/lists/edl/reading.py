"""CMX 3600 edit decision lists, read as they are in the world.

The layout is that of the CMX 3600 list: event number, reel, channels, transition with its
length, source in and out, record in and out; notes begin with an asterisk. Real lists are
spaced with tabs, have longer reels and numbers, and say more; what is not understood is told
with its line, and the rest is used.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.edl.clock import TIME, Clock
from offcut.core.lists.edl.reels import names_in_force, replaced_reel, same_reel
from offcut.core.lists.edl.speeds import SpeedLine, speed_by_lengths, speed_told
from offcut.core.lists.edl.words import MARKED_FOR, RATE_COMMENT
from offcut.core.lists.incoming import (
    COMMENTS_KEPT,
    MAX_EVENTS,
    ListMarker,
    ListTroubles,
    ReadEvent,
    ReadList,
    lines_of,
    marks_only,
)
from offcut.core.lists.marker_colours import COLOUR_WORDS
from offcut.core.model.seam import Kind
from offcut.core.model.source import MarkerColour
from offcut.core.timecode import (
    Rate,
    base_of,
    can_drop,
    frames_per_day,
    rate_from,
)

_NUMBER = re.compile(r"[A-Z]{0,2}[0-9]{1,8}[A-Z]?")
_HOW = re.compile(r"(C|D|W[0-9]{1,4}|K|KB|KO)", re.IGNORECASE)
_CHANNELS = re.compile(r"NONE|[ABV][ABV0-9/+]{0,40}", re.IGNORECASE)
_VIDEO = re.compile(r"V([0-9]{0,2})", re.IGNORECASE)
_SPEED = re.compile(r"[-+]?[0-9]{1,6}(?:\.[0-9]{1,6})?")
_BLACK = ("BL", "BLK", "BLACK")
_LONGEST_MIX = 999_999
_NOTES = ("FROM CLIP NAME", "TO CLIP NAME", "KEY CLIP NAME", "SOURCE FILE", "COMMENT:", "NOTE:",
          "SCENE:", "LOC:", "REEL ")  # fmt: skip
"""Words a note begins with, also where a list leaves out the asterisk."""
_STATEMENTS = ("SPLIT:", "AUD", "AUDIO", "EFFECTS", "GPI", "VID")


@dataclass(slots=True)
class _Open:
    """An event while its notes are still read; ``sourced`` False where its source is left out."""

    event: ReadEvent
    text: str
    sourced: bool = True
    before: ReadEvent | None = None
    mixed_from: str = ""
    comments: list[str] = field(default_factory=list)
    said: int = 0
    notes: list[str] = field(default_factory=list)
    speed: SpeedLine | None = None


class _Reader:
    def __init__(self, path: str | Path, rate: Rate) -> None:
        self.rate = rate
        self.clock = Clock(rate)
        self.first_drop: bool | None = None
        self.record_drop = False
        self.title = ""
        self.events: list[_Open] = []
        self.markers: list[ListMarker] = []
        self.troubles = ListTroubles(path)
        self.comments: list[str] = []
        self.sound = 0
        self.replaced: dict[str, str] = {}
        self._now: _Open | None = None  # what notes and speeds are about
        self._begun = False
        self._from: ReadEvent | None = None
        self._held: list[tuple[int, str]] = []

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
        elif head[0] in "*>#" or head in _STATEMENTS:
            self._note(number, text)
        elif _NUMBER.fullmatch(head) and any(TIME.fullmatch(w) for w in words):
            self._event(number, text, words)
        elif text.lstrip().upper().startswith(_NOTES):
            self._note(number, text)
        elif _NUMBER.fullmatch(head) and sum(c in ":;" for c in text) >= 3:
            self._now, self._begun = None, True  # what follows is about this one
            self.troubles.add(number, text, "its timecodes cannot be read:")
        else:
            self.troubles.add(number, text, "not understood:")

    def _code_mode(self, number: int, text: str) -> None:
        word = text.split(":", 1)[-1].upper().replace("-", " ")
        if "NON" in word and "DROP" in word:
            self.clock.drop = False
        elif "DROP" in word:
            if not can_drop(self.rate):
                why = "there is no drop-frame at this rate:"
                self.troubles.add(number, text, why)
            self.clock.drop = True
        else:
            self.troubles.add(number, text, "not understood:")
            return
        if self.first_drop is None:
            self.first_drop = self.clock.drop and can_drop(self.rate)

    def _event(self, line: int, text: str, words: list[str]) -> None:
        self._now, self._begun = None, True  # notes of an event that is refused are nobody's

        def refused(why: str) -> None:
            self._from, self._held = None, []
            self.troubles.add(line, text, why)

        times = [w for w in words if TIME.fullmatch(w)]
        first = words.index(times[0])
        if len(times) != 4 or words[first : first + 4] != times:
            refused(f"has {len(times)} timecodes in place of 4 in a row:")
            return
        if words[first + 4 :]:
            self.troubles.add(line, text, "says more after its timecodes:", used=True)
        how = _transition(words[1:first])
        if how is None:
            refused("its transition cannot be read:")
            return
        reel, channels, kind, mixed = how
        if not _CHANNELS.fullmatch(channels):
            refused(f"its channels “{channels[:40]}” cannot be read:")
            return
        drops = self.clock.drops(times)
        try:
            record_in, record_out = map(self.clock.frame, times[2:], drops[2:])
        except TimecodeError as error:
            refused(f"{error}:")
            return
        record_in, record_out = self.clock.past_midnight(record_in, record_out, drops[2])
        if record_out < record_in:
            refused("ends before it begins on the record side:")
            return
        video = _VIDEO.search(channels)
        if video is None and channels.upper() != "B":
            self.sound += 1
            self._sound(words[0], record_in, record_out)
            return
        source = self._source(line, text, times, drops)
        gradual = kind == "D" or kind[0] == "W"
        if gradual and mixed is None:
            self.troubles.add(line, text, "has a transition without a length:", used=True)
        length = (mixed or 0) if gradual else 0
        if record_out > record_in and length > record_out - record_in:
            why = f"its transition is longer than the shot of {record_out - record_in} frames:"
            self.troubles.add(line, text, why, used=True)
            length = record_out - record_in
        known = Kind.DISSOLVE if kind == "D" else Kind.WIPE
        event = ReadEvent(
            number=words[0],
            line=line,
            reel=reel,
            source_in=source[0] if source else record_in,
            source_out=source[1] if source else record_in,
            record_in=record_in,
            record_out=record_out,
            track=max(1, int(video[1] or 1)) if video else 1,
            kind=known if length else Kind.CUT,
            mix_in=record_in if length else 0,
            mix_out=record_in + length if length else 0,
            drop=drops[0],
            black=reel.upper() in _BLACK,
            over=kind in ("K", "KO"),
        )
        self._take(event, text, source is not None, drops[2])

    def _take(self, event: ReadEvent, text: str, sourced: bool, drop: bool) -> None:
        """Take an event that was read; one of no length is what a transition mixes from."""
        if not self.events and self._from is None:
            self.record_drop = drop
        if not event.length:
            self._from, self._held = event, []
            return
        if len(self.events) >= MAX_EVENTS:
            raise ListError(f"{self.troubles.path}: more than {MAX_EVENTS:,} events")
        before = self._from
        opened = _Open(event, text, sourced)
        if before is not None and before.number == event.number:
            opened.before = before
        self._from = None
        self.events.append(opened)
        self._now = opened
        held, self._held = self._held, []
        if opened.before is not None:
            for number, said in held:
                self._note(number, said)

    def _source(
        self, line: int, text: str, times: list[str], drops: list[bool]
    ) -> tuple[int, int] | None:
        """Return an event's source; None, and it is said, where it makes no sense."""
        try:
            first, last = map(self.clock.frame, times[:2], drops[:2])
        except TimecodeError as error:
            self.troubles.add(line, text, f"{error}, so its source is left out:", used=True)
            return None
        day = frames_per_day(self.rate, drops[0])
        if first - last > day // 2:
            last += day  # a tape that ran past midnight
        if last < first:
            why = "ends before it begins on the source side, so its source is left out:"
            self.troubles.add(line, text, why, used=True)
            return None
        return first, last

    def _sound(self, number: str, record_in: int, record_out: int) -> None:
        """Go on with the picture event before where this is its sound; else its notes are not."""
        before = self.events[-1] if self.events else None
        if before is not None:
            event = before.event
            same = (event.record_in, event.record_out) == (record_in, record_out)
            self._now = before if event.number == number or same else None

    # what is said about events

    def _speed(self, line: int, text: str, words: list[str]) -> None:
        fits = len(words) >= 4 and TIME.fullmatch(words[-1]) and _SPEED.fullmatch(words[-2])
        if not fits:
            self.troubles.add(line, text, "its speed cannot be read:")
            return
        now = self._now
        if now is None or self._from is not None:
            return  # the speed of sound, of an event that was refused, or of what is mixed from
        try:
            at: int | None = self.clock.frame(words[-1], self.clock.drops(words[-1:])[0])
        except TimecodeError:
            at = None
        _, _, digits = words[-2].partition(".")
        told = SpeedLine(line, text, " ".join(words[1:-2]), Fraction(words[-2]), len(digits), at)
        if abs(told.fps / base_of(self.rate)) > 100:
            self.troubles.add(line, text, "its speed is out of range:")
            return
        own = same_reel(told.reel, now.event.reel)
        before = now.before
        if before is not None and same_reel(told.reel, before.reel):
            if not own or (told.at == before.source_in and told.at != now.event.source_in):
                return  # of what is mixed from; its own event has told it
        elif not own and told.at != now.event.source_in:
            words_of_reel = f"names reel {told.reel}, its event is of {now.event.reel}:"
            self.troubles.add(line, text, words_of_reel)
            return
        now.speed = told

    def _note(self, line: int, text: str) -> None:
        said = text.strip().lstrip("*").strip()
        upper = said.upper()
        if upper.startswith("LOC:"):
            self._locator(line, text, said)
        elif upper.startswith(MARKED_FOR) and self.markers:
            self._mark_on(said)
            return
        elif "REEL" in upper and " REPLACED BY" in upper:
            pair = replaced_reel(said)
            if pair is not None and len(self.replaced) < COMMENTS_KEPT:
                self.replaced.update([pair])
        if self._from is not None:
            if len(self._held) < COMMENTS_KEPT:
                self._held.append((line, text))
            return
        if upper.startswith(RATE_COMMENT) or not self._begun:
            if len(self.comments) < COMMENTS_KEPT:
                self.comments.append(said)
            return
        now = self._now
        if now is None:
            return
        now.said += 1
        if now.said <= COMMENTS_KEPT:
            now.comments.append(said)
        if upper.startswith(("TO CLIP NAME:", "FROM CLIP NAME:")):
            own = upper.startswith("TO") or now.event.mix_out == now.event.mix_in
            name = said.split(":", 1)[1].strip()
            if own:
                now.event = replace(now.event, clip=name)
            else:
                now.mixed_from = name  # its own too, where no other comes
        elif upper.startswith(("COMMENT:", "NOTE:")) and now.said <= COMMENTS_KEPT:
            now.notes.append(said.split(":", 1)[1].strip())
        elif upper.startswith("SCENE:"):
            now.event = replace(now.event, scene=said.split(":", 1)[1].strip())

    def _locator(self, line: int, text: str, said: str) -> None:
        words = said.split(None, 2)
        if len(words) < 2 or not TIME.fullmatch(words[1]):
            self.troubles.add(line, text, "its locator cannot be read:")
            return
        try:
            frame = self.clock.near(words[1])
        except TimecodeError as error:
            self.troubles.add(line, text, f"{error}:")
            return
        if len(self.markers) >= MAX_EVENTS:
            raise ListError(f"{self.troubles.path}: more than {MAX_EVENTS:,} locators")
        name = words[2] if len(words) > 2 else ""
        first, _, rest = name.partition(" ")
        colour = COLOUR_WORDS.get(first, MarkerColour.NONE)
        if colour is not MarkerColour.NONE:
            name = rest.strip()
        self.markers.append(ListMarker(frame, name, colour=colour))

    def _mark_on(self, said: str) -> None:
        """Stretch the last locator over the frames its next line tells."""
        word = said[len(MARKED_FOR) :].split()[:1]
        if word and word[0].isascii() and word[0].isdigit() and len(word[0]) < 9:
            last = self.markers[-1]
            self.markers[-1] = replace(last, length=max(1, int(word[0])))

    # the end

    def events_read(self) -> tuple[ReadEvent, ...]:
        """Return the events with what was said of them."""
        names = names_in_force(self.replaced, (o.event.reel for o in self.events))
        return tuple(self._closed(opened, names) for opened in self.events)

    def _closed(self, opened: _Open, names: dict[str, str]) -> ReadEvent:
        event = opened.event
        if opened.said > COMMENTS_KEPT:
            why = f"event {event.number} has {opened.said:,} comments, {COMMENTS_KEPT} are kept"
            self.troubles.add(event.line, "", why, used=True)
        if opened.sourced and opened.speed is not None:
            speed = speed_told(event, opened.speed, self.rate, self.troubles)
        elif opened.sourced:
            speed = speed_by_lengths(event, opened.text, self.troubles)
        else:
            speed = Fraction(1)
        frozen = opened.sourced and not speed
        whipped = any(c.upper().startswith(WHIPPED) for c in opened.comments)
        return replace(
            event,
            kind=Kind.WHIP if whipped and event.kind is Kind.DISSOLVE else event.kind,
            reel=names.get(event.reel.upper(), event.reel),
            clip=event.clip or opened.mixed_from,
            note=" ".join(opened.notes),
            comments=tuple(opened.comments),
            speed=speed,
            source_out=event.source_in + 1 if frozen else event.source_out,
        )


WHIPPED = f"JOINED BY A {Kind.WHIP.value.upper()} "
"""What a list of Offcut says of a dissolve that stands for a whip."""


def _transition(middle: list[str]) -> tuple[str, str, str, int | None] | None:
    """Return reel, channels, transition and its length from the words between number and times."""
    length: int | None = None
    middle = list(middle)
    if len(middle) >= 2 and _is_count(middle[-1]) and _HOW.fullmatch(middle[-2]):
        length = int(middle.pop())
    elif len(middle) >= 2 and middle[-2].upper() == "K" and middle[-1].upper() in ("B", "O"):
        middle[-2:] = ["K" + middle[-1].upper()]
    elif len(middle) >= 3 and middle[-1].upper() in ("F", "(F)") and _is_count(middle[-2]):
        length = int(middle[-2])
        middle[-2:] = []
    if len(middle) < 3 or not _HOW.fullmatch(middle[-1]) or (length or 0) > _LONGEST_MIX:
        return None
    return " ".join(middle[:-2]), middle[-2], middle[-1].upper(), length


def _is_count(word: str) -> bool:
    return word.isascii() and word.isdigit() and len(word) <= 9


def read_edl(path: str | Path, rate: Rate) -> ReadList:
    """Read a CMX 3600 list whose timecodes run at ``rate``.

    Raises ListError naming the file when there is not one event in it; single lines that cannot
    be understood are told in ``troubles``.
    """
    reader = _Reader(path, rate)
    for number, line in lines_of(path):
        reader.line(number, line)
    if not reader.events:
        if reader.sound:
            raise ListError(f"{path}: it has sound alone ({reader.sound} events), no picture")
        raise reader.troubles.refusal("not one picture event can be read in it")
    events = reader.events_read()
    reader.troubles.kept.sort(key=lambda t: t.line)  # speeds are known last
    comments = tuple(reader.comments)
    listed = ReadList(
        path=str(path),
        form="EDL",
        rate=rate,
        drop=bool(reader.first_drop) or reader.record_drop,
        title=reader.title,
        events=events,
        markers=tuple(reader.markers),
        sound=reader.sound,
        comments=comments,
        highest=reader.clock.highest,
        told_rate=_told_rate(comments),
        marks=marks_only(events, reader.markers),
    )
    return reader.troubles.told_by(listed)


def _told_rate(comments: tuple[str, ...]) -> Rate | None:
    """Return the rate that a list's own comments tell, None where they tell none."""
    for comment in comments:
        if comment.upper().startswith(RATE_COMMENT):
            try:
                return rate_from(comment.split(":", 1)[1].strip())
            except TimecodeError:
                return None
    return None
