"""Films and other versions of them, cut from the same takes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from fractions import Fraction
from functools import cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from films import encode, scene

Picture = NDArray[np.uint8]
Part = tuple[int, int, int]
"""A take's seed, and the frames [start, end) of it that are used."""
FIRST: tuple[Part, ...] = (
    (11, 10, 50), (12, 10, 45), (13, 10, 60), (14, 10, 40), (15, 10, 55), (16, 10, 50),
    (17, 10, 45), (18, 10, 60),
)  # fmt: skip
"""The first version: eight shots of 40, 35, 50, 30, 45, 40, 35 and 50 frames."""
SECOND: tuple[Part, ...] = (
    (11, 10, 50),
    (12, 10, 38),  # seven frames off its tail
    (14, 10, 40),  # the one before it is gone
    (15, 4, 55),  # six frames more at its head
    (19, 10, 40),  # new
    (16, 10, 50),
    (20, 10, 45),  # another picture where 17 was
    (18, 10, 60),
)


@cache
def _take(seed: int) -> tuple[Picture, ...]:
    """Return a whole take; drawn once, for many films are cut from it."""
    return tuple(scene(seed, 60))


def cut(parts: Iterable[Part]) -> Iterator[Picture]:
    """Yield the pictures of a film cut from takes, which have 60 frames each."""
    for seed, start, end in parts:
        yield from _take(seed)[start:end]


def graded(picture: Picture) -> Picture:
    """Return a picture with another grade."""
    shown = 255 * (picture / 255.0) ** 0.8 * np.array([0.95, 1.0, 0.88]) + 6
    return np.clip(shown, 0, 255).astype(np.uint8)


def finished_otherwise(pictures: Iterable[Picture]) -> Iterator[Picture]:
    """Yield pictures as another house would finish them: graded, cropped a little, larger, with a
    running clock.
    """
    for n, picture in enumerate(pictures):
        high, wide = picture.shape[:2]
        inner = graded(picture)[4 : high - 4, 6 : wide - 6]
        large = cv2.resize(inner, (256, 144), interpolation=cv2.INTER_LINEAR)
        box = np.zeros((14, 84, 3), np.uint8)
        cv2.putText(box, f"01:00:{n // 25:02d}:{n % 25:02d}", (3, 11), 0, 0.36, (240,) * 3, 1)
        large[124:138, 86:170] = box
        yield np.asarray(large, np.uint8)


def film(
    path: Path,
    parts: Iterable[Part],
    finish: Callable[[Iterable[Picture]], Iterable[Picture]] = iter,
    rate: Fraction = Fraction(25),
) -> Path:
    """Encode a film cut from takes."""
    return encode(path, finish(cut(parts)), rate=rate, options={"crf": "18", "preset": "medium"})
