"""Steadiness: how far the camera's path strays from its own mean over a second."""

from __future__ import annotations

import numpy as np

from offcut.core.facts.camera_path import PAN, TILT, CameraPath, Floats
from offcut.core.facts.fact import Fact, FactCertainty, Sort, stretches, without_short
from offcut.core.facts.grades import USUAL
from offcut.core.facts.smoothing import mean_of

GRADES = ("steady", "slight", "medium", "strong")
_LEAST = 1.5
"""Seconds that a grade inside a shot lasts at least."""


def steadiness_of(
    path: CameraPath, rate: float, limits: tuple[float, ...] = USUAL.steadiness
) -> list[Fact]:
    """Return how steady one shot is held, frames from its first on.

    ``limits`` are picture widths: under the first it is steady, from the last on it shakes
    strongly.
    """
    n = len(path)
    known = path.known
    if n < max(5, rate / 3) or known.sum() < 0.6 * n:
        return []
    strays = _strays(path, rate)
    window = max(3, round(rate))
    # a running mean of nothing after something is a little under nothing
    local = np.sqrt(np.maximum(0.0, mean_of(strays**2, min(n, window))))
    grades = without_short(np.searchsorted(limits, local, side="right"), round(_LEAST * rate))
    facts = []
    for a, b in stretches(grades):
        figure = float(np.sqrt((strays[a:b] ** 2).mean()))
        grade = int(np.searchsorted(limits, figure, side="right"))
        near = min(abs(np.log(max(figure, 1e-6) / limit)) for limit in limits)
        share = float(path.share[a:b].mean())
        sure = share > 0.5 and near > 0.15
        certainty = FactCertainty.SURE if sure else FactCertainty.LIKELY
        facts.append(
            Fact(Sort.STEADINESS, GRADES[grade], a, b, certainty, {"strays": round(figure, 5)})
        )
    return facts


def _strays(path: CameraPath, rate: float) -> Floats:
    """Return how far each frame lies off the path's mean over a second, in picture widths, (n,).

    At its ends the path goes on as it came, turned about its end: an even pan strays nowhere.
    """
    steps = path.steps[:, (PAN, TILT)].copy()
    steps[~path.known] = 0
    steps[0] = 0
    places = np.cumsum(steps, axis=0)
    half = min(len(places) - 1, max(1, round(rate / 2)))
    head = 2 * places[0] - places[half:0:-1]
    tail = 2 * places[-1] - places[-2 : -half - 2 : -1]
    longer = np.concatenate([head, places, tail])
    mean = mean_of(longer, 2 * half + 1)[half : half + len(places)]
    return np.asarray(np.hypot(*(places - mean).T))
