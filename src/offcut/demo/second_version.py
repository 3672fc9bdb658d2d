"""A second version of *Line 7 at First Light*, made on first use out of the demo film.

A shot is gone and one is new, one is shorter at its end and one longer at neither, one lies in
another place, one shows another picture; all of it is graded a little warmer and carries a clock.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import platformdirs
from numpy.typing import NDArray

from offcut.demo import FILM

RATE = Fraction(25)
_Picture = NDArray[np.uint8]


@dataclass(frozen=True)
class Part:
    """Frames [start, end) of the demo film; ``instead`` what is drawn in their place."""

    start: int
    end: int
    instead: str = ""


PARTS = (
    Part(0, 446),  # “Car 7 comes out” is gone
    Part(506, 776),  # “Rain on the pane” is 14 frames shorter at its end
    Part(790, 1210),
    Part(60, 110, "stars"),  # a new shot
    Part(1210, 1336),
    Part(1336, 1406, "card"),  # “Over the market” shows another picture
    Part(1406, 1530),
    Part(1570, 1600),  # “Rails, faster” lies two shots earlier
    Part(1530, 1570),
    Part(1600, 1994),
)


def second_version_path() -> Path:
    """Return where the second version lies."""
    folder = Path(platformdirs.user_cache_path("offcut")) / "demo-version"
    return folder / "line-7-second-version.mp4"


def made_second_version() -> Path:
    """Make the second version where it is not there yet, and return where it lies. Raises
    OSError.
    """
    path = second_version_path()
    if not path.is_file():
        path.parent.mkdir(parents=True, exist_ok=True)
        aside = path.with_suffix(".part.mp4")
        write_second_version(aside)
        aside.rename(path)
    return path


def write_second_version(path: Path, size: tuple[int, int] = (960, 540)) -> None:
    """Draw the second version, its pictures of a size."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=RATE, options={"crf": "24", "preset": "veryfast"})
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        for n, picture in enumerate(_pictures(size)):
            out.mux(stream.encode(av.VideoFrame.from_ndarray(_finished(picture, n), "rgb24")))
        out.mux(stream.encode(None))


def _pictures(size: tuple[int, int]) -> Iterator[_Picture]:
    """Yield the pictures in the new order; the film is read part by part."""
    for part in PARTS:
        for n, picture in enumerate(read_frames(part.start, part.end, size)):
            if part.instead == "card":
                yield _card(size, n)
            elif part.instead == "stars":
                yield np.ascontiguousarray(stars(size, n))
            else:
                yield picture


def read_frames(start: int, end: int, size: tuple[int, int]) -> Iterator[_Picture]:
    """Yield frames [start, end) of the demo film at a size."""
    with av.open(str(FILM)) as film:
        stream = film.streams.video[0]
        rate = stream.average_rate or RATE
        assert stream.time_base is not None
        film.seek(int(start / rate / stream.time_base), stream=stream)
        for frame in film.decode(stream):
            number = round(float((frame.pts or 0) * stream.time_base * rate))
            if number >= end:
                return
            if number >= start:
                yield np.asarray(frame.reformat(*size, "rgb24").to_ndarray(), np.uint8)


def _finished(picture: _Picture, number: int) -> _Picture:
    """Return a picture graded, with the clock."""
    warm = np.clip(picture * np.array([1.06, 1.0, 0.92]) + 3, 0, 255).astype(np.uint8)
    high, wide = warm.shape[:2]
    clock = f"01:{number // 1500:02d}:{number // 25 % 60:02d}:{number % 25:02d}"
    box = np.zeros((high // 18, wide // 6, 3), np.uint8)
    size = high / 900
    cv2.putText(
        box, clock, (wide // 80, high // 25), cv2.FONT_HERSHEY_SIMPLEX, size, (235, 235, 235), 1,
        cv2.LINE_AA,
    )  # fmt: skip
    top, left = high - 2 * box.shape[0], (wide - box.shape[1]) // 2
    warm[top : top + box.shape[0], left : left + box.shape[1]] = box
    return warm


def _card(size: tuple[int, int], number: int) -> _Picture:
    """Return a card of the lab: the picture is still to come."""
    wide, high = size
    card = np.full((high, wide, 3), 62, np.uint8)
    for n in range(8):
        shade = 40 + 25 * n
        cv2.rectangle(card, (n * wide // 8, 0), ((n + 1) * wide // 8, high // 6), (shade,) * 3, -1)
    cv2.putText(
        card, "picture to come", (wide // 4, high // 2), cv2.FONT_HERSHEY_SIMPLEX, high / 360,
        (220, 220, 220), 2, cv2.LINE_AA,
    )  # fmt: skip
    centre = (wide // 2, high * 3 // 4)
    cv2.ellipse(card, centre, (40, 40), 0, 0, 360, (120, 120, 120), 2, cv2.LINE_AA)
    cv2.ellipse(card, centre, (40, 40), -90, 0, number * 12 % 360, (220, 220, 220), 4, cv2.LINE_AA)
    return card


def stars(size: tuple[int, int], number: int) -> _Picture:
    """Return the sky over the harbour: stars, and a lantern that rises."""
    wide, high = size
    rng = np.random.default_rng(7)
    sky = np.linspace((10, 14, 34), (40, 46, 90), high)[:, None].repeat(wide, axis=1)
    picture = sky.astype(np.uint8)
    for x, y, light in zip(
        rng.integers(0, wide, 220), rng.integers(0, high * 3 // 4, 220),
        rng.integers(90, 250, 220), strict=True,
    ):  # fmt: skip
        cv2.circle(picture, (int(x), int(y)), 1, (int(light),) * 3, -1, cv2.LINE_AA)
    y = int(high * (0.9 - 0.011 * number))
    x = int(wide * (0.4 + 0.004 * number))
    cv2.ellipse(picture, (x, y), (16, 22), 0, 0, 360, (235, 170, 80), -1, cv2.LINE_AA)
    cv2.ellipse(picture, (x, y + 12), (9, 6), 0, 0, 360, (255, 230, 160), -1, cv2.LINE_AA)
    return picture
