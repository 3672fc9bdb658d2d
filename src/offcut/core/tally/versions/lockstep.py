"""Both versions of a shot locked to the same frame: where one is in each, and where one begins."""

from __future__ import annotations

from typing import NamedTuple

from offcut.core.tally.versions.changes import Change, Span


class Here(NamedTuple):
    """The frames that are shown: of the old and of the new version, None where there is none."""

    old: int | None
    new: int | None


def old_as_new(change: Change) -> Span | None:
    """Return where the old shot lies in frames of the new version; None where nothing ties them."""
    if change.old is None or change.new is None or change.offset is None or change.speed != 1:
        return None
    return change.old[0] - change.offset, change.old[1] - change.offset


def shown_span(change: Change) -> Span:
    """Return the frames of the new version [first, last) over which both are shown.

    Where it is gone, those of the old one.
    """
    old, new = old_as_new(change), change.new
    if old is None or new is None:
        return new or change.old or (0, 1)
    return min(new[0], old[0]), max(new[1], old[1])


def held_span(change: Change) -> Span | None:
    """Return the frames of the new version that both have; None where nothing ties them."""
    old, new = old_as_new(change), change.new
    if old is None or new is None:
        return None
    return max(new[0], old[0]), min(new[1], old[1])


def frames_at(change: Change | None, frame: int, later: int = 0) -> Here:
    """Return both frames ``frame`` after the first shown; the new one ``later`` than it lies.

    They may lie outside a film.
    """
    if change is None:
        return Here(None, None)
    at = shown_span(change)[0] + frame
    if change.new is None:
        return Here(at, None)
    if change.old is None or change.offset is None:
        return Here(None, at + later)
    old = at + change.offset
    if change.speed != 1:
        old = change.offset + round((at - change.new[0]) * change.speed)
    return Here(old, at + later)


def telling_frame(change: Change) -> int:
    """Return the frame to begin with: at the end that changed, else the middle."""
    first, last = shown_span(change)
    held = held_span(change)
    if held is None or held[1] <= held[0]:
        return (last - first) // 2
    if change.head and not change.tail:
        return held[0] - first
    if change.tail and not change.head:
        return held[1] - 1 - first
    return (held[0] + held[1] - 2 * first) // 2
