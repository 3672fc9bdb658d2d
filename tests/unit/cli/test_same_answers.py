"""The same answers as ever: what is found in films that come with the project, to the byte.

Whoever changes measuring or judging on purpose changes these hashes, and says why.
"""

from __future__ import annotations

import hashlib
import json
from pathlib import Path

import pytest

from offcut.cli.main import main
from offcut.demo import FILM

HASHES = {
    FILM.name: "6a15ae38e797c2cdca513653fbeb953e",  # drawn anew: its people have faces
    "bikes.mp4": "c369e1857f9d457a313082397b5414d8",
}


def answer(film: Path, capsys: pytest.CaptureFixture[str]) -> str:
    """Hash what is told of a film, but for where it lies and who tells it."""
    assert main(["detect", str(film), "--json", "--quiet"]) == 0
    told = json.loads(capsys.readouterr().out)
    del told["source"]["path"], told["source"]["framing"], told["offcut"]
    return hashlib.sha256(json.dumps(told).encode()).hexdigest()[:32]


def test_the_demo_film(capsys: pytest.CaptureFixture[str]) -> None:
    assert answer(FILM, capsys) == HASHES[FILM.name]


def test_open_footage(bikes: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert answer(bikes, capsys) == HASHES["bikes.mp4"]


def test_several_films_are_told_one_after_another(
    four_shots: Path, bikes: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    broken = tmp_path / "broken.mp4"
    broken.write_bytes(b"nothing")
    status = main(["detect", str(four_shots), str(broken), str(bikes), "--json", "--quiet"])
    told = capsys.readouterr()
    assert status == 1
    films = [json.loads(line) for line in told.out.splitlines()]
    assert [Path(f["source"]["path"]).name for f in films] == ["four-shots.mp4", "bikes.mp4"]
    assert told.err.count("broken.mp4") == 1


def test_a_list_is_for_one_film(four_shots: Path, tmp_path: Path) -> None:
    with pytest.raises(SystemExit) as ended:
        main(["detect", str(four_shots), str(four_shots), "--edl", str(tmp_path / "a.edl")])
    assert ended.value.code == 2
