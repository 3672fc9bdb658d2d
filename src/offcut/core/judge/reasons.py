"""Reasons: the figures of a possible seam said as short plain statements, for and against."""

from __future__ import annotations

from dataclasses import replace

from offcut.core.judge.span import Span
from offcut.core.judge.wipes import FORMS
from offcut.core.model.seam import Kind, Reason
from offcut.core.words import many

STOP = "stop"
"""The code of the reason that says a seam is a camera stop."""
_FORMS = {
    "edge": "a straight edge crosses the picture",
    "iris": "an iris opens or closes over the picture",
    "clock": "a clock’s hand wipes the picture",
    "doors": "two edges part or close like doors",
}
_STRANGER = 23.0
"""Unlikeness of two pictures that have nothing to do with each other, as measured."""


def _weight(value: float, low: float, high: float) -> float:
    """Return 0 at ``low`` (or beyond it), 1 at ``high``."""
    return round(max(0.0, min(1.0, (value - low) / (high - low))), 2)


_STAYING = 0.65
"""Share of the edges that stay, more than chance would have it, which speaks against a seam."""


def _lines_stay(kept: float) -> Reason:
    words = f"{100 * kept:.0f} % of its lines stay where they are"
    return Reason(words, _weight(kept, 0.5, 0.95), True, "lines")


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
        words = "something passes: the picture returns"
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
    if f["edges_1"] > _STAYING:
        found.append(_lines_stay(f["edges_1"]))
    if f["step_unmatched"] < 0.2 and f["step"] < 14:
        share = round(100 * (1 - f["step_unmatched"]))
        found.append(
            Reason(
                f"{share} % of the picture is found again", _weight(share, 70, 100), True, "part"
            )
        )
    return sorted(found, key=lambda r: -r.weight)


def stop_reasons(frames: int) -> list[Reason]:
    """Say that a seam is a camera stop, with so many flash frames."""
    return [
        Reason(f"a camera stop, {many(frames, 'flash frame')}", 1.0, False, STOP),
        Reason("the picture burns out and another comes back", 1.0, False, "burnt"),
    ]


def _wipe_reason(f: dict[str, float], length: int) -> Reason:
    """Say in which form one picture takes the other's place."""
    if f["block_usual"] > 2.5 * f["block_outside"] + 3.0:
        weight = _weight(f["block_usual"] / (f["block_outside"] + 1), 2, 8)
        words = f"the new picture pushes the old one out in {length} frames"
        return Reason(words, weight, False, "wipe-push")
    if f["edge_order"] < 0.6:
        words = f"changes bit by bit over {length} frames"
        return Reason(words, _weight(f["ramp_error"], 0.3, 0.05), False, "wipe-soft")
    form = FORMS[int(f["edge_form"])]
    words, code = f"{_FORMS[form]} in {length} frames", f"wipe-{form}"
    if form == "edge" and f["edge_sharp"] < 2.0:
        words, code = f"a soft edge crosses the picture in {length} frames", "wipe-soft"
    return Reason(words, _weight(f["edge_order"], 0.4, 0.95), False, code)


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
        found.append(_wipe_reason(f, length))
    elif span.kind is Kind.WHIP:
        words = f"flies or tears apart for {many(length, 'frame')}"
        found.append(Reason(words, _weight(f["inside_out"], 1.2, 5.0), False, "whip"))
        if f["detail_dip"] < 0.75:
            weight = _weight(f["detail_dip"], 1.0, 0.4)
            found.append(Reason("blurred by movement in between", weight, False, "blur"))
        if f["back_later"] < 0.5:
            weight = _weight(f["back_later"], 0.6, 0.2)
            found.append(Reason("the same picture returns", weight, True, "flash"))
    elif span.kind is Kind.CUT:
        found += stop_reasons(length)
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
    if span.kind is Kind.FADE and f["burnt"] > 12:
        found[-1] = replace(found[-1], text=f"out into the light and back over {length} frames")
    if unlike < 10:
        found.append(Reason("its two ends look alike", _weight(unlike, 13, 4), True, "alike"))
    if f["edges_whole"] > _STAYING:
        found.append(_lines_stay(f["edges_whole"]))
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
