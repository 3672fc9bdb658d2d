"""Frame, framing and speed of an original settled by its pictures."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import cv2
import numpy as np
import pytest

from offcut.core.tally.originals.closest import HIGH, WIDE, Greys, settled
from offcut.core.tally.originals.pace import Pace, likely_paces
from offcut.core.tally.reframing import PLAIN, Reframing, level

PAN = 0.6
"""Pixels a frame by which the original's picture moves: slowly, so that a framing looks like it."""


def original(frames: Sequence[int]) -> Greys:
    """A slow pan over cloudy ground, with something of its own that wanders through it."""
    rng = np.random.default_rng(3)
    ground = cv2.GaussianBlur(rng.uniform(0, 255, (200, 400)).astype(np.float32), (0, 0), 3)
    ground = (ground - ground.min()) / (ground.max() - ground.min()) * 255
    made = []
    for f in frames:
        move = np.array([[1, 0, -20 - PAN * f], [0, 1, -20]], np.float32)
        picture = cv2.warpAffine(ground, move, (WIDE, HIGH))
        cv2.circle(picture, (20 + f, 30 + f // 3), 6, 240.0, -1)
        made.append(picture)
    return np.stack(made)


class Read:
    """The film shows the original's frame ``first`` + ``speed`` * i, framed tighter."""

    def __init__(self, first: int, speed: Fraction, framing: Reframing) -> None:
        self.first, self.speed, self.framing = first, speed, framing

    def film(self, frames: Sequence[int]) -> Greys | None:
        at = [int(self.first + f * self.speed) for f in frames]
        f = self.framing
        x = ((f.left + f.wide * (np.arange(WIDE) + 0.5) / WIDE) * WIDE - 0.5).astype(np.float32)
        y = ((f.top + f.high * (np.arange(HIGH) + 0.5) / HIGH) * HIGH - 0.5).astype(np.float32)
        maps = np.meshgrid(x, y)
        seen = [cv2.remap(p, maps[0], maps[1], cv2.INTER_LINEAR) for p in original(at)]
        return np.stack(seen) * 0.8 + 20  # and graded

    def clip(self, place: int, frames: Sequence[int]) -> Greys | None:
        return original([f for f in frames if f < 150])


class Gone(Read):
    def clip(self, place: int, frames: Sequence[int]) -> Greys | None:
        return None


TIGHTER = Reframing(0.03, 0.05, 0.93, 0.93)


@pytest.mark.parametrize("speed", [Fraction(1), Fraction(1, 2), Fraction(2)])
def test_the_frame_is_told_though_a_pan_looks_like_another_framing(speed: Fraction) -> None:
    read = Read(40, speed, TIGHTER)
    begun = Pace(45.0, speed, 0.02, 0.02)
    found = settled(read, (0, 40), 0, begun, Reframing(0.05, 0.05, 0.93, 0.93))
    assert (found.pace.first, found.pace.speed) == (40, speed)
    assert abs(found.framing.left - TIGHTER.left) < 0.004
    assert abs(found.framing.wide - TIGHTER.wide) < 0.006


def test_a_speed_near_the_true_one_is_mended() -> None:
    found = settled(
        Read(30, Fraction(1, 3), TIGHTER), (0, 60), 0, Pace(32.0, Fraction(1, 4), 0.02, 0.02),
        TIGHTER,
    )  # fmt: skip
    assert found.pace.speed == Fraction(1, 3)
    assert abs(found.pace.first - 30) < 1


def test_the_whole_picture_is_told_as_that() -> None:
    found = settled(
        Read(40, Fraction(1), PLAIN), (0, 40), 0, Pace(41.0, Fraction(1), 0.02, 0.02),
        Reframing(0.01, 0.01, 0.985, 0.985),
    )  # fmt: skip
    assert found.framing == PLAIN
    assert found.pace.first == 40


def test_what_cannot_be_read_stays_as_it_was() -> None:
    pace = Pace(45.0, Fraction(1), 0.02, 0.02)
    found = settled(Gone(40, Fraction(1), TIGHTER), (0, 40), 0, pace, TIGHTER)
    assert (found.pace, found.framing, found.cost) == (pace, TIGHTER, None)


def test_likely_paces_lie_apart_and_hold_the_shots_own_speed() -> None:
    prints = original(range(120)).reshape(120, HIGH // 6, 6, WIDE // 4, 4).mean(axis=(2, 4))
    fine = level(prints.reshape(120, -1).astype(np.float32))
    paces = likely_paces(fine[30:70], fine)
    assert (paces[0].first, paces[0].speed) == (30, 1)
    assert len(paces) == len({(p.first, p.speed) for p in paces})
