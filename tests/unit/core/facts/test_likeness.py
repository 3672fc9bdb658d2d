"""Likeness: a sliver goes to the neighbour it looks like, and a flash to the shot before."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from films import encode, scene
from offcut.core.facts.likeness import Likeness, likeness_of
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader


def likeness(path: Path, start: int, end: int, low: int, high: int) -> Likeness:
    film = open_source(path)
    with open_reader(film, Purpose.PLAY) as reader:
        return likeness_of(reader, start, end, low, high)


@pytest.fixture(scope="module")
def slivered(films: Path) -> Path:
    """Two shots of 30 frames; the three frames between belong to the first, to the second."""
    before, after = list(scene(61, 40)), list(scene(62, 40))
    return encode(films / "slivered.mp4", [*before[:30], *after[:30]])


def test_it_goes_to_the_side_it_looks_like(slivered: Path) -> None:
    assert likeness(slivered, 27, 30, 0, 60).side == -1
    assert likeness(slivered, 30, 33, 0, 60).side == 1
    assert "the one after" in likeness(slivered, 30, 33, 0, 60).words


def test_at_the_films_ends_there_is_one_neighbour(slivered: Path) -> None:
    assert likeness(slivered, 0, 3, 0, 60) == Likeness(1, "its only neighbour")
    assert likeness(slivered, 57, 60, 0, 60) == Likeness(-1, "its only neighbour")


def test_a_flash_stays_with_the_shot_before(films: Path) -> None:
    before, after = list(scene(63, 30)), list(scene(64, 30))
    lit = [np.clip(p.astype(int) + 120, 0, 255).astype(np.uint8) for p in after[:2]]
    path = encode(films / "lit.mp4", [*before, *lit, *after[2:]])
    assert likeness(path, 30, 32, 0, 60) == Likeness(-1, "a flash, stays with the shot before")
