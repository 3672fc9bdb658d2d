"""Makes films and their versions, and originals and what was cut from them, with the truth.

Shots come from `films`; many are of one set-up, as in a conversation, so that they look alike. A
version is made by edits chosen at random and then finished otherwise: graded, resized, cropped or
put between bars, lettered, coded anew. ``learn`` and ``bench`` share no source of pictures.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, field
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from films import CODECS, HOME, SIZE, Picture, Shelf, any_shot, photo_shot

Bytes = NDArray[np.uint8]
HANDLE = 40
SEED = 15
RATES = (Fraction(24), Fraction(25), Fraction(24000, 1001), Fraction(30000, 1001))


@dataclass
class Take:
    """What was shot: pictures, longer than what is used of them, and which of them are used."""

    pictures: list[Bytes]
    start: int
    end: int
    name: int


@dataclass
class Used:
    """A shot of a version: which take, which frames; or pictures of its own where ``made``."""

    take: int
    start: int
    end: int
    step: float = 1.0
    made: str = ""


@dataclass
class Told:
    """What is true of a shot of the new version, or of one that is gone."""

    change: str
    old: tuple[int, int] | None
    new: tuple[int, int] | None
    head: int = 0
    tail: int = 0
    moved: bool = False
    what: str = ""


@dataclass
class Pair:
    """Two versions on disk, and what is true of them."""

    old: str
    new: str
    told: list[Told] = field(default_factory=list)
    finish: list[str] = field(default_factory=list)


def takes(rng: np.random.Generator, shelf: Shelf, count: int) -> list[Take]:
    """Return takes: some of their own, some of a few set-ups that are come back to."""
    made: list[Take] = []
    setups: list[tuple[int, tuple[float, float, float], float]] = []
    while len(made) < count:
        used = int(rng.choice([rng.integers(10, 30), rng.integers(24, 90), rng.integers(60, 160)]))
        length = used + 2 * HANDLE
        if rng.random() < 0.4:
            if not setups or rng.random() < 0.2:
                view = (rng.uniform(0.35, 0.65), rng.uniform(0.35, 0.65), rng.uniform(1.1, 2.0))
                setups.append((int(rng.integers(len(shelf.photos))), view, rng.uniform(0.2, 0.7)))
            which, view, speed = setups[int(rng.integers(max(0, len(setups) - 3), len(setups)))]
            shot = list(photo_shot(rng, shelf, length, view=view, which=which, speed=speed))
        else:
            shot = any_shot(rng, shelf, length)
        grain = rng.uniform(0.5, 4)
        noisy = [p + rng.normal(0, grain, (*SIZE[::-1], 1)).astype(np.float32) for p in shot]
        pictures = [np.clip(p, 0, 255).astype(np.uint8) for p in noisy]
        made.append(Take(pictures, HANDLE, HANDLE + used, len(made)))
    return made


def edited(
    rng: np.random.Generator, film: list[Take], spare: list[Take], edits: int
) -> tuple[list[Used], list[Told]]:
    """Return the new version's shots after so many edits, and the truth without places in it."""
    at = np.cumsum([0, *(t.end - t.start for t in film)]).tolist()
    places = {t.name: (at[k], at[k + 1]) for k, t in enumerate(film)}
    shots = [Used(t.name, t.start, t.end) for t in film]
    told = [Told("same", places[t.name], None) for t in film]
    touched: set[int] = set()
    left = list(spare)
    gone: list[Told] = []
    for _ in range(edits):
        kind = rng.choice(
            ["trim", "longer", "gone", "new", "move", "other", "effect", "speed", "split"],
            p=[0.26, 0.16, 0.12, 0.14, 0.1, 0.08, 0.05, 0.04, 0.05],
        )
        free = [k for k, s in enumerate(shots) if s.take not in touched and not s.made]
        if not free:
            break
        k = int(rng.choice(free))
        shot, truth = shots[k], told[k]
        length = shot.end - shot.start
        n = int(rng.integers(1, 31))
        if kind in ("trim", "longer"):
            sign = 1 if kind == "longer" else -1
            ends = rng.choice(3)
            head = sign * n if ends != 1 else 0
            tail = sign * int(rng.integers(1, 31)) if ends != 0 else 0
            if length + head + tail < 8:
                continue
            shots[k] = Used(shot.take, shot.start - head, shot.end + tail)
            told[k] = Told(
                "longer" if head + tail > 0 else "shorter", truth.old, None, head, tail, what=kind
            )
        elif kind == "gone":
            if len(shots) < 12:
                continue
            gone.append(Told("gone", truth.old, None, what=str(k)))
            del shots[k], told[k]
        elif kind == "new" and left:
            take = left.pop()
            shots.insert(k, Used(take.name, take.start, take.end))
            told.insert(k, Told("new", None, None))
            touched.add(take.name)
            continue
        elif kind == "move":
            to = int(rng.integers(len(shots)))
            if abs(to - k) < 2:
                continue
            shots.insert(to, shots.pop(k))
            truth = told.pop(k)
            told.insert(to, Told("same", truth.old, None, moved=True))
        elif kind == "other" and left:
            longest = max(left, key=lambda t: len(t.pictures))
            if len(longest.pictures) < length:
                continue
            left.remove(longest)
            shots[k] = Used(longest.name, 0, length)
            told[k] = Told("other picture", truth.old, None, what="replaced")
            touched.add(longest.name)
        elif kind == "effect":
            shots[k] = Used(shot.take, shot.start, shot.end, made="effect")
            told[k] = Told("other picture", truth.old, None, what="effect")
        elif kind == "speed":
            step = float(rng.choice([0.5, 2.0]))
            now = int(length / step)
            if now < 10:
                continue
            shots[k] = Used(shot.take, shot.start, shot.start + now, step=step)
            told[k] = Told("longer" if step < 1 else "shorter", truth.old, None, what="speed")
        elif kind == "split" and left and length > 24:
            take = left.pop()
            cut = int(rng.integers(10, length - 10))
            first, last = truth.old or (0, 0)
            shots[k : k + 1] = [
                Used(shot.take, shot.start, shot.start + cut),
                Used(take.name, take.start, take.end),
                Used(shot.take, shot.start + cut, shot.end),
            ]
            told[k : k + 1] = [
                Told("shorter", (first, last), None, 0, cut - length, what="split"),
                Told("new", None, None),
                Told("shorter", (first, last), None, -cut, 0, what="split"),
            ]
            touched.add(take.name)
        touched.add(shot.take)
    frame = 0
    for shot, truth in zip(shots, told, strict=True):
        n = shot.end - shot.start
        truth.new = (frame, frame + n)
        frame += n
    return shots, [*told, *gone]


def pictures_of(shots: list[Used], by_name: dict[int, Take], seed: int) -> Iterator[Bytes]:
    """Yield the pictures of a version."""
    for shot in shots:
        take = by_name[shot.take]
        rng = np.random.default_rng([seed, shot.take])
        effect = _effect(rng) if shot.made == "effect" else None
        for t in range(shot.end - shot.start):
            at = shot.start + int(t * shot.step)
            picture = take.pictures[min(len(take.pictures) - 1, max(0, at))]
            yield effect(picture, t) if effect else picture


def _effect(rng: np.random.Generator) -> Callable[[Bytes, int], Bytes]:
    """Return what finishes an effect: something stands in the picture that did not before."""
    x, y = int(rng.integers(60, SIZE[0] - 60)), int(rng.integers(50, SIZE[1] - 50))
    size = int(rng.integers(34, 60)), int(rng.integers(34, 60))
    tone = tuple(float(v) for v in rng.uniform(0, 255, 3))
    drift = rng.normal(0, 0.4, 2)

    def finished(picture: Bytes, t: int) -> Bytes:
        out = picture.copy()
        centre = (int(x + drift[0] * t), int(y + drift[1] * t))
        cv2.ellipse(out, centre, size, 0, 0, 360, tone, -1, cv2.LINE_AA)
        cv2.line(
            out, (centre[0] - 20, centre[1]), (centre[0] + 20, centre[1] - 20), (20, 20, 20), 5
        )
        return out

    return finished


Finish = Callable[[Picture, int], Picture]


def finishing(rng: np.random.Generator) -> tuple[Finish, tuple[int, int], list[str]]:
    """Return how a version is finished: a function of a picture, its size, and in words what."""
    words: list[str] = []
    steps: list[Finish] = []
    if rng.random() < 0.6:
        gamma, gain, lift = rng.uniform(0.75, 1.3), rng.uniform(0.8, 1.15), rng.uniform(-8, 14)
        tint, keep = rng.uniform(0.88, 1.12, 3), rng.uniform(0.5, 1.2)
        words.append("grade")

        def graded(p: Picture, _t: int) -> Picture:
            p = (np.clip(p, 0, 255) / 255) ** gamma * 255 * gain * tint + lift
            grey = p.mean(axis=2, keepdims=True)
            return (grey + (p - grey) * keep).astype(np.float32)

        steps.append(graded)
    if rng.random() < 0.35:
        zoom = rng.uniform(1.02, 1.14)
        ox, oy = rng.uniform(0, 1 - 1 / zoom, 2)
        matrix = np.array([[zoom, 0, -ox * zoom * SIZE[0]], [0, zoom, -oy * zoom * SIZE[1]]])
        words.append(f"crop {zoom:.2f}")
        steps.append(lambda p, _t: cv2.warpAffine(p, matrix, SIZE, flags=cv2.INTER_AREA))
    if rng.random() < 0.25:
        bar = int(rng.integers(10, 30))
        words.append("bars")

        def barred(p: Picture, _t: int) -> Picture:
            p = p.copy()
            p[:bar] = p[-bar:] = 0
            return p

        steps.append(barred)
    if rng.random() < 0.45:
        words.append("clock")

        def lettered(p: Picture, t: int) -> Picture:
            clock = f"01:{t // 1500:02d}:{t // 25 % 60:02d}:{t % 25:02d}"
            box = np.zeros((20, 135, 3), np.uint8)
            cv2.putText(box, clock, (5, 16), 0, 0.55, (250, 250, 250), 1, cv2.LINE_AA)
            p = p.copy()
            p[190:210, 125:260] = box
            return p

        steps.append(lettered)
    if rng.random() < 0.3:
        words.append("logo")

        def marked(p: Picture, _t: int) -> Picture:
            p = p.copy()
            box = p[14:40, 330:368]
            cv2.circle(box, (18, 13), 11, (230, 230, 230), -1, cv2.LINE_AA)
            return p

        steps.append(marked)
    size = ((384, 216), (320, 180), (512, 288), (640, 360))[int(rng.integers(4))]
    words.append(f"{size[0]}x{size[1]}")

    def finished(p: Picture, t: int) -> Picture:
        for step in steps:
            p = step(p, t)
        flags = cv2.INTER_AREA if size[0] < SIZE[0] else cv2.INTER_LINEAR
        return p if size == SIZE else cv2.resize(p, size, interpolation=flags)

    return finished, size, words


def encode(
    pictures: Iterator[Picture], path: Path, size: tuple[int, int], rate: Fraction, seed: int
) -> Path:
    """Encode a film with a codec chosen by its seed."""
    rng = np.random.default_rng([seed, 99])
    suffix, codec, pixels, settings = CODECS[int(rng.choice(len(CODECS), p=[0.6, 0.2, 0.1, 0.1]))]
    if codec != "libx264" and rate.denominator == 1001 and rate.numerator == 24000:
        rate = Fraction(24)
    options = settings(rng)
    file = path.with_suffix(f".{suffix}")
    with av.open(str(file), "w") as out:
        stream = out.add_stream(codec, rate=rate, options=options)
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        stream.codec_context.time_base = 1 / rate
        if "b" in options:
            stream.bit_rate = int(options["b"])
        for n, p in enumerate(pictures):
            whole = np.ascontiguousarray(np.clip(p, 0, 255).astype(np.uint8))
            frame = av.VideoFrame.from_ndarray(whole, "rgb24")
            frame.pts, frame.time_base = n, 1 / rate
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return file


def make_pair(side: str, seed: int, shelf: Shelf, shots: int = 0) -> Pair:
    """Make two versions, or return those that are there."""
    folder = HOME / f"tally-{side}"
    folder.mkdir(parents=True, exist_ok=True)
    kept = folder / f"pair-{seed}.json"
    if kept.exists():
        read = json.loads(kept.read_text())
        read["told"] = [Told(**t) for t in read["told"]]
        return Pair(**read)
    rng = np.random.default_rng([SEED, seed, side == "learn"])
    count = shots or int(rng.choice([rng.integers(30, 60), rng.integers(60, 140)], p=[0.6, 0.4]))
    edits = int(rng.integers(1, 41))
    film = takes(rng, shelf, count)
    spare = takes(rng, shelf, edits)
    for take in spare:
        take.name += count
    by_name = {t.name: t for t in (*film, *spare)}
    shots_now, told = edited(rng, film, spare, edits)
    rate = RATES[int(rng.integers(4))]
    old = encode(
        (p.astype(np.float32) for t in film for p in t.pictures[t.start : t.end]),
        folder / f"old-{seed}", SIZE, rate, seed,
    )  # fmt: skip
    finish, size, words = finishing(rng)
    again = RATES[int(rng.integers(3))] if rng.random() < 0.25 else rate
    new = encode(
        (finish(p.astype(np.float32), t)
         for t, p in enumerate(pictures_of(shots_now, by_name, seed))),
        folder / f"new-{seed}", size, again, seed + 1000,
    )  # fmt: skip
    pair = Pair(str(old), str(new), told, [*words, f"{float(rate):.3f} to {float(again):.3f}"])
    kept.write_text(json.dumps(asdict(pair)))
    return pair


# originals


@dataclass
class Cut:
    """A shot of a film and the original it was made from: frames [start, end) of each."""

    film: tuple[int, int]
    file: str
    first: float
    speed: float
    flopped: bool
    zoom: float


def _originals(rng: np.random.Generator, shelf: Shelf, count: int) -> Iterator[list[Bytes]]:
    """Yield camera files; two thirds of them are takes of a few set-ups."""
    setups: list[tuple[int, tuple[float, float, float], float]] = []
    for _ in range(count):
        length = int(rng.integers(90, 220))
        if rng.random() < 0.66:
            if not setups or rng.random() < 6 / count + 0.04:
                view = (rng.uniform(0.35, 0.65), rng.uniform(0.35, 0.65), rng.uniform(1.1, 2.0))
                setups.append((int(rng.integers(len(shelf.photos))), view, rng.uniform(0.25, 0.8)))
            which, view, speed = setups[int(rng.integers(max(0, len(setups) - 3), len(setups)))]
            shot = list(
                photo_shot(rng, shelf, length, view=view, which=which, speed=speed, somebody=True)
            )
        else:
            shot = any_shot(rng, shelf, length)
        yield [np.clip(p, 0, 255).astype(np.uint8) for p in shot]


def make_originals(side: str, seed: int, count: int, shots: int) -> Path:
    """Make a folder of originals and a film cut from some of them; return the folder."""
    folder = HOME / f"originals-{side}-{seed}-{count}"
    truth = folder / "truth.json"
    if truth.exists():
        return folder
    (folder / "camera").mkdir(parents=True, exist_ok=True)
    rng = np.random.default_rng([SEED, seed, count, side == "learn"])
    shelf = Shelf(side)
    chosen = sorted(rng.choice(count, min(shots, count), replace=False).tolist())
    parts: dict[int, tuple[list[Bytes], Cut]] = {}
    for n, pictures in enumerate(_originals(rng, shelf, count)):
        name = f"A{n // 50 + 1:03d}C{n % 50 + 1:03d}"
        file = encode(
            iter(pictures), folder / "camera" / name, SIZE, Fraction(24), seed * 10_000 + n
        )
        if n in chosen:
            parts[n] = _cut_from(rng, pictures, file.name)
    order = rng.permutation(list(parts)).tolist()
    cuts: list[Cut] = []
    at = 0
    for n in order:
        pictures, cut = parts[n]
        cut.film = (at, at + len(pictures))
        at += len(pictures)
        cuts.append(cut)
    gamma, gain = rng.uniform(0.8, 1.25), rng.uniform(0.85, 1.1)

    def graded() -> Iterator[Picture]:
        for n in order:
            own = 1 + 0.06 * ((n * 37) % 7 - 3) / 3
            for p in parts[n][0]:
                yield ((p.astype(np.float32) / 255) ** (gamma * own) * 255 * gain).astype(
                    np.float32
                )

    encode(graded(), folder / "film", SIZE, Fraction(24), seed + 7)
    truth.write_text(json.dumps([asdict(c) for c in cuts]))
    return folder


def _cut_from(
    rng: np.random.Generator, pictures: list[Bytes], name: str
) -> tuple[list[Bytes], Cut]:
    """Return a shot as it was cut from an original, and the truth without its place."""
    roll = rng.random()
    speed = 1.0 if roll < 0.6 else float(rng.choice([0.25, 0.5, 0.8, 1.25, 2.0, 4.0]))
    most = min(90, int((len(pictures) - 4) / speed))
    length = int(rng.integers(min(16, most), most + 1))
    first = int(rng.integers(0, len(pictures) - int(length * speed)))
    flopped = rng.random() < 0.15
    zoom = float(rng.uniform(1.02, 1.1)) if rng.random() < 0.4 else 1.0
    x, y = rng.uniform(0, 1 - 1 / zoom, 2)
    matrix = np.array([[zoom, 0, -x * zoom * SIZE[0]], [0, zoom, -y * zoom * SIZE[1]]])
    made = []
    for t in range(length):
        p = pictures[min(len(pictures) - 1, first + int(t * speed + 1e-6))]
        if zoom > 1:
            p = cv2.warpAffine(p, matrix, SIZE, flags=cv2.INTER_LINEAR)
        made.append(np.ascontiguousarray(p[:, ::-1]) if flopped else p)
    return made, Cut((0, 0), name, first, speed, flopped, zoom)
