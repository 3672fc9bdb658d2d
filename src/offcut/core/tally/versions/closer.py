"""A closer look: where a shot begins and ends in both versions, told by fine prints.

Where one version is framed otherwise, prints of 12 by 8 cells are too coarse to tell the frame:
what moves within a cell is lost in what the framing shifts. So the shots that seem to have
changed, and they alone, are looked at again by prints of 32 by 20.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.prints import ACROSS, DOWN, FINE_ACROSS, FINE_DOWN
from offcut.core.tally.reframing import Floats, Reframing, laid_over, level, refined
from offcut.core.tally.sides import Side
from offcut.core.tally.versions.overlay import Overlay
from offcut.core.tally.versions.pieces import Piece
from offcut.core.tally.versions.ties import Tie, lay_at

Span = tuple[int, int]
FineOf = Callable[[int, int], NDArray[np.uint8] | None]
"""Returns the fine prints of frames [start, end) of a film, uint8 (n, 640), None where unknown."""
_REACH = 45
_PAIRS = 160
_STRAYS = 3
_SAME, _OTHER = 0.5, 1.1
"""Fine prints of the same shot are mostly nearer than the first; those of other shots, at their
best, farther than the second."""
_AS_WELL, _AS_LONG = 1.08, 1.25
"""By how much worse an offset may fit at which shots begin or end together, and at which both are
as long."""


@dataclass(frozen=True, eq=False)
class Closer:
    """Fine prints of both versions, as far as they are known."""

    old: FineOf
    new: FineOf


Finely = Callable[[Sequence[Span], Sequence[Span]], Closer | None]
"""Has the fine prints of stretches of the old and of the new version made; None where it cannot."""


def looked_closer(
    ties: Sequence[tuple[Span, Tie | None]],
    pieces: Sequence[Piece],
    old: Side,
    overlay: Overlay,
    far: float,
    finely: Finely,
) -> list[tuple[Span, Tie | None]]:
    """Return ties with their offsets told to the frame, where shots seem to have changed or are
    farther apart than ``far``; those of other pictures are untied.

    Ties and pieces are in frames of the films.
    """
    asked = {
        id(p.ties[0]): p
        for p in pieces
        if len(p.ties) == 1 and p.speed == 1 and p.old is not None
        and (p.head or p.tail or p.ties[0].apart > far)
    }  # fmt: skip
    wanted = [(t, asked[id(t)]) for _, t in ties if t is not None and id(t) in asked]
    strays = _strays(pieces, old)
    if not wanted and not strays:
        return list(ties)
    closer = finely(
        [*(p.old for _, p in wanted if p.old is not None), *(shot for _, shot in strays)],
        [*(p.new for _, p in wanted), *(p.new for p, _ in strays)],
    )
    if closer is None:
        return list(ties)
    known = [
        look
        for tie, piece in wanted
        if piece.old is not None and (look := _Look.of(tie, piece.new, piece.old, closer))
    ]
    laid = _Laid.of(known, overlay)
    beside = [t.offset for _, t in ties if t is not None and id(t) not in asked]
    settled = {id(look.tie): laid.tied(look, beside) for look in known}
    found = laid.found(strays, closer)
    made: list[tuple[Span, Tie | None]] = []
    for span, tie in ties:
        whole = next((s for s in found if s[0] <= span[0] and span[1] <= s[1]), None)
        if tie is None and whole is not None:
            if whole[0] == span[0]:
                made.append((whole, found[whole]))
        else:
            made.append((span, settled.get(id(tie), tie)))
    return made


def _strays(pieces: Sequence[Piece], old: Side) -> list[tuple[Piece, Span]]:
    """Return shots that seem to be new, each with one that seems to be gone from the same place."""
    taken = {p.old for p in pieces}
    strays: list[tuple[Piece, Span]] = []
    edge = old.start
    for n, piece in enumerate(pieces):
        if piece.old is not None:
            edge = piece.old[1]
            continue
        after = next((p.old[0] for p in pieces[n + 1 :] if p.old is not None), old.end)
        free = [s for s in old.shots if edge <= s[0] and s[1] <= after and s not in taken]
        strays += [(piece, shot) for shot in free[:_STRAYS]]
    return strays


@dataclass(frozen=True, eq=False)
class _Look:
    """A tie to be settled: fine luma of its new shot and of its old one, float32 (n, 640)."""

    tie: Tie
    new: Span
    old: Span
    ones: Floats
    others: Floats

    @classmethod
    def of(cls, tie: Tie, new: Span, old: Span, closer: Closer) -> _Look | None:
        ones, others = closer.new(*new), closer.old(*old)
        if ones is None or others is None or min(len(ones), len(others)) < 2:
            return None
        return cls(tie, new, old, ones.astype(np.float32), others.astype(np.float32))

    def shared(self, offset: int) -> Span:
        """Return the new version's frames that lie over frames of the old shot at an offset."""
        return max(self.new[0], self.old[0] - offset), min(self.new[1], self.old[1] - offset)

    def pairs(self, count: int) -> tuple[Floats, Floats]:
        """Return some frames of both that are the same as far as is known."""
        low, high = self.shared(self.tie.offset)
        if high <= low:
            return self.ones[:0], self.others[:0]
        frames = np.linspace(low, high - 1, min(count, high - low)).astype(np.int64)
        return (
            self.ones[frames - self.new[0]],
            self.others[frames + self.tie.offset - self.old[0]],
        )


@dataclass(frozen=True, eq=False)
class _Laid:
    """How fine prints of the old version are laid under those of the new one."""

    overlay: Overlay
    reframing: Reframing
    weights: Floats

    @classmethod
    def of(cls, looks: Sequence[_Look], overlay: Overlay) -> _Laid:
        rows = np.arange(FINE_DOWN) * DOWN // FINE_DOWN
        columns = np.arange(FINE_ACROSS) * ACROSS // FINE_ACROSS
        weights = overlay.weights.reshape(DOWN, ACROSS)[np.ix_(rows, columns)].ravel()
        each = max(3, _PAIRS // max(1, len(looks)))
        pairs = [look.pairs(each) for look in looks]
        if sum(len(p[0]) for p in pairs) < 3:
            return cls(overlay, overlay.reframing, weights)
        ones, others = (np.concatenate([p[k] for p in pairs]) for k in (0, 1))
        best, _ = refined(ones, others, overlay.reframing, weights=weights)
        return cls(overlay, best, weights)

    def found(self, strays: Sequence[tuple[Piece, Span]], closer: Closer) -> dict[Span, Tie]:
        """Return the ties of those shots that are the same after all, by their place."""
        made: dict[Span, Tie] = {}
        for piece, shot in strays:
            offset = shot[0] - piece.new[0]
            blank = Tie(piece.new, piece.new, -1, offset, 2.0, 2.0, offset, offset)
            look = _Look.of(blank, piece.new, shot, closer)
            if look is None:
                continue
            tie = self.settled(look, ())
            known = made.get(piece.new)
            if tie.apart < _SAME and (known is None or tie.apart < known.apart):
                made[piece.new] = tie
        return made

    def tied(self, look: _Look, beside: Sequence[int]) -> Tie | None:
        """Return a tie settled, None where the pictures are others."""
        tie = self.settled(look, beside)
        if tie.apart > _OTHER:
            return None
        return replace(tie, apart=look.tie.apart, moving=look.tie.moving)

    def settled(self, look: _Look, beside: Sequence[int]) -> Tie:
        """Return a tie at the offset that fits best, or at a simpler one that fits about as well:
        where both are as long, begin or end together, or go on as a shot beside them. Its
        ``apart`` and ``moving`` are those of the fine prints.
        """
        laid, inside = laid_over(look.others, self.reframing)
        share = self.weights * inside
        others, ones = level(self.overlay.toned(laid), share), level(look.ones, share)
        full = min(len(ones), len(others))
        least = max(4, round(0.6 * full))
        costs: dict[int, tuple[float, float]] = {}
        for offset in range(look.tie.offset - _REACH, look.tie.offset + _REACH + 1):
            low, high = look.shared(offset)
            if high - low >= least:
                a, b = low - look.new[0], high - look.new[0]
                by = offset + look.new[0] - look.old[0]
                lay = lay_at(ones[a:b], others[a + by : b + by], offset)
                dear = (full / (high - low)) ** 2  # few frames fit easily
                costs[offset] = dear * lay.moving, dear * lay.apart
        if not costs:
            return replace(look.tie, apart=1.0)
        best = min(costs, key=lambda o: costs[o][0] + 0.1 * costs[o][1])
        begin, end = look.old[0] - look.new[0], look.old[1] - look.new[1]
        tried = [(begin, _AS_LONG)] if begin == end else []
        near = sorted({begin, end, *beside}, key=lambda o: abs(o - best))[:6]
        tried += [(o, _AS_WELL) for o in near]
        for offset, times in tried:
            if offset in costs and all(
                c < times * b for c, b in zip(costs[offset], costs[best], strict=True)
            ):
                best = offset
                break
        fitting = [o for o, c in costs.items() if c[0] < 1.06 * costs[best][0]]
        low, high = look.shared(best)
        tie = replace(look.tie, offset=best, held=(low, high), low=min(fitting), high=max(fitting))
        moving, apart = costs[best]
        return replace(tie, apart=apart, moving=moving)
