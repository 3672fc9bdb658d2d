"""`offcut originals`: camera files by reel and timecode, by name, by picture; what follows."""

from __future__ import annotations

import csv
import json
import shutil
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio
import pytest
from aaf2 import open as open_aaf

from films import encode, scene
from offcut.cli.main import main
from offcut.core.model.seam import Certainty
from offcut.core.model.verbs.cards import name_shot
from offcut.core.store.project_file import open_project, save_project
from versions import Picture, graded

pytestmark = pytest.mark.usefixtures("measured_once")

LAST = {"A001C001": 120, "A001C002": 110, "A001C003": 100, "A001C009": 70}
"""How many frames each camera file has."""


def shots() -> Iterator[Picture]:
    """A film of three shots: one plain, one flopped, one at twice the speed; all graded."""
    first, second, third = (list(scene(40 + n, LAST[f"A001C00{n}"])) for n in (1, 2, 3))
    yield from map(graded, first[30:75])
    yield from (graded(p[:, ::-1]) for p in second[20:60])
    yield from map(graded, third[10:90:2])


@pytest.fixture(scope="module")
def rushes(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with a film, and one of its camera files, of which one is used nowhere."""
    folder = tmp_path_factory.mktemp("rushes")
    (folder / "camera").mkdir()
    for name, frames in LAST.items():
        tags = {"timecode": f"10:0{name[-1]}:00:00"}
        options = {"crf": "16"}
        pictures = scene(40 + int(name[-1]), frames)
        encode(folder / "camera" / f"{name}.mov", pictures, options=options, tags=tags)
    (folder / "camera" / "notes.txt").write_text("no film")
    encode(folder / "film.mp4", shots(), options={"crf": "16"})
    return folder


def told(rushes: Path, capsys: pytest.CaptureFixture[str], *more: object) -> dict[str, object]:
    words = ["originals", rushes / "film.mp4", rushes / "camera", "--json", "--quiet", *more]
    assert main(list(map(str, words))) == 0
    found: dict[str, object] = json.loads(capsys.readouterr().out)
    return found


def test_pictures_tell_file_frame_speed_and_flop(
    rushes: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    found = told(rushes, capsys)
    rows = found["shots"]
    assert isinstance(rows, list)
    wanted = [("A001C001", 30, 75, 1.0, False), ("A001C002", 20, 60, 1.0, True),
              ("A001C003", 10, 89, 2.0, False)]  # fmt: skip
    assert [
        (Path(r["file"]).stem, r["in"], r["out"], r["speed"], r["flopped"]) for r in rows
    ] == wanted
    assert {r["by"] for r in rows} == {"picture"}
    assert rows[0]["start"] == 0
    assert rows[0]["end"] == 45
    assert found["unused"] == [str(rushes / "camera" / "A001C009.mov")]
    assert found["without"] == []


def test_the_lists_point_to_the_files_at_full_range_with_their_timecodes(
    rushes: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    files = {f: tmp_path / f"cut.{f}" for f in ("edl", "otio", "xml", "aaf")}
    words = [w for form, file in files.items() for w in (f"--{form}", file)]
    pull = tmp_path / "pull.csv"
    told(rushes, capsys, *words, "--pull", pull, "--handles", 5, "--save", tmp_path / "p.offcut")
    clip = next(iter(otio.adapters.read_from_file(str(files["otio"])).find_clips()))
    media = clip.media_reference
    start = otio.opentime.from_timecode("10:01:00:00", 25)
    assert media.target_url.endswith("/camera/A001C001.mov")
    assert media.available_range.start_time == start
    assert media.available_range.duration.value == LAST["A001C001"]
    assert clip.source_range.start_time.value == start.value + 30
    lines = files["edl"].read_text().splitlines()
    event = next(x for x in lines if x.startswith("001"))
    assert event.split()[4:6] == ["10:01:01:05", "10:01:03:00"]
    assert "* SOURCE FILE: A001C001.mov" in lines
    assert "A001C001.mov" in files["xml"].read_text()
    with open_aaf(str(files["aaf"]), "r") as aaf:
        assert {"A001C001", "A001C002"} <= {m.name.split(".")[0] for m in aaf.content.mobs}
    rows = list(csv.DictReader(pull.read_text("utf-8-sig").splitlines()))
    assert [(r["file"], int(r["first frame"]), int(r["after frame"])) for r in rows] == [
        ("A001C001.mov", 25, 80),
        ("A001C002.mov", 15, 65),
        ("A001C003.mov", 5, 94),
    ]
    kept = open_project(tmp_path / "p.offcut").sources[0].first.original
    assert kept is not None
    assert kept.file is not None
    assert kept.file.frames == LAST["A001C001"]
    assert kept.speed == Fraction(1)


def test_a_reel_and_a_timecode_come_first_and_the_picture_tells_when_they_are_wrong(
    rushes: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    listed = tmp_path / "cut.edl"
    listed.write_text(
        "TITLE: LINE 7\nFCM: NON-DROP FRAME\n\n"
        "001  A001C001 V     C        10:01:01:05 10:01:03:00 01:00:00:00 01:00:01:20\n"
        "002  A001C009 V     C        10:09:00:00 10:09:01:15 01:00:01:20 01:00:03:10\n"
    )
    project = tmp_path / "film.offcut"
    film = rushes / "film.mp4"
    words = ["detect", film, "--list", listed, "--save", project, "--quiet", "--json"]
    assert main(list(map(str, words))) == 0
    capsys.readouterr()
    words = ["originals", project, rushes / "camera", "--json", "--quiet"]
    assert main(list(map(str, words))) == 0
    rows = json.loads(capsys.readouterr().out)["shots"]
    assert (rows[0]["by"], rows[0]["in"], rows[0]["certainty"]) == ("timecode", 30, "sure")
    assert (rows[1]["by"], Path(rows[1]["file"]).stem) == ("picture", "A001C002")
    assert "its timecode leads elsewhere, to another picture" in rows[1]["reasons"]


def test_a_name_tells_the_file_and_the_picture_its_frames(
    rushes: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    told(rushes, capsys, "--save", tmp_path / "a.offcut")
    project = open_project(tmp_path / "a.offcut")
    project = name_shot(project, project.sources[0].id, 0, "A001C001.mov")
    plain = project.sources[0].first
    source = replace(project.sources[0], first=replace(plain, original=None))
    named = tmp_path / "b.offcut"
    save_project(replace(project, sources=(source,)), named)
    assert main(["originals", str(named), str(rushes / "camera"), "--json", "--quiet"]) == 0
    row = json.loads(capsys.readouterr().out)["shots"][0]
    assert (row["by"], row["in"], row["certainty"]) == ("name", 30, Certainty.SURE.value)


@pytest.mark.parametrize("folder", ["nowhere", "empty", "texts"])
def test_a_folder_without_an_original_is_one_sentence(
    rushes: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], folder: str
) -> None:
    for name in ("empty", "texts"):
        (tmp_path / name).mkdir()
    for n in range(300):
        (tmp_path / "texts" / f"{n}.txt").write_text("x")
    assert main(["originals", str(rushes / "film.mp4"), str(tmp_path / folder), "--quiet"]) == 1
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert folder in said


def test_an_original_that_cannot_be_read_is_told_and_the_others_are_found(
    rushes: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    shutil.copytree(rushes / "camera", tmp_path / "camera")
    broken = tmp_path / "camera" / "A001C004.mov"
    broken.write_bytes((tmp_path / "camera" / "A001C001.mov").read_bytes()[:900])
    words = ["originals", rushes / "film.mp4", tmp_path / "camera", "--json"]
    assert main(list(map(str, words))) == 0
    out = capsys.readouterr()
    assert all(r["file"] for r in json.loads(out.out)["shots"])
    assert "A001C004.mov" in out.err


def test_every_pair_is_put_on_paper(
    rushes: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    told(rushes, capsys, "--pdf", tmp_path / "pairs.pdf")
    page = (tmp_path / "pairs.pdf").read_bytes()
    assert page.startswith(b"%PDF")
    assert page.count(b"/Subtype /Image") >= 6  # three shots, each beside its original
    words = ["originals", rushes / "film.mp4", rushes / "camera", "--pdf", tmp_path / "x.txt"]
    assert main(list(map(str, words))) == 1
    assert "--pdf writes a file that ends in .pdf" in capsys.readouterr().err
