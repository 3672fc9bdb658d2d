"""Edges: they stay where only the light changes, and say so beside OpenCV's own edge finder."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from films import scene
from offcut.core.measure.edges import PACKED, edges_kept, edges_of

SMALL = (64, 40)


def small(seed: int, frames: int = 1) -> np.ndarray:
    """The luma of a shot as small pictures, (n, 40, 64)."""
    grey = [cv2.cvtColor(p, cv2.COLOR_RGB2GRAY) for p in scene(seed, frames)]
    return np.stack([cv2.resize(p, SMALL, interpolation=cv2.INTER_AREA) for p in grey])


def lit(picture: np.ndarray, x: float, y: float, reach: float) -> np.ndarray:
    """A picture under a lamp: dark all over, and bright around a place."""
    yy, xx = np.mgrid[0:40, 0:64].astype(np.float32)
    pool = np.exp(-((xx - x) ** 2 + (yy - y) ** 2) / (2 * reach**2))
    found = picture * (0.45 + 0.7 * pool) + 70 * pool
    return np.clip(found, 0, 255).astype(np.uint8)


def canny_kept(one: np.ndarray, other: np.ndarray) -> float:
    """The share of one picture's edges, by OpenCV's Canny, that are near the other's."""
    ours, theirs = (cv2.Canny(p, 20, 50) > 0 for p in (one, other))
    if ours.sum() > theirs.sum():
        ours, theirs = theirs, ours
    near = cv2.dilate(theirs.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    return float((ours & near).sum() / max(1, ours.sum()))


def test_the_edges_of_a_shot_stay_under_a_lamp_and_in_a_flash_and_those_of_others_do_not() -> None:
    pictures = np.concatenate([small(seed) for seed in range(12)])
    plain = edges_of(pictures)
    lamp = edges_of(np.stack([lit(p, 12 + 3 * i, 14, 16) for i, p in enumerate(pictures)]))
    burnt = edges_of(np.clip(pictures * 1.6 + 60.0, 0, 255).astype(np.uint8))
    assert np.median(edges_kept(lamp, plain)[:, 0]) > 0.8
    assert edges_kept(lamp, plain)[:, 0].min() > 0.5
    others = edges_kept(np.roll(plain, 1, axis=0), plain)[:, 0]
    assert np.abs(np.median(others)) < 0.2
    assert others.max() < 0.55
    in_flash = edges_kept(burnt, plain)[:, 0]  # of some shots next to nothing is left
    assert np.median(in_flash) > 0.7
    assert (in_flash > others).all()


def test_where_opencv_finds_the_edges_again_so_do_we() -> None:
    """Against cv2.Canny (Canny 1986): the order of pairs by how many of their edges are shared."""
    pictures = [small(seed)[0] for seed in range(10)]
    pairs = [(lit(p, 30, 18, 20), p) for p in pictures]
    pairs += pairwise(pictures)
    ours = edges_kept(*(edges_of(np.stack(side)) for side in zip(*pairs, strict=True)))[:, 0]
    theirs = np.array([canny_kept(*pair) for pair in pairs])
    ranks = [np.argsort(np.argsort(v.astype(float))) for v in (ours, theirs)]
    assert np.corrcoef(*ranks)[0, 1] > 0.6


@given(st.integers(0, 20), st.integers(21, 40))
@settings(max_examples=12, deadline=None)
def test_how_pictures_are_put_together_makes_no_difference(first: int, last: int) -> None:
    pictures = np.random.default_rng(3).integers(0, 256, (40, 40, 64), np.uint8)
    whole = edges_of(pictures)
    assert whole.shape == (40, PACKED)
    assert (edges_of(pictures[first:last]) == whole[first:last]).all()


@pytest.mark.parametrize("level", [0, 16, 255])
def test_a_picture_of_one_tone_has_no_edges_and_shares_none(level: int) -> None:
    flat = edges_of(np.full((1, 40, 64), level, np.uint8))
    assert not flat.any()
    assert edges_kept(flat, edges_of(small(3))).tolist() == [[0.0, 0.0]]


def test_noise_shares_what_chance_brings_together_and_no_more() -> None:
    noise = np.random.default_rng(5).integers(0, 256, (60, 40, 64), np.uint8)
    kept = edges_kept(edges_of(noise[:30]), edges_of(noise[30:]))
    assert np.abs(kept.mean()) < 0.05


def test_letters_that_come_leave_the_edges_of_the_picture_with_fewer() -> None:
    pictures = small(8)
    lettered = pictures.copy()
    cv2.putText(lettered[0], "PORT ANSEL", (8, 30), cv2.FONT_HERSHEY_PLAIN, 0.6, 250, 1)
    fewer, other = edges_kept(edges_of(lettered), edges_of(pictures))[0].tolist()
    assert fewer > 0.5
    assert fewer >= other - 0.2
