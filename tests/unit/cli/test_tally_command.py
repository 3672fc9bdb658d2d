"""`offcut tally`: one JSON object, the change list in its forms, one sentence for what cannot."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import opentimelineio as otio
import pytest

from offcut.cli.main import main
from offcut.core.lists.edl.reading import read_edl
from offcut.core.store.project_file import open_project
from offcut.core.timecode import PAL
from versions import FIRST, SECOND, film, finished_otherwise

pytestmark = pytest.mark.usefixtures("measured_once")


@pytest.fixture(scope="module")
def both(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    folder = tmp_path_factory.mktemp("versions")
    return (
        film(folder / "first.mp4", FIRST),
        film(folder / "second.mp4", SECOND, finished_otherwise),
    )


def test_the_changes_are_one_json_object(
    both: tuple[Path, Path], capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["tally", *map(str, both), "--json", "--quiet"]) == 0
    told = json.loads(capsys.readouterr().out)
    change = told["changes"][1]
    assert change == {
        "change": "shorter", "moved": False, "old": [40, 75], "new": [40, 68], "head": 0,
        "tail": -7, "speed": 1.0, "certainty": change["certainty"], "reasons": change["reasons"],
    }  # fmt: skip
    assert [c["change"] for c in told["changes"]].count("same") == 4
    assert told["changes"][2]["new"] is None
    assert told["unchanged"][0] == {"old": [0, 68], "new": [0, 68]}


def test_the_change_list_is_kept_in_every_form(
    both: tuple[Path, Path], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    forms = {f: tmp_path / f"changes.{f}" for f in ("pdf", "csv", "edl", "otio")}
    words = [w for form, file in forms.items() for w in (f"--{form}", str(file))]
    assert main(["tally", *map(str, both), *words, "--quiet"]) == 0
    assert capsys.readouterr().out == ""
    page = forms["pdf"].read_bytes()
    assert page.startswith(b"%PDF")
    assert page.count(b"/Subtype /Image") >= 8  # both pictures of four, and one of the others
    rows = list(csv.reader(forms["csv"].read_text("utf-8-sig").splitlines()))
    assert [r[0] for r in rows[1:4]] == ["same", "shorter", "gone"]
    locators = {m.name for m in read_edl(forms["edl"], PAL).markers}
    assert {"7 frames off at its tail", "gone, 50 frames", "a new shot of 30 frames"} <= locators
    timeline = otio.adapters.read_from_file(str(forms["otio"]))
    names = {m.name for clip in timeline.find_clips() for m in clip.markers}
    assert "same place, other picture" in names


def test_without_a_form_the_changes_are_read_on_the_terminal(
    both: tuple[Path, Path], capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["tally", *map(str, both), "--quiet"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert "00:00:01:15  Shot 2: 7 frames off at its tail" in lines
    assert "00:00:03:00 in the old version  Shot 3: gone, 50 frames" in lines
    assert lines[-1] == "4 shots the same"


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("{first}", "{gone}"), "nowhere.mp4"),
        (("{first}", "{empty}"), "empty.edl"),
        (("{first}", "{second}", "--pdf", "changes.csv"), "--pdf writes a file that ends in .pdf"),
        (("{first}", "{film}", "--old-film", "x.mov"), "they are two films"),
    ],
)
def test_what_cannot_be_compared_is_one_sentence(
    both: tuple[Path, Path],
    four_shots: Path,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    words: tuple[str, ...],
    said: str,
) -> None:
    (tmp_path / "empty.edl").write_text("")
    places = {
        "first": both[0], "second": both[1], "gone": tmp_path / "nowhere.mp4",
        "empty": tmp_path / "empty.edl", "film": four_shots,
    }  # fmt: skip
    assert main(["tally", *(w.format(**places) for w in words), "--quiet"]) == 1
    told = capsys.readouterr()
    assert told.out == ""
    assert told.err.count("\n") == 1
    assert said in told.err


def test_a_project_with_both_is_kept_and_an_old_one_is_not_written_over(
    both: tuple[Path, Path], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    kept = tmp_path / "both.offcut"
    assert main(["tally", *map(str, both), "--save", str(kept), "--quiet"]) == 0
    assert len(open_project(kept).sources) == 2
    before = kept.read_bytes()
    assert main(["tally", *map(str, both), "--save", str(kept), "--quiet"]) == 1
    assert "both.offcut: is there already" in capsys.readouterr().err
    assert kept.read_bytes() == before
