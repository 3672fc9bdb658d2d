"""Locked: two films laid over each other by their timecodes, or by a plain offset, whatever their
pictures show.
"""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction

from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media, Source
from offcut.core.tally.versions.changes import Change, Comparison, What
from offcut.core.timecode import base_of, frame_from_timecode, timecode_from_frame


class Lock(StrEnum):
    """What holds two films to the same frame."""

    PICTURES = "pictures"
    TIMECODE = "timecode"
    OFFSET = "an offset"


def timecode_offset(old: Media, new: Media) -> int:
    """Return the offset at which both have the same timecode: old frame = new frame + offset.

    Where they count at different rates it is that of the new one's first frame.
    """
    seconds = _label(new) / Fraction(base_of(new.rate)) - _label(old) / Fraction(base_of(old.rate))
    return round(seconds * base_of(old.rate))


def _label(media: Media) -> int:
    """Return the first timecode as if no number was dropped: what is read off, not the time."""
    written = timecode_from_frame(media.start, media.rate, media.drop)
    return frame_from_timecode(written.replace(";", ":"), media.rate, False)


def locked(old: Source, new: Source, offset: int) -> Comparison:
    """Return every shot of a film with the stretch of another that lies under it.

    ``offset`` leads from the new film's first frame to the old one's: old frame = new frame +
    offset, at another rate as time runs. Nothing is said of what either shows; a shot that lies
    beyond the other film has nothing under it.
    """
    speed = old.media.rate / new.media.rate
    if base_of(old.media.rate) == base_of(new.media.rate):
        speed = Fraction(1)  # 23.976 against 24: frame on frame
    changes = []
    for shot in shots_of(new):
        first, last = (offset + round(f * speed) for f in (shot.start, shot.end))
        low, high = max(0, first), min(old.media.frames, last)
        under = (low, high) if low < high else None
        at = None if under is None else offset if speed == 1 else first
        changes.append(Change(What.SAME, under, (shot.start, shot.end), offset=at, speed=speed))
    return Comparison(tuple(changes), (), speed)
