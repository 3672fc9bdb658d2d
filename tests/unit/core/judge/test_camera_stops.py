"""Camera stops on rolls drawn for it: one cut each, their flash frames where they were asked."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode, scene
from offcut.core.errands.seams import find_seams
from offcut.core.judge.camera_stops import flashes, is_stop
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind
from offcut.core.model.seam_groups import seam_groups
from offcut.core.model.shots import is_counted
from offcut.core.model.ticket import Flash
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source
from projects import FIRST

TAKES = ((1, 30, 3, 2), (2, 25, 1, 3), (3, 28, 4, 1), (4, 30, 2, 0), (5, 26, 0, 0))
"""Seed, length, frames burnt out at the end, frames out of the white of the next."""
STOPS = (30, 55, 83, 113)


def burnt(pixels: NDArray[np.uint8], gain: float) -> NDArray[np.uint8]:
    """Return a picture exposed longer, as density shows it: lifted and flattened."""
    light = pixels / 255.0 * 0.5 + 0.15
    return (255 * np.clip(light + 0.17 * np.log2(gain), 0, 1)).astype(np.uint8)


def roll() -> Iterator[NDArray[np.uint8]]:
    white = 0
    for seed, length, out, following in TAKES:
        for t, picture in enumerate(scene(seed, length)):
            gain = 1.0
            if t >= length - out:
                gain = 2.0 ** (t - (length - out) + 1)
            elif t < white:
                gain = 2.0 ** (white - t)
            yield burnt(picture, gain)
        white = following


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> OpenedFilm:
    return open_source(encode(tmp_path_factory.mktemp("roll") / "roll.mov", roll()))


def counted(film: OpenedFilm, flash: Flash | None) -> Project:
    found = find_seams(film, stops=flash)
    project = add_source(Project(), film.media)
    return take_found(project, FIRST, found.seams, 0, film.media.frames)


def frames(project: Project, *, stops: bool = False) -> list[int]:
    source = project.source(FIRST)
    return [s.frame for s in source.seams if is_counted(s, source) and (is_stop(s) or not stops)]


def test_each_stop_is_one_cut_where_the_picture_changes(film: OpenedFilm) -> None:
    project = counted(film, Flash.SPLIT)
    assert frames(project) == list(STOPS)
    assert frames(project, stops=True) == list(STOPS)
    assert all(s.kind is Kind.CUT for s in project.source(FIRST).seams if is_stop(s))
    assert "flash frames" in project.source(FIRST).seams[0].reasons[0].text


def test_flash_frames_stay_with_the_shot_before_or_after(film: OpenedFilm) -> None:
    after_them = [s + len_ for s, (_, _, _, len_) in zip(STOPS, TAKES, strict=False)]
    before_them = [s - out for s, (_, _, out, _) in zip(STOPS, TAKES, strict=False)]
    assert frames(counted(film, Flash.BEFORE)) == pytest.approx(after_them, abs=1)
    assert frames(counted(film, Flash.AFTER)) == pytest.approx(before_them, abs=1)


def test_stops_are_a_group_of_their_own(film: OpenedFilm) -> None:
    groups = seam_groups(counted(film, Flash.SPLIT).source(FIRST).seams)
    (stops,) = [g for g in groups if g.words == "a camera stop"]
    assert len(stops.ids) == len(STOPS)
    assert not stops.against


def test_a_flash_within_one_shot_is_no_stop(tmp_path: Path) -> None:
    def flashed() -> Iterator[NDArray[np.uint8]]:
        for t, picture in enumerate(scene(7, 80)):
            yield burnt(picture, 8.0 if t in (40, 41) else 1.0)

    film = open_source(encode(tmp_path / "flash.mov", flashed()))
    found = find_seams(film, stops=Flash.SPLIT)
    assert flashes(found.signals) == []
    assert not any(is_stop(s) for s in found.seams)
