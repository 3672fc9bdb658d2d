"""Films whose facts are known: cameras moved over photographs, light, focus, and sound by figures."""

from __future__ import annotations

import math
import subprocess
import tempfile
import wave
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import skimage.data
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from films import Shelf

SIZE = (854, 480)
RATE = 25
Rng = np.random.Generator
Picture = NDArray[np.float32]
MOVES = ("pan left", "pan right", "tilt up", "tilt down", "zoom in", "zoom out", "roll left",
         "roll right", "whip", "still")  # fmt: skip


@dataclass
class Known:
    """What is true of a film: (fact, value, start, end, figure)."""

    facts: list[tuple[str, str, int, int, float]] = field(default_factory=list)


def _eased(rng: Rng, length: int) -> NDArray[np.float64]:
    """Return the share of a move that is done after each of its frames, 0 to 1."""
    u = (np.arange(length) + 1) / length
    sort = rng.integers(3)
    if sort == 0:
        return u
    if sort == 1:
        return u * u * (3 - 2 * u)
    ramp = 0.2  # even, with a short run up and out
    v = np.minimum(np.minimum(u / ramp, 1), (1 - u + 1 / length) / ramp)
    return np.cumsum(v) / v.sum()


class Set:
    """A photograph as a place a camera looks at; its views are ``SIZE``."""

    def __init__(self, rng: Rng, shelf: Shelf) -> None:
        photo = shelf.photos[int(rng.integers(len(shelf.photos)))]
        scale = 2000 / min(photo.shape[:2])
        self.photo = cv2.resize(photo, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
        self.zoom = rng.uniform(0.7, 1.1)

    def view(self, x: float, y: float, zoom: float, roll: float) -> Picture:
        """Return what is seen from x, y in picture widths off the middle (right, up), rolled right."""
        high, wide = self.photo.shape[:2]
        z = self.zoom * zoom
        cx = wide / 2 + x * SIZE[0] / self.zoom
        cy = high / 2 - y * SIZE[0] / self.zoom
        c, s = math.cos(-roll) * z, math.sin(-roll) * z
        m = np.array(
            [[c, -s, SIZE[0] / 2 - c * cx + s * cy], [s, c, SIZE[1] / 2 - s * cx - c * cy]]
        )
        return cv2.warpAffine(
            self.photo, m, SIZE, flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT_101
        )


class Passer:
    """Somebody who goes through the picture in front, cut out of another photograph."""

    def __init__(self, rng: Rng, shelf: Shelf, length: int) -> None:
        self.there = rng.random() < 0.6
        photo = shelf.photos[int(rng.integers(len(shelf.photos)))]
        self.wide, self.high = int(rng.uniform(80, 260)), int(rng.uniform(150, 330))
        y, x = rng.integers(0, photo.shape[0] - 330), rng.integers(0, photo.shape[1] - 260)
        self.patch = photo[y : y + self.high, x : x + self.wide]
        self.from_x = rng.uniform(-0.2, 0.9) * SIZE[0]
        self.step = rng.choice([-1, 1]) * rng.uniform(1, 7)
        self.y = SIZE[1] - self.high + int(rng.uniform(0, 40))
        mask = np.zeros((self.high, self.wide), np.float32)
        cv2.ellipse(
            mask, (self.wide // 2, self.high // 2), (self.wide // 2 - 3, self.high // 2 - 3), 0, 0,
            360, 1.0, -1,
        )  # fmt: skip
        self.mask = mask[..., None]

    def over(self, picture: Picture, t: int) -> Picture:
        if not self.there:
            return picture
        x = round(self.from_x + self.step * t)
        a, b = max(0, x), min(SIZE[0], x + self.wide)
        top, bottom = max(0, self.y), min(SIZE[1], self.y + self.high)
        if b <= a or bottom <= top:
            return picture
        patch = self.patch[top - self.y : bottom - self.y, a - x : b - x]
        mask = self.mask[top - self.y : bottom - self.y, a - x : b - x]
        made = picture.copy()
        made[top:bottom, a:b] = patch * mask + made[top:bottom, a:b] * (1 - mask)
        return made


def filmed(rng: Rng, picture: Picture, grain: float, dim: float) -> NDArray[np.uint8]:
    """Return a picture with less light and with grain."""
    lit = picture * dim
    if grain:
        lit = lit + rng.normal(0, grain, lit.shape[:2])[..., None].astype(np.float32)
    return np.clip(lit, 0, 255).astype(np.uint8)


def camera_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a film of three moves, each between two stretches in which the camera stands."""
    known = Known()
    place = Set(rng, shelf)
    states: list[tuple[float, float, float, float]] = []
    x = y = roll = 0.0
    zoom = 1.0

    def stand(length: int) -> None:
        start = len(states)
        states.extend([(x, y, zoom, roll)] * length)
        known.facts.append(("camera", "still", start, len(states), 0.0))

    stand(int(rng.integers(20, 45)))
    moves = list(rng.permutation(MOVES[:9])[:3])
    for move in moves:
        length = int(rng.integers(25, 75))
        whip = move == "whip"
        if whip:
            length = int(rng.integers(6, 12))
        done = _eased(rng, length)
        far = (
            rng.uniform(1.6, 3.2) * length / RATE
            if whip
            else rng.uniform(0.06, 0.35) * length / RATE
        )
        far = min(far, 0.9)
        way = move
        if whip:
            way = str(rng.choice(["pan left", "pan right"]))
        start = len(states)
        sign = 1 if way.split()[-1] in ("right", "up", "in") else -1
        if way.startswith("pan") and abs(x + sign * far) > 1:
            sign = -sign
            way = "pan right" if sign > 0 else "pan left"
            move = move if whip else way
        if way.startswith("tilt"):
            far = min(far, 0.5)
            if abs(y + sign * far) > 0.6:
                sign = -sign
                way = move = "tilt up" if sign > 0 else "tilt down"
        for share in done:
            here = [x, y, zoom, roll]
            if way.startswith("pan"):
                here[0] += sign * far * share
            elif way.startswith("tilt"):
                here[1] += sign * far * share
            elif way.startswith("zoom"):
                here[2] *= math.exp(sign * 1.2 * far * share)
            else:
                here[3] += sign * 0.9 * far * share
            states.append(tuple(here))
        x, y, zoom, roll = states[-1]
        speed = far / length * RATE
        if way.startswith(("pan", "tilt")):
            speed *= zoom
        if way.startswith("zoom"):
            speed = math.exp(sign * 1.2 * far / length * RATE)
        elif way.startswith("roll"):
            speed = math.degrees(0.9 * far / length * RATE)
        known.facts.append(("camera", move, start, len(states), speed))
        stand(int(rng.integers(20, 40)))
    passer = Passer(rng, shelf, len(states))
    grain, dim = rng.choice([0.0, 3.0, 7.0]), rng.choice([1.0, 1.0, 0.3])
    write(
        path,
        (filmed(rng, passer.over(place.view(*s), t), grain, dim) for t, s in enumerate(states)),
    )
    return known


def steady_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a film held by a hand of a known unsteadiness, graded by the figure's own formula."""
    n = int(rng.integers(90, 150))
    place, passer = Set(rng, shelf), Passer(rng, shelf, n)
    wanted = float(np.exp(rng.uniform(math.log(0.0003), math.log(0.025))))
    noise = rng.normal(0, 1, (n + 60, 2))
    rate = rng.uniform(1.0, 4.0)
    kernel = np.exp(-0.5 * (np.arange(-30, 31) / (RATE / (2 * math.pi * rate))) ** 2)
    shake = np.stack(
        [np.convolve(noise[:, i], kernel, "same")[30 : 30 + n] for i in (0, 1)], axis=1
    )
    drift = np.stack([np.linspace(0, rng.uniform(-0.3, 0.3), n), np.zeros(n)], axis=1)
    shake *= wanted / strays(shake)
    figure = strays(shake + drift)
    steps = shake + drift
    grade = ("steady", "slight", "medium", "strong")[
        int(np.searchsorted((0.001, 0.0035, 0.011), figure))
    ]
    grain = rng.choice([0.0, 3.0, 6.0])
    write(
        path,
        (
            filmed(rng, passer.over(place.view(float(a), float(b), 1.0, 0.0), t), grain, 1.0)
            for t, (a, b) in enumerate(steps)
        ),
    )
    return Known([("steadiness", grade, 0, n, figure)])


def strays(path: NDArray[np.float64]) -> float:
    """Return the RMS of a path less its mean over a second, written apart from Offcut's own."""
    half = RATE // 2
    off = []
    for t in range(len(path)):
        a, b = max(0, t - half), min(len(path), t + half + 1)
        reach = min(t - a, b - 1 - t)
        mean = path[t - reach : t + reach + 1].mean(axis=0)
        off.append(((path[t] - mean) ** 2).sum())
    return float(np.sqrt(np.mean(off)))


def light_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a film of a known mean of linear light."""
    n = 40
    place = Set(rng, shelf)
    picture = place.view(0, 0, 1, 0) / 255
    linear = np.where(picture <= 0.04045, picture / 12.92, ((picture + 0.055) / 1.055) ** 2.4)
    stops = rng.uniform(-5, 2.3)
    wanted = 0.18 * 2**stops
    gain = 1.0
    for _ in range(30):
        shown = np.clip(linear * gain, 0, 1)
        mean = float((shown @ np.array([0.2126, 0.7152, 0.0722])).mean())
        gain *= (wanted / max(mean, 1e-6)) ** 0.7
        gain = min(gain, 60)
    code = np.where(shown <= 0.0031308, shown * 12.92, 1.055 * shown ** (1 / 2.4) - 0.055) * 255
    figure = math.log2(mean / 0.18)
    clipped = float((code.mean(axis=2) >= 253).mean())
    grade = ("dark", "low", "normal", "bright")[int(np.searchsorted((-2.5, -1.0, 1.0), figure))]
    if clipped >= 0.25:
        grade = "burnt out"
    grain = rng.choice([0.0, 2.0])
    write(path, (filmed(rng, code.astype(np.float32), grain, 1.0) for _ in range(n)))
    return Known([("light", grade, 0, n, figure)])


def focus_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a film that goes out of focus, or comes into it, or stays as it is."""
    place = Set(rng, shelf)
    place.zoom = 0.32 * rng.uniform(1.0, 1.2)  # the photograph as it is: enlarged it is soft
    soft = rng.uniform(0.004, 0.012) * SIZE[0]
    order = [("sharp",), ("soft",), ("sharp", "soft"), ("soft", "sharp")][int(rng.integers(4))]
    known, pictures = Known(), []
    for value in order:
        start = len(pictures)
        for _ in range(45):
            t = len(pictures)
            p = place.view(0.001 * t, 0, 1, 0)
            pictures.append(cv2.GaussianBlur(p, (0, 0), soft) if value == "soft" else p)
        known.facts.append(("focus", value, start, len(pictures), soft))
    grain = rng.choice([0.0, 2.0, 5.0])
    write(path, (filmed(rng, p, grain, 1.0) for p in pictures))
    return known


_SPOKEN = (
    "The first tram of the morning leaves the depot at half past five.",
    "Mind the doors please. Next stop, Harbour Street.",
    "In nineteen sixty two the town had eleven lines and forty cars.",
    "Good evening. Here are the shipping notices for the coming night.",
    "She said that she would wait by the bridge, and then nobody came.",
)
_VOICES = ("en", "en-us", "en-gb-scotland", "de", "fr", "en+f3", "en+m7", "en+f5")
SOUND_RATE = 48_000


def spoken(rng: Rng, into: Path) -> NDArray[np.float64]:
    """Return a sentence read by espeak-ng (a package of Debian's), at 48 kHz, peak 1."""
    file = into.with_suffix(".wav")
    subprocess.run(
        ["espeak-ng", "-v", str(rng.choice(_VOICES)), "-s", str(int(rng.integers(130, 190))),
         "-p", str(int(rng.integers(25, 75))), "-w", str(file), str(rng.choice(_SPOKEN))],
        check=True,
    )  # fmt: skip
    with wave.open(str(file)) as read:
        rate = read.getframerate()
        voice = np.frombuffer(read.readframes(read.getnframes()), np.int16) / 32768
    file.unlink()
    at = np.arange(int(len(voice) * SOUND_RATE / rate)) * rate / SOUND_RATE
    voice = np.interp(at, np.arange(len(voice)), voice)
    return voice / np.abs(voice).max()


def _beneath(rng: Rng, sort: str, length: int) -> NDArray[np.float64]:
    """Return what is heard under speech, of RMS 1: music, rain, a tram, or nothing."""
    t = np.arange(length) / SOUND_RATE
    if sort == "music":
        made = np.zeros(length)
        for start in np.arange(0, length / SOUND_RATE, 0.5):
            root = 110 * 2 ** (int(rng.integers(0, 24)) / 12)
            on = np.maximum(0, t - start)
            env = np.where(t >= start, np.exp(-2.5 * on) * np.minimum(1, on * 60), 0)
            for part in (1, 1.25, 1.5, 2, 3):
                made += env * np.sin(2 * np.pi * root * part * t) / part
    elif sort == "rain":
        made = np.diff(rng.normal(0, 1, length + 1))
        made += 3 * (rng.random(length) < 0.0005) * rng.normal(0, 1, length)
    elif sort == "tram":
        made = np.cumsum(rng.normal(0, 1, length))
        made -= np.convolve(made, np.ones(960) / 960, "same")
        made += 12 * np.sin(2 * np.pi * 97 * t) * (1 + 0.5 * np.sin(2 * np.pi * 0.7 * t))
        made += 20 * rng.normal(0, 1, length) * (np.sin(2 * np.pi * 1.6 * t) > 0.98)
    else:
        return np.zeros(length)
    return made / np.sqrt((made**2).mean())


def sound_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a film in which somebody speaks now and then, over something, louder or softer."""
    length = int(rng.integers(14, 22)) * SOUND_RATE
    level = 10 ** (rng.uniform(-30, -12) / 20)
    beneath = str(rng.choice(["music", "rain", "tram", "nothing"]))
    apart = 10 ** (rng.uniform(3, 25) / 20)
    sound = _beneath(rng, beneath, length) * level / apart
    speaks = np.zeros(length, bool)
    at = int(rng.uniform(1, 3) * SOUND_RATE)
    while True:
        voice = spoken(rng, path)
        if at + len(voice) > length - SOUND_RATE:
            break
        loud = voice * level / np.sqrt((voice**2).mean())
        sound[at : at + len(voice)] += loud
        power = np.convolve(voice**2, np.ones(2400) / 2400, "same")
        speaks[at : at + len(voice)] = power > 1e-4
        at += len(voice) + int(rng.uniform(1.2, 3.5) * SOUND_RATE)
    frames = length * RATE // SOUND_RATE
    photo = Set(rng, shelf).view(0, 0, 1, 0).astype(np.uint8)
    write(path, (photo for _ in range(frames)), np.clip(sound, -1, 1))
    tenths = speaks[: length // 4800 * 4800].reshape(-1, 4800).mean(axis=1) > 0.5
    edges = np.flatnonzero(np.diff(np.concatenate([[0], tenths.astype(int), [0]])))
    return Known(
        [("sound", beneath, int(a), int(b), float(apart)) for a, b in edges.reshape(-1, 2)]
    )


def write(path: Path, pictures: Iterable[Any], sound: NDArray[np.float64] | None = None) -> None:
    """Encode pictures (h, w, 3) RGB as H.264 of usual quality, and sound beside them."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=RATE, options={"crf": "20", "preset": "veryfast"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        if sound is not None:
            track = out.add_stream("aac", rate=SOUND_RATE, layout="mono")
        for picture in pictures:
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), "rgb24")
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
        if sound is not None:
            coded = (sound * 32767).astype(np.int16)
            for at in range(0, len(coded) // 1024 * 1024, 1024):
                piece = av.AudioFrame.from_ndarray(coded[None, at : at + 1024], "s16", "mono")
                piece.sample_rate, piece.pts = SOUND_RATE, at
                out.mux(track.encode(piece))
            out.mux(track.encode())


_LINES = (
    "Port Ansel 1962", "LINE 7 AT FIRST LIGHT", "Keeper of the lighthouse", "Part two: the bridge",
    "music by the harbour band", "0:37:12:04", "THE END", "Montag, 4. April", "Le port, à l'aube",
)  # fmt: skip


def text_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a film over which a line of letters stands, or none."""
    place = Set(rng, shelf)
    fonts = sorted((Path(__file__).parents[1] / "src" / "offcut" / "fonts").glob("*.ttf"))
    n = int(rng.integers(60, 260))
    lettered = rng.random() < 0.6
    sheet = Image.new("RGBA", SIZE, (0, 0, 0, 0))
    if lettered:
        high = rng.uniform(0.04, 0.11) * SIZE[1]
        font = ImageFont.truetype(str(fonts[int(rng.integers(len(fonts)))]), round(high))
        words = str(rng.choice(_LINES))
        wide = font.getlength(words)
        x = rng.uniform(0.04 * SIZE[0], max(0.05 * SIZE[0], 0.96 * SIZE[0] - wide))
        y = rng.choice([0.08, 0.45, 0.82]) * SIZE[1] + rng.uniform(-10, 10)
        light = rng.random() < 0.75
        ink, edge = ((245, 240, 220, 255), (0, 0, 0, 170)) if light else ((20, 18, 16, 255), None)
        draw = ImageDraw.Draw(sheet)
        draw.text((x, y), words, ink, font, stroke_width=2 if edge else 0, stroke_fill=edge)
    laid = np.asarray(sheet, np.float32)
    share = laid[..., 3:] / 255

    def pictures() -> Iterable[Picture]:
        for t in range(n):
            p = place.view(0.0006 * t, 0, 1, 0)
            yield p * (1 - share) + laid[..., :3] * share

    grain = rng.choice([0.0, 2.0, 5.0])
    write(path, (filmed(rng, p, grain, 1.0) for p in pictures()))
    return Known([("text", "text", 0, n, 0.0)] if lettered else [])


_PEOPLE = {
    "learn": {
        "sample1": ((0.27, 0.38, 0.184), (0.49, 0.42, 0.171), (0.825, 0.255, 0.178)),
        "sample2": ((0.235, 0.195, 0.195), (0.51, 0.255, 0.145), (0.81, 0.21, 0.162)),
        "sample3": ((0.365, 0.345, 0.167), (0.63, 0.27, 0.24), (0.825, 0.32, 0.243)),
    },
    "bench": {
        "sample4": ((0.175, 0.22, 0.163), (0.39, 0.13, 0.169), (0.56, 0.21, 0.169), (0.705, 0.19, 0.185)),
        "sample5": ((0.245, 0.73, 0.207), (0.36, 0.395, 0.186), (0.45, 0.16, 0.164), (0.62, 0.225, 0.164),
                    (0.79, 0.38, 0.24)),
        "sample6": ((0.185, 0.41, 0.2), (0.4, 0.31, 0.21), (0.66, 0.285, 0.195), (0.825, 0.265, 0.198)),
        "astronaut": ((0.435, 0.23, 0.219),),
    },
}  # fmt: skip
"""Faces in open photographs, marked by eye: their middles, and from hairline to chin, as shares of the picture's
width and height. The samples are those of the npm package @vladmandic/face-api 1.7.15 (MIT licence), the
astronaut is scikit-image's (public domain)."""


@cache
def people(side: str) -> list[tuple[Picture, tuple[tuple[float, float, float], ...]]]:
    """Return photographs with faces of a side as RGB (h, w, 3) of 0 to 255, and where the faces are.

    Fetched where they are not there yet; CalledProcessError where that fails.
    """
    home = Path(tempfile.gettempdir()) / "offcut-bench" / "photographs"
    demo = home / "face-api" / "package" / "demo"
    if not demo.exists():
        demo.parents[1].mkdir(parents=True, exist_ok=True)
        name = "@vladmandic/face-api@1.7.15"
        subprocess.run(["npm", "pack", name, "--silent"], cwd=demo.parents[1], check=True)
        (packed,) = demo.parents[1].glob("*.tgz")
        subprocess.run(["tar", "xzf", str(packed)], cwd=demo.parents[1], check=True)
    made = []
    for name, faces in _PEOPLE[side].items():
        if name == "astronaut":
            read = skimage.data.astronaut()
        else:
            read = cv2.imread(str(demo / f"{name}.jpg"))[..., ::-1]
        made.append((read.astype(np.float32), faces))
    return made


def faces_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a film of people as near as chance has it, or of a photograph without any."""
    n = int(rng.integers(40, 80))
    grain, dim = rng.choice([0.0, 2.0, 5.0]), float(rng.choice([1.0, 1.0, 0.5]))
    place = Set(rng, shelf)
    if rng.random() < 0.4:
        write(path, (filmed(rng, place.view(0.001 * t, 0, 1, 0), grain, dim) for t in range(n)))
        return Known([("faces", "0", 0, n, 0.0)])
    side = people("bench" if "-bench-" in path.name else "learn")
    photo, faces = side[int(rng.integers(len(side)))]
    x, y, height = faces[int(rng.integers(len(faces)))]
    high, wide = photo.shape[:2]
    asked = math.exp(rng.uniform(math.log(0.035), math.log(0.75)))
    scale = asked * SIZE[1] / (height * high)
    # the face somewhere in the middle third; what lies beyond the photograph is another one
    to_x, to_y = (rng.uniform(0.35, 0.65) * s for s in SIZE)
    around = place.view(0, 0, 1, 0)
    smaller = cv2.resize(
        photo, None, fx=scale, fy=scale,
        interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC,
    )  # fmt: skip

    def at(t: int) -> Picture:
        m = np.array([[1, 0, to_x - x * wide * scale + 0.2 * t], [0, 1, to_y - y * high * scale]])
        return cv2.warpAffine(
            smaller,
            m,
            SIZE,
            dst=around.copy(),
            flags=cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_TRANSPARENT,
        )

    inside = []
    for a, b, h in faces:
        px, py = to_x + (a - x) * wide * scale, to_y + (b - y) * high * scale
        tall = h * high * scale
        if -0.2 * tall < px < SIZE[0] + 0.2 * tall and -0.2 * tall < py < SIZE[1] + 0.2 * tall:
            inside.append(tall / SIZE[1])
    write(path, (filmed(rng, at(t), grain, dim) for t in range(n)))
    return Known([("faces", str(len(inside)), 0, n, max(inside))])


def _leader(rng: Rng) -> list[Picture]:
    """Return a countdown of drawn numerals, with a hand that goes round or without, after a ground."""
    beat = int(rng.choice([RATE, 24]))
    ground, ink = (rng.uniform(150, 215), 25) if rng.random() < 0.6 else (rng.uniform(20, 60), 220)
    first, hand, ring = int(rng.integers(5, 9)), rng.random() < 0.6, rng.random() < 0.7
    made = []
    for numeral in range(first, 1, -1):
        for t in range(beat):
            p = np.full((SIZE[1], SIZE[0], 3), ground, np.uint8)
            middle = (SIZE[0] // 2, SIZE[1] // 2)
            if hand:
                turn = 360 * t / beat
                shade = (ground * 0.8,) * 3
                cv2.ellipse(p, middle, (700, 700), -90, 0, turn, shade, -1)
            if ring:
                for r in (150, 185):
                    cv2.circle(p, middle, r, (ink,) * 3, 4, cv2.LINE_AA)
            at = (middle[0] - 68, middle[1] + 75)
            cv2.putText(
                p, str(numeral), at, cv2.FONT_HERSHEY_DUPLEX, 7, (ink,) * 3, 16, cv2.LINE_AA
            )
            made.append(p.astype(np.float32))
    return made


def _bars(rng: Rng) -> Picture:
    level = rng.uniform(0.72, 1.0) * 255
    tints = [(1, 1, 1), (1, 1, 0), (0, 1, 1), (0, 1, 0), (1, 0, 1), (1, 0, 0), (0, 0, 1)]
    row = np.repeat(np.array(tints, np.float32), SIZE[0] // 7, axis=0)[: SIZE[0]]
    row = np.concatenate([row, np.repeat(row[-1:], SIZE[0] - len(row), axis=0)])
    return np.repeat(row[None] * level, SIZE[1], axis=0)


def _slate(rng: Rng) -> Picture:
    fonts = sorted((Path(__file__).parents[1] / "src" / "offcut" / "fonts").glob("*.ttf"))
    ground, ink = (
        ((12, 12, 14), (235, 230, 215)) if rng.random() < 0.6 else ((214, 208, 190), (24, 22, 20))
    )
    sheet = Image.new("RGB", SIZE, ground)
    draw = ImageDraw.Draw(sheet)
    lines = rng.choice(_LINES, int(rng.integers(2, 6)), replace=False)
    high = int(rng.uniform(26, 52))
    font = ImageFont.truetype(str(fonts[int(rng.integers(len(fonts)))]), high)
    for n, line in enumerate(lines):
        draw.text((SIZE[0] / 2, 80 + n * high * 1.5), str(line), ink, font, anchor="mm")
    return np.asarray(sheet, np.float32)


def part_film(rng: Rng, shelf: Shelf, path: Path) -> Known:
    """Write a reel's head: leader, bars, slate, black, white and a held still, in between pictures."""
    grain = float(rng.choice([0.0, 0.0, 1.5]))
    facts: list[tuple[str, str, int, int, float]] = []
    pictures: list[Picture] = []

    def put(word: str, some: list[Picture]) -> None:
        begun = len(pictures)
        pictures.extend(some)
        if facts and facts[-1][1] == word:
            facts[-1] = (*facts[-1][:3], len(pictures), 0.0)
        else:
            facts.append(("part", word, begun, len(pictures), 0.0))

    def held(picture: Picture, low: float, high: float) -> list[Picture]:
        return [picture] * int(rng.uniform(low, high) * RATE)

    def moving() -> list[Picture]:
        place, way = Set(rng, shelf), rng.choice([-1, 1]) * rng.uniform(0.002, 0.006)
        return [place.view(way * t, 0, 1, 0) for t in range(int(rng.uniform(2, 4) * RATE))]

    black = np.full((SIZE[1], SIZE[0], 3), 3.0, np.float32)
    makers = {
        "leader": lambda: _leader(rng),
        "bars": lambda: held(_bars(rng), 1, 3),
        "slate": lambda: held(_slate(rng), 2, 4),
        "white": lambda: held(np.full_like(black, 250.0), 0.4, 1),
        "still": lambda: held(Set(rng, shelf).view(0, 0, 1, 0), 2, 4),
    }
    for word in rng.permutation(list(makers)).tolist()[: int(rng.integers(2, 5))]:
        put(word, makers[word]())
        if rng.random() < 0.7:
            put("black", held(black, 0.4, 1.5))
        put("programme", moving())
    write(path, (filmed(rng, p, grain, 1.0) for p in pictures))
    return Known(facts)


SORTS = {
    "part": part_film,
    "text": text_film,
    "faces": faces_film,
    "camera": camera_film,
    "steadiness": steady_film,
    "light": light_film,
    "focus": focus_film,
    "sound": sound_film,
}
