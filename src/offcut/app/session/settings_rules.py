"""What settings may be: each is held against its own rule before anything is made of it."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QByteArray, QSettings

MB = 1 << 20
_LONGEST = 100_000
"""Letters that a text may have."""

Rule = Callable[[Any], bool]


def _whole(low: int, high: int) -> Rule:
    return lambda value: bool(
        re.fullmatch(r"-?[0-9]{1,18}", str(value)) and low <= int(str(value)) <= high
    )


def _number(low: float, high: float) -> Rule:
    def fits(value: Any) -> bool:
        try:
            held = float(str(value)[:40])
        except ValueError:
            return False
        return math.isfinite(held) and low <= held <= high

    return fits


def _yes_or_no(value: Any) -> bool:
    return str(value).lower() in ("true", "false", "0", "1")


def _text(value: Any) -> bool:
    return value is None or (
        isinstance(value, str) and len(value) <= _LONGEST and "\0" not in value
    )


def _texts(value: Any) -> bool:
    held = value if isinstance(value, list) else [value]
    return len(held) <= 1000 and all(map(_text, held))


def _table(value: Any) -> bool:
    if not _text(value):
        return False
    try:
        return isinstance(json.loads(value or "{}"), dict)
    except (ValueError, RecursionError):
        return False


def _state(value: Any) -> bool:
    return value is None or isinstance(value, QByteArray)


RULES: dict[str, Rule] = {
    r"(signals|thumbnails|proxies|pictures)-bytes": _whole(8 * MB, 1 << 40),
    r"sliver-limit": _whole(0, 100_000),
    r"use-proxy|library|search-at-once|edge-notes|found-shown": _yes_or_no,
    r"rhythm-(aside|log|true_time|shows-.*)": _yes_or_no,
    r"rhythm-(limit|window)": _number(0, 600),
    r"rhythm-smoothing": _whole(1, 100_000),
    r"rhythm-upper": _whole(0, 640),
    r"board-.*-size": _whole(1, 10_000),
    r"places|turnover|originals-of|rhythm-beside": _table,
    r"window-place|board-columns": _state,
    r"recent": _texts,
}
"""What settings may be, by how they are called; all others are text."""


def mend_settings(settings: QSettings) -> list[str]:
    """Take away settings that make no sense, so that each is as it was at first; return which."""
    gone = []
    for key in settings.allKeys():
        fits = next((rule for names, rule in RULES.items() if re.fullmatch(names, key)), _text)
        try:
            good = fits(settings.value(key))
        except Exception:  # what a file holds may be anything, or nothing that can be read
            good = False
        if not good:
            settings.remove(key)
            gone.append(key)
    return gone
