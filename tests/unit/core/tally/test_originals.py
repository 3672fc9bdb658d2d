"""Lists of the originals: what a list gave a shot goes out again, mixes and speeds with it."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl.writing import edl_text, write_edl
from offcut.core.lists.incoming import ReadList
from offcut.core.lists.outgoing import record_start_of
from offcut.core.lists.registry import Writer, read_list
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.model.card import Card, Original
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_card
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.spans import set_span
from offcut.core.tally.cutting import Use, cut_by_list
from offcut.core.tally.joins import joins_of
from offcut.core.timecode import can_drop
from offcut.demo import FILM, LAB_LIST
from projects import FIRST, list_of

HOUR = 90_000
SPEEDS = [Fraction(1), Fraction(1), Fraction(1), Fraction(2), Fraction(1, 2)]


def bare(frames: int = 3000, rate: Fraction = Fraction(25), drop: bool = False) -> Project:
    return add_source(
        Project("Line 7"), Media("/films/Line 7.mov", rate, frames, 64, 48, drop=drop)
    )


def with_originals(project: Project, speeds: list[Fraction]) -> Project:
    """Give every shot a reel of its own, at another hour each, known from its first mixed frame."""
    for n, shot in enumerate(shots_of(project.sources[0])):
        at = shot.opened_by.start if shot.opened_by else 0
        drop = n % 2 == 1 and can_drop(project.sources[0].media.rate)
        start = HOUR * (n + 1)
        original = Original(f"PA{n:03d}", start, at, f"take {n}", drop, speeds[n])
        words = Card(name=f"take {n}", original=original)
        project = with_card(project, FIRST, shot.opened_by, words)
    return project


@st.composite
def mixed_films(draw: st.DrawFn) -> Project:
    """A film joined by cuts, dissolves, fades and wipes, every shot with its original."""
    rate = draw(st.sampled_from([Fraction(24), Fraction(25), Fraction(30000, 1001)]))
    project = bare(rate=rate, drop=can_drop(rate) and draw(st.booleans()))
    for place in draw(st.sets(st.integers(1, 19), max_size=6)):
        kind = draw(st.sampled_from(Kind))
        project = place_seam(project, FIRST, 150 * place, kind=kind, span=draw(st.integers(2, 90)))
    speeds = draw(st.lists(st.sampled_from(SPEEDS), min_size=8, max_size=8))
    return with_originals(project, speeds)


def back(project: Project) -> tuple[ReadList, Project]:
    """Write the originals' list, read it, and cut the bare film by it alone."""
    media = project.sources[0].media
    with tempfile.TemporaryDirectory() as folder:
        path = write_edl(list_of(project, originals=True), Path(folder) / "a.edl")
        listed = read_list(path, media.rate, media.drop)
    assert not listed.troubles
    empty = add_source(Project(), media)
    offset = record_start_of("01:00:00:00", media.rate, media.drop)
    joins = joins_of(listed)
    return listed, cut_by_list(empty, FIRST, joins, offset, Use.ALONE) if joins.joins else empty


@settings(max_examples=80)
@given(mixed_films())
def test_mixes_and_sources_come_back_from_the_originals_list(project: Project) -> None:
    _, again = back(project)
    if len(shots_of(project.sources[0])) == 1:
        return
    wanted, got = shots_of(project.sources[0]), shots_of(again.sources[0])
    assert [(s.start, s.end) for s in got] == [(s.start, s.end) for s in wanted]
    for ours, theirs in zip(wanted, got, strict=True):
        assert ours.card.original is not None
        assert theirs.card.original is not None
        assert theirs.card.original.reel == ours.card.original.reel
        assert theirs.card.original.drop == ours.card.original.drop
        assert theirs.card.name == ours.card.name
        for frame in (ours.start, ours.end - 1):
            was, now = ours.card.original, theirs.card.original
            # a speed that is not whole is rounded to a frame at the event's ends
            assert abs(now.timecode_at(frame) - was.timecode_at(frame)) <= (was.speed != 1)
        if ours.opened_by:
            assert theirs.opened_by is not None
            seams = [(s.kind, s.start, s.end) for s in (ours.opened_by, theirs.opened_by)]
            assert seams[0] == seams[1]


@settings(max_examples=40)
@given(mixed_films())
def test_opentimelineio_reads_the_originals_as_we_do(project: Project) -> None:
    """OpenTimelineIO's CMX 3600 adapter is the second reader; it knows no black."""
    source = project.sources[0]
    fades = [s for s in source.seams if s.kind is Kind.FADE]
    speeds = [s.card.original.speed for s in shots_of(source) if s.card.original]
    if fades or set(speeds) != {Fraction(1)}:
        return
    rate = float(source.media.rate)
    text = edl_text(list_of(project, originals=True))
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=rate)
    (track,) = timeline.video_tracks()
    listed, _ = back(project)
    clips = [c for c in track if isinstance(c, otio.schema.Clip)]
    starts = [e.mix_in or e.record_in for e in listed.events]
    assert [c.metadata["cmx_3600"]["reel"] for c in clips] == [e.reel for e in listed.events]
    assert [c.source_range.start_time.to_frames() for c in clips] == [
        e.source_in for e in listed.events
    ]
    assert [c.range_in_parent().start_time.to_frames() for c in clips] == [
        s - starts[0] for s in starts
    ]
    mixes = [c for c in track if isinstance(c, otio.schema.Transition)]
    assert len(mixes) == sum(s.gradual for s in source.seams)


@settings(max_examples=40)
@pytest.mark.parametrize(("write", "suffix"), [(write_otio, ".otio"), (write_csv, ".csv")])
@given(project=mixed_films())
def test_every_list_of_the_film_carries_the_originals(
    write: Writer, suffix: str, project: Project
) -> None:
    media = project.sources[0].media
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"a{suffix}"
        write(list_of(project), path)
        listed = read_list(path, media.rate, media.drop)
    offset = record_start_of("01:00:00:00", media.rate, media.drop)
    joins = joins_of(listed)
    if not joins.joins:
        return
    again = cut_by_list(add_source(Project(), media), FIRST, joins, offset, Use.ALONE)
    wanted, got = shots_of(project.sources[0]), shots_of(again.sources[0])
    assert [s.start for s in got] == [s.start for s in wanted]
    for ours, theirs in zip(wanted, got, strict=True):
        was, now = ours.card.original, theirs.card.original
        assert was is not None
        assert now is not None
        assert (now.reel, now.drop) == (was.reel, was.drop)
        assert abs(now.timecode_at(ours.start) - was.timecode_at(ours.start)) <= (was.speed != 1)


def test_what_else_a_list_said_goes_out_with_its_shot(tmp_path: Path) -> None:
    path = tmp_path / "graded.edl"
    path.write_text(
        "001  A001  V  C  01:00:00:00 01:00:40:00 01:00:00:00 01:00:40:00\n"
        "* LOC: 01:00:10:00 RED     THE BELL\n"
        "* ASC_SOP (1.1 1.0 0.9)(0.0 0.0 0.0)(1.0 1.0 1.0)\n"
        "002  A002  V  C  02:00:00:00 02:01:20:00 01:00:40:00 01:02:00:00\n"
        "* FROM CLIP NAME: QUAY\n"
        "* ASC_SAT 0.9\n"
        "* COMMENT: AT DUSK\n"
    )
    listed = read_list(path, Fraction(25))
    cut = cut_by_list(bare(), FIRST, joins_of(listed), HOUR, Use.ALONE, markers=listed.markers)
    text = edl_text(list_of(cut, originals=True))
    assert text.count("* ASC_SOP (1.1 1.0 0.9)(0.0 0.0 0.0)(1.0 1.0 1.0)\r\n") == 1
    first, second = text.split("002  A002")
    assert "ASC_SOP" in first
    assert "* LOC: 01:00:10:00 RED     THE BELL" in first
    assert "ASC_SAT 0.9" in second
    assert second.count("AT DUSK") == 1
    assert "ASC" not in edl_text(list_of(cut))  # the film is graded already
    again = cut_by_list(cut, FIRST, joins_of(listed), HOUR, Use.ALONE, markers=listed.markers)
    assert len(again.sources[0].markers) == 1


def test_a_shot_that_runs_backwards_keeps_its_source() -> None:
    project = with_originals(place_seam(bare(), FIRST, 1000), [Fraction(1)] * 2)
    first = shots_of(project.sources[0])[0]
    backwards = Original("PA007", 5999, 0, speed=Fraction(-1))
    project = with_card(project, FIRST, None, replace(first.card, original=backwards))
    listed, again = back(project)
    assert (listed.events[0].source_in, listed.events[0].source_out) == (5000, 6000)
    original = shots_of(again.sources[0])[0].card.original
    assert original is not None
    assert [original.timecode_at(f) for f in (0, 999)] == [5999, 5000]


def test_a_mix_whose_shots_part_is_a_cut() -> None:
    project = with_originals(
        place_seam(place_seam(bare(), FIRST, 1000, kind=Kind.DISSOLVE, span=40), FIRST, 2000),
        [Fraction(1)] * 3,
    )
    first, second, third = shots_of(project.sources[0])
    assert list_of(project, originals=True, shots=[first, second]).events[1].mix is not None
    for order in ([second, first], [first, third], [second, third]):
        events = list_of(project, originals=True, shots=order).events
        assert all(e.mix is None for e in events)
    assert all(e.mix is None for e in list_of(project).events)


def test_spans_that_touch_another_are_cuts_and_no_frame_is_lost() -> None:
    project = place_seam(bare(), FIRST, 1000, kind=Kind.DISSOLVE, span=100)
    project = place_seam(project, FIRST, 1060, kind=Kind.WIPE, span=80)
    project = with_originals(project, [Fraction(1)] * 3)
    events = list_of(project, originals=True).events
    assert [e.mix is not None for e in events] == [False, True, False]
    listed, _ = back(project)
    length = sum(e.length for e in listed.events)
    assert length == project.sources[0].media.frames


def test_a_whip_is_a_dissolve_in_an_edl_and_read_back_as_a_whip() -> None:
    project = place_seam(bare(), FIRST, 1000, kind=Kind.WHIP, span=10)
    project = with_originals(project, [Fraction(1)] * 2)
    text = edl_text(list_of(project, originals=True))
    assert "* JOINED BY A WHIP OF 10 FRAMES" in text
    assert " D    010 " in text
    listed, _ = back(project)
    assert [e.kind for e in listed.events] == [Kind.CUT, Kind.WHIP]
    (join,) = joins_of(listed).joins
    assert (join.kind, join.end - join.start) == (Kind.WHIP, 10)


def test_a_fade_of_one_frame_is_a_cut() -> None:
    project = place_seam(bare(), FIRST, 1000, kind=Kind.FADE, span=1)  # nothing is dark in between
    project = with_originals(project, [Fraction(1)] * 2)
    assert list_of(project, originals=True).events[1].mix is None
    listed, _ = back(project)
    assert [e.length for e in listed.events] == [1000, 2000]


def test_rolling_a_mix_moves_its_sources_with_it() -> None:
    project = place_seam(bare(), FIRST, 1000, kind=Kind.DISSOLVE, span=40)
    project = with_originals(project, [Fraction(1)] * 2)
    seam = project.sources[0].seams[0]
    rolled = roll_seam(project, FIRST, seam.id, 10)
    mix = list_of(rolled, originals=True).events[1].mix
    assert mix is not None
    assert (mix.source_in, mix.left_at) == (2 * HOUR + 10, HOUR + 990)
    longer = set_span(project, FIRST, seam.id, seam.start - 6, seam.end + 6)
    mix = list_of(longer, originals=True).events[1].mix
    assert mix is not None
    assert (mix.source_in, mix.left_at) == (2 * HOUR - 6, HOUR + 974)


def test_the_labs_list_goes_out_as_it_came_in() -> None:
    """Cut by the lab's list alone, the list of originals says what the lab's list said."""
    from offcut.core.media.probe import open_source

    project = add_source(Project(), open_source(FILM).media)
    lab = read_list(LAB_LIST, Fraction(25))
    cut = cut_by_list(project, FIRST, joins_of(lab), HOUR, Use.ALONE)
    listed, _ = back(cut)

    def told(read: ReadList) -> list[tuple[object, ...]]:
        return [
            (e.reel, e.kind, e.record_in, e.record_out, e.mix_out - e.mix_in, e.source_in)
            for e in read.events
            if not e.black
        ]

    assert told(listed) == told(lab)


@pytest.mark.parametrize("which", [0, 1])
def test_without_the_other_shots_original_a_mix_is_a_cut(which: int) -> None:
    project = place_seam(bare(), FIRST, 1000, kind=Kind.DISSOLVE, span=40)
    project = with_originals(project, [Fraction(1)] * 2)
    shot = shots_of(project.sources[0])[which]
    project = with_card(project, FIRST, shot.opened_by, Card(name="bare"))
    assert all(e.mix is None for e in list_of(project, originals=True).events)
    assert "JOINED BY A DISSOLVE OF 40 FRAMES" in edl_text(list_of(project, originals=True))
