"""XML, AAF and ALE: read back the same by us, and by a second reader of each form.

The second readers: the document itself for xmeml (no schema of it is published any more), pyaaf2
for AAF, OpenTimelineIO's adapter for ALE. Timecode labels are those of SMPTE ST 12-1.
"""

from __future__ import annotations

import xml.etree.ElementTree as ElementTree
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import aaf2
import opentimelineio as otio
import pytest

from offcut.core.errors import ListError
from offcut.core.lists.ale import ale_text
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.incoming import ReadList
from offcut.core.lists.outgoing import EventList, events_of, going
from offcut.core.lists.registry import ListFormat, format_of, read_list, written_formats
from offcut.core.lists.timelines.metadata import remapped
from offcut.core.lists.timelines.xml import xml_text
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.replacing import with_card
from offcut.core.tally.cutting import Use
from offcut.core.tally.joins import joins_of
from offcut.core.tally.naming import name_by_list, named_of
from offcut.core.tally.taking import Taking
from offcut.core.timecode import base_of, timecode_from_frame
from projects import FIRST, RATES, cut_film, film_of_originals, full_project, list_of

Told = tuple[Any, ...]
IN_AAF = [(rate, drop, n % 4 != 3) for n, (rate, drop) in enumerate(RATES)]
"""Every rate, most of them with the originals, where there is more to keep; each takes a second."""


def written(events: EventList, code: str, folder: Path) -> Path:
    form = format_of(code)
    assert form is not None
    assert form.write is not None
    return form.write(events, folder / f"film{form.suffix}")


def sides(listed: ReadList) -> list[Told]:
    return [
        (e.clip, e.reel, e.source_in, e.source_out, e.record_in, e.record_out, e.speed, e.scene,
         e.note)
        for e in listed.events
        if not e.black
    ]  # fmt: skip


def asked(events: EventList, listed: ReadList) -> list[Told]:
    """What must come back; the film's own reel is what the form calls it."""
    return [
        (e.name, e.reel or r.reel, e.source_in, e.source_out, e.record_in, e.record_out, e.speed,
         e.scene, e.note)
        for e, r in zip(events.events, [x for x in listed.events if not x.black], strict=True)
    ]  # fmt: skip


@pytest.mark.parametrize(("rate", "drop"), RATES)
@pytest.mark.parametrize("originals", [False, True])
@pytest.mark.parametrize("code", ["otio", "xml"])
def test_a_timeline_comes_back_the_same(
    code: str, originals: bool, rate: Fraction, drop: bool, tmp_path: Path
) -> None:
    events = list_of(film_of_originals(rate, drop), originals=originals)
    comes_back(events, code, written(events, code, tmp_path))


def comes_back(events: EventList, code: str, path: Path) -> None:
    rate, drop, originals = events.rate, events.drop, bool(events.events[0].reel)
    listed = read_list(path, rate, drop)
    if originals or code != "otio":  # OTIO tells the originals in the film's list as well
        assert sides(listed) == asked(events, listed)
    by_edl = joins_of(read_list(write_edl(events, path.with_suffix(".edl")), rate, drop)).joins
    told = [(j.frame, j.start, j.end, j.kind) for j in joins_of(listed).joins]
    assert told == [(j.frame, j.start, j.end, j.kind) for j in by_edl]
    notes = code != "aaf"  # a marker has one text there
    assert [(m.frame, m.length, m.name, m.note, m.colour) for m in listed.markers] == [
        (
            e.record_in + m.start - e.start,
            m.end - m.start,
            m.name,
            m.note if notes else "",
            m.colour,
        )
        for e in events.events
        for m in e.markers
    ]
    assert listed.told_rate == rate
    assert not listed.troubles


@pytest.mark.parametrize(("rate", "drop"), RATES)
@pytest.mark.parametrize("originals", [False, True])
def test_the_document_of_an_xml_says_what_is_meant(
    originals: bool, rate: Fraction, drop: bool
) -> None:
    events = list_of(film_of_originals(rate, drop), originals=originals)
    root = ElementTree.fromstring(xml_text(events).encode())
    assert root.tag == "xmeml"
    sequence = root.find("project/children/sequence")
    assert sequence is not None
    base, ntsc = str(base_of(rate)), str(rate.denominator != 1).upper()
    for told in root.iter("rate"):
        assert (told.findtext("timebase"), told.findtext("ntsc")) == (base, ntsc)
    for parent in root.iter():
        assert len(parent.findall("rate")) <= 1
    clock = sequence.find("timecode")
    assert clock is not None
    start = events.events[0].record_in
    assert clock.findtext("string") == timecode_from_frame(start, rate, drop)
    assert clock.findtext("frame") == str(start)
    assert clock.findtext("displayformat") == ("DF" if drop else "NDF")
    files = {f.get("id"): f for f in root.iter("file") if f.find("timecode") is not None}
    clips = list(root.iter("clipitem"))
    assert len(clips) == len(events.events)
    starts = [c.findtext("start") for c in clips]
    for event, clip in zip(events.events, clips, strict=True):
        file = files[clip.find("file").get("id")]  # type: ignore[union-attr]
        begins = int(file.findtext("timecode/frame") or 0)
        assert file.findtext("timecode/string") == timecode_from_frame(begins, rate, drop)
        assert file.findtext("timecode/reel/name") == (event.reel or None)
        assert clip.findtext("name") == event.name
        if clip.findtext("start") != "-1":
            assert int(clip.findtext("start") or 0) == event.record_in - start
            first = int(clip.findtext("in") or 0)
            assert begins + first * event.speed == event.source_in
        speed = clip.findtext("filter/effect/parameter[parameterid='speed']/value")
        assert Fraction(speed or 100) / 100 == event.speed
    mixes = [(t.findtext("start"), t.findtext("end")) for t in root.iter("transitionitem")]
    assert len(mixes) == (4 if originals else 0)  # a fade is one out and one in
    assert ("-1" in starts) is originals
    if not originals:
        assert clips[0].findtext("file/pathurl") == "file:///films/Line%207.mov"
    marks = [(m.findtext("name"), m.findtext("in"), m.findtext("out")) for m in root.iter("marker")]
    assert [m[0] for m in marks] == ["bell", "crossing"]
    if not originals:
        assert marks == [("bell", "120", "-1"), ("crossing", "2000", "2050")]


@pytest.mark.parametrize(("rate", "drop", "originals"), IN_AAF)
def test_an_aaf_comes_back_the_same_by_us_and_by_pyaaf2(
    originals: bool, rate: Fraction, drop: bool, tmp_path: Path
) -> None:
    events = list_of(film_of_originals(rate, drop), originals=originals)
    path = written(events, "aaf", tmp_path)
    comes_back(events, "aaf", path)
    with aaf2.open(str(path)) as opened:
        (whole,) = opened.content.toplevel()
        for mob in opened.content.mobs:
            assert {Fraction(s.edit_rate) for s in mob.slots} <= {rate}
        kinds = {type(s.segment).__name__: s for s in whole.slots if s.media_kind != "Picture"}
        (picture,) = [s for s in whole.slots if s.media_kind == "Picture"]
        clock = kinds["Timecode"].segment
        assert (clock.start, clock.fps, clock.drop) == (
            events.events[0].record_in, base_of(rate), drop
        )  # fmt: skip
        clips, at = [], 0
        for part in picture.segment.components:
            name = type(part).__name__
            if name == "Transition":
                at -= part.length
                continue
            inner, speed = part, Fraction(1)
            if name == "OperationGroup":
                (inner,) = part.segments
                assert part.operation.name == "Motion Control"
                (ratio,) = [p.value for p in part.parameters if p.name == "SpeedRatio"]
                speed = 1 / Fraction(str(ratio))
            if name != "Filler":
                clips.append((inner, at, speed))
            at += part.length
        assert at == sum(e.length for e in events.events)
        for event, (clip, _at, speed) in zip(events.events, clips, strict=True):
            file = clip.mob.slots[0].segment.mob
            tape = file.slots[0].segment.mob
            (counted,) = [s.segment for s in tape.slots if type(s.segment).__name__ == "Timecode"]
            assert (counted.fps, counted.drop) == (base_of(rate), drop)
            assert tape.name == (event.reel or "Line 7")
            assert clip.mob.name == event.name
            assert speed == event.speed
            ahead = 0 if event.mix is None else event.record_in - event.mix.start
            if event.mix is None:
                assert counted.start + clip.start == event.source_in
            assert ahead >= 0
        marks = kinds["Sequence"].segment.components
        first = events.events[0].record_in
        assert [(m["Comment"].value, m["Position"].value, m["Length"].value) for m in marks] == [
            (m.name, e.record_in - first + m.start - e.start, m.end - m.start)
            for e in events.events
            for m in e.markers
        ]


@pytest.mark.parametrize(("rate", "drop"), RATES)
@pytest.mark.parametrize("originals", [False, True])
def test_an_ale_comes_back_the_same_by_us_and_by_the_adapter(
    originals: bool, rate: Fraction, drop: bool, tmp_path: Path
) -> None:
    events = list_of(film_of_originals(rate, drop), originals=originals)
    listed = read_list(written(events, "ale", tmp_path), Fraction(48), drop)
    assert (listed.told_rate, listed.rate, listed.bin) == (rate, rate, True)
    wanted = [
        (e.name, e.reel or "Line 7", e.source_in, e.source_out, e.scene, e.note)
        for e in events.events
    ]
    told = [(e.clip, e.reel, e.source_in, e.source_out, e.scene, e.note) for e in listed.events]
    assert told == wanted
    shelf = otio.adapters.read_from_string(ale_text(events), "ale")
    second = [
        (
            c.name,
            c.metadata["ALE"]["Tape"],
            c.source_range.start_time.to_frames(),
            c.source_range.end_time_exclusive().to_frames(),
            c.metadata["ALE"]["Scene"],
            c.metadata["ALE"]["Comments"],
        )
        for c in shelf
    ]
    assert second == wanted


def test_a_clip_that_runs_backwards_is_counted_from_its_files_end() -> None:
    """As the keyframes of others' time remaps tell: at 0 the last frame of the file is shown."""
    project = film_of_originals(Fraction(25), False)
    seam = project.sources[0].seams[1]
    assert seam.opening.original is not None
    turned = replace(seam.opening.original, speed=Fraction(-1, 2))
    project = with_card(project, FIRST, seam, replace(seam.opening, original=turned))
    events = list_of(project, originals=True)
    event = events.events[2]
    clip = list(ElementTree.fromstring(xml_text(events).encode()).iter("clipitem"))[2]
    file = clip.find("file")
    assert file is not None
    begins, frames = (int(file.findtext(t) or 0) for t in ("timecode/frame", "duration"))
    first = int(clip.findtext("in") or 0)
    assert abs((begins + frames - first / 2) - event.source_out) < 1
    reverse = "filter/effect/parameter[parameterid='reverse']/value"
    assert clip.findtext(reverse) == "TRUE"


@pytest.mark.parametrize(
    ("parameters", "speed"),
    [
        ({"parameterid": "speed", "value": "0.25"}, Fraction(1, 4)),
        ({"parameterid": "speed", "value": "50"}, Fraction(1, 2)),
        ([{"parameterid": "speed", "value": "5"}, {"parameterid": "reverse", "value": "FALSE"}],
         Fraction(1, 20)),
        ([{"parameterid": "speed", "value": "100"}, {"parameterid": "reverse", "value": "TRUE"}],
         Fraction(-1)),
        (None, Fraction(1)),
    ],
)  # fmt: skip
def test_speeds_of_a_time_remap(parameters: object, speed: Fraction) -> None:
    assert remapped(parameters) == speed


def test_an_ale_names_the_shots_it_is_of(tmp_path: Path) -> None:
    path = tmp_path / "day 3.ale"
    path.write_text(
        "Heading\nFIELD_DELIM\tTABS\nFPS\t25\n\n"
        "Column\nName\tTape\tStart\tEnd\tScene\tTake\tDescription\n\nData\n"
        "12A-3\tA001C1\t01:00:39:00\t01:02:00:00\t12\t3\tthe quay at dusk\n"
        "bad row\tA001C1\tnow\tthen\n"
        "12B-1\tA002C2\t01:01:00:00\t01:03:00:00\t12\t1\n"
    )
    project = film_of_originals(Fraction(25), False)
    for seam in project.sources[0].seams[:2]:
        plain = replace(seam.opening, name="", note="", scene=0)
        project = with_card(project, FIRST, seam, plain)
    listed = read_list(path, Fraction(25))
    assert Taking(listed).likely is Use.NAMES
    assert [t.line for t in listed.troubles] == [10]
    found = named_of(project, FIRST, listed)
    assert [(n.shot.number, n.row.clip, n.by) for n in found] == [
        (2, "12A-3", "by its reel and timecode"),
        (3, "12B-1", "by its reel and timecode"),
    ]
    named = name_by_list(project, FIRST, listed)
    shots = shots_of(named.sources[0])
    assert [s.card.name for s in shots[1:3]] == ["12A-3", "12B-1"]
    assert named.scene_name(shots[2].card.scene) == "12"
    assert shots[1].card.note == "the quay at dusk"


def test_our_own_ale_cuts_the_film_it_is_of(tmp_path: Path) -> None:
    events = list_of(cut_film(Fraction(25), False, start=1000))
    joins = joins_of(read_list(written(events, "ale", tmp_path), Fraction(25)))
    assert [j.frame - 1000 for j in joins.joins] == [100, 1801, 2500, 3600]


@pytest.mark.parametrize("code", ["xml", "aaf", "ale"])
def test_odd_names_do_not_break_a_form(code: str, tmp_path: Path) -> None:
    project = film_of_originals(Fraction(25), False)
    seam = project.sources[0].seams[0]
    odd = replace(seam.opening, name="a\x07b\ud800c <&> “ü” \t d", note="line\nline\x1b[2J")
    project = with_card(project, FIRST, seam, odd)
    project = add_marker(project, FIRST, 300, name="\ud800\x00m", note="]]>")
    listed = read_list(written(list_of(project), code, tmp_path), Fraction(25))
    assert listed.events[1].clip == "abc <&> “ü” d"
    assert listed.events[1].note == "line line[2J"


@pytest.mark.parametrize("form", written_formats(), ids=lambda f: f.code)
def test_a_film_whose_name_is_no_unicode_goes_out_in_any_form(
    form: ListFormat, tmp_path: Path
) -> None:
    project = film_of_originals(Fraction(25), False)
    (source,) = project.sources
    seam = source.seams[0]
    assert seam.opening.original is not None
    original = replace(seam.opening.original, reel="R\udcff", comments=("c\udcff",))
    project = with_card(project, FIRST, seam, replace(seam.opening, original=original))
    media = replace(source.media, path="/films/a\udcffb.mov")
    project = replace(project, sources=(replace(project.sources[0], media=media),))
    assert form.write is not None
    path = form.write(list_of(project, originals=form.originals), tmp_path / f"a{form.suffix}")
    assert path.stat().st_size


@pytest.mark.parametrize("code", ["xml", "aaf"])
def test_stills_stay_out_of_forms_that_have_no_place_for_them(code: str, tmp_path: Path) -> None:
    project = full_project()
    events = events_of(project, going(project.sources[1]))
    with pytest.raises(ListError, match="no place for numbered stills"):
        written(events, code, tmp_path)
    assert not list(tmp_path.iterdir())


def test_a_file_that_an_adapter_cannot_write_leaves_nothing_behind(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    events = list_of(film_of_originals(Fraction(25), False))
    path = written(events, "aaf", tmp_path)
    before = path.read_bytes()
    monkeypatch.setattr("sys.executable", "/bin/false")
    with pytest.raises(ListError, match=r"film\.aaf: it cannot be put in an AAF \(it broke off"):
        written(events, "aaf", tmp_path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["film.aaf"]
    monkeypatch.undo()
    written(events, "aaf", tmp_path)
