"""Lists that would hang, end or fill the process that reads them: a sentence, or what is sound."""

from __future__ import annotations

import threading
import zipfile
from collections.abc import Callable
from fractions import Fraction
from itertools import chain, pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from list_mutations import harmed, harmed_json, read_harmed, sound_lists
from offcut.core.errors import ListError, OffcutError
from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.incoming import TROUBLES_KEPT, ReadEvent, ReadList, seen_events
from offcut.core.lists.registry import read_list
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.machine.stopping import stops_with
from offcut.core.model.card import Card, Original
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind
from offcut.core.model.source import Media
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_card
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.project_file import open_project, save_project
from offcut.core.tally.cutting import Use, cut_by_list
from offcut.core.tally.joins import joins_of
from projects import FIRST, cut_film, list_of

PAL = Fraction(25)
ONE = "001  A001     V     C        02:00:00:00 02:00:04:00 01:00:00:00 01:00:04:00\n"
CSV = "record in,record out,name,mixed frames,reel,reel in,reel out\n"


def nested(deep: int) -> str:
    """A timeline of stacks in stacks."""
    inner = '{"OTIO_SCHEMA":"Stack.1","children":['
    tracks = inner * deep + "]}" * deep
    return f'{{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":{tracks}}}'


HOSTILE: dict[str, Callable[[], str]] = {
    "backtracking.edl": lambda: f"001 A001 {'AV' * 20}! C {ONE.split('C', 1)[1]}" * 200 + ONE,
    "comments.edl": lambda: ONE + "* a comment\n* COMMENT: noted\n" * 30_000,
    "locators.edl": lambda: ONE + "* LOC: 01:00:00:00 RED x\n" * 50_000,
    "superscripts.edl": lambda: ONE + "00² A V C ²²:00:00:00 ²²:00:00:00 ¹:²:³:⁴ ⁰⁰:⁰⁰:⁰⁰:⁰⁰\n",
    "long-mix.edl": lambda: ONE + ONE.replace(" C  ", f" D {'9' * 1500} ") * 3,
    "long-line.edl": lambda: ONE + "1" * 40_000_000,
    "m2.edl": lambda: ONE + f"M2   A001   {'1' * 1500} 02:00:00:00\n" * 3000,
    "strangers.edl": lambda: ONE + "this line is a stranger\n" * 100_000,
    "deep.otio": lambda: nested(20_000),
    "infinite.otio": lambda: nested(1).replace("[]", "[{}]").replace("{}", '{"value": 1e999}'),
    "empty-object.otio": lambda: "{}",
    "not-json.otio": lambda: "x" * 1000,
    "superscripts.csv": lambda: CSV + "⁰⁰:⁰⁰:⁰⁰:⁰⁰,²,x,³,A,¹,²\n" + "0,10,x,²,,,\n" * 50,
    "huge.csv": lambda: CSV + f"{'9' * 300},{'9' * 300},x,{'9' * 300},,,\n" + "0,5,x,,,,\n",
    "wide.csv": lambda: CSV + "0,5," + ",".join("x" * 20_000) + "\n",
    "quoted.csv": lambda: CSV + '0,5,"' + "x\n" * 100_000,
    "digits.txt": lambda: "²\n³³\n" + "9" * 400 + "\n٣\n0 first\n",
    "entities.xml": lambda: (
        '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">'
        + "".join(f'<!ENTITY {chr(98 + n)} "{f"&{chr(97 + n)};" * 10}">' for n in range(9))
        + "]><xmeml>&j;</xmeml>"
    ),
    "deep.xml": lambda: "<xmeml>" + "<children>" * 50_000,
    "other.xml": lambda: "<Chapters/>",
    "cut-off.aaf": lambda: "\xd0\xcf\x11\xe0",
    "empty-rows.ale": lambda: "Heading\nFPS\t25\n\nColumn\nName\tStart\tEnd\n\nData\n" + "\t\n" * 9,
    "rate.ale": lambda: "Heading\nFPS\t1e400\n\nColumn\nName\tStart\tEnd\n\nData\na\t²\t³\n",
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_list_is_read_or_refused_in_one_sentence(name: str, tmp_path: Path) -> None:
    path = tmp_path / name
    path.write_text(HOSTILE[name]())
    try:
        listed = read_list(path, PAL)
    except ListError as error:
        said = str(error)
    else:
        assert listed.events
        assert len(listed.troubles) <= TROUBLES_KEPT
        said = "".join(map(str, listed.troubles[:3]))
    assert said.isprintable()
    assert len(said) < 1500


def test_a_packed_timeline_is_not_unfolded_without_end(tmp_path: Path) -> None:
    path = tmp_path / "film.otioz"
    with (
        zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed,
        packed.open("content.otio", "w") as inside,
    ):
        for _ in range(200):
            inside.write(b" " * (1 << 20))
    with pytest.raises(ListError, match=r"too large|more memory"):
        read_list(path, PAL)
    path.write_bytes(path.read_bytes()[:5000])
    with pytest.raises(ListError, match="not a packed timeline, or damaged"):
        read_list(path, PAL)


def test_a_hundred_thousand_bad_lines_are_summed_up(tmp_path: Path) -> None:
    path = tmp_path / "bad.edl"
    path.write_text(HOSTILE["strangers.edl"]())
    listed = read_list(path, PAL)
    assert (listed.lost, len(listed.troubles)) == (100_000, TROUBLES_KEPT)
    path.write_text(ONE + "this line is a stranger\n" * 300_000)
    with pytest.raises(ListError, match="more than 200,000 lines cannot be understood"):
        read_list(path, PAL)


def test_after_a_file_that_broke_the_reading_off_the_next_is_read(tmp_path: Path) -> None:
    sound = write_otio(list_of(cut_film(PAL, False)), tmp_path / "sound.otio")
    bad = tmp_path / "deep.otio"
    bad.write_text(nested(200_000))
    for _ in range(2):
        with pytest.raises(ListError, match=r"deep\.otio"):
            read_list(bad, PAL)
        assert len(read_list(sound, PAL).events) == 5


@pytest.mark.parametrize("suffix", ["edl", "otio", "csv", "txt"])
def test_a_thousand_harmed_lists_of_each_form_end_in_sentences(suffix: str, tmp_path: Path) -> None:
    data = sound_lists(list_of(cut_film(PAL, False, start=1000)))[suffix]
    files = harmed(data, 1000)
    if suffix == "otio":
        files = chain(harmed(data, 300), harmed_json(data, 700))
    taken = sum(not read_harmed(tmp_path, suffix, file, PAL) for file in files)
    assert taken > 30


# from a list to a project, saved and opened

ODD = st.one_of(
    st.integers(-60, 400),
    st.sampled_from([-(10**12), -(10**8) - 1, 10**8, 10**8 + 1, 10**9, 10**15]),
)
EVENTS = st.builds(
    ReadEvent,
    number=st.text(max_size=5),
    line=st.integers(0, 99),
    reel=st.text(max_size=9),
    source_in=ODD,
    source_out=ODD,
    record_in=ODD,
    record_out=ODD,
    track=st.integers(0, 3),
    kind=st.sampled_from(list(Kind)),
    mix_in=ODD,
    mix_out=ODD,
    clip=st.text(max_size=9),
    note=st.text(max_size=9),
    scene=st.text(max_size=3),
    speed=st.one_of(
        st.fractions(-3000, 3000), st.just(Fraction(10**40 + 1, 10**39)), st.just(Fraction(0))
    ),
    drop=st.booleans(),
    black=st.booleans(),
    over=st.booleans(),
    comments=st.lists(st.text(max_size=500), max_size=60).map(tuple),
)


@given(events=st.lists(EVENTS, min_size=1, max_size=8), offset=st.integers(-50, 350),
       use=st.sampled_from([Use.ALONE, Use.TOGETHER]))  # fmt: skip
def test_whatever_a_list_brings_into_a_project_is_saved_and_opened(
    events: list[ReadEvent], offset: int, use: Use, tmp_path_factory: pytest.TempPathFactory
) -> None:
    project = add_source(Project(), Media("/film.mov", PAL, 300, 64, 36))
    project = place_seam(project, FIRST, 150)
    listed = ReadList("/odd.edl", "EDL", PAL, False, events=tuple(events))
    try:
        cut = cut_by_list(project, FIRST, joins_of(listed), offset, use)
    except OffcutError:
        return
    path = tmp_path_factory.mktemp("odd") / "film.offcut"
    save_project(cut, path)
    assert open_project(path) == cut


SPEEDS = st.one_of(st.fractions(-3000, 3000, max_denominator=500), st.just(Fraction(0)))


@given(start=st.integers(-(10**9), 10**9), speed=SPEEDS, form=st.sampled_from(["edl", "csv"]))
def test_odd_sources_written_and_read_again_never_damage_a_project(
    start: int, speed: Fraction, form: str, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("odd")
    project = cut_film(PAL, False)
    shot = project.sources[0].seams[1]
    original = Original("A007", min(10**8, max(-(10**8), start)), 100, speed=min(speed, 1000))
    if abs(original.speed) > 1000:
        return
    project = with_card(project, FIRST, shot, Card(original=original))
    write = {"edl": write_edl, "csv": write_csv}[form]
    path = write(list_of(project, originals=True), folder / f"film.{form}")
    listed = read_list(path, PAL)
    film = add_source(Project(), project.sources[0].media)
    cut = cut_by_list(film, FIRST, joins_of(listed), joins_of(listed).first_frame, Use.ALONE)
    saved = save_project(cut, folder / "film.offcut")
    assert open_project(saved) == cut


@given(st.lists(EVENTS, max_size=30))
def test_what_is_seen_of_any_tracks_lies_in_order(events: list[ReadEvent]) -> None:
    tracks = len({e.track for e in events if not e.over and e.length > 0})
    seen = seen_events(events)
    if tracks > 1:
        assert all(a.record_out <= b.record_in for a, b in pairwise(seen))
    frames = [j.frame for j in joins_of(ReadList("x", "x", PAL, False, events=tuple(events))).joins]
    assert frames == sorted(set(frames))


def test_a_long_list_says_how_far_it_is_and_stops_when_told(tmp_path: Path) -> None:
    row = "{n:06}  REEL  V  C  01:00:00:00 01:00:00:05 02:00:00:00 02:00:00:05\n"
    path = tmp_path / "long.edl"
    path.write_text("TITLE: LONG\n" + "".join(row.format(n=n) for n in range(1, 5001)))
    heard: list[float] = []
    stop = threading.Event()

    def hear(done: int, whole: int) -> None:
        heard.append(done / whole)
        if len(heard) == 4:
            stop.set()

    with stops_with(stop, hear), pytest.raises(ListError, match=r"long\.edl: .*stopped"):
        read_list(path, Fraction(25))
    assert heard == sorted(heard)
    assert len(heard) == 4
    assert 0 < heard[0] < heard[-1] <= 1
