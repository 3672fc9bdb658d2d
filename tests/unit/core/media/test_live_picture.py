"""The live picture is found by itself: bars, a gate, and nothing where there is nothing."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from films import barred, encode, scene
from offcut.core.errands.bringing_in import framing_wanted, with_framing
from offcut.core.media.live_picture import FoundFraming, find_framing
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty
from offcut.core.model.source import WHOLE, Framed, Framing
from offcut.core.model.verbs.searching import set_framing
from offcut.core.model.verbs.sources import add_source
from projects import FIRST
from scans import in_a_gate

SIZE, LIVE = (320, 240), (52, 14, 304, 228)


def shots(many: int = 8, long: int = 12) -> Iterator[NDArray[np.uint8]]:
    for seed in range(1, many + 1):
        yield from scene(seed, long)


def found(path: Path, *, thorough: bool = False) -> FoundFraming:
    film = open_source(path)
    return find_framing(film, 0, film.media.frames, thorough=thorough)


@pytest.fixture(scope="module")
def roll(tmp_path_factory: pytest.TempPathFactory) -> Path:
    pictures = (in_a_gate(p, SIZE, LIVE, n) for n, p in enumerate(shots()))
    return encode(tmp_path_factory.mktemp("roll") / "roll.mov", pictures, options={"g": "6"})


def test_a_gate_with_perforations_is_found_and_lies_inside_the_picture(roll: Path) -> None:
    told = found(roll)
    sides = (told.framing.left, told.framing.top, told.framing.right, told.framing.bottom)
    true = (LIVE[0], LIVE[1], SIZE[0] - LIVE[2], SIZE[1] - LIVE[3])
    assert all(0 <= side - at <= 8 for side, at in zip(sides, true, strict=True)), sides
    assert told.certainty is Certainty.SURE
    assert told.words == "gate and perforations"
    assert told.pictures >= 10


def test_bars_are_found_quickly_and_surely(tmp_path: Path) -> None:
    bars = Framing(0, 24, 0, 24)
    path = encode(tmp_path / "bars.mp4", barred(shots(), bars, 4), options={"g": "8"})
    told = found(path)
    assert (told.framing, told.certainty, told.words) == (bars, Certainty.SURE, "black bars")


def test_a_picture_on_a_ground_of_one_tone_is_framed(tmp_path: Path) -> None:
    sides = Framing(24, 16, 24, 16)
    grounded = []
    for picture in barred(shots(), sides):
        outside = np.ones(picture.shape[:2], bool)
        outside[sides.top : -sides.bottom, sides.left : -sides.right] = False
        picture[outside] = (12, 70, 30)
        grounded.append(picture)
    path = encode(tmp_path / "tone.mp4", grounded, options={"g": "8"})
    found = find_framing(open_source(path), 0, len(grounded))
    assert (found.framing, found.certainty) == (sides, Certainty.SURE)
    assert found.words == "a ground of one tone"


def test_a_film_without_bars_is_whole(tmp_path: Path) -> None:
    told = found(encode(tmp_path / "full.mp4", shots(), options={"g": "8"}))
    assert (told.framing, told.words) == (WHOLE, "no bars")


def test_titles_on_black_are_no_bars(tmp_path: Path) -> None:
    def titles() -> Iterator[NDArray[np.uint8]]:
        rng = np.random.default_rng(2)
        for _ in range(12):
            card = np.full((112, 192, 3), 4, np.uint8)
            for row in range(40, 72, 10):
                wide = int(rng.integers(20, 70))
                card[row : row + 6, 96 - wide : 96 + wide : 3] = 230
            for _ in range(8):
                yield card

    told = found(encode(tmp_path / "titles.mp4", titles(), options={"g": "8"}))
    assert told.certainty is not Certainty.SURE


def test_only_what_is_sure_is_taken_and_what_a_person_set_stays(roll: Path) -> None:
    film = open_source(roll)
    project = add_source(Project(), film.media)
    assert framing_wanted(project.source(FIRST))
    unsure = FoundFraming(Framing(0, 8, 0, 8), Certainty.LIKELY, "black bars", 9)
    assert with_framing(project, FIRST, unsure) == project
    gate = FoundFraming(Framing(20, 8, 20, 8), Certainty.SURE, "gate", 20)
    taken = with_framing(project, FIRST, gate).source(FIRST)
    assert (taken.framing, taken.framed) == (gate.framing, Framed.FOUND)
    assert taken.ticket.stops is True  # behind a gate lies a scan
    by_hand = set_framing(project, FIRST, Framing(0, 2, 0, 2))
    assert with_framing(by_hand, FIRST, gate) == by_hand
    assert not framing_wanted(by_hand.source(FIRST))
