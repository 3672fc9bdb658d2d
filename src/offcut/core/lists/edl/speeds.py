"""Speeds in an EDL: what an M2 line says, and what the lengths of source and record make."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from offcut.core.lists.incoming import ListTroubles, ReadEvent
from offcut.core.timecode import Rate, base_of


@dataclass(frozen=True, slots=True)
class SpeedLine:
    """A speed line: what it says of which reel, in frames a second to so many digits."""

    line: int
    text: str
    reel: str
    fps: Fraction
    digits: int
    at: int | None


def speed_by_lengths(event: ReadEvent, text: str, troubles: ListTroubles) -> Fraction:
    """Return the speed that source and record lengths make, which no line tells."""
    natural = event.source_out - event.source_in
    if natural == event.length or event.black or not natural:
        return Fraction(1)
    speed = Fraction(natural, event.length)
    why = (
        f"its source lasts {natural} frames, its record {event.length}, and no speed is told: "
        f"taken as {float(speed):.1%} of it"
    )
    troubles.add(event.line, text, f"{why}:", used=True)
    return speed.limit_denominator(10_000)


def speed_told(event: ReadEvent, told: SpeedLine, rate: Rate, troubles: ListTroubles) -> Fraction:
    """Return the speed that a line tells; the lengths make it exact within its rounding."""
    natural = event.source_out - event.source_in
    half = Fraction(1, 2 * 10**told.digits)
    speed = _plain_speed(told.fps, half, rate)
    if not speed or not event.length:
        return speed
    if abs(round(event.length * abs(speed)) - natural) <= 2:  # both ends are rounded
        return speed
    by_lengths = Fraction(natural, event.length)
    fps = by_lengths * base_of(rate)
    if abs(fps - abs(told.fps)) <= half:
        exact = by_lengths.limit_denominator(10_000)
        return -exact if speed < 0 else exact
    why = f"its lengths make {float(fps):.1f} frames a second; the line is believed:"
    troubles.add(told.line, told.text, why, used=True)
    return speed


def _plain_speed(fps: Fraction, half: Fraction, rate: Rate) -> Fraction:
    """Return source frames a frame from frames a second; 59.9 at 29.97 is twice, not a hair less.

    Lists count a second as their timecode does or as it really is: a plain twentieth within the
    rounding of the real rate is what was meant.
    """
    by_label = fps / base_of(rate)
    if rate.denominator == 1 or (by_label * 20).denominator == 1:
        return by_label
    plain = Fraction(round(fps / rate * 20), 20)
    return plain if plain and abs(plain * rate - fps) <= half else by_label
