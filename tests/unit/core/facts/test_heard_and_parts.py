"""Speech, silence, and what of a film is no picture of it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from offcut.core.facts.face_sizes import faces_of, size_of
from offcut.core.facts.fact import FactCertainty, stretches, without_short
from offcut.core.facts.heard import sound_of
from offcut.core.facts.parts import parts_of, programme_of
from offcut.core.measure.faces import Face, frames_for_faces, frames_to_look_closely
from offcut.core.measure.ground import Ground, Grounds
from offcut.core.measure.small_pictures import SmallPictures

RATE = 25.0


def grounds_of(luma: NDArray[np.uint8], chroma: NDArray[np.uint8] | None = None) -> Grounds:
    """What is measured of small pictures (n, 40, 64)."""
    n = len(luma)
    colours = np.full((n, 2, 20, 32), 128, np.uint8) if chroma is None else chroma
    run = SmallPictures(0, luma, colours, np.zeros(n, np.bool_), np.zeros((0, 40, 64), np.uint8))
    ground = Ground()
    rows = ground.compare([], ground.prepare(run))["ground"].astype(np.float32)
    return Grounds(rows, np.ones(n, np.bool_))


def parts(luma: NDArray[np.uint8], chroma: NDArray[np.uint8] | None = None) -> list[object]:
    return [(f.value, f.start, f.end) for f in parts_of(grounds_of(luma, chroma), RATE)]


def busy(n: int) -> NDArray[np.uint8]:
    """Pictures in which something moves."""
    rng = np.random.default_rng(2)
    photo = cv2.resize(rng.uniform(20, 230, (10, 40)).astype(np.float32), (400, 40))
    return np.stack([photo[:, 3 * t : 3 * t + 64] for t in range(n)]).astype(np.uint8)


def flat(tone: int, n: int) -> NDArray[np.uint8]:
    return np.full((n, 40, 64), tone, np.uint8)


def test_black_and_white_are_told_from_the_programme() -> None:
    film = np.concatenate([flat(16, 20), busy(50), flat(235, 10), busy(30), flat(17, 25)])
    assert parts(film) == [
        ("black", 0, 20), ("programme", 20, 70), ("white", 70, 80), ("programme", 80, 110),
        ("black", 110, 135),
    ]  # fmt: skip


def test_a_dark_picture_and_a_grey_one_are_no_parts() -> None:
    dark = (busy(40) // 6 + 16).astype(np.uint8)
    assert parts(dark) == [("programme", 0, 40)]
    assert parts(np.concatenate([busy(20), flat(120, 20)])) == [("programme", 0, 40)]


def test_colour_bars_are_told() -> None:
    """Luma and chroma of 75 % bars as ITU-R BT.471 orders them (values from memory)."""
    tones = np.array([180, 162, 131, 112, 84, 65, 35, 16], np.uint8)
    blue = np.array([128, 44, 156, 72, 184, 100, 212, 128], np.uint8)
    red = np.array([128, 142, 44, 58, 198, 212, 114, 128], np.uint8)
    row = tones[np.arange(64) * 8 // 64]
    luma = np.broadcast_to(row, (30, 40, 64)).copy()
    chroma = np.stack(
        [np.broadcast_to(c[np.arange(32) * 8 // 32], (30, 20, 32)) for c in (blue, red)], axis=1
    ).copy()
    assert parts(luma, chroma) == [("bars", 0, 30)]


def test_a_title_on_a_plain_ground_is_a_slate_and_a_held_picture_a_still() -> None:
    card = flat(20, 60)
    for x in range(12, 52, 3):
        card[:, 16:20, x] = 220
    assert parts(card) == [("slate", 0, 60)]
    held = np.repeat(busy(1), 60, axis=0)
    assert parts(np.concatenate([busy(30), held])) == [("programme", 0, 31), ("still", 31, 90)]


def test_a_slow_pan_over_what_is_smooth_is_no_still() -> None:
    held = grounds_of(np.repeat(busy(1), 60, axis=0))
    goes = np.zeros(60, np.bool_)
    assert [f.value for f in parts_of(held, RATE, goes=goes)] == ["still"]
    assert [f.value for f in parts_of(held, RATE, goes=~goes)] == ["programme"]


def test_the_programme_is_what_lies_between_head_and_tail() -> None:
    film = np.concatenate([flat(16, 40), busy(60), flat(16, 10), busy(60), flat(16, 40)])
    assert programme_of(parts_of(grounds_of(film), RATE), RATE) == (40, 170)
    assert programme_of([], RATE) is None


def test_speech_and_silence_are_told_and_pauses_belong_to_speech() -> None:
    n = 200
    speech, level = np.zeros(n, np.float32), np.full(n, -30, np.float32)
    speech[20:60], speech[66:100] = 0.95, 0.9
    speech[120:140] = 0.4
    level[150:] = -80
    told = sound_of(speech, level, RATE)
    assert [(f.value, f.start, f.end) for f in told] == [
        ("speech", 20, 100), ("perhaps speech", 120, 140), ("silence", 150, 200),
    ]  # fmt: skip
    assert told[1].certainty is FactCertainty.PERHAPS


@pytest.mark.parametrize(
    ("height", "size"),
    [(0.03, "far"), (0.09, "whole"), (0.2, "half"), (0.4, "close"), (0.7, "very close")],
)
def test_the_size_of_a_shot_follows_the_largest_face(height: float, size: str) -> None:
    assert size_of(height) == size
    looked = {10: [Face(0.5, 0.5, 0.2, height, 0.9), Face(0.2, 0.5, 0.01, 0.02, 0.8)], 40: []}
    told = faces_of(looked, 0, 50)
    assert [(f.value, f.start, f.end, f.figures.get("size")) for f in told] == [
        (2, 0, 25, size), (0, 25, 50, None),
    ]  # fmt: skip


def test_few_frames_are_looked_at_for_faces() -> None:
    assert frames_for_faces([(0, 120)], RATE) == [12, 37, 62, 87, 112]
    # where a seam is placed what was looked at stays so; a short shot has a frame of its own
    assert frames_for_faces([(0, 40), (40, 50), (50, 120)], RATE) == [12, 37, 45, 62, 87, 112]
    assert len(frames_for_faces([(0, 1500)], RATE)) == 60
    # who is far is looked for on a few of them, in each shot
    assert frames_to_look_closely([(0, 1500)], RATE) == set(range(62, 1500, 100))
    assert frames_to_look_closely([(0, 40), (40, 50), (50, 120)], RATE) == {37, 45, 62}


def test_who_is_too_far_to_be_seen_at_every_look_is_told_all_the_same() -> None:
    far, near = ([Face(0.5, 0.5, 0.02, high, 0.9)] for high in (0.04, 0.3))
    told = faces_of({12: None, 37: None, 62: far, 87: None}, 0, 100)
    assert [(f.value, f.start, f.end, f.figures["size"]) for f in told] == [(1, 0, 100, "far")]
    told = faces_of({12: None, 37: near, 62: [], 87: None}, 0, 100)
    assert [(f.value, f.start, f.end) for f in told] == [(0, 0, 25), (1, 25, 50), (0, 50, 100)]
    assert [f.value for f in faces_of({12: None}, 0, 100)] == [0]


def test_short_stretches_go_to_the_longer_neighbour() -> None:
    values = np.array([1] * 10 + [2] * 2 + [3] * 6 + [1], np.int64)
    assert list(stretches(without_short(values, 4))) == [(0, 12), (12, 19)]
    assert list(stretches(np.zeros(0))) == []
