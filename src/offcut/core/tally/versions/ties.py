"""Ties: which stretch of the old version each shot of the new one was made from.

Of all candidates the chain is chosen that fits the pictures and keeps most shots in order and at
the offset of those around them (a shortest path, Viterbi 1967): so a shot that is used twice, or a
picture that stands still, is told by its neighbours.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from offcut.core.tally.aligning import Lay, best_lays, fits_of
from offcut.core.tally.versions.candidates import Candidate, candidates_of

Floats = NDArray[np.float32]
Frames = NDArray[np.int64]
Span = tuple[int, int]

NOISE = 2e-4
"""Frames that are the same are at least so far apart, by the noise of an encoder."""
NO_TIE = 0.62
_WEIGHT = 6.0
_BACK = 7
SPEEDS = (
    Fraction(1, 4), Fraction(1, 3), Fraction(2, 5), Fraction(1, 2), Fraction(3, 5), Fraction(2, 3),
    Fraction(3, 4), Fraction(4, 5), Fraction(9, 10), Fraction(24, 25), Fraction(25, 24),
    Fraction(10, 9), Fraction(5, 4), Fraction(4, 3), Fraction(3, 2), Fraction(5, 3), Fraction(2),
    Fraction(5, 2), Fraction(3), Fraction(4), Fraction(-1),
)  # fmt: skip
"""Old frames a new one, tried where a shot fits nowhere at its own pace."""


@dataclass(frozen=True, slots=True)
class Noise:
    """How far apart frames that are the same usually are: ``apart`` and ``moving`` as in `Fits`."""

    apart: float
    moving: float


@dataclass(frozen=True, slots=True)
class Tie:
    """A stretch of the new version and the one of the old it was made from.

    Attributes: ``new`` frames [start, end) of a shot, ``held`` those of them whose pictures were
    seen to be the same; ``shot`` which shot of the old version; ``offset`` leads to the old one:
    old frame = new frame + offset where ``speed`` is 1, else offset + speed * (new frame - new
    start); ``apart`` and ``moving`` as in `Fits`; ``low`` to ``high`` offsets that fit as well;
    ``runner_up`` how far apart the best of other shots is.
    """

    new: Span
    held: Span
    shot: int
    offset: int
    apart: float
    moving: float
    low: int
    high: int
    runner_up: float = 2.0
    speed: Fraction = Fraction(1)


def ties_of(
    new: Floats,
    new_spans: Sequence[Span],
    old: Floats,
    old_spans: Sequence[Span],
    *,
    new_bounds: Frames,
    old_bounds: Frames,
    reframed: bool = False,
) -> tuple[list[tuple[Span, Tie | None]], Noise]:
    """Return the new version's stretches in order, each with its tie, None where it was made from
    nothing; and how far apart frames that are the same usually are.

    Spans count from the first print of their side, as do the bounds of shots, which lie among those
    of the spans; ``reframed`` where one shows another part of
    the picture than the other. A stretch of which only a part is held comes
    back as several.
    """
    spans, olds = list(new_spans), list(old_spans)
    found = candidates_of(new, spans, old, olds)
    noise = _noise(found)
    snapping = _Snapping(new, old, new_bounds, old_bounds, reframed)
    ties = _chosen(found, snapping, spans, olds, noise)
    shots = [_around(old_bounds, sum(span) // 2) for span in olds]
    parted, again, left = _parted(found, spans, ties, new, old, olds, noise)
    if left:
        spans, found = parted, again
        ties = _chosen(found, snapping, spans, olds, noise)
        for n in left:
            ties[n] = _left_over(ties, n, shots, noise)
    rest = set(left)
    for n in _poor_parts(ties, spans, snapping.new_bounds, shots, noise):
        ties[n] = None
        rest.add(n)
    return [
        (
            span,
            (_at_other_speed(new, span, old, olds, here, noise) or tie)
            if n not in rest and (tie is None or _fits_badly(tie, noise))
            else tie,
        )
        for n, (tie, span, here) in enumerate(zip(ties, spans, found, strict=True))
    ], noise


def _fits_badly(tie: Tie, noise: Noise) -> bool:
    """Tell whether what moves fits so badly that a shot may run at another speed."""
    return tie.apart > 6 * noise.apart and tie.moving > 6 * noise.moving


def _poor_parts(
    ties: list[Tie | None],
    spans: Sequence[Span],
    bounds: Frames,
    shots: Sequence[Span],
    noise: Noise,
) -> list[int]:
    """Return the stretches that fit far worse than one beside them in the same shot of both
    versions, at another offset: they are more of the same take, which the old version had not.
    """
    counted = set(bounds.tolist())
    poor = []
    for n, tie in enumerate(ties):
        beside = [
            ties[k]
            for k, at in ((n - 1, spans[n][0]), (n + 1, spans[n][1]))
            if 0 <= k < len(ties) and at not in counted
        ]
        if tie is not None and any(
            t is not None
            and shots[t.shot] == shots[tie.shot]
            and t.offset != tie.offset
            and tie.apart > max(8 * noise.apart, 8 * t.apart)
            for t in beside
        ):
            poor.append(n)
    return poor


def _left_over(
    ties: list[Tie | None], place: int, shots: Sequence[Span], noise: Noise
) -> Tie | None:
    """Return the tie of what is left of a stretch, None where it is only more of the same shot, or
    another would do as well. ``shots`` are those that the old stretches lie in.
    """
    tie = ties[place]
    beside = (*ties[max(0, place - 1) : place], *ties[place + 1 : place + 2])
    if tie is None or any(t is not None and shots[t.shot] == shots[tie.shot] for t in beside):
        return None
    alone = tie.runner_up >= 3 * tie.apart + 2 * noise.apart
    return tie if tie.apart <= 4 * noise.apart and alone else None


def _noise(found: list[list[Candidate]]) -> Noise:
    best = [min(here, key=lambda c: c.lay.apart).lay for here in found if here]
    if not best:
        return Noise(NOISE, NOISE / 2)
    apart, moving = (
        float(np.clip(np.quantile(values, 0.4), low, 0.03))
        for values, low in (
            ([lay.apart for lay in best], NOISE),
            ([lay.moving for lay in best], NOISE / 2),
        )
    )
    return Noise(apart, moving)


def _chosen(
    found: list[list[Candidate]],
    snapping: _Snapping,
    spans: list[Span],
    old_spans: list[Span],
    noise: Noise,
) -> list[Tie | None]:
    """Return the tie of each stretch: the chain that costs least, with what of each is held."""
    new, old = snapping.new, snapping.old
    _with_offsets_around(found, new, spans, old, old_spans, noise)
    ties = snapping.snapped(_chained(found, spans, old_spans, noise), old_spans)
    return [_with_held(t, new, old, old_spans, noise) if t is not None else None for t in ties]


_SOME = 30
_LEAST_LEFT = 6
"""So many frames that are left of a stretch are looked for on their own."""


def _parted(
    found: list[list[Candidate]],
    spans: list[Span],
    ties: list[Tie | None],
    new: Floats,
    old: Floats,
    old_spans: list[Span],
    noise: Noise,
) -> tuple[list[Span], list[list[Candidate]], list[int]]:
    """Part stretches of which only some frames are held; the others are looked for anew, since a
    seam may have been missed there. The last thing returned says which those are.
    """
    made: list[Span] = []
    kept: list[list[Candidate]] = []
    left: list[int] = []
    for here, (start, end), tie in zip(found, spans, ties, strict=True):
        low, high = tie.held if tie is not None else (start, end)
        low = low if low - start >= _LEAST_LEFT else start
        high = high if end - high >= _LEAST_LEFT else end
        for span in ((start, low), (low, high), (high, end)):
            if span[0] < span[1]:
                if span != (low, high):
                    left.append(len(made))
                made.append(span)
                kept.append(here)
    if left:
        again = candidates_of(new, [made[n] for n in left], old, old_spans)
        for n, here in zip(left, again, strict=True):
            kept[n] = [c for c in here if c.lay.apart < 8 * noise.apart]
    return made, kept, left


def _with_held(tie: Tie, new: Floats, old: Floats, old_spans: Sequence[Span], noise: Noise) -> Tie:
    """Return a tie with the frames around its old shot that are seen to be the same."""
    start, end = tie.new
    a = max(start, -tie.offset)
    b = min(end, len(old) - tie.offset)
    gaps = new[a:b] - old[a + tie.offset : b + tie.offset]
    first, last = old_spans[tie.shot]
    low, high = max(a, first - tie.offset), min(b, last - tie.offset)
    if low >= high:
        return replace(tie, held=(a, b)) if a < b else tie
    inside = gaps[low - a : high - a]
    some = inside[:: max(1, len(inside) // _SOME)]
    apart = ((gaps - np.median(some, axis=0)) ** 2).sum(axis=1)
    line = max(12 * noise.moving, 5 * float(np.median(apart[low - a : high - a])), 0.004)
    alike = apart <= line
    while low > a and alike[low - 1 - a]:
        low -= 1
    while high < b and alike[high - a]:
        high += 1
    return replace(tie, held=(low, high))


def cost_of(apart: NDArray[np.float64], noise: float) -> NDArray[np.float64]:
    """Return how dear distances are, 0 for the very same to 1 for nothing in common."""
    return np.asarray(np.log1p(apart / noise) / np.log1p(1.5 / noise), np.float64)


def _with_offsets_around(
    found: list[list[Candidate]],
    new: Floats,
    new_spans: Sequence[Span],
    old: Floats,
    old_spans: Sequence[Span],
    noise: Noise,
) -> None:
    """Add to each shot what the offsets of those around it would make of it."""
    starts = np.array([a for a, _ in old_spans])
    sure = [
        here[0].lay.offset if here and here[0].lay.apart < 8 * noise.apart else None
        for here in found
    ]
    for n, (start, end) in enumerate(new_spans):
        around = {o for o in (*sure[max(0, n - 3) : n], *sure[n + 1 : n + 4]) if o is not None}
        for offset in around - {c.lay.offset for c in found[n]}:
            middle = (start + end) // 2 + offset
            if not 0 <= middle < len(old):
                continue
            shot = int(np.searchsorted(starts, middle, side="right")) - 1
            first, last = old_spans[shot]
            a, b = max(start, first - offset), min(end, last - offset)
            if b - a < min(4, end - start):
                continue
            lay = lay_at(new[a:b], old[a + offset : b + offset], offset)
            if lay.apart < 60 * noise.apart or lay.apart < 0.02:
                found[n].append(Candidate(shot, lay))


def lay_at(ones: Floats, others: Floats, offset: int) -> Lay:
    """Return how two stretches as long as each other lie over each other, frame on frame."""
    gaps = ones - others
    n = len(gaps)
    squares = float((gaps * gaps).sum())
    steady = float((gaps.sum(axis=0) ** 2).sum()) / n
    return Lay(offset, squares / n, max(0.0, squares - steady) / max(1, n - 1), n, offset, offset)


def _chained(
    found: list[list[Candidate]],
    new_spans: Sequence[Span],
    old_spans: Sequence[Span],
    noise: Noise,
) -> list[Tie | None]:
    """Choose one candidate or none for each shot: the chain that costs least."""
    costs: list[NDArray[np.float64]] = []
    places: list[NDArray[np.int64]] = []  # offset, old start and old end under the new shot
    for here, (start, end) in zip(found, new_spans, strict=True):
        lays = [c.lay for c in here]
        dear = 0.5 * cost_of(np.array([x.apart for x in lays]), noise.apart)
        dear += 0.5 * cost_of(np.array([x.moving for x in lays]), noise.moving)
        dear *= _alone(here)
        met = np.array([c.lay.frames for c in here], np.float64) / (end - start)
        met = np.minimum(1.0, met) if end - start <= 600 else np.ones_like(met)
        costs.append(_WEIGHT * (met * dear + (1 - met) * 0.55))
        rows = [
            (
                c.lay.offset,
                max(start + c.lay.offset, old_spans[c.shot][0]),
                min(end + c.lay.offset, old_spans[c.shot][1]),
            )
            for c in here
        ]
        places.append(np.array(rows, np.int64).reshape(-1, 3))
    n = len(found)
    total: list[NDArray[np.float64]] = []
    came: list[list[tuple[int, int]]] = []
    skip = _WEIGHT * NO_TIE
    for i in range(n):
        begin = i * skip
        best = np.full(len(found[i]), begin)
        via = [(-1, -1)] * len(found[i])
        earlier = [j for j in range(max(0, i - _BACK), i) if len(found[j])]
        if earlier and len(found[i]):
            where = [(j, k) for j in earlier for k in range(len(found[j]))]
            skipped = np.array([i - j - 1 for j, _ in where])
            before = np.concatenate([places[j] for j in earlier])
            spent: NDArray[np.float64] = np.concatenate([total[j] for j in earlier])
            spent = spent + skipped * skip
            step = spent[:, None] + _steps(before, places[i], skipped)
            who = step.argmin(axis=0)
            value = step[who, np.arange(len(who))]
            for k in np.flatnonzero(value < best).tolist():
                best[k] = value[k]
                via[k] = where[int(who[k])]
        total.append(best + costs[i])
        came.append(via)
    ends = [
        (float(t.min()) + (n - 1 - i) * skip, i, int(t.argmin()))
        for i, t in enumerate(total)
        if len(t)
    ]
    ties: list[Tie | None] = [None] * n
    if not ends or min(ends)[0] >= n * skip:
        return ties
    _, i, k = min(ends)
    while i >= 0:
        if costs[i][k] < skip:
            ties[i] = _tie(found[i], k, new_spans[i])
        i, k = came[i][k]
    return ties


_USUAL = 1.0
"""About how far apart frames of different shots are."""


def _alone(here: list[Candidate]) -> NDArray[np.float64]:
    """Return for each candidate how much less it costs for being far nearer than any other shot:
    0.4 where nothing else comes near, to 1.
    """
    shares = []
    for one in here:
        others = [c.lay.apart for c in here if c.shot != one.shot]
        share = one.lay.apart / max(1e-9, min(others, default=_USUAL))
        shares.append(min(1.0, 0.4 + 1.2 * share))
    return np.array(shares, np.float64)


def _steps(
    before: NDArray[np.int64], now: NDArray[np.int64], skipped: NDArray[np.int64]
) -> NDArray[np.float64]:
    """Return what it costs to go from candidates to others, (k, m); ``skipped`` (k,) shots lie
    between.
    """
    same = before[:, None, 0] == now[None, :, 0]
    gap = now[None, :, 1] - before[:, None, 2]
    forward = 0.35 + 0.1 * np.log1p(np.maximum(gap, 0) / 50.0)
    back = 1.3 + 0.05 * np.log1p(np.maximum(-gap, 0) / 50.0)
    cost = np.where(gap >= -2, forward, back)
    cost = np.where(same & (gap >= 0), np.where(skipped == 0, 0.0, 0.1)[:, None], cost)
    return np.asarray(cost, np.float64)


def _tie(here: list[Candidate], chosen: int, span: Span) -> Tie:
    """Return the tie to a chosen shot, at the offset at which what moves fits best."""
    shot = here[chosen].shot
    frames = here[chosen].lay.frames
    lays = [c.lay for c in here if c.shot == shot and c.lay.frames >= 0.8 * frames]
    lay = min(lays, key=lambda x: x.moving + 0.1 * x.apart)
    others = [
        c.lay.apart
        for c in here
        if c.shot != shot and c.lay.offset != lay.offset and c.lay.frames >= 0.6 * frames
    ]
    return Tie(
        span, span, shot, lay.offset, lay.apart, lay.moving, lay.low, lay.high,
        min(others, default=2.0),
    )  # fmt: skip


_AS_WELL, _AS_LONG, _BESIDE = (1.12, 1.5), (1.5, 2.2), (1.05, 1.1)
"""By how much worse an offset may fit at which shots begin or end together, at which both are as
long, and which is that of a shot beside it; the second of each where one version is seen through
another framing, by coarse prints."""


@dataclass(frozen=True, eq=False)
class _Snapping:
    """What moves ties to the simplest offset that fits about as well: that of a shot beside it, or
    one at which both begin, or end, together.

    A shot whose picture stands still fits at many; one that is seen through coarse prints may
    fit best a frame off.
    """

    new: Floats
    old: Floats
    new_bounds: Frames
    old_bounds: Frames
    reframed: bool

    def snapped(self, ties: list[Tie | None], old_spans: Sequence[Span]) -> list[Tie | None]:
        """Return ties at such offsets."""
        made: list[Tie | None] = list(ties)
        for n, tie in enumerate(ties):
            if tie is None:
                continue
            shot = old_spans[tie.shot]
            beside = (*made[max(0, n - 1) : n], *ties[n + 1 : n + 2])
            near = [t.offset for t in beside if t is not None]
            for offset, times in self._tried(tie, shot, near):
                if offset == tie.offset or self._fits_too(tie, offset, shot, times):
                    made[n] = replace(tie, offset=offset)
                    break
        return made

    def _tried(self, tie: Tie, shot: Span, near: list[int]) -> list[tuple[int, float]]:
        """Return the offsets to try, the likeliest first, and how much worse each may fit."""
        k = int(self.reframed)
        whole_new = _around(self.new_bounds, sum(tie.new) // 2)
        whole_old = _around(self.old_bounds, sum(shot) // 2)
        pairs = ((tie.new, shot), (whole_new, whole_old))
        ends = [e for n, o in pairs for e in (o[0] - n[0], o[1] - n[1])]
        both = [ends[i] for i in (0, 2) if ends[i] == ends[i + 1]]
        ends.sort(key=lambda e: abs(e - tie.offset))
        return [
            *((o, _AS_LONG[k]) for o in both),
            *((o, _AS_WELL[k]) for o in near if o in ends),
            *((o, _AS_WELL[k]) for o in ends),
            *((o, _BESIDE[k]) for o in near),
        ]

    def _fits_too(self, tie: Tie, offset: int, shot: Span, times: float) -> bool:
        """Tell whether a tie may as well lie at another offset."""
        if tie.low <= offset <= tie.high:
            return True
        lays = []
        for at in (tie.offset, offset):
            low, high = max(tie.new[0], shot[0] - at), min(tie.new[1], shot[1] - at)
            if high - low < min(4, tie.new[1] - tie.new[0]):
                return False
            lays.append(lay_at(self.new[low:high], self.old[low + at : high + at], at))
        best, other = lays
        return (
            other.frames >= 0.8 * best.frames
            and other.moving < times * best.moving
            and other.apart < times * best.apart
        )


def _around(bounds: Frames, frame: int) -> Span:
    """Return the shot that holds a frame."""
    k = min(len(bounds) - 1, max(1, int(np.searchsorted(bounds, frame, side="right"))))
    return int(bounds[k - 1]), int(bounds[k])


def _at_other_speed(
    new: Floats,
    span: Span,
    old: Floats,
    old_spans: Sequence[Span],
    here: list[Candidate],
    noise: Noise,
) -> Tie | None:
    """Return where a shot that fits nowhere lies at another speed, None where it does not."""
    start, end = span
    if end - start < 8:
        return None
    best: Tie | None = None
    asked = np.linspace(start, end - 1, 6).astype(np.int64)
    # at another speed it has to fit much better than at its own: where nothing moves all speeds do
    apart = min(12 * noise.apart, 0.4 * min((c.lay.apart for c in here), default=2.0))
    moving = 0.4 * min((c.lay.moving for c in here if 2 * c.lay.frames > end - start), default=2.0)
    for shot in dict.fromkeys(c.shot for c in here):
        first, last = old_spans[shot]
        if _each_apart(new[asked], old[first:last]) > apart:
            continue  # its frames are not in there in any order
        for speed in SPEEDS:
            paced, at = paced_at(old[first:last], speed)
            lays = best_lays(
                fits_of(new[start:end], paced), least=max(6, round(0.7 * (end - start))), most=1
            )
            if (
                lays
                and lays[0].apart < apart
                and lays[0].moving < moving
                and (best is None or lays[0].apart < best.apart)
            ):
                k = min(len(at) - 1, max(0, lays[0].offset))
                begins = first + at[k] + round((lays[0].offset - k) * speed)
                best = Tie(
                    span, span, shot, int(begins), lays[0].apart, lays[0].moving,
                    int(begins), int(begins), speed=speed,
                )  # fmt: skip
    return best


def _each_apart(ones: Floats, others: Floats) -> float:
    """Return how far apart each print is from the nearest of others: the median."""
    squares = (ones * ones).sum(axis=1)[:, None] + (others * others).sum(axis=1)
    return float(np.median((squares - 2 * ones @ others.T).min(axis=1)))


def paced_at(prints: Floats, speed: Fraction) -> tuple[Floats, NDArray[np.int64]]:
    """Return every ``speed``-th print, and which they are."""
    count = max(1, int(len(prints) / abs(speed)))
    at = np.floor(np.arange(count) * float(abs(speed)) + 1e-9).astype(np.int64)
    at = np.minimum(at, len(prints) - 1)
    if speed < 0:
        at = len(prints) - 1 - at
    return prints[at], at
