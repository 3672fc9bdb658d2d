"""Curves: pace, pulse, spread, thinning, and lanes along the axis."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from offcut.core.measure.tones import CELLS
from offcut.core.rhythm.curves import (
    kinship_of,
    pace_of,
    pulse_of,
    spread_of,
    thinned,
    usual_window,
)
from offcut.core.rhythm.figures import figures_of
from offcut.core.rhythm.lanes import BUNDLE, FilmSignals, lanes_of
from offcut.core.rhythm.lengths import lengths_of_film, lengths_of_scene, lengths_of_seconds
from projects import FIRST, cut_film

PAL = Fraction(25)


def test_pace_is_lengths_smoothed_over_shots() -> None:
    lengths = lengths_of_seconds("", [2.0] * 10 + [4.0] * 10)
    x, y = pace_of(lengths, 1)
    assert y.tolist() == lengths.held.tolist()
    assert x[:2].tolist() == [1.0, 3.0]
    _, smooth = pace_of(lengths, 7)
    assert smooth[0] == pytest.approx(2)
    assert smooth[-1] == pytest.approx(4)
    assert np.all(np.diff(smooth) >= 0)
    assert 2.5 < smooth[9] < 3 < smooth[10] < 3.5


def test_pulse_counts_cuts_in_a_sliding_minute() -> None:
    lengths = lengths_of_seconds("", [10.0] * 30 + [2.0] * 150)
    pulse = pulse_of(lengths)
    assert pulse.window == 60
    assert pulse.per_minute[len(pulse.moments) // 4] == pytest.approx(6, abs=1)
    assert pulse.per_minute[-100] == pytest.approx(30, abs=1.5)
    assert usual_window(100) == 10
    assert not len(pulse_of(lengths_of_seconds("", [4.0])).moments)


@given(st.lists(st.floats(0.1, 90), min_size=1, max_size=60), st.booleans())
def test_a_histogram_holds_every_shot_once(seconds: list[float], log: bool) -> None:
    lengths = lengths_of_seconds("", seconds)
    spread = spread_of(lengths, figures_of(lengths), log=log)
    assert int(spread.counts.sum()) == len(seconds)
    assert 5 <= len(spread.counts) <= 40
    assert spread.edges[0] <= min(seconds) * (1 + 1e-9)
    assert spread.edges[-1] >= max(seconds) * (1 - 1e-9)


def test_the_fitted_curve_has_the_area_of_the_histogram() -> None:
    rng = np.random.default_rng(2)
    lengths = lengths_of_seconds("", rng.lognormal(1, 0.5, 800).tolist())
    for log in (True, False):
        spread = spread_of(lengths, figures_of(lengths), log=log)
        x = np.log(spread.points) if log else spread.points
        edges = np.log(spread.edges) if log else spread.edges
        area = np.trapezoid(spread.curve, x)
        assert area == pytest.approx(float(edges[1] - edges[0]) * 800, rel=0.04)


@given(st.integers(3, 4000), st.integers(20, 900))
def test_thinning_keeps_the_highest_and_the_lowest(count: int, most: int) -> None:
    rng = np.random.default_rng(count)
    x, y = np.arange(float(count)), rng.random(count)
    thin_x, thin_y = thinned(x, y, -1, count + 1.0, most)
    assert (thin_y.min(), thin_y.max()) == (y.min(), y.max())
    assert np.all(np.diff(thin_x) >= 0)
    assert len(thin_x) <= max(most * 1.2 + 4, 2 * count / 3 + 4)


def test_kinship_is_spearmans_rank_correlation() -> None:
    rng = np.random.default_rng(3)
    a, b = rng.random(40), rng.random(40)
    found, expected = kinship_of(a, b), stats.spearmanr(a, b)
    assert found is not None
    assert (found.rho, found.p) == pytest.approx((expected.statistic, expected.pvalue))
    b[:35] = np.nan
    assert kinship_of(a, b) is None
    assert kinship_of(a, np.ones(40)) is None


def signals(frames: int) -> FilmSignals:
    ramp = np.arange(frames) % 251
    colours = np.repeat(np.repeat(ramp[:, None, None], CELLS, 1), 3, 2).astype(np.uint8)
    movement = np.ones(frames, np.float32)
    movement[[n for n in (100, 1801, 3600) if n < frames]] = 50  # what a cut does to the trace
    light = np.linspace(0, 100, frames, dtype=np.float32)
    return FilmSignals(colours, light, movement, np.full(frames, -20, np.float32), True, True)


def test_lanes_lie_along_the_axis_a_column_a_frame_or_a_bundle() -> None:
    lengths = lengths_of_film(cut_film(PAL, False).source(FIRST))
    lanes = lanes_of(lengths, {FIRST: signals(5000)})
    assert lanes is not None
    near = lanes.columns(40.0, 44.0, 100)  # a column a frame, from frame 1000 on
    assert near.colours[:, 0, 0].tolist() == [(1000 + n) % 251 for n in range(100)]
    whole = lanes.columns(0.0, 200.0, 40)  # 125 frames a column
    assert whole.colours.shape == (40, CELLS, 3)
    assert np.abs(whole.colours[3, 0, 0].astype(float) - np.mean(np.arange(375, 500) % 251)) < 30
    assert lanes.columns(0.0, 200.0, 5000 // BUNDLE).movement.max() == 1
    beyond = lanes.columns(190.0, 210.0, 20)
    assert np.isnan(beyond.movement[-1])
    assert np.isfinite(beyond.movement[0])


def test_a_cut_is_no_movement_and_shots_have_means_of_their_own() -> None:
    project = cut_film(PAL, False)
    lengths = lengths_of_film(project.source(FIRST))
    lanes = lanes_of(lengths, {FIRST: signals(5000)})
    assert lanes is not None
    assert lanes.movement.max() == 1
    means = lanes.a_shot(lanes.light, len(lengths))
    assert means[0] == pytest.approx(1, abs=0.1)
    assert np.all(np.diff(means) > 0)
    assert lanes_of(lengths, {}) is None
    assert lanes_of(lengths_of_seconds("", [1.0]), {FIRST: signals(5)}) is None
    gone = replace(signals(5000), movement=np.full(5000, np.nan, np.float32))
    blind = lanes_of(lengths, {FIRST: gone})
    assert blind is not None
    assert not blind.moves
    assert np.isnan(blind.a_shot(blind.movement, len(lengths))).all()


def test_lanes_of_a_scene_hold_its_shots_end_to_end() -> None:
    project = cut_film(PAL, False)
    scene = lengths_of_scene(project, 0)
    assert len(scene) == 0
    assert lanes_of(scene, {FIRST: signals(5000)}) is None
