"""The ticket: what a person sets of a whole film, so that it holds for every shot of it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction


class Fields(StrEnum):
    """Which lines of a frame are the earlier moment; empty where the file's own word holds."""

    AS_FILE = ""
    NONE = "none"
    TOP = "top"
    BOTTOM = "bottom"


class Flash(StrEnum):
    """Which shot the flash frames of a camera stop stay with."""

    BEFORE = "before"
    AFTER = "after"
    SPLIT = "split"


class ProxyUse(StrEnum):
    """When a film gets a proxy."""

    WHEN_SLOW = "slow"
    ALWAYS = "always"
    NEVER = "never"


@dataclass(frozen=True, slots=True)
class Ticket:
    """What was set of a film by hand.

    Attributes: ``own_rate``, ``own_start`` and ``own_drop`` what the file itself says, kept where
    another rate or start timecode was set (None where none was); ``reel`` its reel's name;
    ``squeeze`` how much wider a picture is shown than its file says (the lens squeezed it so);
    ``display`` the name of the transform its pictures are seen through, or the path of a cube,
    empty for none; ``stops`` True where camera stops are one cut each, None for "on a scan";
    ``flash`` the shot that their flash frames stay with; ``file_numbers`` True where lists count
    frames as the stills are numbered.
    """

    own_rate: Fraction | None = None
    own_start: int | None = None
    own_drop: bool = False
    reel: str = ""
    squeeze: Fraction = Fraction(1)
    display: str = ""
    fields: Fields = Fields.AS_FILE
    proxy: ProxyUse = ProxyUse.WHEN_SLOW
    stops: bool | None = None
    flash: Flash = Flash.SPLIT
    file_numbers: bool = False


NO_TICKET = Ticket()
SQUEEZES = tuple(Fraction(s) for s in ("1", "1.25", "1.33", "1.5", "1.8", "2"))
"""The squeezes of the usual anamorphic lenses: common practice, no published source."""
MOST_SQUEEZE = 8
"""No picture is shown more times as wide as its file says."""
