"""Counts and sizes as people say them."""

from __future__ import annotations

import json
import re
from typing import Any


def many(count: int, thing: str, things: str = "") -> str:
    """Return a count with its thing: 1 shot, 2 shots, 12 400 shots; ``things`` is an odd plural."""
    several = things or f"{thing}s"
    return f"1 {thing}" if count == 1 else f"{count:,}".replace(",", " ") + f" {several}"


def printable(text: str) -> str:
    """Return a text that a file brought along without what would steer a terminal or a page."""
    return "".join(c for c in text if c.isprintable())


def printable_lines(text: str) -> str:
    """Return lines with nothing in them that steers a terminal; tabs stay."""
    return "".join(c for c in text if c in "\n\t" or c.isprintable())


_STEERING = re.compile("[\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff\ud800-\udfff]")
"""Control and direction characters beyond ASCII, and halves of characters."""


def as_json(document: Any, indent: int | None = None) -> str:
    """Return a document as JSON, in which what would steer a terminal or a page is spelt out."""
    text = json.dumps(document, ensure_ascii=False, allow_nan=False, indent=indent)
    return _STEERING.sub(lambda found: f"\\u{ord(found[0]):04x}", text)


def size_words(size: int) -> str:
    """Return a number of bytes as people say it."""
    value = float(size)
    units = ["bytes", "kB", "MB", "GB"]
    while value >= 1000 and len(units) > 1:
        value /= 1000
        units.pop(0)
    digits = 0 if value >= 10 or units[0] == "bytes" else 1
    return f"{value:.{digits}f} {units[0]}"


def time_left(seconds: float) -> str:
    """Return how long work still takes as people say it: 40 s left, 16 min left, 2 h 5 min left."""
    if seconds < 1:
        return ""
    if seconds < 90:
        return f"{seconds:.0f} s left"
    minutes = round(seconds / 60)
    if minutes < 90:
        return f"{minutes} min left"
    hours, minutes = divmod(minutes, 60)
    return f"{hours} h {minutes} min left" if minutes else f"{hours} h left"


def long_words(seconds: float) -> str:
    """Return how long something took as people say it: 40 s, 4 min 10 s, 2 h 5 min."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    minutes, seconds_ = divmod(whole, 60)
    if minutes < 60:
        return f"{minutes} min {seconds_} s" if seconds_ else f"{minutes} min"
    hours, minutes = divmod(minutes, 60)
    return f"{hours} h {minutes} min" if minutes else f"{hours} h"
