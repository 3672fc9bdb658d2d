"""Which shots look like one place, and which have the same pictures.

Photographs from scikit-learn's wheel (open, see its documentation) stand for places.
"""

from __future__ import annotations

import importlib.util
from pathlib import Path

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from offcut.core.facts.looks import LookIndex, frames_to_look_at, likeness_to, look_of
from offcut.core.facts.places import WIDE, PlaceFinder, alike_groups
from offcut.core.facts.repeats import MovingPictures, candidates, repeat_of
from offcut.core.model.card import NO_CARD
from offcut.core.model.seam import Kind, Seam
from offcut.core.model.shots import Shot

Picture = NDArray[np.uint8]


@pytest.fixture(scope="module")
def photos() -> list[Picture]:
    found = importlib.util.find_spec("sklearn")
    assert found is not None
    assert found.submodule_search_locations
    folder = Path(found.submodule_search_locations[0]) / "datasets/images"
    return [cv2.imread(str(folder / n))[..., ::-1].copy() for n in ("china.jpg", "flower.jpg")]


def framed(photo: Picture, x: float, y: float, share: float, seed: int, light: float) -> Picture:
    """Cut a framing out of a photograph, somebody before it, in some light."""
    rng = np.random.default_rng(seed)
    wide = photo.shape[1] * share
    left, top = photo.shape[1] * x + rng.normal(0, 3), photo.shape[0] * y + rng.normal(0, 3)
    cut = cv2.getRectSubPix(photo, (int(wide), int(wide * 9 / 16)), (left, top))
    small = cv2.resize(cut, (160, 90), interpolation=cv2.INTER_AREA).astype(np.float32) * light
    at = (int(40 + 30 * rng.random()), 80)
    cv2.ellipse(small, at, (14, 34), 0, 0, 360, rng.uniform(10, 200, 3).tolist(), -1)
    return np.clip(small + rng.normal(0, 3, small.shape), 0, 255).astype(np.uint8)


def test_set_ups_that_come_back_are_put_together_and_not_mixed(photos: list[Picture]) -> None:
    china, flower = photos
    setups = [(china, 0.3, 0.35, 0.5), (china, 0.72, 0.6, 0.45), (flower, 0.5, 0.5, 0.7)]
    order = [0, 1, 0, 1, 2, 0, 2, 1]
    pictures = [
        [framed(*setups[s], seed=10 * n + k, light=0.8 + 0.05 * n) for k in range(3)]
        for n, s in enumerate(order)
    ]
    looks = [look_of((0, 1, 2), p) for p in pictures]
    finder = PlaceFinder(looks, lambda n, k: pictures[n][k])
    groups = [g for g in alike_groups(len(order), finder.pairs()) if g.setup]
    assert sorted(g.shots for g in groups) == [(0, 2, 5), (1, 3, 7), (4, 6)]
    assert all(60 < g.likeness <= 100 for g in groups)
    # likeness at a glance agrees
    alike = likeness_to(looks[0], looks)
    assert alike[0] == 100
    assert min(alike[[2, 5]]) > max(alike[[1, 3, 4, 6, 7]])


def test_a_nearer_framing_is_the_same_place_and_no_set_up(photos: list[Picture]) -> None:
    china = photos[0]
    pictures = [
        [framed(china, 0.5, 0.5, share, seed=k + n, light=1.0) for k in range(3)]
        for n, share in enumerate((0.8, 0.5))
    ]
    finder = PlaceFinder([look_of((0, 1, 2), p) for p in pictures], lambda n, k: pictures[n][k])
    (found,) = finder.pairs().values()
    assert not found.same
    assert found.scale == pytest.approx(0.5 / 0.8, abs=0.06)
    (group,) = alike_groups(2, finder.pairs())
    assert group.shots == (0, 1)
    assert not group.setup


def test_bars_and_a_logo_make_no_place() -> None:
    rng = np.random.default_rng(4)
    pictures = []
    for _ in range(14):
        noise = rng.integers(0, 255, (18, 32, 3)).astype(np.uint8)
        picture = cv2.resize(noise, (160, 90), interpolation=cv2.INTER_CUBIC)
        picture[:12] = picture[-12:] = 0
        cv2.putText(picture, "PORT ANSEL", (90, 26), 0, 0.35, (255, 255, 255), 1)
        pictures.append([picture])
    finder = PlaceFinder([look_of((0,), p) for p in pictures], lambda n, k: pictures[n][k])
    assert finder.pairs() == {}


def moving(photo: Picture, frames: int) -> list[Picture]:
    """A shot whose camera pans while somebody crosses; grey, as wide as repeats are looked at."""
    out = []
    for t in range(frames):
        cut = cv2.getRectSubPix(photo, (320, 180), (200 + 1.5 * t, 180 + 0.2 * t)).copy()
        cv2.circle(cut, (int(20 + 4 * t) % 320, 120), 26, (20, 200, 60), -1)
        grey = cv2.cvtColor(cut, cv2.COLOR_RGB2GRAY)
        out.append(cv2.resize(grey, (WIDE, 108), interpolation=cv2.INTER_AREA))
    return out


def run(greys: list[Picture]) -> MovingPictures:
    return MovingPictures(np.arange(len(greys)), greys)


def test_the_same_pictures_are_told_also_flopped_slowed_and_nearer(photos: list[Picture]) -> None:
    shot = moving(photos[0], 80)
    first = run(shot[:60])
    same = repeat_of(first, run(shot[5:50]))
    assert same is not None
    assert same.words == "the same pictures"
    flop = repeat_of(first, run([g[:, ::-1].copy() for g in shot[5:50]]), flopped=True)
    assert flop is not None
    assert flop.words == "flopped"
    slow = repeat_of(first, run([shot[5 + k // 2] for k in range(80)]))
    assert slow is not None
    assert slow.speed == pytest.approx(0.5, abs=0.05)
    back = repeat_of(first, run(shot[50:5:-1]))
    assert back is not None
    assert "backwards" in back.words
    zoom = cv2.getRotationMatrix2D((WIDE / 2, 54), 0, 1.3)
    near = repeat_of(first, run([cv2.warpAffine(g, zoom, (WIDE, 108)) for g in shot[5:50]]))
    assert near is not None
    assert near.scale == pytest.approx(1.3, abs=0.06)
    assert "closer" in near.words


def test_the_same_set_up_filmed_again_is_no_repeat(photos: list[Picture]) -> None:
    rng = np.random.default_rng(2)
    still = cv2.resize(cv2.cvtColor(photos[0], cv2.COLOR_RGB2GRAY), (WIDE, 108))

    def take(speed: float, start: float) -> list[Picture]:
        out = []
        for t in range(50):
            g = still.copy()
            cv2.circle(g, (int(start + speed * t), 60), 22, 250, -1)
            out.append(np.clip(g + rng.normal(0, 2, g.shape), 0, 255).astype(np.uint8))
        return out

    assert repeat_of(run(take(2.5, 10)), run(take(-1.1, 180))) is None
    assert repeat_of(run(moving(photos[0], 40)), run(moving(photos[1], 40))) is None
    assert repeat_of(run(take(1, 5)[:5]), run(take(1, 5)[:5])) is None  # too short to tell


def test_flopped_shots_are_candidates(photos: list[Picture]) -> None:
    china = photos[0]
    plain = [framed(china, 0.4, 0.5, 0.6, seed=k, light=1.0) for k in range(3)]
    flopped = [np.ascontiguousarray(p[:, ::-1]) for p in plain]
    pictures = [plain, flopped]
    looks = [look_of((0, 1, 2), p) for p in pictures]
    finder = PlaceFinder(looks, lambda n, k: pictures[n][k])
    assert (0, 1, True) in candidates(finder, finder.pairs())
    index = LookIndex(looks)
    assert index.far(0, 1, flopped=True)[0] < index.far(0, 1)[0]


def test_frames_that_are_looked_at_lie_clear_of_mixes() -> None:
    seam = Seam(1, 110, 100, 120, kind=Kind.DISSOLVE)
    shot = Shot(2, 110, 300, NO_CARD, seam)
    frames = frames_to_look_at(shot, 280, 24)
    assert len(frames) == 3
    assert min(frames) >= 120
    assert max(frames) < 280
    assert all(f % 24 == 0 for f in frames)
    assert frames_to_look_at(Shot(1, 7, 8, NO_CARD, None), 8, 24) == (7,)
