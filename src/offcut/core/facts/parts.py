"""Parts: what of a film is programme, and what black, white, bars, tone, slate, a still."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from offcut.core.facts.fact import Fact, FactCertainty, Sort, stretches
from offcut.core.facts.smoothing import median_of
from offcut.core.measure.ground import Grounds

PROGRAMME, BLACK, WHITE, BARS = "programme", "black", "white", "bars"
TONE, SLATE, STILL, LEADER = "tone", "slate", "still", "leader"
_WORDS = (PROGRAMME, BLACK, WHITE, BARS, TONE, SLATE, STILL, LEADER)
_LEAST = {BLACK: 0.12, WHITE: 0.12, BARS: 0.5, TONE: 0.5, SLATE: 1.0, STILL: 1.5, LEADER: 0.4}
"""Seconds that each lasts at least."""
_BLACK, _WHITE = 26.0, 225.0
"""Tones of usual range up to which a plain picture is black, and from which on white."""
_PLAIN = 0.97
_GROUND = 0.55
_LETTERED = (0.004, 0.22)
"""The share of strong edges that letters on a plain ground leave."""
_HELD = 0.35
_EMPTY = 0.3
_PURE, _LOUD = 0.92, -45.0


def parts_of(
    grounds: Grounds,
    rate: float,
    tone: NDArray[np.bool_] | None = None,
    leader: NDArray[np.bool_] | None = None,
    goes: NDArray[np.bool_] | None = None,
) -> list[Fact]:
    """Return what parts one shot has, frames from its first on; all of it is told as one or other.

    ``tone`` is where nothing but a test tone is heard, ``leader`` where a leader counts down,
    ``goes`` where the camera goes: a slow pan over what is smooth moves hardly a pixel. How much
    moves is told beside each, as what a picture differs from the one before, in grey levels.
    """
    n = len(grounds.rows)
    if not grounds.known.any():
        return []
    kinds = _kinds(grounds, tone)
    if goes is not None:
        for a, b in stretches(kinds):
            if kinds[a] == _WORDS.index(STILL) and goes[a:b].mean() > 0.5:
                kinds[a:b] = _WORDS.index(PROGRAMME)
    if leader is not None:
        kinds[leader & ~_empty(kinds, rate)] = _WORDS.index(LEADER)
    made = np.zeros(n, np.int64)
    moves = grounds.of("moves")
    for a, b in stretches(kinds):
        word = _WORDS[kinds[a]]
        whole = a == 0 and b == n
        if (
            word == PROGRAMME
            or b - a >= round(_LEAST[word] * rate)
            or (whole and word in (BLACK, WHITE))
        ):
            made[a:b] = kinds[a]
    return [
        Fact(
            Sort.PART, _WORDS[made[a]], a, b, _certainty(_WORDS[made[a]], b - a),
            {"moves": round(float(moves[a + (b - a > 1) : b].mean()), 2)},
        )
        for a, b in stretches(made)
    ]  # fmt: skip


def _empty(kinds: NDArray[np.int64], rate: float) -> NDArray[np.bool_]:
    """Return where black or white lasts: it follows a leader on its beat, and is none."""
    empty = np.zeros(len(kinds), np.bool_)
    for a, b in stretches(kinds):
        lasts = b - a >= round(_EMPTY * rate)
        empty[a:b] = lasts and _WORDS[kinds[a]] in (BLACK, WHITE)
    return empty


def _kinds(
    grounds: Grounds,
    tone: NDArray[np.bool_] | None,
) -> NDArray[np.int64]:
    """Return for each frame the number of its part in `_WORDS`."""
    plain, ground, strokes = (grounds.of(k) for k in ("plain", "tone", "strokes"))
    moves = median_of(grounds.of("moves"), 3)
    moves_most = median_of(grounds.of("moves_most"), 3)
    tint, stripes, bands = (grounds.of(k) for k in ("tint", "stripes", "bands"))
    kinds = np.zeros(len(plain), np.int64)

    def say(word: str, where: NDArray[np.bool_]) -> None:
        kinds[where] = _WORDS.index(word)

    still = moves < _HELD
    say(STILL, still & (moves_most <= 1.0))
    lettered = (strokes > _LETTERED[0]) & (strokes < _LETTERED[1])
    say(SLATE, still & (plain > _GROUND) & lettered & (stripes < 0.999))
    say(BARS, still & (stripes > 0.8) & (bands >= 6) & (bands <= 9))
    empty = (plain > _PLAIN) & (strokes < 0.001)
    black = empty & (ground <= _BLACK)
    say(BLACK, black)
    say(WHITE, empty & (ground >= _WHITE) & (tint < 10))
    if tone is not None:
        say(TONE, tone & black)
    return kinds


def _certainty(word: str, length: int) -> FactCertainty:
    if word in (SLATE, STILL, LEADER):
        return FactCertainty.LIKELY
    if word == PROGRAMME:
        return FactCertainty.SURE
    return FactCertainty.SURE if length > 3 else FactCertainty.LIKELY


def only_tone(level: NDArray[np.float32], pure: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Return where nothing but one steady tone is heard, bool (n,)."""
    return np.asarray((pure > _PURE) & (level > _LOUD))


def programme_of(parts: list[Fact], rate: float) -> tuple[int, int] | None:
    """Return from where to where the programme goes: without what stands before and after it.

    None where nothing of the film is programme. Black inside it stays in it.
    """
    first = last = begun = None
    at = -1
    for part in sorted(parts, key=lambda p: p.start):
        if part.value not in (PROGRAMME, STILL):
            continue
        if part.start != at:
            begun = part.start
        at = part.end
        assert begun is not None
        if at - begun >= min(rate, parts[-1].end - parts[0].start):
            first = begun if first is None else first
            last = at
    return None if first is None or last is None else (first, last)
