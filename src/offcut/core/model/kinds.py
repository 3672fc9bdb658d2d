"""Kinds of joins in one table: what each is over, how it is drawn, what lists call it.

Whoever draws, lists or offers joins asks here; a new kind is a row, a word of `Kind`, and what
the judge knows it by.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from offcut.core.model.seam import Kind

Line = tuple[tuple[float, float], ...]
"""Points (x, y) that a stroke goes through: x 0 to 1 over the span, y 0 at the foot to 1."""

_GAP = 0.11
"""Half of what is left open between the two Vs of a fade, as a share of the span."""


@dataclass(frozen=True)
class KindOfJoin:
    """What is to be known of a kind of join.

    Attributes: ``spans`` True where it lies over frames of its own; ``strokes`` the lines it is
    drawn with, none for a cut, which leans as the hand does; ``edl`` how a CMX 3600 list mixes
    two originals (SMPTE ST 258); ``through_black`` True where it is two dissolves, to black and
    out of it; ``wipe`` True where XML and AAF write it as a wipe; ``custom`` True where OTIO has no
    type of its own for it; ``told`` True where an EDL says in a comment what its letter does not.
    """

    kind: Kind
    spans: bool = True
    strokes: tuple[Line, ...] = ()
    edl: str = "D"
    through_black: bool = False
    wipe: bool = False
    custom: bool = False
    told: bool = False


KINDS: Mapping[Kind, KindOfJoin] = MappingProxyType(
    {
        row.kind: row
        for row in (
            KindOfJoin(Kind.CUT, spans=False, edl="C"),
            KindOfJoin(Kind.DISSOLVE, strokes=(((0, 1), (1, 0)), ((1, 1), (0, 0)))),
            KindOfJoin(
                Kind.FADE, through_black=True,
                strokes=(((0, 1), (0.5 - _GAP, 0.5), (0, 0)), ((1, 1), (0.5 + _GAP, 0.5), (1, 0))),
            ),
            KindOfJoin(
                Kind.WIPE, strokes=(((0, 0), (1, 1)),), edl="W001", wipe=True, custom=True
            ),
            KindOfJoin(
                Kind.WHIP, strokes=(((0, 0), (1 / 3, 1), (2 / 3, 0), (1, 1)),), custom=True,
                told=True,
            ),
        )
    }
)  # fmt: skip


def spans(kind: Kind) -> bool:
    """Tell whether a kind of join lies over frames of its own."""
    return KINDS[kind].spans
