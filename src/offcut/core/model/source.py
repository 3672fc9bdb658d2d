"""Sources: one flattened film each, with everything known and decided about it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from offcut.core.model.card import NO_CARD, Card
from offcut.core.model.run import Run
from offcut.core.model.seam import Seam
from offcut.core.model.ticket import NO_TICKET, Ticket


@dataclass(frozen=True, slots=True)
class Zone:
    """A stretch [start, end) with its own sensitivity, or with none: hushed (None)."""

    start: int
    end: int
    sensitivity: int | None = None


class MarkerColour(StrEnum):
    """The colour a list gave a marker; the names are those of OpenTimelineIO's marker schema."""

    NONE = ""
    RED = "red"
    PINK = "pink"
    ORANGE = "orange"
    YELLOW = "yellow"
    GREEN = "green"
    CYAN = "cyan"
    BLUE = "blue"
    PURPLE = "purple"
    MAGENTA = "magenta"
    BLACK = "black"
    WHITE = "white"


@dataclass(frozen=True, slots=True)
class Marker:
    """A named, noted place in a source: frames [start, end), one frame for a point."""

    id: int
    start: int
    end: int
    name: str = ""
    note: str = ""
    colour: MarkerColour = MarkerColour.NONE

    @property
    def point(self) -> bool:
        """True when it marks a single frame."""
        return self.end - self.start <= 1


@dataclass(frozen=True, slots=True)
class Media:
    """The facts of a source's file, as probed and as its ticket has them.

    Attributes: ``rate`` frames per second; ``start`` timecode of frame 0 in frames; ``drop``
    True for drop-frame; ``width`` and ``height`` in pixels; ``pixel_shape`` width of a
    pixel over its height; ``rotation`` how many degrees counterclockwise the coded pictures are
    turned to be upright, sizes being those of the upright ones; ``fingerprint`` tells files with
    other pictures apart; ``codec`` in words what its pictures are coded as; ``run`` how stills are
    numbered, None for a movie; ``fields`` "top" or "bottom", whichever comes first where its
    pictures are interlaced, else empty.
    """

    path: str
    rate: Fraction
    frames: int
    width: int
    height: int
    start: int = 0
    drop: bool = False
    pixel_shape: Fraction = Fraction(1)
    rotation: int = 0
    fingerprint: str = ""
    codec: str = ""
    run: Run | None = None
    fields: str = ""


@dataclass(frozen=True, slots=True)
class Framing:
    """Pixels of the encoded picture that are left out at each side: bars, the edge of a scan."""

    left: int = 0
    top: int = 0
    right: int = 0
    bottom: int = 0

    def __bool__(self) -> bool:
        return bool(self.left or self.top or self.right or self.bottom)

    def size(self, media: Media) -> tuple[int, int]:
        """Return the width and height of what is left."""
        return media.width - self.left - self.right, media.height - self.top - self.bottom


WHOLE = Framing()
SMALLEST = 16
"""A framing leaves so many pixels at least, either way."""


class Framed(StrEnum):
    """Where a framing comes from: nobody looked yet, it was found by itself, or set by hand."""

    NO = ""
    FOUND = "found"
    SET = "set"


@dataclass(frozen=True, slots=True)
class Source:
    """One flattened film with everything known and decided about it.

    ``id`` stays with the source for good and is its name everywhere. ``seams`` and ``markers``
    are in order of frame. ``first`` is the card of the shot that no seam opens. Seams are looked
    for inside the ``framing``, which ``framed`` tells the origin of.
    """

    id: int
    media: Media
    start: int
    end: int
    seams: tuple[Seam, ...] = ()
    zones: tuple[Zone, ...] = ()
    markers: tuple[Marker, ...] = ()
    sensitivity: int = 50
    first: Card = NO_CARD
    searched: bool = False
    framing: Framing = WHOLE
    framed: Framed = Framed.NO
    ticket: Ticket = NO_TICKET
