"""Which field comes first, told from pictures woven for it."""

from __future__ import annotations

from itertools import islice
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode, pulled_down, scene, woven
from offcut.core.judge.cadence import pulldown
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.fields_seen import first_field, plausible
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.ticket import Fields
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.ticket import set_fields


def planes(pictures: list[NDArray[np.uint8]]) -> list[NDArray[np.uint8]]:
    return [p[..., 1] for p in pictures]


def runs(first: str) -> list[list[NDArray[np.uint8]]]:
    return [planes(list(woven(scene(seed, 14), first))) for seed in (1, 2, 3)]


@pytest.mark.parametrize("first", ["top", "bottom"])
def test_the_earlier_field_is_told_by_what_moves(first: str) -> None:
    assert first_field(runs(first)) == first


@pytest.mark.parametrize("first", ["top", "bottom"])
def test_24_pictures_in_60_fields_tell_it_as_well(first: str) -> None:
    told = [planes(list(woven(pulled_down(scene(seed, 12)), first))) for seed in (4, 5, 6)]
    assert first_field(told) == first


def test_whole_pictures_are_not_woven_and_still_ones_do_not_tell() -> None:
    assert first_field([planes(list(scene(seed, 7))) for seed in (1, 2, 3)]) == ""
    still = next(scene(1, 1))[..., 1]
    assert first_field([[still] * 6] * 3) is None
    assert first_field([]) is None


def test_a_cut_among_the_pictures_does_not_outweigh_the_others() -> None:
    cut = planes([*islice(scene(7, 9), 3), *islice(scene(8, 9), 3)])
    assert first_field([cut, *runs("bottom")]) == "bottom"


@pytest.mark.parametrize(
    ("height", "rate", "may"),
    [(576, 25.0, True), (1080, 29.97, True), (720, 25.0, False), (576, 50.0, False)],
)
def test_only_some_heights_and_rates_may_be_interlaced(height: int, rate: float, may: bool) -> None:
    assert plausible(height, rate) is may


def test_a_film_that_does_not_say_so_is_seen_to_be_interlaced(tmp_path: Path) -> None:
    pictures = (p for seed in (1, 2) for p in scene(seed, 50, 240, 480))
    path = encode(tmp_path / "woven.mp4", woven(pictures, "bottom"), options={"crf": "18"})
    film = open_source(path)
    assert film.media.fields == "bottom"
    assert film.fields
    assert film.media.codec == "H.264, interlaced"
    project = add_source(Project(), film.media)
    (source,) = project.sources
    assert crop_of(source).first == "bottom"
    (source,) = set_fields(project, source.id, Fields.NONE).sources
    assert crop_of(source).first == ""
    (source,) = set_fields(project, source.id, Fields.TOP).sources
    assert crop_of(source).first == "top"


def test_the_pattern_of_24_in_60_is_told_with_its_breaks() -> None:
    rng = np.random.default_rng(1)

    def of(frames: int, phase: int) -> NDArray[np.float32]:
        places = (np.arange(frames) + phase) % 5
        own, before = rng.uniform(3, 9, (2, frames))
        told = np.where(np.isin(places, (2, 3)), (own, before * 0.02), (own * 0.02, before))
        told[:, places == 4] = 0.05
        return told.T.astype(np.float32)

    whole = pulldown(of(200, 0))
    assert whole is not None
    assert whole.breaks == ()
    assert whole.share == 1.0
    broken = pulldown(np.concatenate([of(60, 0), of(70, 3), of(90, 1)]), start=1000)
    assert broken is not None
    assert broken.breaks == pytest.approx((1060, 1130), abs=2)
    assert pulldown(rng.uniform(3, 9, (200, 2))) is None
    assert pulldown(np.zeros((200, 2))) is None
