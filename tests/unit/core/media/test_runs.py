"""Runs of stills: found by their names, told apart, and their holes by number."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from films import picture_of
from offcut.core.machine.stopping import stops_with
from offcut.core.media.arrivals import arrived
from offcut.core.media.runs import natural, numbers_words, run_at, runs_among
from offcut.core.model.run import Holes, Run
from scans import deep, write_run


def patterns(*names: str) -> list[str]:
    return [f.run.pattern for f in runs_among(names, Path("/x"))[0]]


def test_runs_are_told_by_what_changes_in_their_names() -> None:
    assert patterns("a_001.dpx", "a_002.dpx", "b.3.exr", "b.4.exr") == [
        "a_[001-002].dpx", "b.[3-4].exr",
    ]  # fmt: skip
    assert patterns("a_001_v2.png", "a_002_v2.png") == ["a_[001-002]_v2.png"]
    assert patterns("9.tif", "10.tif", "11.tif") == ["[9-11].tif"]
    assert patterns("s1_01.jpg", "s1_02.jpg", "s2_01.jpg", "s2_02.jpg") == [
        "s1_[01-02].jpg", "s2_[01-02].jpg",
    ]  # fmt: skip


def test_numbers_padded_to_other_widths_are_other_runs() -> None:
    assert patterns("c01.tif", "c02.tif", "c001.tif", "c002.tif") == [
        "c[01-02].tif", "c[001-002].tif",
    ]  # fmt: skip
    assert patterns("k9999.jpg", "k10000.jpg") == ["k[9999-10000].jpg"]


def test_what_is_no_run_is_left_over() -> None:
    found, rest = runs_among(["film.mov", "solo_7.dpx", "note.txt", "no-number.png"], Path("/x"))
    assert not found
    assert rest == sorted(["film.mov", "solo_7.dpx", "note.txt", "no-number.png"], key=natural)
    assert not patterns("20260101.png", "20270101.png", "20280101.png")  # dates


@given(
    st.sets(st.integers(0, 3000), min_size=2, max_size=60),
    st.integers(1, 6),
    st.sampled_from(["", "K07_", "roll 3.", "v2-"]),
)
def test_every_number_there_is_is_a_frame_and_every_other_a_hole(
    numbers: set[int], digits: int, head: str
) -> None:
    names = [f"{head}{n:0{digits}d}.dpx" for n in numbers]
    found, rest = runs_among(names, Path("/x"))
    if not found:  # so many holes that the numbers mean something else
        assert len(rest) == len(names)
        return
    held = [
        f.run.name_of(f.run.number_of(k))
        for f in found
        for k in range(f.run.frames)
        if f.run.held_for(f.run.number_of(k)) is None
    ]
    assert sorted([*held, *rest]) == sorted(names)


@given(st.data())
def test_a_run_counts_its_frames_there_and_back(data: st.DataObject) -> None:
    first = data.draw(st.integers(0, 500))
    lengths = data.draw(st.lists(st.integers(1, 9), min_size=1, max_size=6))
    at, missing = first, []
    for place, length in enumerate(lengths):
        at += length
        if place < len(lengths) - 1:
            gap = data.draw(st.integers(1, 5))
            missing.append((at, at + gap))
            at += gap
    for holes in Holes:
        run = Run("a", ".dpx", 4, first, at - 1, tuple(missing), holes)
        numbers = [run.number_of(k) for k in range(run.frames)]
        assert numbers == sorted(set(numbers))
        assert [run.frame_of(n) for n in numbers] == list(range(run.frames))
        assert numbers[0] == first
        assert numbers[-1] == at - 1
        if holes is Holes.CLOSE:
            assert all(run.held_for(n) is None for n in numbers)


def test_holes_are_said_by_number() -> None:
    assert numbers_words([(1204, 1205), (1788, 1790)]) == "1204 and 1788 to 1789"
    assert numbers_words([(1, 2)]) == "1"
    assert "and 3 more stretches" in numbers_words([(k, k + 1) for k in range(0, 14, 2)])


def test_three_hundred_thousand_names_are_one_run() -> None:
    names = [f"K07_{i:07d}.dpx" for i in range(300_000) if i % 1000 != 5]
    found, rest = runs_among(names, Path("/x"))
    assert len(found) == 1
    assert not rest
    assert found[0].run.many_missing == 300


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    pictures = [deep(picture_of(n)) for n in range(6)]
    write_run(tmp_path / "scans", pictures, first=98, holes=[100], bits=10)
    write_run(tmp_path / "scans", [picture_of(9)], name="alone_{:d}.png")
    (tmp_path / "scans/notes.txt").write_text("what lies here\n" * 40)
    (tmp_path / "scans/.hidden_0001.dpx").write_bytes(b"SDPX")
    return tmp_path / "scans"


def test_a_folder_gives_its_films_and_what_is_left_in_one_line(
    folder: Path, four_shots: Path
) -> None:
    came = arrived([folder, four_shots])
    assert [p.name for p in came.paths] == ["K07_[0098-0103].dpx", four_shots.name]
    assert came.left_words == "2 files left out, no film: alone_0.png, notes.txt"


def test_stills_of_one_run_are_one_film_whichever_are_named(folder: Path) -> None:
    came = arrived([folder / "K07_0101.dpx", folder / "K07_0099.dpx", folder / "K07_[98-103].dpx"])
    assert [p.name for p in came.paths] == ["K07_[0098-0103].dpx"]
    assert run_at(folder / "alone_0.png").run.frames == 1  # type: ignore[union-attr]


def test_movies_are_told_by_looking_at_them(folder: Path, four_shots: Path) -> None:
    (folder / "a.bin").write_bytes(four_shots.read_bytes())
    (folder / "b.mov").write_bytes(b"no film at all")
    names = [p.name for p in arrived([folder]).paths]
    assert names == ["a.bin", "b.mov", "K07_[0098-0103].dpx"]  # opening b.mov says what is wrong


def test_a_large_folder_says_how_much_of_it_was_looked_at(tmp_path: Path) -> None:
    for name in ("a", "b"):
        (tmp_path / name).mkdir()
        for n in range(20):
            (tmp_path / name / f"note-{n}.txt").write_text("no film")
    heard: list[tuple[int, int]] = []
    with stops_with(threading.Event(), lambda done, whole: heard.append((done, whole))):
        assert not arrived([tmp_path]).paths
    assert [done for done, _ in heard] == sorted(done for done, _ in heard)
    assert heard[-1] == (42, 42)
