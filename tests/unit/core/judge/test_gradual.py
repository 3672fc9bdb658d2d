"""Gradual seams on films made for it: kind, span, middle, and what only looks like one."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode, scene
from offcut.core.errands.seams import find_seams
from offcut.core.judge.trees import probability, trees_named
from offcut.core.media.probe import open_source
from offcut.core.model.seam import Kind, Seam

Pictures = list[NDArray[np.uint8]]
SHORT = "known to fall short, told in docs/method.md"


def counted(path: Path) -> list[Seam]:
    return [s for s in find_seams(open_source(path)).seams if s.score >= 50]


def mixed(before: Pictures, after: Pictures, length: int) -> Pictures:
    """Join two shots by a dissolve of so many mixed frames."""
    out = before[:-length]
    for k, (a, b) in enumerate(zip(before[-length:], after[:length], strict=True)):
        share = (k + 1) / (length + 1)
        out.append((a * (1 - share) + b * share).astype(np.uint8))
    return out + after[length:]


@pytest.mark.parametrize(
    "length",
    [
        8,
        16,
        24,
        40,
        pytest.param(60, marks=pytest.mark.xfail(reason=SHORT)),
    ],
)
def test_a_dissolve_is_told_with_first_mixed_and_first_clean_frame(
    length: int, tmp_path: Path
) -> None:
    pictures = mixed(list(scene(60, 90)), list(scene(61, 90)), length)
    # one thread: on several the encoder does not write the same film every time
    options = {"x264-params": "threads=1"}
    seams = counted(encode(tmp_path / "dissolve.mp4", pictures, options=options))
    assert [s.kind for s in seams] == [Kind.DISSOLVE]
    start = 90 - length
    assert abs(seams[0].start - start) <= 2
    assert abs(seams[0].end - 90) <= 2
    assert abs(seams[0].frame - (start + 90) // 2) <= 1
    assert any("mixed" in r.text for r in seams[0].reasons)


@pytest.mark.parametrize("level", [0, 255])
def test_a_fade_through_black_or_white_is_one_seam(level: int, tmp_path: Path) -> None:
    before, after = list(scene(62, 60)), list(scene(63, 60))
    flat = np.full_like(before[0], level)
    pictures = mixed(before, [flat] * 24, 14)
    pictures = mixed(pictures, after, 10)
    seams = counted(encode(tmp_path / "fade.mp4", pictures))
    assert [s.kind for s in seams] == [Kind.FADE]
    assert seams[0].start <= 48
    assert 60 <= seams[0].end <= 75


def test_the_span_of_a_fade_ends_where_the_shots_own_change_of_contrast_begins(
    tmp_path: Path,
) -> None:
    before, after = list(scene(62, 60)), list(scene(63, 60))
    flat = np.zeros_like(before[0])
    pictures = mixed(mixed(before, [flat] * 24, 14), after, 10)
    seams = counted(encode(tmp_path / "fade.mp4", pictures))
    assert abs(seams[0].start - 46) <= 2
    assert abs(seams[0].end - 70) <= 3


@pytest.mark.parametrize("way", ["right", "left", "down", "up"])
def test_a_wipe_is_told_in_any_straight_direction(way: str, tmp_path: Path) -> None:
    before, after = list(scene(64, 70)), list(scene(65, 70))
    length = 20
    pictures = before[:-length]
    for k in range(length):
        picture = before[50 + k].copy()
        high, wide = picture.shape[:2]
        share = (k + 1) / (length + 1)
        x, y = round(share * wide), round(share * high)
        part = {
            "right": np.s_[:, :x],
            "left": np.s_[:, wide - x :],
            "down": np.s_[:y],
            "up": np.s_[high - y :],
        }[way]
        picture[part] = after[k][part]
        pictures.append(picture)
    seams = counted(encode(tmp_path / "wipe.mp4", pictures + after[length:]))
    assert len(seams) == 1
    assert 48 <= seams[0].frame <= 72
    assert seams[0].kind in (Kind.WIPE, Kind.DISSOLVE)


@pytest.mark.xfail(reason=SHORT)
def test_a_slow_change_of_light_is_no_seam(tmp_path: Path) -> None:
    pictures = [(p * max(0.4, 1 - t / 60)).astype(np.uint8) for t, p in enumerate(scene(66, 90))]
    assert counted(encode(tmp_path / "light.mp4", pictures)) == []


def test_a_steady_pan_is_no_seam(tmp_path: Path) -> None:
    wide = next(scene(67, 1, 900, 112))
    pictures = [wide[:, t * 7 : t * 7 + 192] for t in range(100)]
    assert counted(encode(tmp_path / "pan.mp4", pictures)) == []


def test_the_forests_are_finite_and_deterministic() -> None:
    for name in ("cut", "gradual"):
        names = trees_named(name).names
        rows = np.random.default_rng(3).uniform(0, 30, (50, len(names))).astype(np.float32)
        chances = probability(trees_named(name).odds(rows, names))
        assert np.isfinite(chances).all()
        assert ((chances >= 0) & (chances <= 1)).all()
        one_by_one = [probability(trees_named(name).odds(r[None], names))[0] for r in rows]
        assert np.array_equal(chances, np.array(one_by_one, np.float32))
