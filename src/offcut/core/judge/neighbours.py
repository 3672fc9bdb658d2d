"""Neighbours: a second look at each thinkable cut, which knows how likely those about it are.

Beside a sure cut another one is mostly its echo, unless a shot of a frame or two lies between; in
a restless stretch one of many speaks for little. (Stacking; Wolpert 1992, "Stacked
generalization", from memory.)
"""

from __future__ import annotations

import numpy as np

from offcut.core.judge.planes import Floats, Frames

NOWHERE = -12.0
"""Log-odds that stand for no thinkable cut at all."""
WORTH_IT = -7.0
"""Log-odds from which on a cut is looked at a second time."""
_BESIDE = (-4, -3, -2, -1, 1, 2, 3, 4)
_ABOUT = ((-12, -5), (5, 12), (-40, -13), (13, 40))


def with_neighbours(
    figures: Floats,
    names: tuple[str, ...],
    places: Frames,
    odds: Floats,
    of: Frames,
) -> tuple[Floats, tuple[str, ...]]:
    """Return the figures of some thinkable cuts with the log-odds of those about them.

    ``figures`` (n, F) and ``odds`` (n,) of the first look are of the cuts at ``places``, in order;
    ``of`` says which of them are asked for. The result is (len(of), F + 15), and the names.
    """
    every = np.full(int(places[-1]) + 2 * _FAR, NOWHERE, np.float32)
    every[places + _FAR] = np.maximum(odds, NOWHERE)
    t = places[of] + _FAR
    named: dict[str, Floats] = {"first_look": every[t]}
    for k in _BESIDE:
        named[f"look_{k}"] = every[t + k]
    for low, high in _ABOUT:
        named[f"look_{low}_{high}"] = every[t[:, None] + np.arange(low, high + 1)].max(axis=1)
    likely = np.concatenate([[0], np.cumsum(every > 0)])
    named["likely_near"] = (likely[t + 25] - likely[t - 24]).astype(np.float32)
    beside = np.maximum(every[t - 1], every[t + 1])
    named["look_above"] = named["first_look"] - beside
    more = np.stack(list(named.values()), axis=1)
    return np.concatenate([figures[of], more], axis=1), (*names, *named)


_FAR = 41
