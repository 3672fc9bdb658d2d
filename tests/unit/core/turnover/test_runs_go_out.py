"""Runs of stills handed over: as lists that name the sequence, as movies, stills and sheets."""

from __future__ import annotations

import csv
import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import opentimelineio as otio
import pytest

from films import number_in, picture_of
from offcut.core.errands.bringing_in import bring_in
from offcut.core.media.display import CINEON
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.ticket import (
    set_display,
    set_file_numbers,
    set_rate,
    set_reel,
    set_squeeze,
)
from offcut.core.turnover.checks import checked
from offcut.core.turnover.plan import plan_of
from offcut.core.turnover.writing import hand_over
from projects import FIRST
from scans import deep, write_run

Run = tuple[Project, OpenedFilm]


@pytest.fixture
def roll(tmp_path: Path) -> Run:
    """A run from number 1001 on, cut at its eighth frame."""
    pictures = [deep(picture_of(n)) for n in range(20)]
    told = {"dpx:FrameRate": 24.0, "dpx:Transfer": "Printing density"}
    write_run(tmp_path / "roll", pictures, first=1001, bits=10, told=told)
    film = open_source(tmp_path / "roll/K07_1001.dpx")
    return place_seam(bring_in(Project(name="Roll"), film), FIRST, 8), film


def test_a_timeline_names_the_sequence(roll: Run, tmp_path: Path) -> None:
    project, film = roll
    hand_over(plan_of(project, Asked(lists=("otio",))), tmp_path / "out", {FIRST: film})
    (path,) = (tmp_path / "out").glob("*.otio")
    timeline = otio.adapters.read_from_file(str(path))
    first, second = list(timeline.find_clips())
    media = second.media_reference
    assert isinstance(media, otio.schema.ImageSequenceReference)
    assert (media.name_prefix, media.name_suffix) == ("K07_", ".dpx")
    assert (media.start_frame, media.frame_zero_padding, media.rate) == (1001, 4, 24)
    assert media.target_url_for_image_number(8).endswith("/roll/K07_1009.dpx")
    assert first.source_range.duration.value == 8


def test_frames_are_counted_as_files_are_numbered_where_that_is_asked(
    roll: Run, tmp_path: Path
) -> None:
    project, film = roll
    asked = Asked(lists=("csv", "json", "edl"))
    project = set_reel(set_file_numbers(project, FIRST, True), FIRST, "K07")
    hand_over(plan_of(project, asked), tmp_path / "out", {FIRST: film})
    rows = list(csv.DictReader((tmp_path / "out/Roll.csv").open(encoding="utf-8-sig")))
    head = next(h for h in rows[0] if h.lower() in ("start frame", "start", "first frame"))
    assert [int(r[head]) for r in rows] == [1001, 1009]
    told = json.loads((tmp_path / "out/Roll.json").read_text())
    shots = told["shots"] if "shots" in told else told["events"]
    assert [(s["start"], s["end"]) for s in shots] == [(1001, 1009), (1009, 1021)]
    lines = (tmp_path / "out/Roll.edl").read_text().splitlines()
    assert any(line.startswith("002  K07") and "00:00:42:01" in line for line in lines)  # 1009


def test_movies_hold_the_log_unless_what_is_seen_is_asked_for(roll: Run, tmp_path: Path) -> None:
    project, film = roll
    plain = Asked(lists=(), movies="ffv1")
    hand_over(plan_of(project, plain), tmp_path / "log", {FIRST: film})
    hand_over(plan_of(project, replace(plain, seen=True)), tmp_path / "seen", {FIRST: film})
    shown = {}
    for name in ("log", "seen"):
        movie = open_source(sorted((tmp_path / name).glob("*.mkv"))[1])
        assert (movie.media.frames, movie.media.rate, movie.media.start) == (12, 24, 8)
        with open_reader(movie, Purpose.PLAY) as reader:
            shown[name] = rgb_of(reader.frame(3), 160, 96)
    assert number_in(shown["log"]) == 11
    with open_reader(film, Purpose.HAND_OVER) as reader:
        own = rgb_of(reader.frame(11), 160, 96)
    assert np.abs(shown["log"].astype(int) - own).max() <= 1
    assert shown["seen"].max() > own.max() + 20


def test_stills_and_sheets_are_as_the_display_shows_them_and_unsqueezed(
    roll: Run, tmp_path: Path
) -> None:
    project, film = roll
    assert project.source(FIRST).ticket.display == CINEON  # by its header
    project = set_squeeze(project, FIRST, Fraction(2))
    asked = Asked(lists=(), stills="first", sheets=("png",))
    bare = set_display(project, FIRST, "")
    for name, made in (("seen", project), ("log", bare)):
        hand_over(plan_of(made, asked), tmp_path / name, {FIRST: film})
    seen, log = (
        cv2.imread(str(tmp_path / n / "Roll-002.png"), cv2.IMREAD_UNCHANGED)
        for n in ("seen", "log")
    )
    assert seen.dtype == np.uint16
    assert seen.shape == log.shape == (96, 320, 3)
    assert seen.max() > log.max() + 20 * 257


def test_packets_of_stills_cannot_be_copied_and_are_never_written_over(
    roll: Run, tmp_path: Path
) -> None:
    project, film = roll
    plan = plan_of(project, Asked(lists=(), movies="copy"))
    words = [r.words for r in checked(plan, tmp_path, films={FIRST: film})]
    assert "Stills have no packets to copy: choose a codec" in words
    over = Asked(lists=(), stills="first", pattern="K07_{number}", padding=4, first=1001)
    project = set_rate(project, FIRST, Fraction(18))
    run = film.media.run
    assert run is not None
    assert run.holds_name("K07_1001.dpx")
    assert not run.holds_name("K07_0001.dpx")
    assert not run.holds_name("K07_01001.dpx")
    assert plan_of(project, over).outputs[0].name == "K07_1001.png"


def test_a_rate_set_by_hand_goes_along(roll: Run, tmp_path: Path, four_shots: Path) -> None:
    project, film = roll
    project = set_rate(project, FIRST, Fraction(18))
    hand_over(plan_of(project, Asked(lists=("edl",), movies="h264")), tmp_path / "a", {FIRST: film})
    movie = open_source(sorted((tmp_path / "a").glob("*.mov"))[0])
    assert movie.media.rate == 18
    tape = open_source(four_shots)
    slow = set_rate(bring_in(Project(), tape), FIRST, Fraction(50, 3))
    again = as_set(tape, slow.source(FIRST))
    assert again.media.rate == Fraction(50, 3)
    assert again.index.times is tape.index.times
    assert again.index.time_base == tape.index.time_base * Fraction(25) / Fraction(50, 3)
    back = set_rate(slow, FIRST, None)
    assert back.source(FIRST) == bring_in(Project(), tape).source(FIRST)
