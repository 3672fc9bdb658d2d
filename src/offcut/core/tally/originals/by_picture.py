"""Originals by picture: which file shows what a shot shows, whichever way it was framed and run.

Every original is seen through a few framings, plain and flopped; a few frames of a shot are held
against all of them at once. The likeliest files are then looked at closely: the framing is worked
out, and at which frame and pace the shot runs through them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.seam import Certainty, Reason
from offcut.core.tally.originals.clips import By, Match, Span
from offcut.core.tally.originals.closest import Reading, settled
from offcut.core.tally.originals.pace import Pace, fit_at, likely_paces, pace_of
from offcut.core.tally.reframing import (
    PLAIN,
    Reframing,
    agreement,
    laid_over,
    level,
    matrix_of,
    refined,
)

Floats = NDArray[np.float32]
_ASKED = 6
_STEP = 3
_LOOKED_AT = 16
_CLOSELY = 5
_FAR = 6.0
_ROWS = 40_000
_FRAMES = 24
_POOR, _AGAIN, _ALIKE = 0.025, 2, 0.92
_TIGHT = 0.92
_DOUBTED, _STARTS, _OWN, _CLEARLY = 0.016, 5, 1.2, 0.7
"""Pictures that agree worse than the first are looked for from so many places; a shot’s own speed
may fit so many times worse than another, and another place has to fit clearly better."""
NOTHING = 0.12
"""Frames that are farther apart than this are hardly of the same shot."""
_OTHER = 0.45
"""Frames that are farther apart than this are not of the same shot, however it is framed."""


class Prints(Protocol):
    """What is known of the pictures of a film or an original: its prints float32 (n, 96) and its
    fine prints uint8 (n, 640), of the same frames. They may be read when they are asked for.
    """

    @property
    def coarse(self) -> Floats: ...

    @property
    def fine(self) -> NDArray[np.uint8]: ...


@dataclass(frozen=True, eq=False)
class Looked:
    """The likeliest original of a shot so far: its place, its pace and its framing."""

    clip: int
    pace: Pace
    reframing: Reframing


def framings_around(base: Reframing) -> list[Reframing]:
    """Return the framings that are tried: as all of the film is, and a little tighter, flopped or
    not.
    """
    places = [(0.0, 0.0, 1.0)]
    room = 1 - _TIGHT
    places += [(x * room, y * room, _TIGHT) for x in (0.0, 0.5, 1.0) for y in (0.0, 0.5, 1.0)]
    return [
        Reframing(
            base.left + base.wide * x, base.top + base.high * y,
            base.wide * size, base.high * size, flopped,
        )
        for flopped in (False, True)
        for x, y, size in places
    ]  # fmt: skip


def base_framing(film: Floats, clips: Sequence[Prints]) -> Reframing:
    """Return where the film's pictures mostly lie in the originals': all of them, or without what
    was cut off for another shape of the picture.
    """
    step = max(1, len(film) // 60)
    ones = film[::step][:90]
    ones = ones[ones.std(axis=1) > 4.0]
    some = [clips[n].coarse for n in range(0, len(clips), max(1, len(clips) // 1000))]
    thinned = np.concatenate([c[:: max(1, len(c) // 12)] for c in some])[:12_000]
    if not len(ones) or not len(thinned):
        return PLAIN
    best, fit = PLAIN, -1.0
    for wide, high in ((1.0, 1.0), (1.0, 0.76), (0.76, 1.0), (1.0, 0.88), (1.0, 1.32), (1.32, 1.0)):
        tried = Reframing((1 - wide) / 2, (1 - high) / 2, wide, high)
        matrix, inside = matrix_of(tried)
        weights = inside.astype(np.float32)
        alike = level(ones, weights) @ level(thinned @ matrix, weights).T
        now = float(np.median(alike.max(axis=1)))
        if now > fit + (0.02 if fit > -1 else 0):
            best, fit = tried, now
    return best


def likeliest_clips(
    film: Floats, spans: Sequence[Span], clips: Sequence[Prints], framings: Sequence[Reframing]
) -> tuple[NDArray[np.int64], NDArray[np.int64], Floats]:
    """Return for each span the clips most like it, best first, through which of the framings each
    was, and how far it correlates, (n, up to 16) each.
    """
    asked = np.concatenate([_spread(a, b) for a, b in spans])
    owner = np.repeat(np.arange(len(spans)), [len(_spread(a, b)) for a, b in spans])
    few = min(_LOOKED_AT, len(clips))
    best = np.full((len(spans), len(clips)), -np.inf, np.float32)
    which = np.zeros((len(spans), len(clips)), np.int64)
    counts = np.bincount(owner, minlength=len(spans)).astype(np.float32)
    asked_through = [_levelled(film[asked], framing) for framing in framings]
    for first, thinned in _batches(clips):
        bounds = np.cumsum([0, *(len(t) for t in thinned[:-1])])
        together = np.concatenate(thinned)
        here = slice(first, first + len(thinned))
        for k, framing in enumerate(framings):
            matrix, inside = matrix_of(framing)
            others = level(together @ matrix, inside.astype(np.float32))
            most = np.maximum.reduceat(asked_through[k] @ others.T, bounds, axis=1)
            likeness = np.zeros((len(spans), len(thinned)), np.float32)
            np.add.at(likeness, owner, most)
            likeness /= counts[:, None]
            better = likeness > best[:, here]
            best[:, here][better] = likeness[better]
            which[:, here][better] = k
    chosen = np.argsort(-best, axis=1)[:, :few]
    return (
        chosen,
        np.take_along_axis(which, chosen, axis=1),
        np.take_along_axis(best, chosen, axis=1),
    )


def _levelled(luma: Floats, framing: Reframing) -> Floats:
    """Return prints of the film, levelled over the cells that a framing shows."""
    return level(luma, matrix_of(framing)[1].astype(np.float32))


def _batches(clips: Sequence[Prints]) -> Iterator[tuple[int, list[Floats]]]:
    """Yield some of the frames of clips, so many together that they are quickly compared, and which
    clip is the first of them.
    """
    first, held, frames = 0, [], 0
    for n, clip in enumerate(clips):
        coarse = clip.coarse
        thinned = coarse[min(1, len(coarse) - 1) :: _STEP]
        held.append(thinned)
        frames += len(thinned)
        if frames >= _ROWS or n == len(clips) - 1:
            yield first, held
            first, held, frames = n + 1, [], 0


def _spread(start: int, end: int, count: int = _ASKED) -> NDArray[np.int64]:
    n = end - start
    places = (np.arange(count) + 0.5) / count * n if n >= count else np.arange(n)
    return start + places.astype(np.int64)


def by_picture(
    film: Prints,
    spans: Sequence[Span],
    clips: Sequence[Prints],
    *,
    reading: Reading | None = None,
    told: Callable[[int, int], bool] | None = None,
) -> list[tuple[Match, ...]]:
    """Return for each span of the film the originals that show it, the likeliest first.

    Spans count from the first print and show the shot alone, no frame that is mixed with another.
    ``reading`` reads their pictures, frames of the film counted from its first print, where prints
    do not tell the frame. ``told`` hears how many are done of how many, and stops it by answering
    True.
    """
    if not clips or not spans:
        return [() for _ in spans]
    framings = framings_around(base_framing(film.coarse, clips))
    chosen, which, alike = likeliest_clips(film.coarse, spans, clips, framings)
    made: list[tuple[Match, ...]] = []
    for n, (start, end) in enumerate(spans):
        if told is not None and told(n, len(spans)):
            made += [()] * (len(spans) - n)
            break
        shot = film.fine[start:end].astype(np.float32)
        looked = []
        for c, k in zip(chosen[n].tolist(), which[n].tolist(), strict=True):
            fine = clips[c].fine.astype(np.float32)
            looked.append((_look(shot, fine, c, framings[k], rounds=0), fine))
        first = [(x, fine) for x, fine in looked if x is not None]
        first.sort(key=lambda pair: pair[0].pace.apart)
        line = _FAR * first[0][0].pace.apart if first else 0.0
        closely = [
            _look(shot, fine, x.clip, x.reframing, rounds=3)
            for x, fine in first[:_CLOSELY]
            if x.pace.apart <= line
        ]
        seen = sorted((x for x in closely if x is not None), key=lambda x: x.pace.apart)
        poor = not seen or seen[0].pace.apart > _POOR
        if first and poor and alike[n, 0] > _ALIKE:
            seen = _looked_again(shot, first[:_AGAIN], framings, seen)
        if seen and not seen[0].reframing.plain:
            fine = clips[seen[0].clip].fine.astype(np.float32)
            seen[0] = _together(shot, fine, seen[0])
        if seen and reading is not None and _unsettled(seen[0]):
            seen[0] = _settled(shot, clips, (start, end), seen[0], reading)
        made.append(_matches(seen))
    return made


def _settled(
    shot: Floats, clips: Sequence[Prints], span: Span, one: Looked, reading: Reading
) -> Looked:
    """Return what was found settled by pictures; where these do not agree well, or at another speed
    than its own, from other places too where it may lie.
    """
    best = settled(reading, span, one.clip, one.pace, one.reframing)
    if best.cost is not None and best.cost > _OTHER and one.pace.apart > NOTHING:
        return replace(one, pace=replace(one.pace, apart=2.0))  # it is another after all
    doubted = best.cost is not None and best.cost > _DOUBTED
    if best.cost is not None and best.cost < NOTHING and (doubted or best.pace.speed != 1):
        laid, inside = laid_over(clips[one.clip].fine.astype(np.float32), best.framing)
        weights = inside.astype(np.float32)
        count = _STARTS if doubted else 1
        starts = likely_paces(level(shot, weights), level(laid, weights), count)
        line = 3 * min(one.pace.apart, *(s.apart for s in starts)) + 0.01
        for start in (s for s in starts if s.apart < line):
            pace = replace(one.pace, first=start.first, speed=start.speed)
            now = settled(reading, span, one.clip, pace, best.framing)
            if now.cost is None or best.cost is None:
                continue
            own = (now.pace.speed == 1) - (best.pace.speed == 1)
            if now.cost < (_CLEARLY, _OWN, _CLEARLY)[own] * best.cost:
                best = now
    return Looked(one.clip, best.pace, best.framing)


def _unsettled(one: Looked) -> bool:
    """Tell whether prints leave open at which frame a shot begins."""
    return not one.reframing.plain or one.pace.still > 0 or one.pace.apart > _POOR / 2


def _look(
    shot: Floats, clip: Floats, place: int, framing: Reframing, *, rounds: int
) -> Looked | None:
    """Look at one original by turns: how it is framed, and at which frame and pace the shot runs
    through it.
    """
    best: Looked | None = None
    for turn in range(rounds + 1):
        laid, inside = laid_over(clip, framing)
        weights = inside.astype(np.float32)
        pace = pace_of(
            level(shot, weights), level(laid, weights), thorough=turn == rounds and rounds > 0
        )
        if pace is None:
            return best
        now = Looked(place, pace, framing)
        if best is not None and now.pace.apart >= 0.98 * best.pace.apart:
            return now if now.pace.apart < best.pace.apart else best
        best = now
        if turn < rounds:
            framing = _framing_of(shot, clip, pace, framing)
    return best


def _looked_again(
    shot: Floats,
    likely: Sequence[tuple[Looked, Floats]],
    framings: Sequence[Reframing],
    seen: list[Looked],
) -> list[Looked]:
    """Return what is seen where a few clips are looked at through every framing: fine texture hides
    what is framed but a little otherwise.
    """
    best = {x.clip: x for x in seen}
    for one, fine in likely:
        for framing in (f for f in framings if f.flopped == one.reframing.flopped):
            now = _look(shot, fine, one.clip, framing, rounds=1)
            known = best.get(one.clip)
            if now is not None and (known is None or now.pace.apart < 0.9 * known.pace.apart):
                best[one.clip] = now
                if now.pace.apart < _POOR:
                    break
    return sorted(best.values(), key=lambda x: x.pace.apart)


_EARLIER = (1, -1, 2, -2, 4, -4, 8, -8)


def _together(shot: Floats, clip: Floats, looked: Looked) -> Looked:
    """Return what was found with frame and framing settled together: a slow pan a few frames off
    looks like another framing, so each frame near is tried with the framing that fits it best.
    """
    best = looked
    tried = {best.pace.first}
    better = True
    while better and len(tried) < 40:
        better = False
        for by in _EARLIER:
            at = best.pace.first + by
            if at in tried:
                continue
            tried.add(at)
            pace = replace(best.pace, first=at)
            framing = _framing_of(shot, clip, pace, best.reframing)
            laid, inside = laid_over(clip, framing)
            weights = inside.astype(np.float32)
            fit = fit_at(level(shot, weights), level(laid, weights), pace)
            if fit is not None and fit.apart < 0.99 * best.pace.apart:
                best, better = Looked(best.clip, fit, framing), True
                break
    return best


def _framing_of(shot: Floats, clip: Floats, pace: Pace, framing: Reframing) -> Reframing:
    """Return the framing under which the frames that lie on each other agree best; the plain one
    where it does as well.
    """
    some = np.unique(np.linspace(0, len(shot) - 1, _FRAMES).astype(np.int64))
    at = np.floor(pace.first + some * float(pace.speed) + 1e-6).astype(np.int64)
    ones, others = shot[some], clip[np.clip(at, 0, len(clip) - 1)]
    found, fit = refined(ones, others, framing, tight=0.15)
    plain = Reframing(flopped=framing.flopped)
    return plain if 1 - agreement(ones, others, plain) < 1.02 * (1 - fit) + 1e-5 else found


def _matches(seen: Sequence[Looked]) -> tuple[Match, ...]:
    made: list[Match] = []
    for n, one in enumerate(seen):
        if one.pace.apart > (NOTHING if made else _OTHER):
            continue
        others = [x.pace.apart for k, x in enumerate(seen) if k != n]
        reasons: list[Reason] = []
        doubt = 0
        if n == 0 and others and min(others) < 2.5 * one.pace.apart + 0.0005:
            doubt += 1 + (min(others) < 1.3 * one.pace.apart)
            reasons.append(Reason("another file looks as much like it", 0.5, True, "runner-up"))
        if one.pace.apart > 0.03:
            doubt += 1 + (one.pace.apart > NOTHING)
            reasons.append(Reason("the pictures differ more than they should", 0.5, True, "apart"))
        if one.pace.still > 1:
            doubt += 1
            reasons.append(
                Reason("the picture stands still, so the frame cannot be told", 0.4, True, "still")
            )
        if one.reframing.words:
            reasons.append(Reason(one.reframing.words))
        certainty = (Certainty.SURE, Certainty.LIKELY, Certainty.DOUBTFUL)[min(2, doubt)]
        made.append(
            Match(
                one.clip, int(np.floor(one.pace.first + 1e-6)), one.pace.speed, By.PICTURE,
                one.reframing, one.pace.apart, certainty if n == 0 else Certainty.DOUBTFUL,
                tuple(reasons),
            )
        )  # fmt: skip
    return tuple(made)
