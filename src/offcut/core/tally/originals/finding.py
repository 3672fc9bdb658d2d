"""Finding originals: what is said of a shot is asked first; pictures tell whether it is so."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.seam import Certainty, Reason
from offcut.core.model.shots import Shot
from offcut.core.tally.originals.by_list import Shelf
from offcut.core.tally.originals.by_picture import NOTHING, Prints, by_picture
from offcut.core.tally.originals.clips import By, Clip, Match, OriginalsOfShot, Span
from offcut.core.tally.originals.closest import Reading
from offcut.core.tally.reframing import PLAIN, Reframing, laid_over, level
from offcut.core.timecode import Rate

Floats = NDArray[np.float32]
_ONE = Fraction(1)
_NEAR = 2
_SHARE = 0.4
"""By its picture a shot is taken from elsewhere only where that fits so much better."""


def originals_found(
    shots: Sequence[Shot],
    rate: Rate,
    film: Prints | None,
    start: int,
    clips: Sequence[Clip],
    prints: Sequence[Prints],
    *,
    reading: Reading | None = None,
    told: Callable[[int, int], bool] | None = None,
) -> list[OriginalsOfShot]:
    """Return for each shot the originals it may have been made from.

    ``film`` are the prints of the film from frame ``start`` on, None where it is gone; ``prints``
    those of the clips; ``reading`` reads their pictures, frames of the film counted
    from its first print. Reel and timecode come first, then a name, then the picture. ``told`` as
    in `by_picture`.
    """
    shelf = Shelf(clips)
    said = [shelf.by_timecode(s, rate) for s in shots]
    if film is None or not prints:
        return [
            OriginalsOfShot((s.start, s.end), tuple(m for m in (match, _named(shelf, s)) if m))
            for s, match in zip(shots, said, strict=True)
        ]
    spans = [clear_span(s) for s in shots]
    checked = [
        _checked(match, span, s, film, start, prints) if match is not None else None
        for match, span, s in zip(said, spans, shots, strict=True)
    ]
    asked = [n for n, m in enumerate(checked) if m is None or _doubted(m)]
    local = [(spans[n][0] - start, spans[n][1] - start) for n in asked]
    seen = dict(
        zip(asked, by_picture(film, local, prints, reading=reading, told=told), strict=True)
    )
    made = []
    for n, shot in enumerate(shots):
        pictured = tuple(_from_start(m, shot, spans[n]) for m in seen.get(n, ()))
        made.append(
            OriginalsOfShot((shot.start, shot.end), _chosen(shelf, shot, checked[n], pictured))
        )
    return made


def clear_span(shot: Shot) -> Span:
    """Return the frames of a shot that show it alone, those mixed with the one before left out."""
    opener = shot.opened_by
    start = opener.end if opener is not None and opener.gradual else shot.start
    start = min(max(shot.start, start), shot.end - 1)
    return start, shot.end


def _from_start(match: Match, shot: Shot, span: Span) -> Match:
    """Return a match told from the shot's own first frame instead of its first clear one."""
    return replace(match, first=match.first - round((span[0] - shot.start) * match.speed))


def _checked(
    match: Match, span: Span, shot: Shot, film: Prints, start: int, prints: Sequence[Prints]
) -> Match:
    """Return a match with how far apart the pictures are where the timecode leads."""
    first = match.first + round((span[0] - shot.start) * match.speed)
    ones = film.coarse[span[0] - start : span[1] - start]
    apart, framing = apart_at(ones, prints[match.clip].coarse, first, float(match.speed))
    return replace(match, apart=apart, reframing=framing)


def apart_at(ones: Floats, others: Floats, first: int, speed: float) -> tuple[float, Reframing]:
    """Return how far apart a shot's prints and its original's are, as the closest of a few framings
    has it, and that framing; 2 where the original has no such frames.
    """
    at = np.floor(first + np.arange(len(ones)) * speed + 1e-6).astype(np.int64)
    there = (at >= 0) & (at < len(others))
    if not there.any():
        return 2.0, PLAIN
    best = 2.0, PLAIN
    for flopped in (False, True):
        for high in (1.0, 0.76):
            framing = Reframing(0.0, (1 - high) / 2, 1.0, high, flopped)
            laid, inside = laid_over(others[at[there]], framing)
            weights = inside.astype(np.float32)
            gaps = level(ones[there], weights) - level(laid, weights)
            apart = float((gaps * gaps).sum(axis=1).mean())
            if apart < best[0]:
                best = apart, framing
    return best


def _doubted(match: Match) -> bool:
    return match.certainty is not Certainty.SURE or match.apart is None or match.apart > NOTHING


def _agree(one: Match, other: Match, shot: Shot) -> bool:
    """Tell whether two lead to the same frames of the same file, a frame or two apart."""
    ends = (0, shot.length - 1)
    return one.clip == other.clip and all(
        abs(one.first - other.first + end * (one.speed - other.speed)) <= _NEAR for end in ends
    )


def _named(shelf: Shelf, shot: Shot) -> Match | None:
    held = shelf.by_name(shot)
    if len(held) != 1:
        return None
    why = Reason("by its name alone, so which frames is not known", 0.6, True, "name")
    return Match(held[0], 0, _ONE, By.NAME, certainty=Certainty.DOUBTFUL, reasons=(why,))


def _chosen(
    shelf: Shelf, shot: Shot, said: Match | None, pictured: tuple[Match, ...]
) -> tuple[Match, ...]:
    """Put what is said and what is seen in order, the likeliest first."""
    if said is not None and not _doubted(said):
        return (said, *pictured)
    named = set(shelf.by_name(shot))
    by_name = tuple(
        replace(m, by=By.NAME, reasons=(Reason("named so, and it shows the same"), *m.reasons))
        for m in pictured
        if m.clip in named
    )
    rest = tuple(m for m in pictured if m.clip not in named)
    # a name counts unless another file fits far better
    if by_name and rest and (rest[0].apart or 0) < _SHARE * (by_name[0].apart or 0):
        by_name, rest = (), pictured
    if said is None:
        return (*by_name, *rest) or tuple(m for m in (_named(shelf, shot),) if m)
    seen = (*by_name, *rest)
    other = Reason("where its timecode leads, the picture is another", 0.8, True, "other")
    if said.apart is not None and said.apart > NOTHING:
        same = next((m for m in seen if _agree(said, m, shot)), None)
        if same is not None:  # framed otherwise than was tried
            known = replace(said, apart=same.apart, reframing=same.reframing)
            return (known, *(m for m in seen if m is not same))
        doubted = replace(said, certainty=Certainty.DOUBTFUL, reasons=(*said.reasons, other))
        if seen:
            why = Reason("its timecode leads elsewhere, to another picture", 0.5, True, "timecode")
            return (replace(seen[0], reasons=(*seen[0].reasons, why)), doubted, *seen[1:])
        return (doubted,)
    return (said, *seen)
