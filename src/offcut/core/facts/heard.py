"""What is heard: speech surely, speech perhaps, and silence; how loud the film is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from offcut.core.facts.fact import Fact, FactCertainty, Sort, stretches, without_short

SPEECH, PERHAPS, SILENCE = "speech", "perhaps speech", "silence"
_ON, _MAYBE = 0.6, 0.3
_SILENT = -60.0
_JOINED, _LEAST, _LEAST_SILENCE = 0.3, 0.15, 0.5
"""Seconds: pauses that belong to speech, and what is told at least."""


def sound_of(speech: NDArray[np.float32], level: NDArray[np.float32], rate: float) -> list[Fact]:
    """Return where somebody speaks and where nothing is heard; not cut at seams."""
    n = len(speech)
    kinds = np.zeros(n, np.int64)
    spoken = _closed(speech >= _MAYBE, round(_JOINED * rate))
    for a, b in stretches(spoken):
        if not spoken[a] or b - a < _LEAST * rate:
            continue
        sure = float(speech[a:b].max()) >= 0.8 and float((speech[a:b] >= _ON).mean()) > 0.4
        kinds[a:b] = 2 if sure else 1
    quiet = without_short((level < _SILENT).astype(np.int64), max(1, round(0.1 * rate)))
    for a, b in stretches(quiet):
        if quiet[a] and b - a >= _LEAST_SILENCE * rate:
            kinds[a:b] = np.where(kinds[a:b] == 0, 3, kinds[a:b])
    words = {1: PERHAPS, 2: SPEECH, 3: SILENCE}
    return [
        Fact(
            Sort.SOUND, words[int(kinds[a])], a, b,
            FactCertainty.PERHAPS if kinds[a] == 1 else FactCertainty.SURE,
            {} if kinds[a] == 3 else {"speech": round(float(speech[a:b].mean()), 3)},
        )
        for a, b in stretches(kinds)
        if kinds[a]
    ]  # fmt: skip


def _closed(on: NDArray[np.bool_], gap: int) -> NDArray[np.bool_]:
    """Return where something is on, short pauses inside it too."""
    made = on.copy()
    for a, b in stretches(on):
        if not on[a] and a > 0 and b < len(on) and b - a <= gap:
            made[a:b] = True
    return made
