"""The motion of pictures moved by known amounts, also where things move in front."""

from __future__ import annotations

import math
import pickle

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from offcut.core.facts.camera_path import PAN, ROLL, TILT, ZOOM, path_of
from offcut.core.measure.camera import HIGH, WIDE, Camera, motion_between
from offcut.core.measure.small_pictures import SmallPictures

LARGE = 8


def place(seed: int) -> NDArray[np.float32]:
    """A picture with something to see at every size, four times as large as is looked at."""
    rng = np.random.default_rng(seed)
    size = (HIGH * LARGE * 2, WIDE * LARGE * 2)
    made = sum(
        cv2.resize(
            rng.normal(0, 14 * s**0.5, (size[0] // s, size[1] // s)).astype(np.float32), size[::-1]
        )
        for s in (8, 16, 40, 120)
    )
    return np.asarray(128 + made, np.float32)


def view(
    picture: NDArray[np.float32], x: float = 0, y: float = 0, zoom: float = 1, roll: float = 0
) -> NDArray[np.uint8]:
    """What a camera sees that went so many widths right and up, zoomed in and rolled right."""
    wide, high = WIDE * LARGE, HIGH * LARGE
    cx, cy = picture.shape[1] / 2 + x * wide, picture.shape[0] / 2 - y * wide
    c, s = math.cos(-roll) * zoom, math.sin(-roll) * zoom
    m = np.array([[c, -s, wide / 2 - c * cx + s * cy], [s, c, high / 2 - s * cx - c * cy]])
    seen = cv2.warpAffine(picture, m, (wide, high), flags=cv2.INTER_CUBIC)
    small = cv2.resize(seen, (WIDE, HIGH), interpolation=cv2.INTER_AREA)
    return cv2.GaussianBlur(np.clip(small, 0, 255).astype(np.uint8), (5, 5), 1.0)


def run_of(pictures: list[NDArray[np.uint8]], start: int = 0) -> SmallPictures:
    n = len(pictures)
    return SmallPictures(
        start, np.zeros((n, 40, 64), np.uint8), np.zeros((n, 2, 20, 32), np.uint8),
        np.zeros(n, np.bool_), np.zeros((0, 40, 64), np.uint8), {"camera": np.stack(pictures)},
    )  # fmt: skip


def told_of(pictures: list[NDArray[np.uint8]]) -> NDArray[np.float64]:
    camera = Camera()
    signals = camera.compare([], camera.prepare(run_of(pictures)))
    return path_of(signals["motion"], signals["fit"].astype(np.float32), WIDE / HIGH).steps[1:]


@pytest.mark.parametrize(
    ("way", "kind", "step"),
    [
        ({"x": 1}, PAN, 0.006), ({"x": -1}, PAN, 0.02), ({"y": 1}, TILT, 0.006),
        ({"y": -1}, TILT, 0.015), ({"roll": 1}, ROLL, 0.01),
    ],
)  # fmt: skip
def test_a_known_step_is_measured_to_a_twentieth(
    way: dict[str, int], kind: int, step: float
) -> None:
    ((name, sign),) = way.items()
    photo = place(1)
    told = told_of([view(photo, **{name: sign * step * t}) for t in range(6)])
    assert told[:, kind] == pytest.approx(sign * step, rel=0.06)
    others = [k for k in (PAN, TILT, ROLL) if k != kind]
    assert np.abs(told[:, others]).max() < 0.1 * step


def test_a_zoom_is_measured_by_its_factor() -> None:
    photo = place(2)
    told = told_of([view(photo, zoom=1.008**t) for t in range(6)])
    assert told[:, ZOOM] == pytest.approx(math.log(1.008), rel=0.08)


def test_what_goes_in_front_does_not_fool_it() -> None:
    photo, other = place(3), place(4)
    pictures = []
    for t in range(8):
        seen = view(photo, x=0.004 * t)
        near = view(other, x=-0.03 * t)
        seen[20:, 40:105] = near[20:, 40:105]  # a third of the picture, nearer and the other way
        pictures.append(seen)
    assert told_of(pictures)[:, PAN] == pytest.approx(0.004, rel=0.1)


def test_a_flat_picture_tells_nothing_and_a_dim_one_does() -> None:
    flat = np.full((HIGH, WIDE), 90, np.uint8)
    assert motion_between(flat, flat).share == 0
    photo = place(5)
    dim = [(view(photo, x=0.01 * t) // 6 + 16).astype(np.uint8) for t in range(4)]
    assert told_of(dim)[:, PAN] == pytest.approx(0.01, rel=0.1)


def test_a_film_in_runs_gives_the_same_to_the_byte() -> None:
    photo, camera = place(6), Camera()
    pictures = [view(photo, x=0.01 * t, y=0.003 * t) for t in range(9)]
    whole = camera.compare([], camera.prepare(run_of(pictures)))
    first = camera.prepare(run_of(pictures[:4]))
    rest = camera.prepare(run_of(pictures[4:], 4))
    again = pickle.loads(pickle.dumps(first))
    for name in camera.arrays:
        parts = [camera.compare([], first)[name], camera.compare([again], rest)[name]]
        assert np.concatenate(parts).tobytes() == whole[name].tobytes()
