"""A run: numbered stills that read as one film."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from enum import StrEnum


class Holes(StrEnum):
    """What stands in where a run has no picture of a number."""

    HOLD = "hold"
    BLACK = "black"
    CLOSE = "close"


@dataclass(frozen=True, slots=True)
class Run:
    """How the stills of a film are named and numbered.

    Picture n is the file ``head`` + n with ``digits`` digits at least + ``tail``. Numbers go from
    ``first`` to ``last``; ``missing`` are the ranges [start, end) of them that have no file, in
    order. Where ``holes`` is closed, frames are counted without them. ``rate_told`` is False where
    the files say no rate.
    """

    head: str
    tail: str
    digits: int
    first: int
    last: int
    missing: tuple[tuple[int, int], ...] = ()
    holes: Holes = Holes.HOLD
    rate_told: bool = True

    @property
    def many_missing(self) -> int:
        """How many numbers have no file."""
        return sum(end - start for start, end in self.missing)

    @property
    def frames(self) -> int:
        """How many frames the film has."""
        whole = self.last - self.first + 1
        return whole - self.many_missing if self.holes is Holes.CLOSE else whole

    @property
    def pattern(self) -> str:
        """The name of the run as a whole, such as K07_[0000-2411].dpx."""
        return f"{self.head}[{self._digits(self.first)}-{self._digits(self.last)}]{self.tail}"

    def _digits(self, number: int) -> str:
        return f"{number:0{self.digits}d}"

    def name_of(self, number: int) -> str:
        """Return the file name of the picture of a number."""
        return f"{self.head}{self._digits(number)}{self.tail}"

    def holds_name(self, name: str) -> bool:
        """Tell whether a file name is that of one of its pictures."""
        if not (name.startswith(self.head) and name.endswith(self.tail)):
            return False
        number = name[len(self.head) : len(name) - len(self.tail)]
        if not (number.isascii() and number.isdigit()) or len(number) > 15:
            return False
        return self.first <= int(number) <= self.last and self.name_of(int(number)) == name

    def number_of(self, frame: int) -> int:
        """Return the file's own number of a frame; also beyond the end."""
        if self.holes is not Holes.CLOSE:
            return self.first + frame
        number = self.first + frame
        for start, end in self.missing:
            if start > number:
                break
            number += end - start
        return number

    def frame_of(self, number: int) -> int:
        """Return the frame of a number; where it is closed up, of the next picture there is."""
        if self.holes is not Holes.CLOSE:
            return number - self.first
        gone = sum(min(end, number) - start for start, end in self.missing if start < number)
        return number - self.first - gone

    def held_for(self, number: int) -> int | None:
        """Return the number of the picture before a missing one; None for one that is there."""
        at = bisect_right(self.missing, number, key=lambda gap: gap[0]) - 1
        if at < 0 or number >= self.missing[at][1]:
            return None
        return self.missing[at][0] - 1
