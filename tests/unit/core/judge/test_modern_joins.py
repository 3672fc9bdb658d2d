"""Joins made by movement, wipes of other forms, cuts between fields: films drawn for it."""

from __future__ import annotations

import math
import shutil
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode, pulled_down, scene, woven
from offcut.core.errands.seams import find_seams
from offcut.core.measure.kept_signals import signals_folder
from offcut.core.measure.measuring import OnThisThread, OnThreads
from offcut.core.media.probe import open_source
from offcut.core.model.seam import Kind, Seam, between_fields

Picture = NDArray[np.uint8]
SIZE = (320, 180)


def counted(path: Path) -> list[Seam]:
    return [s for s in find_seams(open_source(path)).seams if s.score >= 50]


def joined(
    mix: Callable[[float, Picture, Picture], Picture], length: int, seed: int = 80
) -> list[Picture]:
    """Return two shots of 60 frames, the one laid over the other's end for so many frames."""
    before, after = list(scene(seed, 60, *SIZE)), list(scene(seed + 1, 60, *SIZE))
    between = [
        mix((k + 1) / (length + 1), a, b).astype(np.uint8)
        for k, (a, b) in enumerate(zip(before[-length:], after, strict=False))
    ]
    return [*before[:-length], *between, *after[length:]]


def flown(q: float, a: Picture, b: Picture) -> Picture:
    """The camera flies off to the side and arrives elsewhere, blurred by it."""
    picture, far = (a, q * q) if q < 0.5 else (b, -((1 - q) ** 2))
    views = [
        cv2.warpAffine(
            picture, np.array([[1.0, 0, 4 * SIZE[0] * (far + k * 0.02)], [0, 1.0, 0]]), SIZE,
            borderMode=cv2.BORDER_REFLECT,
        )
        for k in range(-3, 4)
    ]  # fmt: skip
    return np.mean(views, axis=0)


def by(ramp: NDArray[np.float64]) -> Callable[[float, Picture, Picture], Picture]:
    """Return what shows the new picture where a ramp of 0 to 1 is less than the share."""
    return lambda q, a, b: np.where((ramp < q)[..., None], b, a)


YY, XX = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(np.float64)
AWAY = np.hypot(XX - SIZE[0] / 2, YY - SIZE[1] / 2)
ROUND = np.arctan2(XX - SIZE[0] / 2, SIZE[1] / 2 - YY) / (2 * math.pi) % 1
FORMS = {
    "edge": XX / SIZE[0],
    "iris": AWAY / AWAY.max(),
    "clock": ROUND,
}


def pushed(q: float, a: Picture, b: Picture) -> Picture:
    """The new picture comes in from the right and pushes the old one out to the left."""
    at = round(q * SIZE[0])
    return np.concatenate([a[:, at:], b[:, :at]], axis=1)


def test_a_push_is_a_wipe_that_says_so(tmp_path: Path) -> None:
    (seam,) = counted(encode(tmp_path / "push.mp4", joined(pushed, 20, 84)))
    assert seam.kind is Kind.WIPE
    assert "wipe-push" in {r.code for r in seam.reasons}


def test_a_whip_is_a_kind_of_its_own_with_a_span(tmp_path: Path) -> None:
    (seam,) = counted(encode(tmp_path / "whip.mp4", joined(flown, 9, 84)))
    assert seam.kind is Kind.WHIP
    assert 46 <= seam.start < seam.frame < seam.end <= 65
    assert any("flies or tears apart" in r.text for r in seam.reasons)


@pytest.mark.parametrize("form", FORMS)
def test_a_wipe_says_which_form_it_has(form: str, tmp_path: Path) -> None:
    (seam,) = counted(encode(tmp_path / f"{form}.mp4", joined(by(FORMS[form]), 24)))
    assert seam.kind is Kind.WIPE
    assert abs(seam.start - 36) <= 4
    assert abs(seam.end - 60) <= 4
    assert f"wipe-{form}" in {r.code for r in seam.reasons}


@pytest.mark.parametrize("first", ["top", "bottom"])
def test_a_cut_between_fields_is_at_the_frame_that_shows_the_new_shot(
    first: str, tmp_path: Path
) -> None:
    fields = [*scene(90, 61, 240, 480), *scene(91, 59, 240, 480), *scene(92, 60, 240, 480)]
    path = encode(tmp_path / "fields.mp4", woven(fields, first), options={"crf": "18"})
    seams = counted(path)
    assert [s.frame for s in seams] == [30, 60]
    assert [between_fields(s) for s in seams] == [True, False]


def test_24_pictures_in_60_fields_are_cut_where_they_were(tmp_path: Path) -> None:
    shots = [list(scene(seed, 123, 240, 480))[::3] for seed in (93, 94, 95)]
    pictures = pulled_down(p for shot in shots for p in shot)
    path = encode(tmp_path / "telecine.mp4", woven(pictures), options={"crf": "18"})
    found = find_seams(open_source(path))
    # picture 41 begins with field 102, picture 82 with field 205
    assert [s.frame for s in found.seams if s.score >= 50] == [51, 102]
    assert found.pulldown is not None
    assert found.pulldown.breaks == ()


@pytest.mark.parametrize("length", [1, 2])
def test_a_shot_of_a_frame_or_two_has_a_cut_on_either_side(length: int, tmp_path: Path) -> None:
    pictures = [*scene(96, 40, *SIZE), *scene(97, length, *SIZE), *scene(98, 40, *SIZE)]
    seams = counted(encode(tmp_path / "short.mp4", pictures))
    assert [s.frame for s in seams] == [40, 40 + length]


def test_joins_in_the_first_and_the_last_second_are_found(tmp_path: Path) -> None:
    pictures = [*scene(99, 6, *SIZE), *scene(100, 60, *SIZE), *scene(101, 5, *SIZE)]
    seams = counted(encode(tmp_path / "ends.mp4", pictures))
    assert [s.frame for s in seams] == [6, 66]


def test_any_number_of_threads_gives_the_same(tmp_path: Path) -> None:
    film = open_source(encode(tmp_path / "same.mp4", joined(flown, 9) + joined(by(ROUND), 20, 84)))
    one = find_seams(film, measuring=OnThisThread()).seams
    shutil.rmtree(signals_folder())
    assert find_seams(film, measuring=OnThreads(3)).seams == one
