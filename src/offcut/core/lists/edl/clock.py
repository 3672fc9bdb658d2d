"""The clock of an EDL: labels to frames, which of them are drop-frame, and what passes midnight."""

from __future__ import annotations

import re

from offcut.core.timecode import Rate, can_drop, frame_from_timecode, frames_per_day

TIME = re.compile(r"[0-9]{1,2}[:;.,][0-9]{2}[:;.,][0-9]{2}[:;.,][0-9]{2,3}")


class Clock:
    """Reads the timecodes of one list.

    Attributes: ``drop`` the code mode in force; ``highest`` the highest frames field met.
    """

    def __init__(self, rate: Rate) -> None:
        self.rate = rate
        self.drop = False
        self.highest = 0
        self._last_in: int | None = None
        self._days = 0

    def frame(self, word: str, drop: bool) -> int:
        """Return the frame of a timecode. Raises TimecodeError."""
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

    def past_midnight(self, first: int, last: int, drop: bool) -> tuple[int, int]:
        """Return record frames that go on counting where the clock begins again at zero."""
        day = frames_per_day(self.rate, drop)
        if self._last_in is not None and first + self._days < self._last_in - day // 2:
            self._days += day
        first, last = first + self._days, last + self._days
        if first - last > day // 2:
            last += day
        self._last_in = first
        return first, last

    def near(self, word: str) -> int:
        """Return the record frame of a label near the last event's. Raises TimecodeError."""
        drop = self.drops([word])[0]
        frame = self.frame(word, drop) + self._days
        day = frames_per_day(self.rate, drop)
        if self._last_in is not None and frame < self._last_in - day // 2:
            frame += day
        return frame
