"""A card: what a person or a list says about a shot."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction


@dataclass(frozen=True, slots=True)
class OriginalFile:
    """The file an original is: its path, the timecode of its first frame in frames from zero, how
    many frames it has, and the size of its picture in pixels.
    """

    path: str
    start: int
    frames: int
    width: int = 0
    height: int = 0


@dataclass(frozen=True, slots=True)
class Original:
    """What a shot was made from, as a cut list says or as was found.

    Attributes: ``reel`` as the list has it; ``clip`` its clip name, often empty; ``start`` the
    source timecode of the film's frame ``at``, in frames from zero; ``drop`` True when that is
    drop-frame; ``speed`` source frames per frame of the film, 1 where it runs as shot;
    ``comments`` what else the list says of it, line by line (colour decisions and the like);
    ``file`` the file it was found to be, None where only a list names it.
    """

    reel: str
    start: int
    at: int
    clip: str = ""
    drop: bool = False
    speed: Fraction = Fraction(1)
    comments: tuple[str, ...] = ()
    file: OriginalFile | None = None

    def timecode_at(self, frame: int) -> int:
        """Return the source timecode, in frames from zero, of a frame of the film."""
        return self.start + round((frame - self.at) * self.speed)

    def span(self, start: int, end: int) -> tuple[int, int]:
        """Return source [in, out) of frames [start, end); what runs backwards begins at its out."""
        frames = max(1, round((end - start) * abs(self.speed)))
        first = self.timecode_at(start)
        return (first, first + frames) if self.speed > 0 else (first + 1 - frames, first + 1)


@dataclass(frozen=True, slots=True)
class Card:
    """What is said about a shot; it hangs on the seam that opens the shot.

    ``scene`` is the id of one of the project's scenes, 0 for none.
    """

    name: str = ""
    note: str = ""
    set_aside: bool = False
    original: Original | None = None
    scene: int = 0

    def __bool__(self) -> bool:
        return bool(self.name or self.note or self.set_aside or self.original or self.scene)


NO_CARD = Card()
