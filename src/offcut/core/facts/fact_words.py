"""Facts in words, as they are shown to people."""

from __future__ import annotations

from collections.abc import Callable

from offcut.core.facts.fact import (
    CAMERA,
    COLOUR,
    FACES,
    FOCUS,
    LIGHT,
    LOUDNESS,
    PART,
    SOUND,
    STEADINESS,
    Fact,
    FactCertainty,
)
from offcut.core.words import many

_MOVES = {
    "still": "stands still",
    "travel": "travels",
    "whip": "a whip",
    **{
        f"{move} {way}": f"{move}s {way}"
        for move, ways in (
            ("pan", ("left", "right")),
            ("tilt", ("up", "down")),
            ("zoom", ("in", "out")),
            ("roll", ("left", "right")),
        )
        for way in ways
    },
}
_STEADY = {
    "steady": "steady",
    "slight": "shaky, slightly",
    "medium": "shaky",
    "strong": "shaky, strongly",
}
_LIGHT = {"dark": "dark", "low": "low light", "normal": "usual light", "bright": "bright"}


def fact_words(fact: Fact) -> str:
    """Return a fact as a few words: "pans right over 62 frames, 0.4 picture widths a second"."""
    told = _WORDS.get(fact.sort, _plain)(fact)
    return told if fact.certainty is FactCertainty.SURE else f"{told} ({fact.certainty.value})"


def _camera(fact: Fact) -> str:
    told = _MOVES[str(fact.value)]
    speed = fact.figures.get("speed")
    if fact.value == "still" or not isinstance(speed, float):
        return told
    over = f"{told} over {many(fact.end - fact.start, 'frame')}"
    if str(fact.value).startswith("zoom"):
        return f"{over}, {speed:.2f} times a second"
    if str(fact.value).startswith("roll"):
        return f"{over}, {speed:.0f}° a second"
    return f"{over}, {speed:.2g} picture widths a second"


def _light(fact: Fact) -> str:
    stops = fact.figures.get("stops")
    told = _LIGHT.get(str(fact.value), str(fact.value))
    return f"{told}, {stops:+.1f} stops about 18 % grey" if isinstance(stops, float) else told


def _faces(fact: Fact) -> str:
    if not fact.value:
        return "no face"
    return f"{many(int(str(fact.value)), 'face')}, {fact.figures.get('size', '')}"


def _plain(fact: Fact) -> str:
    return str(fact.value)


_WORDS: dict[str, Callable[[Fact], str]] = {
    CAMERA: _camera,
    STEADINESS: lambda f: _STEADY[str(f.value)],
    LIGHT: _light,
    FOCUS: _plain,
    COLOUR: _plain,
    FACES: _faces,
    SOUND: _plain,
    LOUDNESS: lambda f: f"{f.value} LUFS",
    PART: _plain,
}
