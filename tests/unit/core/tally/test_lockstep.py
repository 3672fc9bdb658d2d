"""Both versions locked to the same frame: where each is, and where one begins to look."""

from __future__ import annotations

from fractions import Fraction

from offcut.core.tally.versions.changes import Change, What
from offcut.core.tally.versions.lockstep import (
    Here,
    frames_at,
    held_span,
    shown_span,
    telling_frame,
)

SHORTER = Change(What.SHORTER, (100, 160), (40, 90), tail=-10, offset=60)
"""Old 100 lies at new 40; ten frames came off the tail."""
LONGER = Change(What.LONGER, (100, 150), (35, 90), head=5, offset=60)
NEW = Change(What.NEW, None, (10, 30))
GONE = Change(What.GONE, (10, 30), None)
FAST = Change(What.OTHER, (100, 160), (40, 70), speed=Fraction(2), offset=100)


def test_what_either_has_is_walked_through_and_what_both_have_is_known() -> None:
    assert (shown_span(SHORTER), held_span(SHORTER)) == ((40, 100), (40, 90))
    assert (shown_span(LONGER), held_span(LONGER)) == ((35, 90), (40, 90))
    assert (shown_span(NEW), held_span(NEW)) == ((10, 30), None)
    assert (shown_span(GONE), held_span(GONE)) == ((10, 30), None)
    assert (shown_span(FAST), held_span(FAST)) == ((40, 70), None)


def test_one_begins_at_the_end_that_changed() -> None:
    assert frames_at(SHORTER, telling_frame(SHORTER)) == Here(149, 89)  # the last that both have
    assert frames_at(LONGER, telling_frame(LONGER)) == Here(100, 40)  # the first
    assert frames_at(NEW, telling_frame(NEW)) == Here(None, 20)
    assert frames_at(GONE, telling_frame(GONE)) == Here(20, None)


def test_the_new_one_is_shown_later_and_another_speed_is_followed() -> None:
    assert frames_at(SHORTER, 3, later=-2) == Here(103, 41)
    assert frames_at(FAST, 10) == Here(120, 50)
    assert frames_at(None, 10) == Here(None, None)
