"""Leaders: where a film counts down before it begins, by its beat.

A countdown changes its numeral once a second on a plain ground without colour, by the film's own
count or by 24 (SMPTE ST 55 counts the seconds of a release print's leader; from memory).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from offcut.core.facts.fact import stretches
from offcut.core.facts.smoothing import median_of
from offcut.core.measure.ground import Grounds

_GREY, _PLAIN = 7.0, 0.22
_JUMP, _OVER = 0.8, 3.0
"""A numeral that changes moves a picture by so many grey levels, and so many times what its
neighbours do."""
_BEATS = 3
_LEAST = 2.5
_SLACK = 1


def leader_in(grounds: Grounds, rate: float) -> NDArray[np.bool_]:
    """Return where a film counts down, bool (n,)."""
    n = len(grounds.rows)
    made = np.zeros(n, np.bool_)
    drawn = (grounds.of("tint") < _GREY) & (grounds.of("plain") > _PLAIN) & grounds.known
    second = max(2, round(rate))
    for a, b in stretches(median_of(drawn.astype(np.float32), 5) > 0.5):
        if not drawn[a : a + 3].any() or b - a < _LEAST * rate:
            continue
        moves = grounds.of("moves")[a:b]
        calm = median_of(moves, (second // 2) | 1)
        jumps = np.flatnonzero(moves > np.maximum(_JUMP, _OVER * calm))
        for beat in {second, 24}:
            beats = _on_the_beat(jumps, beat)
            if beats is not None:
                first, last = beats[0] - beat, beats[1] + beat
                # what is left of less than half a second at either end belongs to it
                first = 0 if first < beat // 2 else first
                last = b - a if last > b - a - beat // 2 else last
                made[a + first : a + last] = True
                break
    return made


def _on_the_beat(jumps: NDArray[np.int64], beat: int) -> tuple[int, int] | None:
    """Return the first and last of the longest row of jumps a beat apart, None for a short one."""
    there = set(jumps.tolist())
    best: tuple[int, int, int] | None = None
    for first in jumps.tolist():
        at, count = first, 1
        while True:
            ahead = next((at + beat + d for d in (0, *range(-_SLACK, _SLACK + 1))
                          if at + beat + d in there), None)  # fmt: skip
            if ahead is None:
                break
            at, count = ahead, count + 1
        if count >= _BEATS and (best is None or count > best[0]):
            best = count, first, at
    return None if best is None else (best[1], best[2])
