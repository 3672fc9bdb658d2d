"""Figures, held against NIST's certified values, SciPy, statsmodels and Python's own statistics."""

from __future__ import annotations

import itertools
import math
import statistics
import warnings

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nist_sets import SETS, Certified
from scipy import stats
from statsmodels.regression.linear_model import OLS
from statsmodels.tools import add_constant
from statsmodels.tsa.stattools import acf, pacf

from offcut.core.model.seam import Kind
from offcut.core.rhythm.comparing import compared
from offcut.core.rhythm.figures import (
    FEW_SPECTRUM,
    autocorrelation,
    deviation,
    echo_of,
    figures_of,
    share_longer_than,
)
from offcut.core.rhythm.figures_out import figures_document
from offcut.core.rhythm.lengths import ShotLengths, lengths_of_seconds
from offcut.core.rhythm.rows import ROWS, detail_of

SECONDS = st.lists(st.floats(0.04, 600), min_size=0, max_size=80)


def held(*seconds: float) -> ShotLengths:
    return lengths_of_seconds("a film", seconds)


@pytest.mark.parametrize("known", SETS, ids=lambda k: k.name)
def test_mean_deviation_and_autocorrelation_are_those_nist_certifies(known: Certified) -> None:
    values = np.array(known.values)
    mean = math.fsum(values) / len(values)
    assert mean == pytest.approx(known.mean, rel=1e-14)
    # of NumAcc3 and 4 the decimals themselves are not exact in binary: eight digits are left
    assert deviation(values, mean) == pytest.approx(known.deviation, rel=1e-8)
    assert autocorrelation(values, 1)[0] == pytest.approx(known.autocorrelation, rel=1e-9)
    if min(known.values) > 0:
        figures = figures_of(held(*known.values))
        assert figures.mean == mean
        assert figures.sd == pytest.approx(known.deviation, rel=1e-8)
        assert figures.echo is not None
        assert figures.echo.values[0] == pytest.approx(known.autocorrelation, rel=1e-9)


def test_quartiles_are_those_of_a_worked_example() -> None:
    # Definition 7 of Hyndman and Fan (1996): value at 1 + p (n - 1). The eleven numbers are the
    # usual textbook example; worked by hand Q1 is halfway from 15 to 36, Q3 from 42 to 43.
    figures = figures_of(held(6, 7, 15, 36, 39, 40, 41, 42, 43, 47, 49))
    assert (figures.q1, figures.median, figures.q3) == (25.5, 40, 42.5)
    figures = figures_of(held(7, 15, 36, 39, 40, 41))
    assert (figures.q1, figures.median, figures.q3) == (20.25, 37.5, 39.75)


@given(SECONDS)
def test_quartiles_are_those_of_pythons_own_statistics(seconds: list[float]) -> None:
    figures = figures_of(held(*seconds))
    if len(seconds) >= 2:
        expected = statistics.quantiles(seconds, n=4, method="inclusive")
        assert [figures.q1, figures.median, figures.q3] == pytest.approx(expected)
        assert figures.sd == pytest.approx(statistics.stdev(seconds), rel=1e-9, abs=1e-12)


@given(SECONDS)
def test_no_lengths_make_a_warning_or_a_figure_that_is_no_number(seconds: list[float]) -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        lengths = held(*seconds)
        figures = figures_of(lengths)
        told = figures_document(lengths, figures)
        texts = [(r.shown(figures), r.why_none(figures), detail_of(r, figures)) for r in ROWS]
        compared(lengths, figures, lengths, figures)
    assert "nan" not in str(told)
    assert all("nan" not in part for row in texts for part in row)


@pytest.mark.parametrize(
    ("seconds", "none"),
    [
        ((), {"mean", "median", "sd", "skewness", "autocorrelation", "log_mean", "q1"}),
        ((2.0,), {"sd", "cv", "skewness", "autocorrelation", "log_sd"}),
        ((2.0, 3.0), {"skewness", "autocorrelation", "log_normal", "spectrum"}),
        ((2.0,) * 40, {"skewness", "autocorrelation", "log_normal", "slope"}),
    ],
)
def test_a_figure_that_would_mean_nothing_is_none_and_says_why(
    seconds: tuple[float, ...], none: set[str]
) -> None:
    lengths = held(*seconds)
    figures = figures_of(lengths)
    told = figures_document(lengths, figures)
    assert {name for name in none if told[name] is not None} == set()
    for row in ROWS:
        assert bool(row.why_none(figures)) == (row.value(figures) is None)


def test_ten_thousand_shots_have_every_figure() -> None:
    rng = np.random.default_rng(4)
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        figures = figures_of(held(*rng.lognormal(1, 0.6, 10_000).tolist()))
    assert all(r.value(figures) is not None for r in ROWS if r.id not in [*Kind, "gradual"])
    assert figures.fit is not None
    assert figures.fit.test == "D’Agostino–Pearson"


@given(st.lists(st.floats(0.1, 50), min_size=10, max_size=120))
def test_moments_and_fits_are_scipys(seconds: list[float]) -> None:
    if max(seconds) - min(seconds) < 0.01:
        return
    figures = figures_of(held(*seconds))
    assert figures.skewness == pytest.approx(float(stats.skew(seconds)), rel=1e-9, abs=1e-9)
    sigma, _, scale = stats.lognorm.fit(seconds, floc=0)
    assert figures.log_mean == pytest.approx(math.log(scale), abs=1e-6)
    n = len(seconds)
    assert figures.log_sd is not None
    assert figures.log_sd * math.sqrt((n - 1) / n) == pytest.approx(sigma, rel=1e-4)
    assert figures.fit is not None
    assert figures.fit.p == pytest.approx(float(stats.shapiro(np.log(seconds)).pvalue))


@given(st.lists(st.floats(0.1, 50), min_size=25, max_size=120), st.integers(1, 20))
def test_echo_and_its_bounds_are_those_of_statsmodels(seconds: list[float], lags: int) -> None:
    if max(seconds) - min(seconds) < 0.01:
        return
    echo = echo_of(np.array(seconds), lags)
    assert echo is not None
    expected, interval = acf(
        seconds, nlags=lags, alpha=0.05, fft=False, bartlett_confint=True, result_object=False
    )
    assert echo.values == pytest.approx(expected[1:], abs=1e-9)
    assert echo.bounds == pytest.approx((interval[1:, 1] - interval[1:, 0]) / 2, rel=1e-9)
    most = min(lags, len(seconds) // 2 - 1)
    partial, around = pacf(seconds, nlags=most, method="ywm", alpha=0.05)
    assert echo.partial[:most] == pytest.approx(partial[1:], abs=1e-6)
    assert echo.partial_bound == pytest.approx((around[1, 1] - around[1, 0]) / 2, rel=1e-9)


def test_the_line_and_its_confidence_are_those_of_statsmodels() -> None:
    rng = np.random.default_rng(1)
    lengths = held(*(rng.lognormal(1, 0.4, 60) + np.linspace(0, 2, 60)).tolist())
    line = figures_of(lengths).line
    assert line is not None
    fitted = OLS(lengths.held, add_constant(lengths.middles / 60)).fit()
    low, high = fitted.conf_int()[1]
    assert line.slope == pytest.approx(fitted.params[1])
    assert (line.low, line.high, line.p) == pytest.approx((low, high, fitted.pvalues[1]))
    assert figures_of(lengths).pace == pytest.approx(
        figures_of(lengths).last_third - figures_of(lengths).first_third
    )


def test_the_spectrums_slope_is_found_of_noise_made_with_one() -> None:
    rng = np.random.default_rng(5)

    def noise(slope: float, n: int = 1024) -> list[float]:
        frequency = np.fft.rfftfreq(n)[1:]
        wave = rng.normal(size=len(frequency)) + 1j * rng.normal(size=len(frequency))
        made = np.fft.irfft(np.concatenate([[0], wave * frequency ** (slope / 2)]), n)
        return (made / made.std() + 10).tolist()

    for slope in (0.0, -0.5, -1.0):
        found = [figures_of(held(*noise(slope))).spectrum for _ in range(12)]
        assert np.mean([s.slope for s in found if s]) == pytest.approx(slope, abs=0.1)
        assert sum(s.low <= slope <= s.high for s in found if s) >= 9
    assert figures_of(held(*noise(0.0)[: FEW_SPECTRUM - 1])).spectrum is None


def test_a_rank_test_of_small_numbers_is_that_of_counting_every_case() -> None:
    a, b = (1.1, 2.4, 3.0, 4.8, 9.1), (0.7, 1.9, 2.2, 2.9, 3.7)
    told = compared(held(*a), figures_of(held(*a)), held(*b), figures_of(held(*b)))
    wins = sum(x > y for x in a for y in b)
    both = (*a, *b)

    def won(chosen: tuple[int, ...]) -> int:
        rest = [both[n] for n in range(10) if n not in chosen]
        return sum(both[n] > y for n in chosen for y in rest)

    counts = [won(chosen) for chosen in itertools.combinations(range(10), 5)]
    tail = max(wins, 25 - wins)
    expected = sum(c >= tail or c <= 25 - tail for c in counts) / len(counts)
    assert told.p == pytest.approx(expected)
    assert told.longer == pytest.approx(wins / 25)


def test_what_differs_is_said_in_plain_words() -> None:
    slow = lengths_of_seconds("Night ferry", [6.0, 7.1, 8.2, 5.5, 9.3, 7.7, 6.4, 8.8])
    quick = lengths_of_seconds("Line 7", [1.0, 2.1, 1.2, 2.5, 1.3, 0.7, 2.4, 1.8])
    told = compared(quick, figures_of(quick), slow, figures_of(slow))
    assert told.words.startswith("Shots are held shorter than in Night ferry: the median is 1.55 s")
    assert "p under 0.001" in told.words
    same = compared(quick, figures_of(quick), quick, figures_of(quick))
    assert same.words.startswith("Shots are held about as long as in Line 7")
    one = held(3.0)
    assert "1 shot is too few" in compared(quick, figures_of(quick), one, figures_of(one)).words
    none = held()
    assert compared(quick, figures_of(quick), none, figures_of(none)).p is None


def test_a_shot_is_told_apart_by_how_many_it_is_longer_than() -> None:
    lengths = held(1, 2, 3, 4, 5)
    assert share_longer_than(lengths, 4) == 1.0
    assert share_longer_than(lengths, 0) == 0.0
    assert share_longer_than(lengths, 2) == 0.5
    assert share_longer_than(held(1), 0) is None


def test_every_figure_has_a_sentence_a_formula_and_a_source() -> None:
    for row in ROWS:
        assert row.sentence.endswith(".")
        assert row.formula
        assert row.source
    assert len({row.id for row in ROWS}) == len(ROWS)
