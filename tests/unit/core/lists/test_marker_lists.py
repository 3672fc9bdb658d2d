"""Lists of markers: out as CSV, EDL and chapters, and back in where they were."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.lists.marker_lists import (
    chapter_text,
    markers_edl,
    write_chapter_text,
    write_marker_edl,
    write_markers,
)
from offcut.core.lists.outgoing import EventList
from offcut.core.lists.registry import read_list
from offcut.core.model.project import Project
from offcut.core.model.source import MarkerColour, Media
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.sources import add_source
from offcut.core.tally.cutting import Use
from offcut.core.tally.fitting import found_place
from offcut.core.tally.taking import Taking
from projects import FIRST, RATES, cut_film, list_of

Write = Callable[[EventList, str | Path], Path]


def marked_film(rate: Fraction, drop: bool, start: int = 1000) -> Project:
    project = cut_film(rate, drop, start=start)
    for frame, end, name, note, colour in (
        (0, 1, "start", "", MarkerColour.WHITE),
        (110, 160, "the bell", "too loud", MarkerColour.RED),
        (110, 111, "=1+1", "", MarkerColour.GREEN),
        (2499, 2500, "Über", "", MarkerColour.PINK),
        (4999, 5000, "end", "", MarkerColour.YELLOW),
    ):
        project = add_marker(project, FIRST, frame, end, name, note, colour)
    return project


@pytest.mark.parametrize(("rate", "drop"), RATES)
@pytest.mark.parametrize("write", [write_markers, write_marker_edl])
def test_markers_go_out_and_come_back(
    write: Write, rate: Fraction, drop: bool, tmp_path: Path
) -> None:
    project = marked_film(rate, drop)
    suffix = ".csv" if write is write_markers else ".edl"
    path = write(list_of(project), tmp_path / f"film.markers{suffix}")
    listed = read_list(path, rate, drop)
    assert listed.marks
    media = project.sources[0].media
    bare = add_source(Project(), media)
    fit = found_place(listed, media)
    assert fit.offset == 1000
    back = Taking(listed).take(bare, FIRST, fit.offset, Use.MARKERS)
    told = [(m.start, m.end, m.name, m.note, m.colour) for m in back.sources[0].markers]
    assert sorted(told) == sorted(
        (m.start, m.end, m.name, m.note, m.colour) for m in project.sources[0].markers
    )


def test_opentimelineio_reads_the_places_of_a_marker_edl() -> None:
    text = markers_edl(list_of(marked_film(Fraction(25), False)))
    timeline = otio.adapters.read_from_string(
        text, "cmx_3600", rate=25, ignore_timecode_mismatch=True
    )
    found = [(m.name, m.color) for c in timeline.find_clips() for m in c.markers]
    assert ("the bell", "RED") in found
    assert ("Über", "PINK") in found


def test_chapters_are_whole_seconds_from_the_films_first_frame() -> None:
    project = add_marker(cut_film(Fraction(25), False, start=90_000), FIRST, 4012, name="tram")
    text = chapter_text(list_of(project))
    assert text == "00:00:00 Line 7\n00:02:40 tram\n"
    assert chapter_text(list_of(marked_film(Fraction(24), False))).startswith("00:00:00 start\n")


def test_chapters_come_back_to_the_second(tmp_path: Path) -> None:
    path = write_chapter_text(list_of(marked_film(Fraction(25), False)), tmp_path / "film.txt")
    listed = read_list(path, Fraction(25))
    assert (listed.marks, listed.from_zero) == (True, True)
    assert [(m.frame, m.name) for m in listed.markers] == [
        (0, "start"), (100, "=1+1"), (100, "the bell"), (2475, "Über"), (4975, "end")
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("0:00 a\n1:05 b\n01:00:00 c\n", [(0, "a"), (65 * 25, "b"), (90_000, "c")]),
        ("00:00:01.5 half\n", [(38, "half")]),
        ("00:00:01 - dashed\n# not this\n\n00:00:02 – so\n", [(25, "dashed"), (50, "so")]),
    ],
)
def test_chapters_as_people_write_them(
    text: str, wanted: list[tuple[int, str]], tmp_path: Path
) -> None:
    path = tmp_path / "chapters.txt"
    path.write_text(text)
    listed = read_list(path, Fraction(25))
    assert [(m.frame, m.name) for m in listed.markers] == wanted


def test_an_hours_offset_of_a_marker_list_is_found(tmp_path: Path) -> None:
    path = tmp_path / "notes.csv"
    path.write_text("Marker In;Name;Colour\n01:00:04:00;bell;RED\n01:00:08:00;door;none such\n")
    listed = read_list(path, Fraction(25))
    media = Media("/film.mov", Fraction(25), 500, 64, 36)
    fit = found_place(listed, media)
    assert (fit.offset, fit.why) == (90_000, "a whole hour off the film’s own")
    assert [m.colour.value for m in listed.markers] == ["red", ""]


ANY = st.lists(
    st.tuples(
        st.integers(0, 4990),
        st.integers(1, 9),
        st.sampled_from(MarkerColour),
        st.text("ABC xyzé", max_size=9),
    ),
    min_size=1,
    max_size=9,
)


@given(marks=ANY)
def test_any_markers_come_back_from_a_csv(
    marks: list[tuple[int, int, MarkerColour, str]], tmp_path_factory: pytest.TempPathFactory
) -> None:
    project = cut_film(Fraction(25), False, start=1000)
    for start, length, colour, name in marks:
        project = add_marker(project, FIRST, start, start + length, name, "", colour)
    path = write_markers(list_of(project), tmp_path_factory.mktemp("m") / "film.markers.csv")
    back = read_list(path, Fraction(25)).markers
    assert sorted((m.frame - 1000, m.length, m.name, m.colour.value) for m in back) == sorted(
        (m.start, m.end - m.start, m.name, m.colour.value) for m in project.sources[0].markers
    )
