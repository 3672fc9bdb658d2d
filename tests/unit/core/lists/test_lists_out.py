"""Lists read back: by OpenTimelineIO's CMX 3600 adapter and its own reader, by csv."""

from __future__ import annotations

import csv
import io
import itertools
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio
import pytest

from offcut.core.errors import ListError
from offcut.core.lists.csv import csv_text
from offcut.core.lists.edl.writing import edl_text, reel_from, write_edl
from offcut.core.lists.timelines.writing import otio_text
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.cards import name_shot, set_shot_aside
from offcut.core.timecode import NTSC
from projects import FIRST, RATES, cut_film, list_of


@pytest.mark.parametrize(("rate", "drop"), RATES)
def test_an_edl_is_read_back_by_opentimelineio(rate: Fraction, drop: bool) -> None:
    project = cut_film(rate, drop, start=1000)
    text = edl_text(list_of(project))
    assert f"FCM: {'DROP FRAME' if drop else 'NON-DROP FRAME'}" in text
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=float(rate))
    clips = list(timeline.find_clips())
    shots = shots_of(project.sources[0])
    assert [c.source_range.start_time.to_frames() - 1000 for c in clips] == [s.start for s in shots]
    assert [c.source_range.duration.to_frames() for c in clips] == [s.length for s in shots]
    assert clips[1].name == "The bridge, from below"


def test_record_timecodes_begin_at_the_hour_without_gaps() -> None:
    events = list_of(cut_film(Fraction(25), False)).events
    assert events[0].record_in == 90000
    assert all(a.record_out == b.record_in for a, b in itertools.pairwise(events))


def test_drop_frame_timecodes_have_a_semicolon() -> None:
    line = next(x for x in edl_text(list_of(cut_film(NTSC, True))).splitlines() if x[:3] == "003")
    # ST 12-1: frame 1801 is one after the two labels that the first minute leaves out.
    assert line.split()[4:6] == ["00:01:00;03", "00:01:23;12"]


def test_an_edl_line_is_laid_out_as_cmx_3600_wants_it() -> None:
    # CMX 3600: event in columns 1-3, reel of up to 8 from 6, channel, transition, four timecodes.
    line = edl_text(list_of(cut_film(Fraction(25), False))).split("\r\n")[3]
    assert line == "001  LINE7    V     C        00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:00"


def test_otio_clips_point_into_the_whole_film() -> None:
    project = cut_film(Fraction(25), False, start=90000)
    timeline = otio.adapters.read_from_string(otio_text(list_of(project)), "otio_json")
    clips = list(timeline.find_clips())
    assert len(clips) == 5
    for clip, shot in zip(clips, shots_of(project.sources[0]), strict=True):
        assert clip.available_range().duration.value == 5000
        assert clip.source_range.start_time.value == 90000 + shot.start
    assert clips[3].metadata["offcut"]["joined_by"] == "dissolve"


def test_csv_reads_back_and_runs_no_formula() -> None:
    project = name_shot(cut_film(Fraction(25), False), FIRST, 0, "=HYPERLINK(1)")
    rows = list(csv.DictReader(io.StringIO(csv_text(list_of(project)))))
    assert [int(r["frames"]) for r in rows] == [100, 1701, 699, 1100, 1400]
    assert rows[0]["name"] == "'=HYPERLINK(1)"


def test_an_offcut_stays_out_and_the_record_side_closes_up() -> None:
    events = list_of(set_shot_aside(cut_film(Fraction(25), False), FIRST, 150)).events
    assert [e.length for e in events] == [100, 699, 1100, 1400]
    assert events[1].record_in == 90100


def test_reels_are_what_cmx_3600_allows() -> None:
    assert [reel_from(n) for n in ("a b-c.mov", "Straße Nr. 7 lang.mov", "…")] == [
        "ABC",
        "STRASSEN",
        "AX",
    ]


def test_a_list_that_cannot_be_written_says_so(tmp_path: Path) -> None:
    with pytest.raises(ListError, match=r"list\.edl"):
        write_edl(list_of(cut_film(Fraction(25), False)), tmp_path / "no/list.edl")
