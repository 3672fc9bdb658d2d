"""The list that came with the demo film: what the lab of Port Ansel sent, with two flaws in it.

One join stands five frames late, and one shot was cut in two that the film shows whole. The
film itself begins at 00:00:00:00, the list at 01:00:00:00.
"""

from __future__ import annotations

from offcut.core.model.seam import Kind
from offcut.core.timecode import Rate, timecode_from_frame
from offcut.demo import LAB_LIST
from offcut.demo.script import RATE, TAKES, TITLE, Join, joins, length

HOUR = 3600 * RATE
LATE, LATE_BY = 9, 5
"""This join, counted from 0, stands so many frames late."""
SPLIT = 20
"""The shot that this join opens is cut in two at its middle."""


def lab_list_text() -> str:
    """Return the list: reels and source timecodes of the camera rolls, record from the hour."""
    lines = [f"TITLE: {TITLE.upper()}", "FCM: NON-DROP FRAME", ""]
    moved = [
        Join(j.frame + LATE_BY, j.start + LATE_BY, j.end + LATE_BY, j.kind) if n == LATE else j
        for n, j in enumerate(joins())
    ]
    number = 0
    for n, take in enumerate(TAKES):
        opener = moved[n - 1] if n else None
        start = _opens(opener) if opener else 0
        end = moved[n].start if n < len(moved) else length()
        pieces = [(start, end)]
        if n - 1 == SPLIT:
            middle = (start + end) // 2
            pieces = [(start, middle), (middle, end)]
        reel = f"PA{n % 5 + 1:03d}"
        source = (n % 5 + 1) * HOUR + (n // 5) * 97 * RATE - start
        for k, (first, last) in enumerate(pieces):
            number += 1
            span = opener.end - opener.start if opener and not k else 0
            if opener is not None and span and opener.kind is Kind.FADE:
                half = opener.frame - opener.start
                lines += _event(number, "BL", f"D    {half:03d}", 0, opener.start, opener.frame)
                number += 1
                how = f"D    {opener.end - opener.frame:03d}"
                first = opener.frame
            elif opener is not None and span:
                before = f"PA{(n - 1) % 5 + 1:03d}"
                lines += _event(number, before, "C", HOUR, first, first)
                how = f"{'W001' if opener.kind is Kind.WIPE else 'D   '} {span:03d}"
            else:
                how = "C"
            lines += _event(number, reel, how, source + first, first, last)
            lines.append(f"* {'TO' if span else 'FROM'} CLIP NAME: {take.about.upper()}")
    return "\r\n".join(lines) + "\r\n"


def _opens(join: Join) -> int:
    """Return the record frame at which the later shot's event begins: where its mix does."""
    return join.frame if join.kind in (Kind.CUT, Kind.FADE) else join.start


def _event(number: int, reel: str, how: str, source: int, start: int, end: int) -> list[str]:
    if reel == "BL":
        source = -start
    frames = (source + start, source + end) if reel == "BL" else (source, source + end - start)
    times = [*frames, start + HOUR, end + HOUR]
    rate = Rate(RATE)
    words = " ".join(timecode_from_frame(f, rate) for f in times)
    return [f"{number:03d}  {reel:<8s} V     {how:<8s} {words}"]


def write_lab_list() -> None:
    """Write the list that ships with the film."""
    LAB_LIST.write_text(lab_list_text(), newline="")
