"""Counts and sizes as people say them."""

from __future__ import annotations


def many(count: int, thing: str) -> str:
    """Return a count with its thing: 1 shot, 2 shots, 12 400 shots."""
    return f"1 {thing}" if count == 1 else f"{count:,} {thing}s".replace(",", " ")


def printable(text: str) -> str:
    """Return a text that a file brought along without what would steer a terminal or a page."""
    return "".join(c for c in text if c.isprintable())


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
