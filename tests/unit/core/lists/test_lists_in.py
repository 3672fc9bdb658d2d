"""Lists made by hand from the rules of CMX 3600 and from what the world makes of them.

Each file in tests/lists has beside it what must come out; OpenTimelineIO's own CMX 3600 adapter is
the second reader of those it can read.
"""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from offcut.core.errors import ListError
from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.incoming import ReadEvent, ReadList, seen_events
from offcut.core.lists.registry import read_list
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.model.seam import Kind
from offcut.core.model.shots import shots_of
from offcut.core.tally.joins import joins_of
from offcut.core.timecode import timecode_from_frame
from projects import RATES, cut_film, list_of

LISTS = Path(__file__).parents[3] / "lists"
FILES = sorted(f for f in LISTS.iterdir() if f.suffix != ".json")


def told(event: ReadEvent) -> str:
    more = " | black" * event.black + " | over" * event.over
    return (
        f"{event.number} | {event.reel} | V{event.track} | {event.kind.value}"
        f" {event.mix_in}-{event.mix_out} | record {event.record_in}-{event.record_out}"
        f" | source {event.source_in}-{event.source_out} | x{event.speed} | {event.clip}{more}"
    )


@pytest.mark.parametrize("file", FILES, ids=lambda f: f.name)
def test_a_list_gives_what_was_written_beside_it(file: Path) -> None:
    wanted = json.loads(file.with_suffix(".json").read_text())
    rate = Fraction(wanted["rate"])
    if "refused" in wanted:
        with pytest.raises(ListError) as error:
            read_list(file, rate)
        assert str(error.value) == f"{file}: {wanted['refused']}"
        return
    listed = read_list(file, rate)
    assert [told(e) for e in listed.events] == wanted["events"]
    assert [t.line for t in listed.troubles] == wanted["troubles"]
    assert [[m.frame, m.name] for m in listed.markers] == wanted["markers"]
    assert (listed.title, listed.drop, listed.sound) == (
        wanted["title"],
        wanted["drop"],
        wanted["sound"],
    )
    lines = file.read_bytes().decode("latin-1").splitlines()
    for trouble in (t for t in listed.troubles if t.line):
        assert trouble.text.split() == lines[trouble.line - 1].split()


# What OpenTimelineIO's adapter cannot read: keys, source lines, several tracks beside sound.
SECOND = ("plain-cuts", "dissolve-and-wipe", "long-reels-many-events")


@pytest.mark.parametrize("name", SECOND)
def test_opentimelineio_reads_the_same(name: str) -> None:
    file = LISTS / f"{name}.edl"
    ours = read_list(file, Fraction(25))
    text = file.read_text().replace("1001A   REEL 7 SIDE B ", "001001  REEL7       ")
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=25)
    (track,) = timeline.video_tracks()
    theirs = [c for c in track if isinstance(c, otio.schema.Clip)]
    assert len(theirs) == len(ours.events)
    start = timeline.global_start_time.to_frames() if timeline.global_start_time else 90_000
    for event, clip in zip(ours.events, theirs, strict=True):
        place = clip.range_in_parent()
        assert place.start_time.to_frames() + start == event.record_in
        assert place.duration.to_frames() == event.length
        assert clip.source_range.start_time.to_frames() == event.source_in
    mixes = [c for c in track if isinstance(c, otio.schema.Transition)]
    assert len(mixes) == sum(e.mix_out > e.mix_in for e in ours.events)


@pytest.mark.parametrize(("rate", "drop"), RATES)
@pytest.mark.parametrize("form", ["edl", "otio", "csv"])
def test_what_we_write_we_read_as_the_same_shots(
    form: str, rate: Fraction, drop: bool, tmp_path: Path
) -> None:
    project = cut_film(rate, drop, start=1000)
    write = {"edl": write_edl, "otio": write_otio, "csv": write_csv}[form]
    events = list_of(project)
    listed = read_list(write(events, tmp_path / f"film.{form}"), rate, drop)
    joins = joins_of(listed)
    offset = joins.first_frame
    shots = shots_of(project.sources[0])
    if form == "csv":
        starts = [e.record_in - offset for e in listed.events]
    else:
        starts = [0, *(j.frame - offset for j in joins.joins)]
    assert starts == [s.start for s in shots]
    assert joins.last_frame - offset == shots[-1].end
    assert [e.source_in - 1000 for e in listed.events] == [s.start for s in shots]
    assert listed.events[1].clip == "The bridge, from below"
    assert not listed.troubles


def test_a_fade_through_black_is_one_join() -> None:
    joins = joins_of(read_list(LISTS / "fade-through-black.edl", Fraction(25)))
    (fade,) = joins.joins
    assert (fade.kind, fade.start, fade.end) == (Kind.FADE, 90_050, 90_085)
    assert joins.first_frame == 90_000


def test_a_track_above_hides_what_is_below() -> None:
    listed = read_list(LISTS / "sound-and-tracks.edl", Fraction(25))
    assert [(e.record_in, e.reel) for e in seen_events(listed.events)] == [
        (90_000, "A001"),
        (90_100, "A003"),
        (90_150, "A001"),
        (90_250, "A002"),
    ]
    assert [j.frame for j in joins_of(listed).joins] == [90_100, 90_150, 90_250]


def test_a_mix_in_otio_has_its_span(tmp_path: Path) -> None:
    def clip(name: str, start: int, length: int) -> otio.schema.Clip:
        time = otio.opentime.RationalTime
        taken = otio.opentime.TimeRange(time(start, 25), time(length, 25))
        return otio.schema.Clip(name=name, source_range=taken)

    mix = otio.schema.Transition(
        transition_type="SMPTE_Dissolve",
        in_offset=otio.opentime.RationalTime(6, 25),
        out_offset=otio.opentime.RationalTime(8, 25),
    )
    timeline = otio.schema.Timeline("mix")
    track = otio.schema.Track("V1", [clip("a", 10, 50), mix, clip("b", 100, 40)])
    timeline.tracks.append(track)
    path = tmp_path / "mix.otio"
    otio.adapters.write_to_file(timeline, str(path))
    (join,) = joins_of(read_list(path, Fraction(25))).joins
    assert (join.kind, join.start, join.end) == (Kind.DISSOLVE, 44, 58)


@pytest.mark.parametrize("text", ["{}", "[", '{"OTIO_SCHEMA": "Clip.2"}', "\0\0"])
def test_what_is_no_timeline_gets_one_sentence(text: str, tmp_path: Path) -> None:
    path = tmp_path / "x.otio"
    path.write_text(text)
    with pytest.raises(ListError, match=r"x\.otio: ") as error:
        read_list(path, Fraction(25))
    assert "\n" not in str(error.value)


LINES = st.lists(
    st.one_of(
        st.text(max_size=80),
        st.from_regex(
            r"\d{1,4} [A-Z]{1,9} (V|A|B|V2) (C|D 0?\d\d|W001 012|K B) ", fullmatch=True
        ).map(lambda s: s + "00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00"),
        st.sampled_from(["FCM: DROP FRAME", "M2 A 50 00:00:00:00", "* LOC: 01:00:00:00 RED X"]),
    ),
    max_size=12,
)


@given(LINES, st.sampled_from([".edl", ".txt", ".csv"]))
def test_no_text_brings_the_readers_down(tmp_path_factory, lines: list[str], suffix: str) -> None:
    path = tmp_path_factory.mktemp("l") / f"x{suffix}"
    path.write_text("\n".join(lines), encoding="utf-8", errors="replace")
    try:
        listed: ReadList = read_list(path, Fraction(30000, 1001))
    except ListError:
        return
    assert joins_of(listed).last_frame >= joins_of(listed).first_frame


@st.composite
def plain_lists(draw: st.DrawFn) -> tuple[str, Fraction, bool]:
    """A list of cuts, dissolves and wipes that any reader understands, at any rate."""
    rate, drop = draw(st.sampled_from(RATES))
    at, left, left_at = 3600 * round(rate), "AX", 0
    lines = [f"FCM: {'' if drop else 'NON-'}DROP FRAME"]

    def times(*frames: int) -> str:
        return " ".join(timecode_from_frame(f, rate, drop) for f in frames)

    for number in range(1, draw(st.integers(1, 8)) + 1):
        length, start = draw(st.integers(30, 400)), draw(st.integers(0, 200_000))
        reel = draw(st.sampled_from(["A001", "B12", "REEL0007"]))
        gap = draw(st.sampled_from(["  ", "\t", " "]))
        how = draw(st.sampled_from(["C", "C", "D", "W001"])) if number > 1 else "C"
        if how != "C":
            cut = times(left_at, left_at, at, at)
            lines.append(gap.join([f"{number:03d}", left, "V", "C", cut]))
            how += f"{gap}{draw(st.integers(2, 24)):03d}"
        cut = times(start, start + length, at, at + length)
        lines.append(gap.join([f"{number:03d}", reel, "V", how, cut]))
        lines += draw(st.sampled_from([[], [f"* FROM CLIP NAME: take {number}"]]))
        at, left, left_at = at + length, reel, start + length
    return "\n".join(lines) + "\n", rate, drop


@settings(max_examples=60)
@given(plain_lists())
def test_opentimelineio_agrees_on_any_plain_list(
    tmp_path_factory: pytest.TempPathFactory, made: tuple[str, Fraction, bool]
) -> None:
    text, rate, drop = made
    path = tmp_path_factory.mktemp("l") / "plain.edl"
    path.write_text(text)
    ours = read_list(path, rate, drop)
    assert not ours.troubles
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=float(rate))
    clips = [c for c in timeline.video_tracks()[0] if isinstance(c, otio.schema.Clip)]
    assert [(e.reel, e.source_in, e.length) for e in ours.events] == [
        (
            c.metadata["cmx_3600"]["reel"],
            c.source_range.start_time.to_frames(),
            c.range_in_parent().duration.to_frames(),
        )
        for c in clips
    ]
