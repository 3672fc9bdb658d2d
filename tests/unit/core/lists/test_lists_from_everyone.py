"""What the world's EDLs say arrives: each input is made for one thing that real lists do."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from offcut.core.errors import ListError
from offcut.core.lists.incoming import ReadList, markers_of_list
from offcut.core.lists.registry import read_list
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind
from offcut.core.model.shots import shots_of
from offcut.core.model.source import MarkerColour, Media
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.project_file import open_project, save_project
from offcut.core.tally.cutting import Use, cut_by_list
from offcut.core.tally.fitting import misgivings
from offcut.core.tally.joins import joins_of
from offcut.core.tally.taking import Taking
from offcut.core.timecode import NTSC, Rate
from projects import FIRST, found_at

PAL = Fraction(25)
HOUR = 90_000


def tc(frame: int, hour: int = 1) -> str:
    seconds, frames = divmod(frame, 25)
    return f"{hour:02d}:{seconds // 60:02d}:{seconds % 60:02d}:{frames:02d}"


def event(
    number: int, start: int, end: int, how: str = "C", reel: str = "", source: int = 0
) -> str:
    reel = reel or f"A{number:03d}"
    sides = f"{tc(source, 2)} {tc(source + end - start, 2)} {tc(start)} {tc(end)}"
    return f"{number:03d}  {reel:<8s} V     {how:<8s} {sides}"


def read(tmp_path: Path, *lines: str, rate: Rate = PAL, name: str = "list.edl") -> ReadList:
    path = tmp_path / name
    path.write_text("\n".join(["TITLE: LINE 7", *lines, ""]))
    return read_list(path, rate)


# events that are refused


def test_the_words_of_a_refused_event_stay_with_it(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        event(1, 0, 100),
        "* FROM CLIP NAME: QUAY",
        f"002  A002     V     C        {tc(500, 2)} {tc(400, 2)} {tc(100)} {tc(200)}",
        "* FROM CLIP NAME: DEPOT",
        "M2   A002       012.5                02:00:16:00",
        f"003  A003     V     C        02:00:00:29 02:00:05:00 {tc(200)} {tc(300)}",
        "* FROM CLIP NAME: BRIDGE",
        "004  A004     V     C        02:00:00:00 02:00:04:00 01:00:99:00 01:01:00:00",
        "* FROM CLIP NAME: NOBODY",
        "* COMMENT: of nobody",
    )
    assert [e.clip for e in listed.events] == ["QUAY", "DEPOT", "BRIDGE"]
    assert [e.speed for e in listed.events] == [1, 1, 1]
    assert [(e.record_in - HOUR, e.record_out - HOUR) for e in listed.events] == [
        (0, 100), (100, 200), (200, 300)
    ]  # fmt: skip
    assert [e.source_out > e.source_in for e in listed.events] == [True, False, False]
    assert not any(e.note for e in listed.events)
    assert [(t.line, t.used) for t in listed.troubles] == [(4, True), (7, True), (9, False)]
    assert listed.lost == 1
    assert listed.odd == 2


def test_names_and_locators_after_the_sound_line_are_the_events(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        event(1, 0, 100),
        event(1, 0, 100).replace(" V ", " A "),
        "* FROM CLIP NAME: QUAY",
        f"* LOC: {tc(50)} GREEN   BELL",
        event(2, 100, 200),
        event(3, 100, 200).replace(" V ", " A2"),
        "* FROM CLIP NAME: DEPOT",
        event(4, 300, 400).replace(" V ", " A "),
        "* FROM CLIP NAME: SOUND OF ANOTHER PLACE",
    )
    assert [e.clip for e in listed.events] == ["QUAY", "DEPOT"]
    assert [(m.frame - HOUR, m.name, m.colour) for m in listed.markers] == [
        (50, "BELL", MarkerColour.GREEN)
    ]
    assert listed.sound == 3


def test_a_name_without_its_star_is_one(tmp_path: Path) -> None:
    listed = read(tmp_path, event(1, 0, 100), "FROM CLIP NAME: QUAY", "SCENE: 12")
    assert (listed.events[0].clip, listed.events[0].scene) == ("QUAY", "12")
    assert not listed.troubles


def test_record_times_go_on_past_midnight(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        "001  A001  V  C  02:00:00:00 02:00:10:00 23:59:45:00 23:59:55:00",
        "002  A002  V  C  02:00:00:00 02:00:10:00 23:59:55:00 00:00:05:00",
        "003  A003  V  C  02:00:00:00 02:00:10:00 00:00:05:00 00:00:15:00",
        "* LOC: 00:00:06:00 RED  BELL",
    )
    joins = joins_of(listed)
    assert [j.frame - joins.first_frame for j in joins.joins] == [250, 500]
    assert joins.last_frame - joins.first_frame == 750
    assert listed.markers[0].frame - joins.first_frame == 525


def test_a_replaced_reel_is_named_as_it_is_now(tmp_path: Path) -> None:
    listed = read(
        tmp_path, event(1, 0, 100, reel="AX7"), "* REEL AX7 REPLACED BY: KAI 7", event(2, 100, 200)
    )
    assert [e.reel for e in listed.events] == ["KAI 7", "A002"]


@pytest.mark.parametrize(
    ("reel", "line", "wanted"),
    [
        ("A012C003", "* REEL: A012C003_140914 REPLACED BY: A012C003", "A012C003_140914"),
        ("A012C003", "* REEL A012C003 REPLACED BY A099", "A099"),
        ("A099", "* REEL KAI7 REPLACED BY A099", "A099"),
    ],
)
def test_a_reel_that_was_cut_short_gets_its_whole_name_back(
    reel: str, line: str, wanted: str, tmp_path: Path
) -> None:
    assert read(tmp_path, event(1, 0, 100, reel=reel), line).events[0].reel == wanted


def test_words_after_the_timecodes_do_not_lose_the_event(tmp_path: Path) -> None:
    listed = read(tmp_path, event(1, 0, 100) + "  +05 xyz", event(2, 100, 200))
    assert len(listed.events) == 2
    assert "says more after its timecodes" in str(listed.troubles[0])


# speeds


def slowed(tmp_path: Path, length: int, natural: int, *lines: str, rate: Rate = PAL) -> ReadList:
    sides = f"{tc(0, 2)} {tc(natural, 2)} {tc(0)} {tc(length)}"
    return read(tmp_path, f"001  A001     V     C        {sides}", *lines, rate=rate)


@pytest.mark.parametrize(
    ("length", "natural", "fps", "speed"),
    [
        (101, 150, "037.5", Fraction(3, 2)),  # the lengths alone would make 37.1
        (1000, 1499, "037.5", Fraction(3, 2)),
        (3000, 1000, "008.3", Fraction(1, 3)),  # within the line's rounding the lengths are exact
        (100, 50, "012.5", Fraction(1, 2)),
        (100, 200, "050.0", Fraction(2)),
        (100, 100, "-025.0", Fraction(-1)),
        (100, 100, "000.0", Fraction(0)),
    ],
)
def test_a_speed_line_wins_within_its_rounding(
    length: int, natural: int, fps: str, speed: Fraction, tmp_path: Path
) -> None:
    listed = slowed(tmp_path, length, natural, f"M2   A001       {fps}       02:00:00:00")
    assert listed.events[0].speed == speed
    assert not listed.troubles


def test_a_speed_line_that_the_lengths_deny_is_believed_and_told(tmp_path: Path) -> None:
    listed = slowed(tmp_path, 100, 100, "M2   A001       050.0       02:00:00:00")
    assert listed.events[0].speed == 2
    assert "25.0 frames a second; the line is believed" in str(listed.troubles[0])


def test_lengths_that_differ_without_a_speed_line_are_told(tmp_path: Path) -> None:
    listed = slowed(tmp_path, 100, 80)
    assert listed.events[0].speed == Fraction(4, 5)
    assert "lasts 80 frames, its record 100, and no speed is told" in str(listed.troubles[0])
    assert (listed.lost, listed.odd) == (0, 1)


def test_twice_at_29_97_is_twice_however_a_second_is_counted(tmp_path: Path) -> None:
    for fps in ("060.0", "059.9"):
        line = f"M2   A001       {fps}       02:00:00:00"
        sides = "02:00:00:00 02:00:06:20 01:00:00:00 01:00:03:10"
        text = f"001  A001     V     C        {sides}"
        assert read(tmp_path, text, line, rate=NTSC).events[0].speed == 2


def test_a_speed_line_is_of_the_reel_it_names(tmp_path: Path) -> None:
    lines = (
        event(1, 0, 100, reel="QUAY"),
        f"002  QUAY     V     C        {tc(100, 2)} {tc(100, 2)} {tc(100)} {tc(100)}",
        f"002  DEPOT    V     D    024 {tc(0, 2)} {tc(100, 2)} {tc(100)} {tc(200)}",
    )
    of_from = read(tmp_path, *lines, "M2   QUAY       012.5       02:00:04:00")
    assert [e.speed for e in of_from.events] == [1, 1]
    of_to = read(tmp_path, *lines, "M2   DEPOT      050.0       02:00:00:00")
    assert [e.speed for e in of_to.events] == [1, 2]
    of_none = read(tmp_path, *lines, "M2   BRIDGE     050.0       02:00:09:00")
    assert [e.speed for e in of_none.events] == [1, 1]
    assert "names reel BRIDGE" in str(of_none.troubles[0])


# transitions


def test_a_dissolve_longer_than_its_shot_ends_with_it(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        event(1, 0, 100),
        f"002  A001     V     C        {tc(0, 2)} {tc(0, 2)} {tc(100)} {tc(100)}",
        f"002  A002     V     D    300 {tc(0, 2)} {tc(40, 2)} {tc(100)} {tc(140)}",
        *(event(n, 40 * n + 20, 40 * n + 60) for n in range(3, 30)),
    )
    joins = joins_of(listed).joins
    frames = [j.frame for j in joins]
    assert frames == sorted(set(frames))
    assert len(joins) == 28
    assert (joins[0].start - HOUR, joins[0].end - HOUR) == (100, 140)
    assert "longer than the shot of 40 frames" in str(listed.troubles[0])


def test_a_dissolve_across_the_films_first_frame_is_cut_off_there(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        event(1, 0, 100),
        f"002  A001     V     C        {tc(0, 2)} {tc(0, 2)} {tc(100)} {tc(100)}",
        f"002  A002     V     D    024 {tc(0, 2)} {tc(100, 2)} {tc(100)} {tc(200)}",
        event(3, 200, 300),
    )
    joins = joins_of(listed)
    for offset in range(HOUR + 100, HOUR + 124):
        film = add_source(Project(), Media("/film.mov", PAL, 180, 64, 36))
        cut = cut_by_list(film, FIRST, joins, offset, Use.ALONE)
        assert all(0 <= s.start <= s.frame <= s.end <= 180 for s in cut.sources[0].seams)
        path = save_project(cut, tmp_path / f"{offset}.offcut")
        assert open_project(path) == cut


# scenes


def test_32_scene_lines_come_through_together_with_found_seams(tmp_path: Path) -> None:
    lines = [(event(n + 1, 40 * n, 40 * n + 40), f"* SCENE: {n % 9 + 1}") for n in range(32)]
    listed = read(tmp_path, *(line for pair in lines for line in pair))
    film = add_source(Project(), Media("/film.mov", PAL, 1280, 64, 36))
    film = take_found(film, FIRST, [found_at(40 * n, 90) for n in range(1, 32)], 0, 1280)
    cut = cut_by_list(film, FIRST, joins_of(listed), HOUR, Use.TOGETHER)
    named = [cut.scene_name(s.card.scene) for s in shots_of(cut.sources[0])]
    assert named == [str(n % 9 + 1) for n in range(32)]


# locators


def test_locators_keep_their_colour_and_their_words(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        event(1, 0, 500),
        f"* LOC: {tc(10)} CYAN    THE BELL",
        f"* LOC: {tc(20)} VFX     WIRE REMOVAL",
        f"* LOC: {tc(30)} ADR",
        f"* LOC: {tc(40)} MAGENTA",
        f"* LOC: {tc(50)} Red tram arrives",
        f"* LOC: {tc(60)} YELLOW  the crossing",
        "* MARKED FOR 25 FRAMES",
        f"* LOC: {tc(100)}",
    )
    assert [(m.name, m.colour.value, m.length) for m in listed.markers] == [
        ("THE BELL", "cyan", 1),
        ("VFX     WIRE REMOVAL", "", 1),
        ("ADR", "", 1),
        ("", "magenta", 1),
        ("Red tram arrives", "", 1),
        ("the crossing", "yellow", 25),
        ("", "", 1),
    ]
    film = add_source(Project(), Media("/film.mov", PAL, 500, 64, 36))
    more = read(tmp_path, event(1, 0, 200), event(2, 200, 500))
    cut = cut_by_list(film, FIRST, joins_of(more), HOUR, Use.ALONE, markers=listed.markers)
    kept = [(m.start, m.end, m.colour.value) for m in cut.sources[0].markers]
    assert kept[0] == (10, 11, "cyan")
    assert kept[5] == (60, 85, "yellow")


def test_a_list_that_only_marks_places_is_markers(tmp_path: Path) -> None:
    lines = []
    for number, (frame, name) in enumerate([(10, "bell"), (90, "door"), (400, "tram")], start=1):
        lines += [event(number, frame, frame + 1, reel="FILM"), f"* FROM CLIP NAME: {name}"]
    listed = read(tmp_path, *lines)
    assert listed.marks
    assert Taking(listed).likely is Use.MARKERS
    assert [(m.frame - HOUR, m.name) for m in markers_of_list(listed)] == [
        (10, "bell"), (90, "door"), (400, "tram")
    ]  # fmt: skip


def test_short_shots_that_touch_are_no_marks(tmp_path: Path) -> None:
    listed = read(tmp_path, *(event(n + 1, n, n + 1, reel="FILM") for n in range(6)))
    assert not listed.marks
    two = read(tmp_path, event(1, 0, 1), event(2, 50, 51))
    assert not two.marks  # of two reels


# what a file may be


def test_sound_alone_is_said(tmp_path: Path) -> None:
    with pytest.raises(ListError, match=r"sound\.edl: it has sound alone \(2 events\), no picture"):
        read(
            tmp_path,
            event(1, 0, 100).replace(" V ", " A "),
            event(2, 100, 200).replace(" V ", " AA"),
            name="sound.edl",
        )


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be"])
def test_any_unicode_is_read(encoding: str, tmp_path: Path) -> None:
    path = tmp_path / "list.edl"
    text = "\r\n".join(["TITLE: LINIE 7", event(1, 0, 100), "* FROM CLIP NAME: KAI – früh", ""])
    path.write_bytes(text.encode(encoding))
    listed = read_list(path, PAL)
    assert listed.title == "LINIE 7"
    assert listed.events[0].clip == "KAI – früh"
    assert not listed.troubles


def test_western_european_is_read(tmp_path: Path) -> None:
    path = tmp_path / "list.edl"
    text = "\r".join([event(1, 0, 100), "* FROM CLIP NAME: “Kai” früh", ""])
    path.write_bytes(text.encode("cp1252"))
    assert read_list(path, PAL).events[0].clip == "“Kai” früh"


def test_what_follows_a_ctrl_z_is_no_part_of_the_file(tmp_path: Path) -> None:
    path = tmp_path / "list.edl"
    path.write_bytes(f"{event(1, 0, 100)}\r\n\x1a\0\0\0junk\r\n".encode())
    listed = read_list(path, PAL)
    assert len(listed.events) == 1
    assert not listed.troubles


def test_names_cannot_steer_a_terminal(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        event(1, 0, 100),
        "* FROM CLIP NAME: \x1b[31mRED\x1b[0m \x1b]0;title\x07QUAY\x9b2J\u202eyauq",
        "\x1b[2Jjunk \x07 line",
    )
    assert listed.events[0].clip == "RED QUAY2Jyauq"
    said = "".join(map(str, listed.troubles))
    assert said.isprintable()


def test_another_rate_that_a_list_tells_is_said(tmp_path: Path) -> None:
    listed = read(tmp_path, event(1, 0, 100), "* FRAME RATE: 24", event(2, 100, 200))
    media = Media("/film.mov", PAL, 200, 64, 36)
    said = misgivings(listed, joins_of(listed), media, HOUR)
    assert "The list tells 24 frames a second, the film has 25" in said


def test_kinds_and_spans_are_as_before(tmp_path: Path) -> None:
    listed = read(
        tmp_path,
        event(1, 0, 100),
        f"002  A001     V     C        {tc(0, 2)} {tc(0, 2)} {tc(100)} {tc(100)}",
        f"002  A002     V     W001 024 {tc(0, 2)} {tc(100, 2)} {tc(100)} {tc(200)}",
    )
    (wipe,) = joins_of(listed).joins
    assert (wipe.kind, wipe.start - HOUR, wipe.end - HOUR) == (Kind.WIPE, 100, 124)
