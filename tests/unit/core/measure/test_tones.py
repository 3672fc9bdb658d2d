"""Light and colours of each frame: a column of strips, measured beside change."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode
from offcut.core.measure.ranges import measure_range, missing_ranges
from offcut.core.measure.registry import CHANGE, OURS, TONES
from offcut.core.measure.tones import CELLS, colours_of, kept_tones, light_of
from offcut.core.media.probe import open_source

RED, SEA, WHITE, BLACK = (190, 60, 50), (60, 110, 150), (255, 255, 255), (0, 0, 0)


def striped(upper: tuple[int, int, int], lower: tuple[int, int, int]) -> NDArray[np.uint8]:
    picture = np.empty((120, 160, 3), np.uint8)
    picture[:60], picture[60:] = upper, lower
    return picture


@pytest.fixture(scope="module")
def flags(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A film of three pictures, ten frames each, of two plain colours each."""

    def pictures() -> Iterator[NDArray[np.uint8]]:
        for upper, lower in ((RED, SEA), (WHITE, BLACK), (SEA, SEA)):
            yield from (striped(upper, lower) for _ in range(10))

    folder = tmp_path_factory.mktemp("flags")
    return encode(folder / "flags.mp4", pictures(), options={"crf": "8"})


def test_each_frame_is_ten_strips_from_the_top_down(flags: Path) -> None:
    film = open_source(flags)
    for _ in measure_range(film, 0, 30):
        pass
    tones, known = kept_tones(film.media, 0, 30)
    assert known.all()
    colours = colours_of(tones, film.media)
    assert colours.shape == (30, CELLS, 3)
    assert np.abs(colours[3, 0].astype(int) - RED).max() < 14
    assert np.abs(colours[3, -1].astype(int) - SEA).max() < 14
    assert np.abs(colours[25].astype(int) - SEA).max() < 14
    light = light_of(tones)
    assert light[12] == pytest.approx(50, abs=3)
    assert (light >= 0).all()
    assert (light <= 100).all()


def test_a_film_measured_before_gets_only_what_it_lacks(flags: Path) -> None:
    film = open_source(flags)
    for _ in measure_range(film, 0, 30, measurers=(CHANGE,)):
        pass
    assert missing_ranges(film.media, 0, 30, measurers=(CHANGE,)) == []
    assert missing_ranges(film.media, 0, 30, measurers=(TONES,)) == [(0, 30)]
    _, known = kept_tones(film.media, 0, 30)
    assert not known.any()
    runs = list(measure_range(film, 0, 30, measurers=OURS))
    assert {name for run in runs for name in run.signals} == {"tones", "prints"}
    _, known = kept_tones(film.media, 5, 25)
    assert known.all()
