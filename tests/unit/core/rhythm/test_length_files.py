"""Lengths in files: columns of seconds, reference sets, lists without a rate, damaged ones."""

from __future__ import annotations

import json
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.errors import ListError
from offcut.core.model.seam import Kind
from offcut.core.rhythm.figures import figures_of
from offcut.core.rhythm.figures_out import study_text, write_csv, write_workbook
from offcut.core.rhythm.length_files import read_lengths, reference_text, write_reference
from offcut.core.rhythm.lengths import lengths_of_film, lengths_of_seconds
from offcut.core.rhythm.whole_study import whole_study
from projects import FIRST, cut_film


def kept(folder: Path, name: str, text: str) -> Path:
    file = folder / name
    file.write_text(text, encoding="utf-8")
    return file


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("plain.csv", "2.5\n1\n\n4.25\n"),
        ("head.csv", "seconds\r\n2.5\r\n1\r\n4.25\r\n"),
        ("length.csv", "length of shot\n2.5\n1.0\n4.25"),
        ("columns.csv", "name,seconds\nA quay,2.5\nB,1\n\nC,4.25\n"),
        ("semicolons.csv", "name;seconds\nA quay;2,5\nB;1\nC;4,25\n"),
        ("length.csv", "shot,length\n1,2.5\n2,1\n3,4.25\n"),
        ("tabs.tsv", "seconds\tname\n2.5\tA\n1\tB\n4.25\tC\n"),
        ("lengths.txt", "2.5\n1.0\n4.25\n"),
        ("marked.csv", "\ufeffseconds\n2.5\n1\n4.25\n"),
    ],
)
def test_a_column_of_seconds_is_a_list(name: str, text: str, tmp_path: Path) -> None:
    (lengths,) = read_lengths(kept(tmp_path, name, text))
    assert lengths.held.tolist() == [2.5, 1.0, 4.25]
    assert not lengths.note


def test_lines_that_are_no_lengths_are_left_out_and_told(tmp_path: Path) -> None:
    text = "seconds\n2.5\n-3\nsoon\n1e400\n4\n"
    (lengths,) = read_lengths(kept(tmp_path, "some.csv", text))
    assert lengths.held.tolist() == [2.5, 4.0]
    assert lengths.note.startswith("line 3: ")
    assert "2 more lines" in lengths.note


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("none.csv", "seconds\nno\n", "not one length"),
        ("empty.csv", "", "empty"),
        ("bad.json", "{", "not JSON"),
        ("list.json", "[1, 2]", "tells no lengths"),
        ("other.json", '{"a": 1}', "tells no lengths"),
        ("new.lengths.json", '{"kind": "offcut-lengths", "version": 99, "sets": []}', "newer"),
        ("no.lengths.json", '{"kind": "offcut-lengths", "version": 1, "sets": 3}', "holds no"),
        (
            "odd.lengths.json",
            '{"kind": "offcut-lengths", "version": 1, "sets": [{"seconds": [1, "x"]}]}',
            "length 2",
        ),
        ("minus.json", '{"lengths": [1, -2]}', "length 2"),
        ("true.json", '{"lengths": [true]}', "length 1"),
        ("detect.json", '{"shots": [{"start": 1}], "source": {}}', "tells no lengths"),
        (
            "huge.json",
            '{"source": {"rate": "25", "path": "/a"}, "shots": [{"start": 0, "end": 1e99}]}',
            "more than",
        ),
        (
            "endless.json",
            '{"source": {"rate": "25", "path": "/a"}, "shots": [{"start": 0, "end": 1e999}]}',
            "tells no lengths",
        ),
        ("rate.json", '{"shots": [], "source": {"rate": "x", "path": ""}}', "tells no lengths"),
    ],
)
def test_a_file_that_tells_no_lengths_is_named_in_one_sentence(
    name: str, text: str, says: str, tmp_path: Path
) -> None:
    with pytest.raises(ListError, match=says) as told:
        read_lengths(kept(tmp_path, name, text))
    assert name in str(told.value)
    assert "\n" not in str(told.value)


@given(st.lists(st.floats(0.001, 1e5), min_size=1, max_size=30), st.text(max_size=30))
def test_a_reference_set_comes_back_as_it_was_kept(seconds: list[float], name: str) -> None:
    kinds = [None, *([Kind.FADE] * (len(seconds) - 1))]
    lengths = lengths_of_seconds(name, seconds, kinds=kinds)
    held = json.loads(reference_text([lengths]))
    assert held["sets"][0]["seconds"] == seconds


def test_several_reference_sets_lie_in_one_file(tmp_path: Path) -> None:
    film = lengths_of_film(cut_film(Fraction(25), False).source(FIRST))
    file = tmp_path / "town.lengths.json"
    write_reference([film, lengths_of_seconds("Night ferry", [1.5, 2.5])], file)
    first, second = read_lengths(file)
    assert (first.name, second.name) == ("Line 7", "Night ferry")
    assert first.held.tolist() == film.held.tolist()
    assert figures_of(first).joins == figures_of(film).joins
    with pytest.raises(ListError, match="no lengths"):
        write_reference([lengths_of_seconds("", [])], file)


def test_lengths_that_were_written_are_read_again(tmp_path: Path) -> None:
    film = lengths_of_film(cut_film(Fraction(24000, 1001), False).source(FIRST))
    study = whole_study("Line 7", film, [lengths_of_seconds("Night; ferry", [1.5, 2.5, 7])])
    file, figures = write_csv(study, tmp_path / "line-7.csv")
    (again,) = read_lengths(file)
    assert again.held.tolist() == film.held.tolist()
    assert figures_of(again).joins == figures_of(film).joins
    assert figures_of(again).mixed == pytest.approx(figures_of(film).mixed)
    rows = figures.read_text("utf-8-sig").splitlines()
    assert rows[0] == "figure,unit,Line 7,Night; ferry"
    assert rows[1] == "Shots,,5,3"
    from openpyxl import load_workbook

    book = load_workbook(write_workbook(study, tmp_path / "line-7.xlsx"))
    assert book.sheetnames == ["Figures", "Lengths"]
    assert [c.value for c in book["Lengths"]["E"]][1:] == pytest.approx(film.held.tolist())
    assert "Night; ferry" in study_text(study)


def _edl(frames: list[str], mode: str = "NON-DROP FRAME") -> str:
    lines = ["TITLE: TEST", f"FCM: {mode}"]
    for n, (a, b) in enumerate(pairwise(frames), start=1):
        lines.append(f"{n:03d}  AX       V     C        {a} {b} {a} {b}")
    return "\n".join(lines)


@pytest.mark.parametrize(
    ("last", "mode", "rate"),
    [
        ("01:00:09:24", "NON-DROP FRAME", Fraction(25)),
        ("01:00:09:29", "NON-DROP FRAME", Fraction(30)),
        ("01:00:09:48", "NON-DROP FRAME", Fraction(50)),
        ("01:00:09:59", "NON-DROP FRAME", Fraction(60)),
        ("01:00:09:10", "DROP FRAME", Fraction(30000, 1001)),
        ("01:00:09:10", "NON-DROP FRAME", Fraction(25)),
    ],
)
def test_a_list_that_tells_no_rate_is_taken_by_its_timecodes_and_says_so(
    last: str, mode: str, rate: Fraction, tmp_path: Path
) -> None:
    file = kept(tmp_path, "old.edl", _edl(["01:00:00:00", "01:00:04:00", last], mode))
    (lengths,) = read_lengths(file)
    assert lengths.held[0] == pytest.approx(float(4 * round(rate) / rate))
    assert "tells no rate" in lengths.note
    (beside,) = read_lengths(file, likely=rate)
    assert beside.held.tolist() == lengths.held.tolist()
    assert "the film’s" in beside.note
    (slow,) = read_lengths(file, likely=Fraction(10))  # which its timecodes cannot have
    assert slow.held.tolist() == lengths.held.tolist()
    (told,) = read_lengths(file, Fraction(60))
    assert told.held[0] == 4.0
    assert "tells no rate" not in told.note
