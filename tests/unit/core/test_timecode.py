"""Timecode against SMPTE ST 12-1 and OpenTimelineIO's own arithmetic."""

from fractions import Fraction

import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.errors import TimecodeError
from offcut.core.timecode import (
    NTSC,
    NTSC_DOUBLE,
    NTSC_FILM,
    PAL,
    can_drop,
    frame_from_timecode,
    frame_from_typed,
    frames_per_day,
    length_words,
    rate_from,
    timecode_from_frame,
)

RATES = [NTSC_FILM, Fraction(24), PAL, NTSC, Fraction(30), Fraction(50), NTSC_DOUBLE, Fraction(60)]
DROP = [(r, True) for r in RATES if can_drop(r)] + [(r, False) for r in RATES]


@pytest.mark.parametrize(
    ("frame", "label"),
    [
        (0, "00:00:00;00"),
        (1799, "00:00:59;29"),
        (1800, "00:01:00;02"),
        (17981, "00:09:59;29"),
        (17982, "00:10:00;00"),
        (107892, "01:00:00;00"),
        (2589407, "23:59:59;29"),
        (2589408, "00:00:00;00"),
    ],
)
def test_drop_frame_leaves_out_two_labels_a_minute_but_each_tenth(frame: int, label: str) -> None:
    # SMPTE ST 12-1: 29.97 drop-frame has 107,892 frames an hour, 2,589,408 a day.
    assert timecode_from_frame(frame, NTSC, True) == label
    assert frame_from_timecode(label, NTSC) == frame % 2589408


def test_double_rate_drops_four_labels() -> None:
    # ST 12-1 counts 59.94 in the same way with four labels left out a minute.
    assert timecode_from_frame(3600, NTSC_DOUBLE, True) == "00:01:00;04"
    assert frames_per_day(NTSC_DOUBLE, True) == 2 * 2589408


@given(st.sampled_from(DROP), st.integers(0, 5_000_000))
def test_every_frame_has_one_label_and_back(kind: tuple[Fraction, bool], frame: int) -> None:
    rate, drop = kind
    frame %= frames_per_day(rate, drop)
    assert frame_from_timecode(timecode_from_frame(frame, rate, drop), rate, drop) == frame


@given(st.sampled_from(DROP), st.integers(0, 2_000_000))
def test_labels_are_those_of_opentimelineio(kind: tuple[Fraction, bool], frame: int) -> None:
    rate, drop = kind
    frame %= frames_per_day(rate, drop)
    time = otio.opentime.RationalTime(frame, float(rate))
    told = otio.opentime.to_timecode(time, float(rate), drop_frame=drop)
    assert timecode_from_frame(frame, rate, drop) == told


@pytest.mark.parametrize(
    ("typed", "frame"),
    [
        ("1:02:03:04", 93079),
        ("01020304", 93079),
        ("+12", 112),
        ("-1:00", 75),
        ("1200", 1200),
        ("3:04", 79),
        ("01.00.00.00", 90000),
        ("f90000", 90000),
        ("-5", 95),
        (" 10 ", 10),
    ],
)
def test_what_people_type(typed: str, frame: int) -> None:
    assert frame_from_typed(typed, PAL, here=100) == frame


def test_a_typed_timecode_counts_from_the_films_own_start() -> None:
    assert frame_from_typed("01:00:04:00", PAL, start=90000) == 100


@pytest.mark.parametrize("typed", ["", "abc", "1:2:3:4:5", "00:61:00:00", "0:0:0:25", "٣", "1e5"])
def test_nonsense_is_refused_with_a_sentence(typed: str) -> None:
    with pytest.raises(TimecodeError, match="timecode"):
        frame_from_typed(typed, PAL)


def test_a_label_that_drop_frame_leaves_out_is_refused() -> None:
    with pytest.raises(TimecodeError, match="does not exist"):
        frame_from_timecode("00:01:00;00", NTSC)


@pytest.mark.parametrize(
    ("said", "rate"),
    [
        (23.976, NTSC_FILM),
        ("29.97", NTSC),
        (59.94, NTSC_DOUBLE),
        ("25/1", PAL),
        (12.5, Fraction(25, 2)),
    ],
)
def test_rates_as_people_write_them(said: object, rate: Fraction) -> None:
    assert rate_from(said) == rate  # type: ignore[arg-type]


def test_lengths_in_words() -> None:
    assert [length_words(n, PAL) for n in (14, 80, 1600)] == ["14 fr", "3.2 s", "1:04 min"]
