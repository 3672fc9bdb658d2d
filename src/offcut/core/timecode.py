"""Rates and SMPTE timecode: exact fractions, drop-frame, and what people type.

Timecode is a label for a frame, counted with a whole number of labels per second (the *base*):
24 for 24000/1001, 30 for 30000/1001. Drop-frame leaves out labels, never pictures: the first two
of each minute at base 30 (four at 60), except in each tenth minute (SMPTE ST 12-1).
"""

from __future__ import annotations

import re
from fractions import Fraction

from offcut.core.errors import TimecodeError

Rate = Fraction

NTSC_FILM = Fraction(24000, 1001)
FILM = Fraction(24)
PAL = Fraction(25)
NTSC = Fraction(30000, 1001)
NTSC_DOUBLE = Fraction(60000, 1001)

_FAMILY = (
    *(Fraction(n) for n in (24, 25, 30, 48, 50, 60, 100, 120)),
    *(Fraction(n * 1000, 1001) for n in (24, 30, 48, 60, 120)),
)
_MAX_DIGITS = 12


FASTEST = 1000
"""Frames a second, at most."""


def rate_from(value: Fraction | int | float | str) -> Rate:
    """Return the exact rate meant by ``value`` in frames per second.

    Decimals that stand for one of the trade's rates (23.976, 29.97, 59.94 ...) give that rate;
    anything else within 1 to 1000 is taken as it is, as a fraction with a small denominator.
    Raises TimecodeError for anything that is no such number.
    """
    try:
        exact = Fraction(value) if not isinstance(value, float) else Fraction(str(value))
    except (ValueError, ZeroDivisionError, OverflowError) as error:
        raise TimecodeError(f"“{value}” is not a frame rate") from error
    if not 0 < exact <= FASTEST:
        raise TimecodeError(f"{value} frames per second is out of range")
    for known in _FAMILY:
        if abs(exact - known) < Fraction(2, 1000):
            return known
    return exact.limit_denominator(100_000)


def base_of(rate: Rate) -> int:
    """Return how many timecode labels a second has: the rate, rounded to a whole number."""
    return max(1, (2 * rate.numerator + rate.denominator) // (2 * rate.denominator))


def can_drop(rate: Rate) -> bool:
    """Tell whether drop-frame exists at this rate: 30000/1001 and its multiples (ST 12-1)."""
    return base_of(rate) % 30 == 0 and rate.denominator == 1001


def frames_per_day(rate: Rate, drop: bool = False) -> int:
    """Return how many labels 24 hours hold, after which timecode begins again at zero."""
    base = base_of(rate)
    per_ten_minutes = base * 600 - (9 * _dropped(base) if drop else 0)
    return per_ten_minutes * 144


def _dropped(base: int) -> int:
    return base // 15


def timecode_from_frame(frame: int, rate: Rate, drop: bool = False) -> str:
    """Return the label of a frame, ``HH:MM:SS:FF``, or ``HH:MM:SS;FF`` when drop-frame.

    ``frame`` counts from 00:00:00:00 and wraps after 24 hours; a negative one gets a minus sign.
    Raises TimecodeError where drop-frame is asked for at a rate that has none.
    """
    if drop and not can_drop(rate):
        raise TimecodeError(f"drop-frame does not exist at {rate_words(rate)} frames per second")
    if frame < 0:
        return "-" + timecode_from_frame(-frame, rate, drop)
    base = base_of(rate)
    label = frame % frames_per_day(rate, drop)
    if drop:
        out = _dropped(base)
        tens, rest = divmod(label, base * 600 - 9 * out)
        label += 9 * out * tens
        if rest >= out:
            label += out * ((rest - out) // (base * 60 - out))
    seconds, frames = divmod(label, base)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    width = max(2, len(str(base - 1)))
    mark = ";" if drop else ":"
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}{mark}{frames:0{width}d}"


_TIMECODE = re.compile(r"(-?)(\d{1,3}):(\d{1,2}):(\d{1,2})([:;.,])(\d{1,3})")


def frame_from_timecode(text: str, rate: Rate, drop: bool | None = None) -> int:
    """Return the frame a complete timecode labels, counted from 00:00:00:00.

    ``drop`` None reads it off the text: a semicolon, comma or point before the frames means
    drop-frame where the rate has it. A label that drop-frame leaves out is refused, as are
    minutes, seconds and frames out of range. Raises TimecodeError.
    """
    match = _TIMECODE.fullmatch(text.strip())
    if match is None:
        raise TimecodeError(f"“{text}” is not a timecode")
    sign, *digits, mark, last = match.groups()
    hours, minutes, seconds, frames = (int(d) for d in (*digits, last))
    base = base_of(rate)
    if minutes > 59 or seconds > 59 or frames >= base:
        raise TimecodeError(f"“{text}” is not a timecode at {rate_words(rate)} frames per second")
    if drop is None:
        drop = mark in ";,." and can_drop(rate)
    if drop and not can_drop(rate):
        raise TimecodeError(f"drop-frame does not exist at {rate_words(rate)} frames per second")
    label = ((hours * 60 + minutes) * 60 + seconds) * base + frames
    if drop:
        out = _dropped(base)
        if minutes % 10 and seconds == 0 and frames < out:
            raise TimecodeError(f"“{text}” does not exist in drop-frame timecode")
        total_minutes = hours * 60 + minutes
        label -= out * (total_minutes - total_minutes // 10)
    return -label if sign else label


def frame_from_typed(
    text: str, rate: Rate, *, drop: bool = False, start: int = 0, here: int = 0
) -> int:
    """Return the frame of the source that a person means by what they typed.

    ``1:02:03:04`` and ``01020304`` are timecodes, ``3:04`` one with the left fields left out,
    ``+12`` and ``-1:00`` go on from ``here`` (a bare number there is frames), ``1200`` with up
    to six digits is a frame of the source, and so is ``f1200`` with any. ``start`` is the
    timecode of the source's first frame, in frames. Raises TimecodeError.
    """
    word = re.sub(r"[.,;]", ":", text.strip().lower())
    if not word or len(word) > 24:
        raise TimecodeError(f"“{text[:24]}” is not a timecode")
    if word[0] in "+-":
        rest = word[1:].strip()
        step = int(rest) if _is_number(rest) else _frames_typed(rest, text, rate, False)
        return here + step if word[0] == "+" else here - step
    if word[0] == "f" and _is_number(word[1:]):
        return int(word[1:])
    if _is_number(word):
        if len(word) <= 6:
            return int(word)
        word = ":".join(re.findall("..", word.rjust(8, "0")))
    return _frames_typed(word, text, rate, drop) - start


def _is_number(word: str) -> bool:
    return word.isascii() and word.isdigit() and len(word) <= _MAX_DIGITS


def _frames_typed(word: str, text: str, rate: Rate, drop: bool) -> int:
    fields = word.split(":")
    if not 2 <= len(fields) <= 4 or any(f and not _is_number(f) for f in fields):
        raise TimecodeError(f"“{text}” is not a timecode")
    padded = [f or "0" for f in ["0"] * (4 - len(fields)) + fields]
    return frame_from_timecode(":".join(padded), rate, drop)


def rate_words(rate: Rate) -> str:
    """Return a rate as people write it: ``25``, ``23.976``, ``29.97``."""
    if rate.denominator == 1:
        return str(rate.numerator)
    return f"{float(rate):.3f}".rstrip("0").rstrip(".")


def length_words(frames: int, rate: Rate) -> str:
    """Return a length as people say it: ``14 fr``, ``3.2 s``, ``1:04 min``."""
    base = base_of(rate)
    if frames < base:
        return f"{frames} fr"
    seconds = float(frames / rate)
    if seconds < 60:
        return f"{seconds:.1f} s"
    whole = round(seconds)
    return f"{whole // 60}:{whole % 60:02d} min"


def minutes_words(frames: int, rate: Rate) -> str:
    """Return a length to the second: 0:11, 4:05, 1:02:33; what is shorter than one is 0:01."""
    seconds = max(1, round(frames / rate)) if frames else 0
    minutes, second = divmod(seconds, 60)
    hour, minute = divmod(minutes, 60)
    return f"{hour}:{minute:02d}:{second:02d}" if hour else f"{minute}:{second:02d}"
