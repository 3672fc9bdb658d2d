"""What a camera did, told from paths that are known."""

from __future__ import annotations

import numpy as np
import pytest

from offcut.core.facts.camera_moves import camera_of
from offcut.core.facts.camera_path import PAN, ROLL, TILT, ZOOM, CameraPath, goes_in
from offcut.core.facts.fact import FactCertainty
from offcut.core.facts.steadiness import steadiness_of

RATE = 25.0


def path(*parts: tuple[int, dict[int, float]], noise: float = 0.0) -> CameraPath:
    """A path of stretches: so many frames, and by how much a frame goes each way."""
    length = sum(n for n, _ in parts)
    steps = np.random.default_rng(5).normal(0, noise or 1e-9, (length, 4))
    at = 0
    for n, way in parts:
        for kind, step in way.items():
            steps[at : at + n, kind] += step
        at += n
    return CameraPath(steps, np.ones(length), np.zeros(length))


@pytest.mark.parametrize(
    ("kind", "step", "word", "speed"),
    [
        (PAN, 0.008, "pan right", 0.2),
        (PAN, -0.008, "pan left", 0.2),
        (TILT, 0.008, "tilt up", 0.2),
        (TILT, -0.004, "tilt down", 0.1),
        (ZOOM, np.log(1.2) / RATE, "zoom in", 1.2),
        (ZOOM, -np.log(1.2) / RATE, "zoom out", 1 / 1.2),
        (ROLL, np.radians(10) / RATE, "roll right", 10),
        (ROLL, -np.radians(10) / RATE, "roll left", 10),
        (PAN, 0.09, "whip", 2.25),
    ],
)
def test_a_move_is_told_with_its_frames_and_speed(
    kind: int, step: float, word: str, speed: float
) -> None:
    length = 8 if word == "whip" else 40
    told = camera_of(path((30, {}), (length, {kind: step}), (30, {}), noise=2e-4), RATE)
    assert [f.value for f in told] == ["still", word, "still"]
    move = told[1]
    assert abs(move.start - 30) <= 4
    assert abs(move.end - 30 - length) <= 4
    share = length / (move.end - move.start) if word == "whip" else 1  # the mean of what is told
    assert move.figures["speed"] == pytest.approx(speed * share, rel=0.1 if kind != ZOOM else 0.02)
    assert move.certainty is FactCertainty.SURE


def test_what_is_felt_most_is_told_where_two_go_together() -> None:
    told = camera_of(path((50, {PAN: 0.01, ZOOM: 0.002})), RATE)
    assert [f.value for f in told] == ["pan right"]


def test_single_frames_that_jump_are_no_move() -> None:
    camera = path((60, {}))
    camera.steps[20, PAN] = 0.06
    assert [f.value for f in camera_of(camera, RATE)] == ["still"]


def test_nothing_is_told_where_nothing_is_known() -> None:
    unknown = CameraPath(np.zeros((50, 4)), np.zeros(50), np.zeros(50))
    assert camera_of(unknown, RATE) == []
    assert steadiness_of(unknown, RATE) == []
    assert camera_of(path((2, {})), RATE) == []


def test_stretches_never_overlap_and_lie_inside_the_shot() -> None:
    rng = np.random.default_rng(11)
    for _ in range(60):
        n = int(rng.integers(1, 200))
        wild = np.cumsum(rng.normal(0, 0.004, (n, 4)), axis=0) * rng.uniform(0, 1)
        share = rng.uniform(0, 1, n)
        told = camera_of(CameraPath(wild, share, rng.uniform(0, 1, n)), RATE)
        edges = [e for f in told for e in (f.start, f.end)]
        assert edges == sorted(edges)
        assert all(0 <= f.start < f.end <= n for f in told)


@pytest.mark.parametrize(
    ("stray", "grade"), [(0.0004, "steady"), (0.002, "slight"), (0.006, "medium"), (0.03, "strong")]
)
def test_steadiness_is_graded_by_how_far_the_path_strays(stray: float, grade: str) -> None:
    n = 100
    places = np.sqrt(2) * stray * np.sin(2 * np.pi * 3 * np.arange(n) / RATE)
    camera = path((n, {PAN: 0.004}))
    camera.steps[1:, TILT] += np.diff(places)
    told = steadiness_of(camera, RATE)
    assert [f.value for f in told] == [grade]
    assert told[0].figures["strays"] == pytest.approx(stray, rel=0.15)


def test_an_even_pan_is_steady_to_its_ends() -> None:
    told = steadiness_of(path((60, {PAN: 0.02})), RATE)
    assert [f.value for f in told] == ["steady"]
    assert told[0].figures["strays"] == pytest.approx(0, abs=1e-6)


@pytest.mark.filterwarnings("error")
@pytest.mark.parametrize("seed", range(12))
def test_a_camera_that_is_put_down_is_steady_from_there_on(seed: int) -> None:
    camera = path((120, {}))
    camera.steps[:] = 0
    camera.steps[:40] = np.random.default_rng(seed).normal(0, 0.02, (40, 4))
    told = steadiness_of(camera, RATE)
    assert told[-1].value == "steady"
    assert told[-1].end == 120


def test_a_slow_pan_goes_and_noise_does_not() -> None:
    goes = goes_in(path((50, {}), (50, {PAN: 0.001}), (50, {}), noise=2e-4), RATE)
    assert goes[60:90].all()
    assert not goes[:30].any()
    assert not goes[-30:].any()
    unsure = path((50, {PAN: 0.001}))
    unsure.share[:] = 0.35
    assert not goes_in(unsure, RATE).any()
