"""`offcut detect` on folders and runs: a line each, and whatever is set of all of them."""

from __future__ import annotations

import json
from fractions import Fraction
from itertools import chain
from pathlib import Path

import pytest

from films import encode, scene
from offcut.cli.main import main
from offcut.core.store.project_file import open_project
from scans import write_run


@pytest.fixture(scope="module")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("shelf")
    pictures = list(chain(*(scene(n, 20) for n in (1, 2, 3))))
    write_run(folder / "roll", pictures, name="r_{:04d}.png", first=300, holes=[305, 330, 331])
    encode(folder / "b10.mp4", chain(scene(4, 30), scene(5, 30)))
    encode(folder / "b9.mp4", chain(scene(6, 40), scene(7, 25)))
    (folder / "cut short.mov").write_bytes(b"nothing of a film" * 30)
    (folder / "list.txt").write_text("no film\n" * 50)
    return folder


def told(capsys: pytest.CaptureFixture[str], *words: str) -> tuple[int, list[dict], str]:
    status = main(["detect", *words, "--json", "--quiet"])
    said = capsys.readouterr()
    return status, [json.loads(line) for line in said.out.splitlines()], said.err


def test_a_folder_is_a_line_for_each_film_by_name_and_goes_on_after_a_bad_one(
    shelf: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    status, films, err = told(capsys, str(shelf))
    assert status == 1
    names = [Path(f["source"]["path"]).name for f in films]
    assert names == ["b9.mp4", "b10.mp4", "r_[0300-0359].png"]
    assert err.count("cut short.mov: not a film that can be read") == 1
    run = films[-1]["source"]
    assert (run["first"], run["holes"], run["pattern"]) == (
        300,
        [305, 330, 331],
        "r_[0300-0359].png",
    )
    assert (run["frames"], run["rate"]) == (60, "24/1")
    assert [s["frame"] for s in films[-1]["seams"] if s["counted"]] == [20, 40]
    assert "first" not in films[0]["source"]
    assert "tells no rate" in err


@pytest.mark.parametrize(
    ("holes", "cuts", "frames"),
    [("hold", [20, 40], 60), ("close", [19, 37], 57)],
)
def test_holes_rate_and_squeeze_are_said_of_runs(
    holes: str, cuts: list[int], frames: int, shelf: Path, tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
) -> None:  # fmt: skip
    kept = tmp_path / "roll.offcut"
    status, (film,), err = told(
        capsys, str(shelf / "roll/r_0301.png"), "--holes", holes, "--rate", "18",
        "--squeeze", "1.5",
        "--display", "cineon", "--save", str(kept),
    )  # fmt: skip
    assert status == 0
    assert (film["source"]["rate"], film["source"]["frames"]) == ("18/1", frames)
    assert [s["frame"] for s in film["seams"] if s["counted"]] == cuts
    assert "tells no rate" not in err
    (source,) = open_project(kept).sources
    assert source.media.pixel_shape == Fraction(3, 2)
    assert source.ticket.display == "cineon"
    assert source.searched


def test_projects_one_for_each_film_or_one_for_all(
    shelf: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    status, films, _ = told(capsys, str(shelf), "--save", str(tmp_path / "each"))
    assert (status, len(films)) == (1, 3)
    names = sorted(p.name for p in (tmp_path / "each").glob("*.offcut"))
    assert names == ["b10.offcut", "b9.offcut", "r_[0300-0359].offcut"]
    again, films, err = told(capsys, str(shelf), "--save", str(tmp_path / "each"))
    assert (again, films) == (1, [])
    assert err.count("is there already") == 3
    whole = tmp_path / "all.offcut"
    both = (str(shelf / "b9.mp4"), str(shelf / "roll"), str(shelf / "b9.mp4"))
    status, films, err = told(capsys, *both, "--project", str(whole))
    assert (status, len(films)) == (0, 2)
    assert "is in the project already" in err
    project = open_project(whole)
    assert [Path(s.media.path).name for s in project.sources] == ["b9.mp4", "r_[0300-0359].png"]
    assert all(s.searched for s in project.sources)


def test_wrong_calls_and_bad_input(
    shelf: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for words in (["--rate", "0"], ["--squeeze", "99"], ["--holes", "fill"], ["--crop", "all"]):
        with pytest.raises(SystemExit) as ended:
            main(["detect", str(shelf), *words])
        assert ended.value.code == 2
    capsys.readouterr()
    assert main(["detect", str(shelf / "b9.mp4"), "--display", "moonlight"]) == 1
    assert (
        "there is no display “moonlight”; there are: film log (Cineon)" in capsys.readouterr().err
    )
    empty = tmp_path / "empty"
    empty.mkdir()
    assert main(["detect", str(empty)]) == 1
    assert "there is no film in it" in capsys.readouterr().err
    assert main(["detect", str(tmp_path / "gone_[1-9].dpx")]) == 1
    assert "there are no such pictures" in capsys.readouterr().err
