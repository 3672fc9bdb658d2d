"""`offcut rhythm`: projects, films and lists, what it prints and writes, how it ends."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from offcut.cli.main import main
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.verbs.cards import put_in_scene, set_shot_aside
from offcut.core.model.verbs.orders import add_order
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.rhythm.length_files import read_lengths
from offcut.core.store.project_file import save_project
from projects import FIRST

pytestmark = pytest.mark.usefixtures("measured_once")

KEYS = [
    "shots", "seconds", "lengths", "mean", "median", "shortest", "longest", "q1", "q3", "sd", "cv",
    "skewness", "cuts_per_minute", "log_mean", "log_sd", "autocorrelation",
]  # fmt: skip


@pytest.fixture
def project(four_shots: Path, tmp_path: Path) -> Path:
    """A project of four shots, two of them in a scene, and an order of two."""
    made = add_source(Project("Line 7"), open_source(four_shots).media)
    for frame in (40, 75, 120):
        made = place_seam(made, FIRST, frame)
    made = put_in_scene(put_in_scene(made, FIRST, 50, "Harbour"), FIRST, 130, "Harbour")
    seam = made.source(FIRST).seams[0].id
    made = add_order(made, "Trailer", (ShotRef(FIRST, seam), ShotRef(FIRST)))
    return save_project(made, tmp_path / "line.offcut")


def told(capsys: pytest.CaptureFixture[str], *words: str, status: int = 0) -> dict[str, Any]:
    assert main(["rhythm", *words, "--json"]) == status
    held: dict[str, Any] = json.loads(capsys.readouterr().out)
    return held


def test_a_project_a_film_and_a_list_have_the_same_figures(
    project: Path, four_shots: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    first = told(capsys, str(project))
    assert set(KEYS) <= set(first)
    assert first["lengths"] == [1.6, 1.4, 1.8, 1.6]
    assert first["shots"] == 4
    assert first["seconds"] == 6.4
    assert told(capsys, str(four_shots))["lengths"] == first["lengths"]
    assert main(["turnover", str(project), "--to", str(tmp_path), "--edl", "--otio", "--csv"]) == 0
    capsys.readouterr()
    lists = [f for f in sorted(tmp_path.iterdir()) if f.suffix in (".edl", ".otio", ".csv")]
    assert len(lists) == 3
    for file in lists:
        again = told(capsys, str(file))
        assert {k: again[k] for k in KEYS} == {k: first[k] for k in KEYS}, file.name
    assert main(["detect", str(four_shots), "--json"]) == 0
    printed = tmp_path / "detect.json"
    printed.write_text(capsys.readouterr().out)
    assert told(capsys, str(printed))["lengths"] == first["lengths"]


def test_a_part_of_a_project(project: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert told(capsys, str(project), "--scene", "Harbour")["lengths"] == [1.4, 1.6]
    assert told(capsys, str(project), "--order", "Trailer")["lengths"] == [1.4, 1.6]
    assert told(capsys, str(project), "--film", "four-shots.mp4")["shots"] == 4
    assert told(capsys, str(project), "--all-films", "--limit", "1.5")["under_limit"] == 0.25


def test_a_film_that_was_not_searched_is_said_to_be(
    four_shots: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    made = add_source(Project("Line 7"), open_source(four_shots).media)
    file = save_project(made, tmp_path / "new.offcut")
    assert main(["rhythm", str(file)]) == 0
    assert "its seams were not looked for yet" in capsys.readouterr().err


def test_what_is_set_aside_counts_where_it_is_asked_for(
    project: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    from offcut.core.store.project_file import open_project

    save_project(set_shot_aside(open_project(project), FIRST, 50, True), project)
    assert told(capsys, str(project))["shots"] == 3
    assert told(capsys, str(project), "--offcuts")["shots"] == 4


def test_others_stand_beside_with_a_rank_test(
    project: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    other = tmp_path / "ferry.csv"
    other.write_text("seconds\n" + "\n".join(["5.5", "6.25", "7", "8.5", "6", "9"] * 3))
    held = told(capsys, str(other), "--beside", str(project), "--beside", str(other))
    first, second = held["beside"]
    assert first["shots"] == 4
    assert first["longer"] == 1.0
    assert first["p"] is None  # four shots are too few
    assert second["p"] == pytest.approx(1.0)
    assert "may be chance" in second["words"]
    kept = tmp_path / "town.lengths.json"
    assert main(["rhythm", str(other), "--beside", str(project), "--keep", str(kept)]) == 0
    capsys.readouterr()
    again = told(capsys, str(kept))
    assert (again["shots"], [b["shots"] for b in again["beside"]]) == (18, [4])


def test_everything_is_written_and_named(
    project: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "out"
    out.mkdir()
    status = main([
        "rhythm", str(project), "--csv", str(out / "l.csv"), "--xlsx", str(out / "l.xlsx"),
        "--pdf", str(out / "p.pdf"), "--paper", "Letter", "--pictures", "1,3",
        "--svg", str(out / "svg"), "--png", str(out / "png"), "--keep", str(out / "r.lengths.json"),
    ])  # fmt: skip
    said = capsys.readouterr()
    assert status == 0
    assert said.out == ""
    names = [line.removeprefix("offcut: ") for line in said.err.splitlines()]
    assert all(Path(name).exists() for name in names)
    assert {"l.csv", "l-figures.csv", "l.xlsx", "p.pdf"} <= {Path(n).name for n in names}
    assert (out / "p.pdf").read_bytes().count(b"/Subtype /Image") == 3  # and the light
    (again,) = read_lengths(out / "r.lengths.json")
    assert again.held.tolist() == [1.6, 1.4, 1.8, 1.6]


def test_without_a_wish_it_prints_a_table(
    project: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["rhythm", str(project)]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[1].split() == ["Shots", "4"]
    assert any(line.startswith("Average length") for line in lines)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["nothing.offcut"], "there is no such file"),
        (["nothing.mov"], "there is no such file"),
        (["{project}", "--scene", "Depot"], "there is no scene “Depot”; there are: Harbour"),
        (["{project}", "--order", "X"], "there is no running order “X”; there are: Trailer"),
        (["{project}", "--film", "x.mov"], "there is no film x.mov"),
        (["{project}", "--scene", "Harbour", "--order", "Trailer"], "choose one film"),
        (["{project}", "--limit", "0"], "--limit"),
        (["{project}", "--smooth", "0"], "--smooth"),
        (["{project}", "--rate", "fast"], "not a frame rate"),
        (["{project}", "--beside", "nothing.edl"], "there is no such file"),
        (["{project}", "--pdf", "{folder}/p.pdf", "--pictures", "9"], "no shot “9”"),
        (["{folder}"], "there is no film in it"),
        (["{film}", "--scene", "A"], "a film has no films"),
        (["{words}"], "cannot be read"),
    ],
)
def test_what_cannot_be_done_is_one_sentence(
    words: list[str], says: str, project: Path, four_shots: Path, tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
) -> None:  # fmt: skip
    folder = tmp_path / "empty"
    folder.mkdir()
    text = tmp_path / "words.csv"
    text.write_text("only words\nand more\n")
    places = {"project": project, "film": four_shots, "folder": folder, "words": text}
    filled = [w.format(**places) for w in words]
    assert main(["rhythm", *filled, "--quiet"]) == 1
    said = capsys.readouterr()
    assert said.out == ""
    assert len(said.err.strip().splitlines()) == 1
    assert says in said.err or says == "cannot be read"
    assert "Traceback" not in said.err


def test_a_reader_that_has_enough_is_no_error(tmp_path: Path) -> None:
    film = tmp_path / "ferry.csv"
    film.write_text("seconds\n" + "1.5\n" * 50_000)
    words = [sys.executable, "-m", "offcut.cli", "rhythm", str(film), "--json"]
    with subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as ran:
        assert ran.stdout is not None
        assert ran.stderr is not None
        assert ran.stdout.read(20)
        ran.stdout.close()
        assert ran.stderr.read() == b""


def test_not_one_warning_is_printed_whatever_the_names_are(tmp_path: Path) -> None:
    film = tmp_path / "夜 $x^2$.csv"
    film.write_text("seconds,name\n" + "".join(f"{n + 1},\x1b[31m名{n}\n" for n in range(9)))
    words = ["rhythm", str(film), "--pdf", str(tmp_path / "p.pdf"), "--quiet"]
    ran = subprocess.run(
        [sys.executable, "-W", "default", "-m", "offcut.cli", *words],
        capture_output=True,
        text=True,
        check=True,
    )
    assert (ran.stdout, ran.stderr) == ("", "")
