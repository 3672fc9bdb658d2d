"""Two lists held against each other, and a list against a film, without any picture."""

from __future__ import annotations

from pathlib import Path

import pytest

from offcut.core.errands.held_against import held, versions_compared
from offcut.core.errors import OffcutError
from offcut.core.reports.change_list import changes_csv
from offcut.core.tally.versions.changes import What


def edl(path: Path, *events: tuple[str, str, str, str, str]) -> Path:
    """Write a CMX 3600 list: reel, source in and out, record in and out at 25 frames a second."""
    lines = ["TITLE: TALLY", "FCM: NON-DROP FRAME", ""]
    for n, (reel, *times) in enumerate(events, start=1):
        lines.append(f"{n:03d}  {reel:<8s} V     C        {' '.join(times)}")
    path.write_text("\n".join(lines) + "\n")
    return path


FIRST = (
    ("A001", "10:00:00:00", "10:00:04:00", "01:00:00:00", "01:00:04:00"),
    ("A002", "11:00:00:00", "11:00:02:00", "01:00:04:00", "01:00:06:00"),
    ("A003", "12:00:00:00", "12:00:03:00", "01:00:06:00", "01:00:09:00"),
    ("A004", "13:00:00:00", "13:00:01:00", "01:00:09:00", "01:00:10:00"),
)
SECOND = (
    ("A001", "10:00:00:00", "10:00:03:15", "01:00:00:00", "01:00:03:15"),
    ("A009", "14:00:00:00", "14:00:02:00", "01:00:03:15", "01:00:05:15"),
    ("A004", "13:00:00:00", "13:00:01:00", "01:00:05:15", "01:00:06:15"),
    ("A003", "11:59:59:20", "12:00:03:00", "01:00:06:15", "01:00:09:20"),
)


def test_events_are_tied_by_reel_and_source_timecode(tmp_path: Path) -> None:
    old, new = held(edl(tmp_path / "a.edl", *FIRST)), held(edl(tmp_path / "b.edl", *SECOND))
    rows = versions_compared(old, new).changes
    assert [(c.what, c.old, c.new, c.head, c.tail) for c in rows] == [
        (What.SHORTER, (0, 100), (0, 90), 0, -10),
        (What.OTHER, (100, 150), (90, 140), 0, 0),
        (What.SAME, (225, 250), (140, 165), 0, 0),
        (What.LONGER, (150, 225), (165, 245), 5, 0),
    ]
    assert [c.moved for c in rows] == [False, False, True, False]


def test_the_csv_has_the_timecodes_of_both_lists(tmp_path: Path) -> None:
    old, new = held(edl(tmp_path / "a.edl", *FIRST)), held(edl(tmp_path / "b.edl", *SECOND))
    text = changes_csv(versions_compared(old, new), old, new)
    assert "shorter,,01:00:00:00,01:00:04:00,01:00:00:00,01:00:03:15,,-10" in text
    stretches = text.split("\n\n")[1].splitlines()
    assert stretches[1] == "1,90,01:00:00:00,01:00:03:15,01:00:00:00,01:00:03:15,0"
    assert stretches[-1] == "3,75,01:00:06:00,01:00:09:00,01:00:06:20,01:00:09:20,20"


def test_lists_that_share_no_reel_are_two_films(tmp_path: Path) -> None:
    other = edl(tmp_path / "x.edl", ("Z900", "10:00:00:00", "10:00:01:07", *FIRST[0][3:]))
    with pytest.raises(OffcutError, match="they are two films"):
        versions_compared(held(edl(tmp_path / "a.edl", *FIRST)), held(other))


def test_a_list_against_a_film_is_told_by_place(four_shots: Path, tmp_path: Path) -> None:
    listed = edl(
        tmp_path / "cuts.edl",
        ("A", "00:00:00:00", "00:00:01:15", "01:00:00:00", "01:00:01:15"),
        ("B", "00:00:00:00", "00:00:01:13", "01:00:01:15", "01:00:03:03"),
        ("C", "00:00:00:00", "00:00:01:17", "01:00:03:03", "01:00:04:20"),
        ("D", "00:00:00:00", "00:00:01:15", "01:00:04:20", "01:00:06:10"),
    )
    rows = versions_compared(held(listed), held(four_shots)).changes
    assert [(c.what, c.head, c.tail) for c in rows] == [
        (What.SAME, 0, 0),
        (What.SHORTER, 0, -3),
        (What.LONGER, 3, 0),
        (What.SAME, 0, 0),
    ]
