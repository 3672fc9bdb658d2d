"""Reasons: the figures of a possible seam said as short plain statements, for and against."""

from __future__ import annotations

from offcut.core.judge.spans import Span
from offcut.core.model.seam import Kind, Reason

_STRANGER = 23.0
"""Unlikeness of two pictures that have nothing to do with each other, as measured."""


def _weight(value: float, low: float, high: float) -> float:
    """Return 0 at ``low`` (or beyond it), 1 at ``high``."""
    return round(max(0.0, min(1.0, (value - low) / (high - low))), 2)


def cut_reasons(f: dict[str, float]) -> list[Reason]:
    """Say what speaks for and against a cut, the weightiest first."""
    restless = max(f["before_most"], f["after_most"])
    found = [
        Reason(
            "the picture is built differently", _weight(f["step"], 2, _STRANGER), False, "structure"
        ),
        Reason("the colours change", _weight(f["step_colour"], 0.02, 0.5), False, "colour"),
        Reason("steady before and after", _weight(f["step"] - restless, 0, 16), False, "steady"),
    ]
    if f["returns_short"] < 0.55 * f["step"]:
        words = "the same picture returns after 1 to 3 frames"
        weight = _weight(f["returns_short"] / (f["step"] + 0.1), 0.65, 0.2)
        found.append(Reason(words, weight, True, "flash"))
    elif f["returns_middle"] < 0.55 * f["step"]:
        words = "the same picture returns within 8 frames"
        weight = _weight(f["returns_middle"] / (f["step"] + 0.1), 0.65, 0.2)
        found.append(Reason(words, weight, True, "flash"))
    elif f["returns_long"] < 0.5 * f["step"]:
        words = "something crosses the lens: the picture returns"
        weight = _weight(f["returns_long"] / (f["step"] + 0.1), 0.6, 0.2)
        found.append(Reason(words, weight, True, "passer"))
    if f["light_step"] > 8 and f["step"] < 9:
        found.append(Reason("only the light changes", _weight(f["step"], 11, 4), True, "light"))
    elif f["step"] < 11:
        found.append(Reason("the pair looks alike", _weight(f["step"], 14, 4), True, "alike"))
    if restless > 0.55 * f["step"]:
        found.append(
            Reason(
                "much moves around it", _weight(restless / (f["step"] + 1), 0.4, 1), True, "motion"
            )
        )
    if f["peaks_near"] >= 4:
        found.append(
            Reason(
                f"{f['peaks_near']:.0f} frames near it change as much",
                _weight(f["peaks_near"], 2, 10),
                True,
                "flicker",
            )
        )
    if f["step_unmatched"] < 0.2 and f["step"] < 14:
        share = round(100 * (1 - f["step_unmatched"]))
        found.append(
            Reason(
                f"{share} % of the picture is found again", _weight(share, 70, 100), True, "part"
            )
        )
    return sorted(found, key=lambda r: -r.weight)


def span_reasons(span: Span, f: dict[str, float]) -> list[Reason]:
    """Say what speaks for and against a gradual seam."""
    length = span.end - span.start
    ends, misfit, unlike = f["ends"], f["misfit"], f["unlike"]
    found = [Reason("its two ends are different pictures", _weight(unlike, 4, 20), False, "ends")]
    if span.kind is Kind.FADE:
        found.append(
            Reason(
                f"contrast runs to nothing and back over {length} frames",
                _weight(f["contrast_least"], 9, 1),
                False,
                "fade",
            )
        )
    elif span.kind is Kind.WIPE:
        found.append(
            Reason(
                f"an edge crosses the picture in {length} frames",
                _weight(f["edge_order"], 0.4, 0.95),
                False,
                "wipe",
            )
        )
    else:
        found.append(
            Reason(f"evenly mixed over {length} frames", _weight(misfit, 0.7, 0.1), False, "mixed")
        )
        if misfit > 0.45:
            found.append(
                Reason(
                    "a straight mix explains it poorly", _weight(misfit, 0.3, 1.0), True, "misfit"
                )
            )
    if unlike < 10:
        found.append(Reason("its two ends look alike", _weight(unlike, 13, 4), True, "alike"))
    if max(f["before"], f["after"]) > 0.5:
        found.append(
            Reason(
                "much moves around it",
                _weight(max(f["before"], f["after"]), 0.3, 1.0),
                True,
                "motion",
            )
        )
    if ends < 8:
        found.append(Reason("little changes in all", _weight(ends, 12, 3), True, "little"))
    return sorted(found, key=lambda r: -r.weight)
