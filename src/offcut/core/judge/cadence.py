"""Cadence: 24 pictures a second laid into 60 fields (2:3), and where the pattern breaks.

Of five frames two are woven of two pictures, next to each other. A film that was cut after it was
laid into fields begins the pattern anew at its cuts. (Common practice, no published source.)
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offcut.core.model.source import Media
from offcut.core.timecode import timecode_from_frame
from offcut.core.words import many

_CYCLE = 5
_WOVEN = (2, 3)
"""Which frames of the five are woven: pictures A A, B B, B C, C D, D D."""
_CLEAR = 0.3
"""Grey levels by which fields differ, at least, where they tell anything."""
_SURE = 0.85
"""Share of the frames that tell something which follow the pattern in a film that has it."""
_CHANGE = 6.0
"""A break costs as much as so many frames out of step."""
_LEAST = 20


@dataclass(frozen=True)
class Pulldown:
    """The 2:3 pattern of a stretch: frames at which it begins anew, the share that follows it."""

    breaks: tuple[int, ...]
    share: float


def pulldown(woven: NDArray[Any], start: int = 0) -> Pulldown | None:
    """Return the 2:3 pattern of frames from ``start`` on, None where there is none.

    ``woven`` (n, 2) as `offcut.core.measure.signals.Signals` has it. The phase is the path of
    least cost through the frames (Viterbi 1967).
    """
    own, before = np.asarray(woven, np.float32).T
    if len(own) < _LEAST:
        return None
    # lines of the picture itself differ between fields, moving or not
    least = np.pad(np.minimum(own, before), 7, mode="edge")
    still = np.lib.stride_tricks.sliding_window_view(least, 15).min(axis=1)
    own, before = own - still, before - still
    tells = np.flatnonzero(np.maximum(own, before) > _CLEAR)
    tells = tells[(own[tells] > 2.5 * before[tells]) | (before[tells] > 2.5 * own[tells])]
    if len(tells) < _LEAST:
        return None
    is_woven = own[tells] > before[tells]
    places = (tells[:, None] + np.arange(_CYCLE)) % _CYCLE
    wrong = (np.isin(places, _WOVEN) != is_woven[:, None]).astype(np.float32)
    phases = _path(wrong)
    share = 1 - float(wrong[np.arange(len(tells)), phases].mean())
    if share < _SURE or float(is_woven.mean()) < 0.15:
        return None
    turns = np.flatnonzero(np.diff(phases)) + 1
    return Pulldown(tuple((tells[turns] + start).tolist()), share)


def pulldown_words(found: Pulldown, media: Media) -> str:
    """Say that a film has the pattern, and where it breaks, the first few places by timecode."""
    words = "24 pictures a second lie in 60 fields (2:3)"
    if not found.breaks:
        return f"{words}, without a break"
    shown = ", ".join(
        timecode_from_frame(media.start + f, media.rate, media.drop) for f in found.breaks[:3]
    )
    more = f" and {len(found.breaks) - 3} more" if len(found.breaks) > 3 else ""
    return f"{words}; the pattern breaks at {many(len(found.breaks), 'place')}: {shown}{more}"


def _path(wrong: NDArray[np.float32]) -> NDArray[np.int64]:
    """Return the phases, one a row of ``wrong`` (m, 5), that cost least with their changes."""
    cost = np.zeros(_CYCLE, np.float32)
    came = np.empty(wrong.shape, np.int64)
    stay = np.arange(_CYCLE)
    for row, misses in enumerate(wrong):
        least = int(cost.argmin())
        came[row] = np.where(cost <= cost[least] + _CHANGE, stay, least)
        cost = np.minimum(cost, cost[least] + _CHANGE) + misses
    phases = np.empty(len(wrong), np.int64)
    phases[-1] = int(cost.argmin())
    for row in range(len(wrong) - 1, 0, -1):
        phases[row - 1] = came[row, phases[row]]
    return phases
