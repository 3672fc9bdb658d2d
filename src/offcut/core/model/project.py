"""What a project is: frozen values and nothing else.

A frame number is the only coordinate; ranges are half-open [start, end). Shots are never stored:
`offcut.core.model.shots` derives them from the counted seams.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from offcut.core.model.handover import Handover


class Kind(StrEnum):
    """How two shots are joined."""

    CUT = "cut"
    DISSOLVE = "dissolve"
    FADE = "fade"
    WIPE = "wipe"


class Standing(StrEnum):
    """What a person decided about a seam."""

    OPEN = "open"
    KEPT = "kept"
    STRUCK = "struck"


class Origin(StrEnum):
    """Where a seam comes from."""

    FOUND = "found"
    PLACED = "placed"
    LISTED = "listed"


class Certainty(StrEnum):
    """How far the picture and the reasons agree on a seam."""

    SURE = "sure"
    LIKELY = "likely"
    DOUBTFUL = "doubtful"


@dataclass(frozen=True, slots=True)
class Reason:
    """A short, plain statement for or against a seam.

    Attributes: ``text`` the statement; ``weight`` how strongly it speaks, 0 to 1; ``against``
    True when it speaks against the seam; ``code`` a stable word for grouping ("flash").
    """

    text: str
    weight: float = 0.0
    against: bool = False
    code: str = ""


@dataclass(frozen=True, slots=True)
class Original:
    """What a cut list says a shot was made from.

    Attributes: ``reel`` as the list has it; ``clip`` its clip name, often empty; ``start`` the
    source timecode of the film's frame ``at``, in frames from zero; ``drop`` True when that is
    drop-frame; ``speed`` source frames per frame of the film, 1 where it runs as shot;
    ``comments`` what else the list says of it, line by line (colour decisions and the like).
    """

    reel: str
    start: int
    at: int
    clip: str = ""
    drop: bool = False
    speed: Fraction = Fraction(1)
    comments: tuple[str, ...] = ()

    def timecode_at(self, frame: int) -> int:
        """Return the source timecode, in frames from zero, of a frame of the film."""
        return self.start + round((frame - self.at) * self.speed)

    def span(self, start: int, end: int) -> tuple[int, int]:
        """Return source [in, out) of frames [start, end); what runs backwards begins at its out."""
        frames = max(1, round((end - start) * abs(self.speed)))
        first = self.timecode_at(start)
        return (first, first + frames) if self.speed > 0 else (first + 1 - frames, first + 1)


@dataclass(frozen=True, slots=True)
class Words:
    """What a person or a list says about a shot; it hangs on the seam that opens the shot."""

    name: str = ""
    note: str = ""
    set_aside: bool = False
    original: Original | None = None
    scene: str = ""

    def __bool__(self) -> bool:
        return bool(self.name or self.note or self.set_aside or self.original or self.scene)


NO_WORDS = Words()


@dataclass(frozen=True, slots=True)
class Former:
    """What a gradual seam was before it was made one cut: kind, and frames before and after."""

    kind: Kind
    before: int
    after: int


@dataclass(frozen=True, slots=True)
class Seam:
    """The join of two shots.

    Attributes: ``id`` stays with the seam for good; ``frame`` first frame of the later shot;
    ``start`` first mixed frame and ``end`` first clean frame after it (both equal ``frame``
    at a cut); ``score`` 0 to 100; ``opening`` the words of the shot it opens; ``former`` what it
    was before a person made one cut of it.
    """

    id: int
    frame: int
    start: int
    end: int
    kind: Kind = Kind.CUT
    score: float = 0.0
    certainty: Certainty = Certainty.DOUBTFUL
    standing: Standing = Standing.OPEN
    origin: Origin = Origin.FOUND
    reasons: tuple[Reason, ...] = ()
    opening: Words = NO_WORDS
    former: Former | None = None

    @property
    def judged(self) -> bool:
        """True once a person has decided or placed it: nothing automatic may move it."""
        return self.standing is not Standing.OPEN or self.origin is Origin.PLACED

    @property
    def gradual(self) -> bool:
        """True when it has a span of its own."""
        return self.end > self.start


@dataclass(frozen=True, slots=True)
class Zone:
    """A stretch [start, end) with its own sensitivity, or with none: hushed (None)."""

    start: int
    end: int
    sensitivity: int | None = None


@dataclass(frozen=True, slots=True)
class Marker:
    """A named, noted place in a source: frames [start, end), one frame for a point."""

    id: int
    start: int
    end: int
    name: str = ""
    note: str = ""

    @property
    def point(self) -> bool:
        """True when it marks a single frame."""
        return self.end - self.start <= 1


@dataclass(frozen=True, slots=True)
class Media:
    """The facts of a source's file, as probed.

    Attributes: ``rate`` frames per second; ``start`` timecode of frame 0 in frames; ``drop``
    True for drop-frame; ``width`` and ``height`` in pixels; ``pixel_shape`` width of a
    pixel over its height; ``rotation`` how many degrees counterclockwise the coded pictures are
    turned to be upright, sizes being those of the upright ones; ``fingerprint`` tells files with
    other pictures apart.
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


@dataclass(frozen=True, slots=True)
class Source:
    """One flattened movie with everything known and decided about it.

    ``seams`` and ``markers`` are in order of frame. ``first`` holds the words of the shot that no
    seam opens. Seams are looked for inside the ``framing``.
    """

    media: Media
    start: int
    end: int
    seams: tuple[Seam, ...] = ()
    zones: tuple[Zone, ...] = ()
    markers: tuple[Marker, ...] = ()
    sensitivity: int = 50
    first: Words = NO_WORDS
    searched: bool = False
    framing: Framing = WHOLE


@dataclass(frozen=True, slots=True)
class Project:
    """All that is saved: the sources and which of them is on the bench."""

    name: str = "Untitled"
    sources: tuple[Source, ...] = ()
    current: int = 0
    record_start: str = "01:00:00:00"
    next_id: int = 1
    handovers: tuple[Handover, ...] = ()

    @property
    def source(self) -> Source:
        """The source on the bench; IndexError when the project is empty."""
        return self.sources[self.current]
