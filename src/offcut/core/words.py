"""Counts and sizes as people say them."""

from __future__ import annotations


def many(count: int, thing: str) -> str:
    """Return a count with its thing: 1 shot, 2 shots, 12 400 shots."""
    return f"1 {thing}" if count == 1 else f"{count:,} {thing}s".replace(",", " ")


def size_words(size: int) -> str:
    """Return a number of bytes as people say it."""
    value = float(size)
    units = ["bytes", "kB", "MB", "GB"]
    while value >= 1000 and len(units) > 1:
        value /= 1000
        units.pop(0)
    digits = 0 if value >= 10 or units[0] == "bytes" else 1
    return f"{value:.{digits}f} {units[0]}"
