"""Two films laid over each other by timecode or an offset, whatever they show."""

from __future__ import annotations

from fractions import Fraction

import pytest

from offcut.core.model.source import Media, Source
from offcut.core.tally.versions.locked import locked, timecode_offset
from offcut.core.timecode import frame_from_timecode

PAL, NTSC, FILM = Fraction(25), Fraction(30000, 1001), Fraction(24)


def media(start: str, rate: Fraction = PAL, frames: int = 100) -> Media:
    drop = ";" in start
    at = frame_from_timecode(start, rate, drop)
    return Media("film.mp4", rate, frames, 320, 180, at, drop)


@pytest.mark.parametrize(
    ("old", "new", "offset"),
    [
        (media("01:00:00:00"), media("01:00:00:00"), 0),
        (media("01:00:00:00"), media("01:00:01:10"), 35),
        (media("01:00:02:00"), media("01:00:00:00"), -50),
        # the same label is the same place, dropped numbers or not (SMPTE ST 12-1)
        (media("01:00:00;00", NTSC), media("01:00:00:00", NTSC), 0),
        (media("00:01:00;02", NTSC), media("00:01:00:02", NTSC), 0),
        # at 24 and 25 a second the first frame counts: a second on is 24 frames on in the old one
        (media("01:00:00:00", FILM), media("01:00:01:00", PAL), 24),
    ],
)
def test_the_offset_leads_to_the_same_timecode(old: Media, new: Media, offset: int) -> None:
    assert timecode_offset(old, new) == offset


def test_every_shot_lies_over_its_stretch_of_the_other_film() -> None:
    old, new = (Source(n, media("00:00:00:00", frames=f), 0, f) for n, f in ((1, 60), (2, 100)))
    (change,) = locked(old, new, -10).changes
    assert (change.old, change.new, change.offset) == ((0, 60), (0, 100), -10)
    (beyond,) = locked(old, new, 70).changes
    assert beyond.old is None


def test_at_another_rate_it_lies_as_time_runs() -> None:
    old = Source(1, media("00:00:00:00", Fraction(50), 200), 0, 200)
    new = Source(2, media("00:00:00:00", PAL, 80), 0, 80)
    (change,) = locked(old, new, 0).changes
    assert (change.old, change.speed) == ((0, 160), 2)
    near = Source(3, media("00:00:00:00", Fraction(24000, 1001), 80), 0, 80)
    film = Source(4, media("00:00:00:00", FILM, 80), 0, 80)
    assert locked(near, film, 0).changes[0].speed == 1  # frame on frame
