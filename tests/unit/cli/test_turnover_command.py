"""Turnover from the command line, for scripts: what it says, what it writes, how it ends."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import pytest

from offcut.cli.main import main
from offcut.core.lists.registry import read_list
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.source import MarkerColour
from offcut.core.model.verbs.cards import name_shot, put_in_scene, set_shot_aside
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.project_file import open_project, save_project
from offcut.core.store.project_lock import ProjectLock
from projects import FIRST

Call = Callable[..., tuple[int, str, str]]


@pytest.fixture
def project(four_shots: Path, tmp_path: Path) -> Path:
    """A project of four shots, two of them in a scene."""
    made = add_source(Project("Line 7"), open_source(four_shots).media)
    for frame in (40, 75, 120):
        made = place_seam(made, FIRST, frame)
    made = name_shot(made, FIRST, 50, "The quay")
    made = put_in_scene(put_in_scene(made, FIRST, 50, "Harbour"), FIRST, 130, "Harbour")
    return save_project(made, tmp_path / "line.offcut")


@pytest.fixture
def turnover(project: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Call:
    """Call the command; give its exit status, and what it said on both channels."""

    def call(*words: str, to: str | None = "out") -> tuple[int, str, str]:
        where = ["--to", str(tmp_path / to)] if to else []
        status = main(["turnover", str(project), *where, "--quiet", *words])
        told = capsys.readouterr()
        return status, told.out, told.err

    return call


def test_a_check_writes_nothing(turnover: Call, tmp_path: Path) -> None:
    status, out, err = turnover("--check", "--edl", "--stills", "first", "--shortest", "38")
    assert status == 0
    assert "Line 7.edl  EDL, about" in out
    assert "Line 7-004.png  Still, first" in out
    assert "1 shot under 1.5 s: 2" in err
    assert not (tmp_path / "out").exists()


def test_every_interchange_form_is_written_and_read_again(
    turnover: Call, project: Path, tmp_path: Path
) -> None:
    marked = add_marker(open_project(project), FIRST, 50, 60, "bell", "", MarkerColour.BLUE)
    save_project(marked, project)
    status, _, err = turnover("--xml", "--aaf", "--ale", "--markers", "--marker-edl",
                                "--chapter-text")  # fmt: skip
    assert status == 0, err
    names = {"xml", "aaf", "ale", "markers.csv", "markers.edl", "chapters.txt"}
    assert {p.name for p in (tmp_path / "out").iterdir()} == {f"Line 7.{n}" for n in names}
    for form in ("xml", "aaf"):
        listed = read_list(tmp_path / f"out/Line 7.{form}", Fraction(25))
        assert [e.source_in - 90_000 for e in listed.events] == [0, 40, 75, 120]
        assert [(m.name, m.length, m.colour.value) for m in listed.markers] == [
            ("bell", 10, "blue")
        ]
    for form in ("markers.csv", "markers.edl"):
        listed = read_list(tmp_path / f"out/Line 7.{form}", Fraction(25))
        assert listed.marks
        assert [(m.frame, m.name, m.length, m.colour.value) for m in listed.markers] == [
            (90_050, "bell", 10, "blue")
        ]
    text = (tmp_path / "out/Line 7.chapters.txt").read_text()
    assert text == "00:00:00 Line 7\n00:00:02 bell\n"


def test_lists_of_markers_stay_out_where_there_is_none(turnover: Call, tmp_path: Path) -> None:
    status, _, err = turnover("--edl", "--markers")
    assert status == 0
    assert "No shot that goes has a marker: lists of markers stay out" in err
    assert [p.name for p in (tmp_path / "out").iterdir()] == ["Line 7.edl"]


def test_shots_go_in_the_order_they_are_told(turnover: Call, tmp_path: Path) -> None:
    assert turnover("--edl", "--shots", "4, 2-3,1")[0] == 0
    listed = read_list(tmp_path / "out/Line 7.edl", 25)
    assert [e.source_in - 90_000 for e in listed.events] == [120, 40, 75, 0]
    assert turnover("--edl", "--shots", "4,2", "--film-order", "--overwrite")[0] == 0
    listed = read_list(tmp_path / "out/Line 7.edl", 25)
    assert [e.source_in - 90_000 for e in listed.events] == [40, 120]


def test_a_scene_goes_and_offcuts_only_when_asked_for(
    turnover: Call, project: Path, tmp_path: Path
) -> None:
    save_project(set_shot_aside(open_project(project), FIRST, 130), project)
    assert turnover("--csv", "--scene", "Harbour")[0] == 0
    path = tmp_path / "out/Line 7.csv"
    assert [e.clip for e in read_list(path, 25).events] == ["The quay"]
    assert turnover("--csv", "--scene", "Harbour", "--offcuts", "--overwrite")[0] == 0
    assert len(read_list(path, 25).events) == 2


@pytest.mark.parametrize(
    ("words", "why"),
    [
        (["--shots", "2,x"], "“x” is not a shot’s number"),
        (["--shots", "9"], "there is no shot 9; there are 4"),
        (["--scene", "Nowhere"], "there is no scene “Nowhere”; there are: Harbour"),
        (["--pattern", "{nonsense}", "--stills", "first"], "there is no field {nonsense}"),
        (["--record-start", "tomorrow"], "tomorrow"),
        (["--files", "dnxhr"], "DNxHR begins at 256x120"),
    ],
)
def test_what_cannot_be_done_is_said_and_ends_with_1(
    turnover: Call, words: list[str], why: str, tmp_path: Path
) -> None:
    status, _, err = turnover("--edl", *words)
    assert status == 1
    assert why.lower() in err.lower()
    assert not (tmp_path / "out").exists()


def test_nothing_is_written_over_without_a_word(turnover: Call, tmp_path: Path) -> None:
    (tmp_path / "out").mkdir()
    there = tmp_path / "out/Line 7.edl"
    there.write_text("mine")
    status, _, err = turnover("--edl", "--csv")
    assert status == 1
    assert "is there already; nothing was written" in err
    assert there.read_text() == "mine"
    assert not (tmp_path / "out/Line 7.csv").exists()
    assert turnover("--edl", "--csv", "--overwrite")[0] == 0


def test_it_is_kept_with_the_project_and_done_again(
    turnover: Call, project: Path, tmp_path: Path
) -> None:
    assert turnover("--again")[0] == 1  # there was none
    assert turnover("--vtt", "--handles", "7", "--first", "10")[0] == 0
    (made,) = open_project(project).handovers
    assert (made.asked.lists, made.asked.handles, made.asked.first) == (("vtt",), 7, 10)
    (tmp_path / "out/Line 7.vtt").unlink()
    status, out, _ = turnover("--again", to=None)
    assert status == 0
    assert str(tmp_path / "out/Line 7.vtt") in out
    assert len(open_project(project).handovers) == 2


def test_a_project_open_in_a_window_is_handed_over_and_left_alone(
    turnover: Call, project: Path
) -> None:
    before = project.read_bytes()
    hold = ProjectLock(project)
    status, _, err = turnover("--edl")
    hold.release()
    assert status == 0
    assert "open in a window" in err
    assert project.read_bytes() == before


def test_without_its_film_the_lists_still_go(
    turnover: Call, project: Path, four_shots: Path, tmp_path: Path
) -> None:
    text = project.read_text().replace(four_shots.name, "gone.mp4")
    project.write_text(text)
    status, _, err = turnover("--edl")
    assert status == 0
    assert "gone.mp4 is missing" in err
    status, _, err = turnover("--files", "h264", "--overwrite")
    assert status == 1
    assert "movies and pictures cannot be made" in err
