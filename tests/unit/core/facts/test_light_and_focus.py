"""How light and how sharp shots are, told of figures and of pictures that are known."""

from __future__ import annotations

from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray

from offcut.core.facts.colouring import colour_of
from offcut.core.facts.fact import FactCertainty
from offcut.core.facts.focus import focus_of
from offcut.core.facts.lighting import light_of
from offcut.core.measure.light import FIGURES, Light, Lights
from offcut.core.measure.small_pictures import Crop, SmallPictures, small_picture

RATE = 25.0


def lights_of(pictures: list[NDArray[np.uint8]]) -> Lights:
    """What is measured of RGB pictures, as of a film's frames."""
    frames = [
        av.VideoFrame.from_ndarray(np.ascontiguousarray(p), "rgb24").reformat(
            format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG"
        )
        for p in pictures
    ]
    light, crop, reformatter = Light(), Crop(), VideoReformatter()
    small = [small_picture(f, crop, reformatter) for f in frames]
    run = SmallPictures(
        0, np.stack([s[0] for s in small]), np.stack([s[1] for s in small]),
        np.zeros(len(frames), np.bool_), np.zeros((0, 40, 64), np.uint8),
        {light.name: np.stack([light.look(f, crop) for f in frames])},
    )  # fmt: skip
    rows = light.compare([], light.prepare(run))["light"].astype(np.float32)
    return Lights(rows, np.ones(len(rows), np.bool_))


def plain(linear: float, n: int = 20, tint: tuple[float, ...] = (1, 1, 1)) -> Lights:
    """Pictures of one linear light, coded by IEC 61966-2-1."""
    light = np.clip(linear * np.array(tint), 0, 1)
    code = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    picture = np.broadcast_to(np.rint(255 * code).astype(np.uint8), (180, 320, 3))
    return lights_of([picture] * n)


@pytest.mark.parametrize(
    ("stops", "word"),
    [(-4, "dark"), (-1.8, "low"), (0, "normal"), (0.7, "normal"), (1.6, "bright")],
)
def test_light_is_told_in_stops_about_eighteen_percent_grey(stops: float, word: str) -> None:
    (told,) = light_of(plain(0.18 * 2.0**stops), RATE)
    assert told.value == word
    assert told.figures["stops"] == pytest.approx(stops, abs=0.1)
    assert told.certainty is FactCertainty.SURE


def test_a_quarter_of_clipped_tones_is_burnt_out() -> None:
    picture = np.full((180, 320, 3), 118, np.uint8)
    picture[:, :100] = 255
    (told,) = light_of(lights_of([picture] * 10), RATE)
    assert told.value == "burnt out"
    assert told.figures["clipped"] == pytest.approx(100 / 320, abs=0.03)


def test_light_that_goes_off_is_two_stretches_and_a_flash_is_none() -> None:
    bright, dark = plain(0.18, 1).rows[0], plain(0.01, 1).rows[0]
    rows = np.stack([bright] * 40 + [dark] * 30)
    rows[10:12] = plain(0.9, 1).rows[0]
    told = light_of(Lights(rows, np.ones(70, np.bool_)), RATE)
    assert [(f.value, f.start, f.end) for f in told] == [("normal", 0, 40), ("dark", 40, 70)]


def test_what_was_not_measured_is_not_told() -> None:
    unknown = Lights(np.zeros((30, len(FIGURES)), np.float32), np.zeros(30, np.bool_))
    assert light_of(unknown, RATE) == focus_of(unknown, RATE) == colour_of(unknown) == []


def scene(seed: int = 3) -> NDArray[np.float32]:
    """A picture with edges and something to see at every size, (360, 640, 3)."""
    rng = np.random.default_rng(seed)
    made = np.full((360, 640, 3), 110, np.float32)
    for _ in range(160):
        x, y = int(rng.integers(0, 640)), int(rng.integers(0, 360))
        colour = tuple(float(c) for c in rng.uniform(20, 230, 3))
        cv2.circle(made, (x, y), int(rng.integers(3, 50)), colour, -1, cv2.LINE_AA)
    return made


@pytest.mark.parametrize("grain", [0, 3, 5])
def test_focus_is_told_whatever_the_grain(grain: float) -> None:
    rng = np.random.default_rng(8)

    def grained(p: NDArray[np.float32]) -> NDArray[np.uint8]:
        noise = rng.normal(0, grain, p.shape[:2])[..., None] if grain else 0
        return np.clip(p + noise, 0, 255).astype(np.uint8)

    sharp = scene()
    soft = cv2.GaussianBlur(sharp, (0, 0), 0.008 * 640)
    pictures = [grained(sharp) for _ in range(30)] + [grained(soft) for _ in range(30)]
    told = focus_of(lights_of(pictures), RATE)
    assert [(f.value, f.start, f.end) for f in told] == [("sharp", 0, 30), ("soft", 30, 60)]


def test_nothing_is_sharp_or_soft_on_a_plain_ground() -> None:
    assert focus_of(plain(0.18), RATE) == []


@pytest.mark.parametrize(
    ("tint", "word"),
    [((1, 1, 1), "black-and-white"), ((1.5, 1, 0.5), "warm"), ((0.5, 0.9, 1.6), "cold"),
     ((0.5, 1.5, 0.5), "colourful")],
)  # fmt: skip
def test_colours_are_told_in_words(tint: tuple[float, ...], word: str) -> None:
    (told,) = colour_of(plain(0.3, tint=tint))
    assert told.value == word


def test_rate_is_of_no_matter_to_a_still_light() -> None:
    assert light_of(plain(0.18), float(Fraction(60000, 1001)))[0].end == 20
