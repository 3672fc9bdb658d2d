"""The command line's contract: one JSON object on standard output and nothing else."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from calls import called
from offcut.cli.main import main


def offcut(*words: object, **extra: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "offcut.cli", *map(str, words)],
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, **extra},
    )


def test_detect_prints_one_json_object(four_shots: Path) -> None:
    done = called("detect", four_shots, "--json")
    told = json.loads(done.stdout)
    assert done.returncode == 0
    assert list(told) == ["offcut", "source", "sensitivity", "seams", "shots"]
    assert told["source"] == {
        "path": str(four_shots),
        "rate": "25/1",
        "frames": 160,
        "start": "01:00:00:00",
        "width": 192,
        "height": 112,
        "framing": [0, 0, 0, 0],
        "fields": None,
    }
    counted = [s for s in told["seams"] if s["counted"]]
    assert [s["frame"] for s in counted] == [40, 75, 120]
    assert counted[0]["timecode"] == "01:00:01:15"
    assert set(counted[0]) == {
        "frame",
        "timecode",
        "kind",
        "start",
        "end",
        "score",
        "certainty",
        "counted",
        "reasons",
    }
    assert told["shots"][1] == {
        "number": 2,
        "start": 40,
        "end": 75,
        "timecode_in": "01:00:01:15",
        "timecode_out": "01:00:03:00",
    }


def test_a_range_may_be_told_in_timecode_or_frames(four_shots: Path) -> None:
    told = json.loads(
        called("detect", four_shots, "--json", "--in", "01:00:02:00", "--out", "130").stdout
    )
    assert [(s["start"], s["end"]) for s in told["shots"]] == [(50, 75), (75, 120), (120, 130)]


def test_lists_are_written_beside(four_shots: Path, tmp_path: Path) -> None:
    edl, otio, rows = (tmp_path / f"shots.{s}" for s in ("edl", "otio", "csv"))
    done = called("detect", four_shots, "--edl", edl, "--otio", otio, "--csv", rows, "--quiet")
    assert done.returncode == 0
    assert "4 shots written to" in done.stdout
    assert edl.read_text().count("FROM CLIP NAME") == 4
    assert otio.exists()
    assert len(rows.read_text().splitlines()) == 5


def test_a_wrong_call_exits_2_and_a_wrong_range_1(four_shots: Path) -> None:
    assert called("detect").returncode == 2
    assert called("detect", four_shots, "--sensitivity", "120").returncode == 2
    done = called("detect", four_shots, "--in", "100", "--out", "20")
    assert (done.returncode, len(done.stderr.splitlines())) == (1, 1)
    done = called("detect", four_shots, "--crop", "9000:10:0:0")
    assert done.returncode == 1
    assert "crop" in done.stderr


def test_without_a_display_the_window_says_so_in_one_sentence() -> None:
    done = offcut("demo", QT_QPA_PLATFORM="", DISPLAY="", WAYLAND_DISPLAY="")
    assert done.returncode == 1
    assert done.stderr.startswith("offcut: there is no display")
    assert len(done.stderr.splitlines()) == 1


def test_a_list_that_marks_places_gives_markers_and_one_that_cannot_be_read_ends_first(
    four_shots: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    notes = tmp_path / "notes\x1b[2J.txt"
    notes.write_text("00:00:01 bell\n00:00:03 door\nwhat\n")
    assert main(["detect", str(four_shots), "--list", str(notes), "--json", "--quiet"]) == 0
    told = capsys.readouterr()
    made = json.loads(told.out)
    assert [(m["start"], m["name"]) for m in made["markers"]] == [(25, "bell"), (75, "door")]
    assert "2 of 2 places lie on the film" in told.err
    assert "\x1b" not in told.err
    cuts = ["detect", str(four_shots), "--list", str(notes), "--list-as", "alone", "--quiet"]
    assert main(cuts) == 1
    assert "no join of the list falls inside" in capsys.readouterr().err
    bad = tmp_path / "bad.aaf"
    bad.write_bytes(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 nothing")
    assert main(["detect", str(four_shots), "--list", str(bad), "--quiet"]) == 1
    assert capsys.readouterr().err == f"offcut: {bad}: not an AAF, or damaged\n"


def test_a_hundred_thousand_bad_lines_are_not_printed(
    four_shots: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "long.edl"
    events = [(0, 40), (40, 75), (75, 122)]
    rows = [
        f"{n:03d}  A  V  C  {ends} {ends}"
        for n, (a, b) in enumerate(events, 1)
        for ends in [f"01:00:0{a // 25}:{a % 25:02d} 01:00:0{b // 25}:{b % 25:02d}"]
    ]
    path.write_text("\n".join([*rows, *["a stranger"] * 100_000]))
    assert main(["detect", str(four_shots), "--list", str(path), "--json", "--quiet"]) == 0
    lines = capsys.readouterr().err.splitlines()
    assert len(lines) < 30
    assert lines[-1] == "offcut: long.edl: and 99,980 more lines"
