"""Lighting: how light a shot is, by the mean of its linear light in stops about 18 % grey."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from offcut.core.facts.fact import Fact, FactCertainty, Figure, Sort, stretches, without_short
from offcut.core.facts.grades import USUAL
from offcut.core.facts.smoothing import median_of
from offcut.core.measure.light import Lights

GRADES = ("dark", "low", "normal", "bright", "burnt out")
_GREY = 18.0
_NIGHT, _BLACKS, _LAMPS, _DAY = -2.0, 0.15, 0.15, -0.8
_LEAST = 0.5
_NEAR = 0.12
"""Stops about a limit, and a tenth of that in clipped tones, within which a grade is but likely."""


def stops_of(lights: Lights) -> NDArray[np.float64]:
    """Return the light of frames in stops about 18 % grey, float64 (n,), at least -10."""
    return np.log2(np.maximum(lights.of("light").astype(np.float64), 0.0176) / _GREY)


def light_of(
    lights: Lights,
    rate: float,
    limits: tuple[float, ...] = USUAL.light,
    burnt: float = USUAL.burnt / 100,
) -> list[Fact]:
    """Return how light one shot is, frames from its first on.

    ``limits`` are stops about 18 % grey, ``burnt`` is the share of clipped tones from which a
    picture is burnt out.
    """
    n = len(lights.rows)
    if lights.known.sum() < max(1, 0.5 * n):
        return []
    calm = max(1, round(0.3 * rate)) | 1
    stops = median_of(stops_of(lights), calm)
    clipped = median_of(lights.of("clipped"), calm)
    grades = _grades(stops, clipped, limits, burnt)
    grades = without_short(grades, min(n, round(_LEAST * rate)))
    facts = []
    for a, b in stretches(grades):
        mean = float(np.log2(np.mean(2.0 ** stops[a:b])))
        share = float(clipped[a:b].mean())
        grade = int(_grades(np.array([mean]), np.array([share]), limits, burnt)[0])
        if b - a < n:
            grade = int(grades[a])
        near = min(abs(mean - limit) for limit in limits)
        sure = near > _NEAR and abs(share - burnt) > 0.03
        contrast = float((lights.of("high") - lights.of("low"))[a:b].mean())
        figures: dict[str, Figure] = {
            "stops": round(mean, 2), "clipped": round(share, 3), "contrast": round(contrast, 3),
        }  # fmt: skip
        time = _time_of_day(mean, float(lights.of("crushed")[a:b].mean()), contrast)
        if time:
            figures["time"] = time
        certainty = FactCertainty.SURE if sure else FactCertainty.LIKELY
        facts.append(Fact(Sort.LIGHT, GRADES[grade], a, b, certainty, figures))
    return facts


def _time_of_day(stops: float, crushed: float, contrast: float) -> str:
    """Return day or night, empty where the light tells neither.

    Night is dark with much black in it and lights that stand out (common practice, no published
    source); a dark picture without them may as well be a room.
    """
    if stops < _NIGHT and crushed > _BLACKS and contrast > _LAMPS:
        return "night"
    return "day" if stops > _DAY else ""


def _grades(
    stops: NDArray[np.float64],
    clipped: NDArray[np.float64],
    limits: tuple[float, ...],
    burnt: float,
) -> NDArray[np.int64]:
    grades = np.searchsorted(limits, stops, side="right").astype(np.int64)
    grades[clipped >= burnt] = len(GRADES) - 1
    return grades
