"""What timelines say arrives: made with OpenTimelineIO itself, one for each thing they can hold."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import opentimelineio as otio
import pytest

from offcut.core.errors import ListError
from offcut.core.lists.incoming import ReadList
from offcut.core.lists.registry import read_list
from offcut.core.model.seam import Kind
from offcut.core.tally.joins import joins_of

PAL = Fraction(25)
schema = otio.schema


def time(frames: float, rate: float = 25) -> Any:
    return otio.opentime.RationalTime(frames, rate)


def span(start: float, frames: float, rate: float = 25) -> Any:
    return otio.opentime.TimeRange(time(start, rate), time(frames, rate))


def clip(name: str, start: int, frames: int, **more: Any) -> Any:
    reference = schema.ExternalReference(f"file:///films/{name}.mov", span(0, 10_000))
    return schema.Clip(name, reference, span(start, frames), **more)


def gap(frames: int) -> Any:
    return schema.Gap(source_range=span(0, frames))


def mix(before: int, after: int, kind: str = "SMPTE_Dissolve") -> Any:
    return schema.Transition("x", kind, time(before), time(after))


def track(*children: Any, **more: Any) -> Any:
    return schema.Track("V", children, kind=schema.TrackKind.Video, **more)


def read(tmp_path: Path, *tracks: Any, rate: Fraction = PAL, start: int = 0) -> ReadList:
    timeline = schema.Timeline("Line 7")
    if start:
        timeline.global_start_time = time(start)
    timeline.tracks.extend(tracks)
    path = tmp_path / "film.otio"
    otio.adapters.write_to_file(timeline, str(path))
    return read_list(path, rate)


def joins(listed: ReadList) -> list[tuple[int, int, int, str]]:
    return [(j.frame, j.start, j.end, j.kind.value) for j in joins_of(listed).joins]


def test_a_fade_out_to_a_gap_and_in_again_is_one_fade_there(tmp_path: Path) -> None:
    listed = read(
        tmp_path, track(clip("a", 0, 100), mix(10, 0), gap(20), mix(0, 15), clip("b", 0, 80))
    )
    assert joins(listed) == [(112, 90, 135, "fade")]
    assert [e.clip for e in listed.events if not e.black] == ["a", "b"]


def test_a_fade_out_alone_and_a_fade_in_alone_are_fades(tmp_path: Path) -> None:
    out = read(tmp_path, track(clip("a", 0, 100), mix(10, 0), gap(20), clip("b", 0, 80)))
    assert joins(out) == [(105, 90, 120, "fade")]
    into = read(tmp_path, track(clip("a", 0, 100), gap(20), mix(0, 16), clip("b", 0, 80)))
    assert [j for j in joins(into) if j[3] == "fade"] == [(118, 100, 136, "fade")]
    at_end = read(tmp_path, track(clip("a", 0, 100), clip("b", 0, 100), mix(10, 0)))
    assert joins(at_end) == [(100, 100, 100, "cut")]


def test_a_fade_without_a_gap_between_is_one(tmp_path: Path) -> None:
    listed = read(
        tmp_path, track(clip("a", 0, 100), mix(10, 0), gap(0), mix(0, 6), clip("b", 0, 9))
    )
    assert joins(listed) == [(98, 90, 106, "fade")]


def test_dissolves_and_other_transitions(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        track(
            clip("a", 0, 100), mix(8, 12), clip("b", 0, 100), mix(4, 4, "Custom_Transition"),
            clip("c", 0, 50),
        ),
    )  # fmt: skip
    assert joins(listed) == [(102, 92, 112, "dissolve"), (200, 196, 204, "wipe")]


def test_disabled_clips_and_tracks_do_not_count(tmp_path: Path) -> None:
    below = track(clip("a", 0, 100), clip("b", 0, 100))
    above = track(clip("title", 0, 200))
    above.enabled = False
    listed = read(tmp_path, below, above)
    assert joins(listed) == [(100, 100, 100, "cut")]
    off = clip("off", 0, 50)
    off.enabled = False
    listed = read(tmp_path, track(clip("a", 0, 100), clip("b", 0, 100)), track(gap(40), off))
    assert joins(listed) == [(100, 100, 100, "cut")]
    assert any("1 disabled item left out" in str(t) for t in listed.troubles)


def test_nested_stacks_and_tracks_are_flattened(tmp_path: Path) -> None:
    inner = track(clip("n1", 50, 30), mix(5, 5), clip("n2", 10, 70))
    inner.source_range = span(10, 60)  # 20 of n1, 40 of n2
    listed = read(tmp_path, track(clip("a", 0, 100), inner, clip("z", 0, 100)))
    assert [(e.clip, e.record_in, e.record_out, e.source_in) for e in listed.events] == [
        ("a", 0, 100, 0), ("n1", 100, 120, 60), ("n2", 120, 160, 10), ("z", 160, 260, 0)
    ]  # fmt: skip
    assert joins(listed)[1] == (120, 115, 125, "dissolve")
    stack = schema.Stack("s", [track(clip("low", 0, 80)), track(gap(30), clip("high", 0, 20))])
    stack.source_range = span(0, 80)
    listed = read(tmp_path, track(clip("a", 0, 100), stack, clip("z", 0, 100)))
    assert [j[0] for j in joins(listed)] == [100, 130, 150, 180]


def test_a_transition_before_what_is_seen_of_a_track_is_none(tmp_path: Path) -> None:
    inner = track(clip("n1", 50, 30), mix(5, 5), clip("n2", 10, 70), clip("n3", 0, 50))
    inner.source_range = span(60, 90)
    listed = read(tmp_path, track(clip("a", 0, 100), inner))
    assert joins(listed) == [(100, 100, 100, "cut"), (140, 140, 140, "cut")]


def test_a_transition_into_a_nested_track_leads_into_its_first_clip(tmp_path: Path) -> None:
    inner = track(clip("n1", 50, 30), clip("n2", 10, 70))
    inner.source_range = span(0, 100)
    listed = read(tmp_path, track(clip("a", 0, 100), mix(6, 6), inner))
    assert joins(listed) == [(100, 94, 106, "dissolve"), (130, 130, 130, "cut")]


def test_a_nested_item_that_runs_faster_is_as_long_as_it_is_seen(tmp_path: Path) -> None:
    inner = schema.Stack("fast", [track(clip("n1", 0, 60), clip("n2", 0, 60))])
    inner.source_range = span(0, 60)
    inner.effects.append(schema.LinearTimeWarp(time_scalar=2.0))
    listed = read(tmp_path, track(clip("a", 0, 100), inner, clip("z", 0, 10)))
    told = [(e.clip, e.record_in, e.record_out, e.speed) for e in listed.events]
    assert told[1:3] == [("n1", 100, 130, 2), ("n2", 130, 160, 2)]


def test_an_upper_track_fades_to_what_lies_below(tmp_path: Path) -> None:
    below = track(clip("low", 0, 300))
    above = track(gap(50), mix(0, 10), clip("high", 0, 100), mix(10, 0), gap(60))
    listed = read(tmp_path, below, above)
    assert joins(listed) == [(55, 50, 60, "dissolve"), (145, 140, 150, "dissolve")]


def test_markers_of_every_level_are_taken(tmp_path: Path) -> None:
    a, hole = clip("a", 500, 100), gap(50)
    a.markers.append(schema.Marker("in a", span(520, 10), "CYAN", comment="note"))
    a.markers.append(schema.Marker("not seen", span(10, 1), "RED"))
    hole.markers.append(schema.Marker("in the gap", span(5, 1), "GREEN"))
    whole = track(a, hole, clip("b", 0, 100))
    whole.markers.append(schema.Marker("on the track", span(160, 1), "PINK"))
    timeline = schema.Timeline("x")
    timeline.global_start_time = time(90_000)
    timeline.tracks.append(whole)
    timeline.tracks.markers.append(schema.Marker("on the sequence", span(200, 30), "BLUE"))
    path = tmp_path / "film.otio"
    otio.adapters.write_to_file(timeline, str(path))
    found = sorted(read_list(path, PAL).markers, key=lambda m: m.frame)
    assert [(m.frame - 90_000, m.length, m.name, m.note, m.colour.value) for m in found] == [
        (20, 10, "in a", "note", "cyan"),
        (105, 1, "in the gap", "", "green"),
        (160, 1, "on the track", "", "pink"),
        (200, 30, "on the sequence", "", "blue"),
    ]


def test_a_freeze_is_one_frame_that_stands_still(tmp_path: Path) -> None:
    still = clip("a", 77, 100)
    still.effects.append(schema.FreezeFrame())
    (event,) = read(tmp_path, track(still)).events
    assert (event.source_in, event.source_out, event.speed, event.length) == (77, 78, 0, 100)


def test_another_rate_is_counted_exactly(tmp_path: Path) -> None:
    clips = [schema.Clip(str(n), schema.MissingReference(), span(0, 7, 24)) for n in range(100)]
    listed = read(tmp_path, track(*clips))
    assert listed.events[-1].record_out == round(Fraction(700, 24) * 25)
    assert all(a.record_out == b.record_in for a, b in pairwise(listed.events))


@pytest.mark.parametrize(
    "harm",
    [
        lambda c: setattr(c, "source_range", None) or setattr(c, "media_reference", None),
        lambda c: setattr(c, "source_range", span(0, 1e300)),
        lambda c: setattr(c, "source_range", span(float("nan"), 10)),
        lambda c: setattr(c, "source_range", span(0, float("inf"))),
        lambda c: setattr(c, "source_range", span(0, -5)),
        lambda c: setattr(c, "source_range", span(0, 10, 0)),
        lambda c: c.effects.append(schema.LinearTimeWarp(time_scalar=float("nan"))),
        lambda c: c.metadata.update({"cmx_3600": 5, "offcut": [1]}),
        lambda c: c.metadata.update({"offcut": {"original": "x", "note": 7, "scene": {}}}),
        lambda c: c.markers.append(schema.Marker("m", span(float("nan"), 1))),
    ],
)
def test_a_clip_that_makes_no_sense_leaves_the_others(
    harm: Callable[[Any], None], tmp_path: Path
) -> None:
    odd = clip("odd", 0, 10)
    harm(odd)
    listed = read(tmp_path, track(clip("a", 0, 100), odd, clip("b", 0, 100)))
    assert {"a", "b"} <= {e.clip for e in listed.events}


def test_sound_alone_and_nothing_at_all_are_said(tmp_path: Path) -> None:
    sound = schema.Track("A", [clip("a", 0, 10)], kind=schema.TrackKind.Audio)
    with pytest.raises(ListError, match="sound alone, no picture"):
        read(tmp_path, sound)
    with pytest.raises(ListError, match="not one clip"):
        read(tmp_path, track(gap(10)))


def test_speed_out_of_all_bounds_leaves_the_source_out(tmp_path: Path) -> None:
    fast = clip("a", 0, 10)
    fast.effects.append(schema.LinearTimeWarp(time_scalar=1500.0))
    listed = read(tmp_path, track(fast, clip("b", 0, 10)))
    assert [e.source_out > e.source_in for e in listed.events] == [False, True]
    assert "its speed is over 1000" in str(listed.troubles[0])
    assert joins(listed)[0][3] == Kind.CUT
