"""Letters in the picture, five colours, grain, and countdowns."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray
from test_heard_and_parts import busy, grounds_of

from offcut.core.facts.fact import FactCertainty, Sort
from offcut.core.facts.leaders import leader_in
from offcut.core.facts.parts import LEADER, parts_of
from offcut.core.facts.texts import five_colours, texts_of, where_of
from offcut.core.measure.ground import Grounds
from offcut.core.measure.lettering import Lettered, Text, colours_of, texts_in


def card(words: str, y: int, size: float = 1.4, ground: int = 40) -> NDArray[np.uint8]:
    """A picture 640 by 360 with a line of letters."""
    made = np.full((360, 640, 3), ground, np.uint8)
    wide = cv2.getTextSize(words, cv2.FONT_HERSHEY_SIMPLEX, size, 2)[0][0]
    where = ((640 - wide) // 2, y)
    cv2.putText(made, words, where, cv2.FONT_HERSHEY_SIMPLEX, size, (235, 230, 220), 2, cv2.LINE_AA)
    return made


@pytest.mark.parametrize(("y", "where"), [(60, "head"), (190, "middle"), (335, "foot")])
def test_a_line_of_letters_is_found_where_it_stands(y: int, where: str) -> None:
    texts = texts_in(card("Port Ansel 1962", y))
    assert texts
    assert where_of(texts) == where
    assert texts[0].score > 0.9
    assert 0.4 < texts[0].width < 0.9


def test_a_picture_without_letters_has_none() -> None:
    rng = np.random.default_rng(4)
    clouds = cv2.resize(rng.uniform(60, 200, (9, 16, 3)).astype(np.float32), (640, 360))
    assert texts_in(clouds.astype(np.uint8)) == []


def seen(*scores: float, y: float = 0.9) -> Lettered:
    colours = np.zeros((5, 4), np.float32)
    colours[0] = 10, 20, 200, 1
    return Lettered([Text(0.5, y, 0.4, 0.08, s) for s in scores], colours)


def test_letters_that_stand_are_sure_and_single_ones_are_not() -> None:
    looked = {20: seen(0.9), 60: seen(0.9), 140: seen(), 180: seen(0.96)}
    told = [(f.start, f.end, f.certainty) for f in texts_of(looked, 0, 200)]
    assert told == [(0, 100, FactCertainty.SURE), (160, 200, FactCertainty.LIKELY)]
    assert texts_of({10: seen(0.87)}, 0, 30)[0].certainty is FactCertainty.PERHAPS
    assert texts_of({10: seen(0.8)}, 0, 30) == []
    assert texts_of({}, 0, 30) == []
    assert all(f.sort is Sort.TEXT for f in texts_of(looked, 0, 200))


def test_five_colours_by_how_much_they_hold() -> None:
    picture = np.zeros((90, 160, 3), np.uint8)
    picture[:, :80], picture[:, 80:128], picture[:, 128:] = (200, 30, 30), (30, 30, 180), (240,) * 3
    colours = colours_of(picture)
    assert [round(float(c[3]), 1) for c in colours[:3]] == [0.5, 0.3, 0.2]
    assert np.abs(colours[0, :3] - (200, 30, 30)).max() < 3
    assert colours[3:, 3].sum() < 0.05
    assert five_colours({5: seen()}, 0, 10) == ("#0a14c8",)
    assert five_colours({5: seen()}, 6, 10) == ()


def countdown(seconds: int, beat: int = 25) -> NDArray[np.uint8]:
    """A leader as small pictures (n, 40, 64): a hand sweeps, a numeral changes each second."""
    rows = []
    for t in range(seconds * beat):
        picture = np.full((160, 256), 120, np.uint8)
        cv2.circle(picture, (128, 80), 60, 200, 3)
        cv2.line(picture, (0, 80), (255, 80), 70, 2)
        angle = 2 * np.pi * (t % beat) / beat
        tip = int(128 + 110 * np.sin(angle)), int(80 - 110 * np.cos(angle))
        cv2.line(picture, (128, 80), tip, 60, 2)
        numeral = str(9 - t // beat % 8)
        cv2.putText(picture, numeral, (92, 118), cv2.FONT_HERSHEY_SIMPLEX, 3.4, 20, 12)
        rows.append(cv2.resize(picture, (64, 40), interpolation=cv2.INTER_AREA))
    return np.stack(rows)


@pytest.mark.parametrize("beat", [25, 24])
def test_a_countdown_is_told_by_its_beat(beat: int) -> None:
    film = np.concatenate([countdown(6, beat), busy(80)])
    grounds = grounds_of(film)
    leader = leader_in(grounds, 25.0)
    assert leader[: 6 * beat - 3].all()
    assert not leader[6 * beat + beat :].any()
    shot = Grounds(grounds.rows[: 6 * beat], grounds.known[: 6 * beat])
    parts = parts_of(shot, 25.0, None, leader[: 6 * beat])
    assert [p.value for p in parts] == [LEADER]


def test_black_after_a_countdown_is_black() -> None:
    black = np.full((40, 40, 64), 16, np.uint8)
    grounds = grounds_of(np.concatenate([countdown(6), black, busy(80)]))
    parts = parts_of(grounds, 25.0, None, leader_in(grounds, 25.0))
    assert [p.value for p in parts] == [LEADER, "black", "programme"]
    assert abs(parts[1].start - 150) <= 1


def test_cuts_once_a_second_are_no_countdown() -> None:
    rng = np.random.default_rng(8)
    shots = []
    for _ in range(7):
        photo = cv2.resize(rng.uniform(20, 230, (6, 40)).astype(np.float32), (400, 40))
        shots += [photo[:, 3 * t : 3 * t + 64] for t in range(25)]
    assert not leader_in(grounds_of(np.stack(shots).astype(np.uint8)), 25.0).any()
