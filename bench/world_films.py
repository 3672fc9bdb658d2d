"""The rest of the world: films of the sorts that people are handed and `films` does not make.

Camera stops that burn out, interlaced and woven pictures, bars on all sides, joins made by movement,
wipes of many forms, letters over everything, variable rates, animation, phones, pictures side by
side, screens, very short shots, deep and high dynamic range pictures. Material and sides as in
`films`, with more photographs. Run it to write films beside those of `films`.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from av.video.stream import VideoStream
from numpy.typing import NDArray

from films import (
    LAMPS,
    SIZE,
    TRAPS,
    Cutting,
    Picture,
    Shelf,
    any_shot,
    clip_shot,
    jump,
    make_all,
    photo_shot,
    titled,
)
from world_joins import MOVES, WIPES, Rng, ease, join_length, long_dissolve, moved, room_in, turned

CATEGORIES = (
    "stops",
    "fields",
    "pulldown",
    "bars",
    "moves",
    "wipes",
    "graphics",
    "punch",
    "rates",
    "twos",
    "phone",
    "split",
    "screens",
    "short",
    "deep",
    "blended",
    "lights",
    "lamps",
)


@dataclass
class Made:
    """A film as it is to be written.

    Attributes: ``pictures`` RGB float32 0 to 255; ``joins`` (frame, start, end, kind); ``size``,
    ``rate``, ``codec``, ``pixels`` and ``options`` of the file; ``fields`` "", "tff" or "bff" where the
    stream says that it is interlaced; ``times`` of the frames where they are not even; ``curve``
    "pq" or "hlg" and ``full`` range.
    """

    pictures: list[Picture]
    joins: list[tuple[int, int, int, str]]
    size: tuple[int, int] = SIZE
    rate: Fraction = Fraction(25)
    codec: str = ""
    pixels: str = "yuv420p"
    options: dict[str, str] = field(default_factory=dict)
    fields: str = ""
    times: list[int] | None = None
    curve: str = ""
    full: bool = False
    suffix: str = "mp4"


def _plain_dissolve(rng: Rng, made: Cutting, shot: list[Picture], longest: int = 60) -> None:
    made.mix(shot, join_length(rng, 6, min(longest, room_in(made) - 8, len(shot) - 8)))


def _shot(
    rng: Rng, shelf: Shelf, low: int = 20, high: int = 60, traps: float = 0.12, speed: float = 1.0
) -> list[Picture]:
    shot = any_shot(rng, shelf, join_length(rng, low, high), speed=speed)
    if rng.random() < traps:
        shot = TRAPS[int(rng.integers(len(TRAPS)))](rng, shot)
    return [np.clip(p, 0, 255).astype(np.float32) for p in shot]


# the categories


def _of_joins(
    joins: tuple[Callable[..., None], ...], low: int, high: int
) -> Callable[[Rng, Shelf], Made]:
    def make(rng: Rng, shelf: Shelf) -> Made:
        made = Cutting()
        chosen = [
            joins[int(rng.integers(len(joins)))] if rng.random() < 0.7 else None for _ in range(20)
        ]
        for before, after in pairwise([None, *chosen, None]):
            least = 150 if long_dissolve in (before, after) else low
            shot = _shot(rng, shelf, least, max(least + 8, high))
            wanted = 128 if before is long_dissolve else low - 8
            if before is None or room_in(made) < wanted or len(shot) < wanted:
                made.cut(shot)
            else:
                before(rng, made, shot)
        return Made(made.pictures, made.truth.joins)

    return make


def _stops(rng: Rng, shelf: Shelf) -> Made:
    """A roll in thin log: the picture burns out and another comes out of the white."""
    made = Cutting()
    stops: list[tuple[int, int, int, str]] = []
    lights: list[float] = []
    for _ in range(24):
        shot = _shot(rng, shelf, 18, 60, traps=0.0)
        gains = [1.0] * len(shot)
        if lights and rng.random() < 0.6:
            out, back = join_length(rng, 1, 4), join_length(rng, 1, 4)
            top, first = rng.uniform(3, 30), rng.uniform(3, 30)
            for k in range(out):
                lights[len(lights) - out + k] *= top ** ((k + 1) / out)
            for k in range(back):
                gains[k] *= first ** ((back - k) / back)
            at = len(lights)
            stops.append((at, at - out, at + back, "stop"))
        elif lights:
            stops.append((len(lights),) * 3 + ("cut",))
        if rng.random() < 0.15:  # a flash in the shot: not a stop
            at, n = int(rng.integers(6, len(shot) - 8)), join_length(rng, 1, 4)
            for k in range(n):
                gains[at + k] *= rng.uniform(2, 20)
        made.pictures += shot
        lights += gains
    # in linear light, as a lens sees it, then scanned as thin log
    weak = rng.uniform(60, 110)  # the code range that a picture takes of 255
    base, grain = rng.uniform(60, 100), rng.uniform(2, 9)
    gate = rng.random() < 0.5
    wander = rng.uniform(0.0, 1.5)
    pictures = []
    for p, gain in zip(made.pictures, lights, strict=True):
        light = (p / 255) ** 2.2 * gain + 0.004
        grey = light.mean(axis=2, keepdims=True)
        light = light * 0.6 + grey * 0.4
        code = base + weak * (np.log10(light / 0.004) / np.log10(1 / 0.004))
        code = np.minimum(code, min(235.0, base + weak * rng.uniform(1.28, 1.32)))
        code = code + rng.normal(0, grain, (*SIZE[::-1], 1))
        pictures.append(
            moved(code.astype(np.float32), rng.normal(0, wander), rng.normal(0, wander))
        )
    if gate:
        pictures = scanned_gate(pictures)
    return Made(pictures, stops, rate=Fraction(24))


def scanned_gate(pictures: list[Picture]) -> list[Picture]:
    """Return pictures inside a dark gate."""
    mask = np.zeros((SIZE[1], SIZE[0], 1), np.float32)
    cv2.rectangle(mask, (20, 12), (SIZE[0] - 20, SIZE[1] - 12), 1.0, -1)
    mask = cv2.GaussianBlur(mask, (0, 0), 2)[..., None]
    return [p * mask + 20 * (1 - mask) for p in pictures]


def _woven(pictures: list[Picture], first: str) -> list[Picture]:
    """Weave pictures of single fields into frames, two by two; ``first`` "tff" or "bff"."""
    out = []
    for a, b in zip(pictures[0::2], pictures[1::2], strict=False):
        top, bottom = (a, b) if first == "tff" else (b, a)
        frame = top.copy()
        frame[1::2] = bottom[1::2]
        out.append(frame)
    return out


_SD = (720, 576)


def _large(p: Picture) -> NDArray[np.uint8]:
    return np.clip(cv2.resize(p, _SD, interpolation=cv2.INTER_CUBIC), 0, 255).astype(np.uint8)


def _gradual_mix(rng: Rng, made: Cutting, shot: list[Picture], share: float) -> None:
    """Join a shot by a cut or, for a share of them, by a dissolve, a wipe or a fade."""
    room = min(room_in(made), len(shot)) - 10
    if rng.random() >= share or room < 16:
        made.cut(shot)
        return
    roll, n = rng.random(), join_length(rng, 6, min(50, room))
    if roll < 0.6:
        made.mix(shot, n)
    elif roll < 0.8:
        made.wipe(shot, max(8, min(n, 40)), rng.uniform(0, 2 * math.pi))
    else:
        half = max(4, n // 2)
        made.fade(shot, half, join_length(rng, 0, 8), half, float(rng.choice([0, 255])))


def _fields(rng: Rng, shelf: Shelf) -> Made:
    """50 fields: shots that change at any field; or progressive ones in an interlaced stream."""
    made = Cutting()
    for _ in range(14):
        shot = _shot(rng, shelf, 40, 110, speed=0.6)
        _gradual_mix(rng, made, shot, 0.2)
    pictures = [_large(p) for p in made.pictures]
    first = rng.choice(["tff", "tff", "bff"])
    frames = _woven(pictures, first)
    joins = [_in_frames(j, 2) for j in made.truth.joins]
    joins = [j for j in joins if j[0] < len(frames)]
    return _interlaced(rng, frames, joins, first, Fraction(25))


def _in_frames(join: tuple[int, int, int, str], fields: int) -> tuple[int, int, int, str]:
    at, start, end, kind = join
    if kind == "cut":
        return (at // fields,) * 3 + ("cut",)
    return at // fields, start // fields, -(-end // fields), kind


def _interlaced(rng: Rng, frames: list[Any], joins: list[Any], first: str, rate: Fraction) -> Made:
    told = rng.random() < 0.7
    if rng.random() < 0.5:
        options = {"b": "4500000", "bf": "2", "flags": "+ildct+ilme" if told else "+bitexact"}
        return Made(
            frames,
            joins,
            _SD,
            rate,
            "mpeg2video",
            options=options,
            fields=first if told else "",
            suffix="mpg",
        )
    options = {"crf": "20", "preset": "veryfast"}
    if told:
        options["x264-params"] = f"{first}=1"
    return Made(frames, joins, _SD, rate, "libx264", options=options, fields=first if told else "")


def _pulldown(rng: Rng, shelf: Shelf) -> Made:
    """24 pictures in 60 fields; in some the cutting came after, so the pattern breaks."""
    after = rng.random() < 0.4
    made = Cutting()
    shots = []
    for _ in range(18):
        shot = _shot(rng, shelf, 24, 60)
        shots.append(shot)
        if not after:
            _gradual_mix(rng, made, shot, 0.2)
    first = rng.choice(["tff", "tff", "bff"])
    if not after:
        starts = np.cumsum([0, *([2, 3] * (len(made.pictures) // 2 + 1))])
        pictures = [_large(p) for p in made.pictures]
        fields = [p for k, p in enumerate(pictures) for _ in range(2 + k % 2)]
        joins = [
            _in_frames(
                (
                    int(starts[j[0]]),
                    int(starts[j[1]]),
                    int(starts[min(j[2], len(starts) - 1)]),
                    j[3],
                ),
                2,
            )
            for j in made.truth.joins
        ]
    else:
        fields, joins = [], []
        for shot in shots:
            turn = int(rng.integers(2))
            run = [
                p
                for k, p in enumerate([_large(p) for p in shot])
                for _ in range(2 + (k + turn) % 2)
            ]
            run = run[int(rng.integers(4)) :]
            if fields:
                joins.append((len(fields) // 2,) * 3 + ("cut",))
            fields += run
    frames = _woven(fields, first)
    joins = [j for j in joins if j[0] < len(frames)]
    return _interlaced(rng, frames, joins, first, Fraction(30000, 1001))


def _bars(rng: Rng, shelf: Shelf) -> Made:
    """Bars on all four sides that leave 60 % of the frame, black or of a colour."""
    made = Cutting()
    for _ in range(18):
        _gradual_mix(rng, made, _shot(rng, shelf, 40, 80), 0.65)
    share = rng.uniform(0.5, 0.72)
    wide = math.sqrt(share) * rng.uniform(0.94, 1.06)
    inner = (int(SIZE[0] * min(wide, 0.93)), int(SIZE[1] * min(share / wide, 0.93)))
    ground = np.zeros(3) if rng.random() < 0.75 else rng.uniform(0, 90, 3)
    x, y = (SIZE[0] - inner[0]) // 2, (SIZE[1] - inner[1]) // 2
    pictures = []
    for p in made.pictures:
        frame = np.empty((*SIZE[::-1], 3), np.float32)
        frame[:] = ground
        frame[y : y + inner[1], x : x + inner[0]] = cv2.resize(
            p, inner, interpolation=cv2.INTER_AREA
        )
        pictures.append(frame)
    return Made(pictures, made.truth.joins)


_LETTERS = list("ABCDEFGHIKLMNOPRSTUVWabcdefghiklmnoprstuvw    ")


def _words(rng: Rng, low: int, high: int) -> str:
    return "".join(rng.choice(_LETTERS, join_length(rng, low, high)))


def lettered(p: NDArray[np.uint8], words: str, x: int, y: int, size: float, colour: Any) -> None:
    """Write words into a picture, with an outline."""
    cv2.putText(p, words, (x, y), cv2.FONT_HERSHEY_DUPLEX, size, (0, 0, 0), 3, cv2.LINE_AA)
    cv2.putText(p, words, (x, y), cv2.FONT_HERSHEY_DUPLEX, size, colour, 1, cv2.LINE_AA)


def _graphics(rng: Rng, shelf: Shelf) -> Made:
    """Running timecode, subtitles that come and go, lower thirds that slide in."""
    made = Cutting()
    for _ in range(20):
        _gradual_mix(rng, made, _shot(rng, shelf, 40, 80), 0.5)
    pictures = [np.clip(p, 0, 255).astype(np.uint8) for p in made.pictures]
    n = len(pictures)
    clock_on, subtitles, thirds = rng.random() < 0.7, rng.random() < 0.8, rng.random() < 0.6
    if not (clock_on or subtitles or thirds):
        clock_on = subtitles = True
    where = (int(rng.integers(10, 180)), int(rng.choice([24, 200])))
    box = rng.random() < 0.5
    if subtitles:
        at = 10
        while at < n:
            length, size = join_length(rng, 15, 70), rng.uniform(0.5, 0.85)
            lines = [_words(rng, 12, 30) for _ in range(join_length(rng, 1, 2))]
            for t in range(at, min(n, at + length)):
                for k, line in enumerate(lines):
                    lettered(pictures[t], line, 40, 186 - 20 * k, size, (245, 240, 220))
            at += length + int(rng.choice([0, 2, 12, 40]))
    if thirds:
        at = join_length(rng, 20, 90)
        while at < n:
            length, colour = (
                join_length(rng, 50, 110),
                tuple(float(c) for c in rng.uniform(0, 255, 3)),
            )
            words = _words(rng, 8, 18)
            top, high, slide = (
                int(rng.integers(140, 160)),
                int(rng.integers(28, 46)),
                join_length(rng, 4, 14),
            )
            wide = int(rng.uniform(0.4, 1.0) * SIZE[0])
            for t in range(at, min(n, at + length)):
                q = min(1.0, (t - at + 1) / slide, (at + length - t) / slide)
                right = int(ease(q) * wide)
                cv2.rectangle(pictures[t], (0, top), (right, top + high), colour, -1)
                if right > 60:
                    lettered(
                        pictures[t], words, right - wide + 20, top + high - 12, 0.7, (255, 255, 255)
                    )
            at += length + join_length(rng, 40, 160)
    if clock_on:
        first = int(rng.integers(0, 90000))
        for t, p in enumerate(pictures):
            s, f = divmod(t + first, 25)
            words = f"{s // 3600:02d}:{s // 60 % 60:02d}:{s % 60:02d}:{f:02d}"
            if box:
                cv2.rectangle(
                    p, (where[0] - 4, where[1] - 16), (where[0] + 160, where[1] + 5), (0, 0, 0), -1
                )
            lettered(p, words, *where, 0.65, (255, 255, 255))
    return Made(pictures, made.truth.joins)


def _lamps(rng: Rng, shelf: Shelf) -> Made:
    """Light that changes at once within a shot: lamps, exposures, lightning; many of them dark."""
    made = Cutting()
    for _ in range(20):
        shot = any_shot(rng, shelf, join_length(rng, 20, 60), drawn=0.25)
        deep = rng.uniform(0.08, 0.3) if rng.random() < 0.35 else 1.0
        if rng.random() < 0.8:
            shot = LAMPS[int(rng.integers(len(LAMPS)))](rng, shot)
        if rng.random() < 0.3:
            shot = titled(rng, shot)
        shot = [np.clip(p, 0, 255).astype(np.float32) * deep + 6 * (deep < 1) for p in shot]
        _gradual_mix(rng, made, shot, 0.15)
    return Made(made.pictures, made.truth.joins)


def _lights(rng: Rng, shelf: Shelf) -> Made:
    """Light and colour that change slowly within a shot, mostly under letters that stand."""
    made = Cutting()
    for _ in range(9):
        shot = _shot(rng, shelf, 50, 130, 0.0)
        if rng.random() < 0.3:
            _gradual_mix(rng, made, shot, 0.5)
            continue
        n = len(shot)
        at, length = int(rng.integers(2, max(3, n // 2))), join_length(rng, 8, 95)
        level, tint = rng.uniform(0.2, 0.75), 1 + rng.normal(0, 0.1, 3)
        add = rng.uniform(0, 40) if rng.random() < 0.3 else 0.0
        up, back, title = rng.random() < 0.35, rng.random() < 0.2, rng.random() < 0.65
        words, size = _words(rng, 5, 18), rng.uniform(0.7, 2.0)
        x, y = int(rng.integers(6, 60)), int(rng.integers(50, SIZE[1] - 8))
        lit = []
        for t, p in enumerate(shot):
            q = min(1.0, max(0.0, (t - at) / length))
            q = min(q, max(0.0, 1 - (t - at - length) / length)) if back else q
            q = 1 - q if up else q
            p = p * (1 + (level - 1) * q) * (1 + (tint - 1) * q) + add * q
            if title:
                p = np.clip(p, 0, 255).astype(np.uint8)
                lettered(p, words, x, y, size, (245, 240, 225))
            lit.append(p.astype(np.float32))
        made.cut(lit)
    return Made(made.pictures, made.truth.joins)


def _punch(rng: Rng, shelf: Shelf) -> Made:
    """One place again and again: time left out, framing punched in a little or not at all."""
    made = Cutting()
    for _ in range(9):
        if rng.random() < 0.55:
            jump(rng, shelf, made)
            continue
        clip = (
            list(clip_shot(rng, shelf, 100))
            if rng.random() < 0.5
            else list(photo_shot(rng, shelf, 100, speed=0.5, somebody=True))
        )
        at = 0
        while at < len(clip) - 18:
            n = join_length(rng, 14, 34)
            close = rng.uniform(1.06, 1.4) if at == 0 or rng.random() < 0.75 else 1.0
            gone = 0 if close > 1.1 else int(rng.integers(6, 20))
            part = clip[at + gone : at + gone + n]
            if len(part) < 10:
                break
            punched = close if (len(made.truth.joins) % 2 or close == 1.0) else 1.0
            before = len(made.pictures)
            x, y = rng.normal(0, 8, 2)
            part = [moved(turned(p, 0, punched), x, y) if punched > 1 else p for p in part]
            made.cut(part)
            if before and not _seen(made.pictures, before):
                made.truth.joins.pop()  # no join that anyone could see
            at += gone + n
    return Made(made.pictures, made.truth.joins)


def _seen(pictures: list[Picture], at: int) -> bool:
    """Tell whether more changes at a frame than at those around it."""
    steps = [
        float(np.abs(pictures[t] - pictures[t - 1]).mean())
        for t in range(max(1, at - 6), min(len(pictures), at + 7))
    ]
    here = float(np.abs(pictures[at] - pictures[at - 1]).mean())
    return here > max(4.0, 1.8 * float(np.median(steps)))


def _rates(rng: Rng, shelf: Shelf) -> Made:
    """Variable rate: pictures repeated and dropped, and frames that last as long as they like."""
    made = Cutting()
    for _ in range(24):
        _gradual_mix(rng, made, _shot(rng, shelf, 20, 60, speed=1.3), 0.15)
    keep: list[int] = []
    each = int(rng.choice([4, 5, 6, 12]))
    way = rng.choice(["repeat", "drop", "both"])
    for k in range(len(made.pictures)):
        if way != "repeat" and rng.random() < 1 / each:
            continue
        keep.append(k)
        if way != "drop" and rng.random() < 1 / each:
            keep += [k] * join_length(rng, 1, 3)
    order = np.array(keep)
    joins = []
    for at, start, end, kind in made.truth.joins:
        spot = [int(np.searchsorted(order, f)) for f in (at, start, end)]
        joins.append((*(spot if kind != "cut" else [spot[0]] * 3), kind))
    times = (
        np.cumsum([0, *rng.choice([1, 1, 1, 2, 3], len(keep) - 1)]) if rng.random() < 0.5 else None
    )
    pictures = [made.pictures[k] for k in keep]
    return Made(pictures, joins, rate=Fraction(30), times=None if times is None else times.tolist())


def _blended(rng: Rng, shelf: Shelf) -> Made:
    """A rate turned into another by mixing neighbours: at cuts there are frames of both shots."""
    made = Cutting()
    for _ in range(24):
        _gradual_mix(rng, made, _shot(rng, shelf, 20, 60), 0.15)
    step = float(rng.choice([24 / 25, 24 / 30, 25 / 30, 30 / 25, 0.5]))
    places = np.arange(0, len(made.pictures) - 1, step)
    pictures = []
    for place in places:
        k, share = int(place), float(place % 1)
        now, then = made.pictures[k], made.pictures[k + 1]
        pictures.append(now if share < 0.05 else now * (1 - share) + then * share)
    joins = []
    for at, start, end, kind in made.truth.joins:
        # a frame shows the new shot where any of it is mixed in
        spot = [int(np.searchsorted(places, f - 0.95)) for f in (at, start, end)]
        joins.append((*(spot if kind != "cut" else [spot[0]] * 3), kind))
    return Made(pictures, [j for j in joins if j[0] < len(pictures)])


def _twos(rng: Rng, shelf: Shelf) -> Made:
    """Animation on twos and threes, and pictures that are held."""
    made = Cutting()
    for _ in range(26):
        length, each = join_length(rng, 18, 60), int(rng.choice([2, 2, 3, 4]))
        shot = any_shot(rng, shelf, length, speed=2.0)
        held = [shot[t - t % each] for t in range(length)]
        if rng.random() < 0.3:
            at = int(rng.integers(0, length))
            held = [held[min(t, at)] for t in range(length)]
        if rng.random() < 0.15:
            _plain_dissolve(rng, made, held, 24) if room_in(
                made
            ) > 30 and length > 30 else made.cut(held)
        else:
            made.cut(held)
    return Made(made.pictures, made.truth.joins)


def _phone(rng: Rng, shelf: Shelf) -> Made:
    """Upright pictures in the middle of a wide frame, themselves blurred to both sides."""
    made = Cutting()
    for _ in range(22):
        _gradual_mix(rng, made, _shot(rng, shelf, 24, 70), 0.3)
    wide = int(SIZE[1] * 9 / 16)
    x = (SIZE[0] - wide) // 2
    out = []
    for p in made.pictures:
        part = p[:, x : x + wide]
        behind = cv2.GaussianBlur(cv2.resize(part, SIZE), (0, 0), 14) * 0.7
        behind[:, x : x + wide] = part
        out.append(behind)
    return Made(out, made.truth.joins)


def _split(rng: Rng, shelf: Shelf) -> Made:
    """Two or four pictures a screen that change one at a time, which is no cut, between whole ones."""
    made = Cutting()
    half = (SIZE[0] // 2, SIZE[1] // 2)
    for _ in range(9):
        if rng.random() < 0.5:
            made.cut(_shot(rng, shelf, 24, 60))
            continue
        four = rng.random() < 0.5
        length = join_length(rng, 60, 110)
        lanes = []
        for _lane in range(4 if four else 2):
            lane: list[Picture] = []
            while len(lane) < length:
                lane += _shot(rng, shelf, 24, 70, traps=0.0)
            lanes.append(lane[:length])
        shot = []
        for t in range(length):
            p = np.zeros((*SIZE[::-1], 3), np.float32)
            for k, lane in enumerate(lanes):
                if four:
                    x, y = (k % 2) * half[0], (k // 2) * half[1]
                    p[y : y + half[1], x : x + half[0]] = cv2.resize(
                        lane[t], half, interpolation=cv2.INTER_AREA
                    )
                else:
                    p[:, k * half[0] : (k + 1) * half[0]] = lane[t][
                        :, half[0] // 2 : half[0] // 2 + half[0]
                    ]
            shot.append(p)
        made.cut(shot)
    return Made(made.pictures, made.truth.joins)


def _page(rng: Rng) -> NDArray[np.uint8]:
    ground = np.full((SIZE[1] * 3, SIZE[0], 3), rng.choice([255, 245, 30, 240]), np.uint8)
    ink = (20, 20, 20) if ground[0, 0, 0] > 128 else (230, 230, 230)
    y = 30
    while y < len(ground) - 10:
        if rng.random() < 0.15:
            colour = tuple(float(c) for c in rng.uniform(0, 255, 3))
            high = int(rng.integers(30, 90))
            cv2.rectangle(ground, (20, y), (int(rng.integers(120, 360)), y + high), colour, -1)
            y += high + 20
        else:
            words = _words(rng, 8, 40)
            cv2.putText(
                ground,
                words,
                (20, y),
                cv2.FONT_HERSHEY_SIMPLEX,
                rng.choice([0.35, 0.4, 0.8]),
                ink,
                1,
                cv2.LINE_AA,
            )
            y += int(rng.integers(14, 34))
    return ground


def _screens(rng: Rng, shelf: Shelf) -> Made:
    """Slides whose lines come one by one, pages that scroll, a pointer; and real shots between."""
    made = Cutting()
    for _ in range(18):
        roll, length = rng.random(), join_length(rng, 30, 90)
        if roll < 0.25:
            made.cut(_shot(rng, shelf, 24, 60))
            continue
        page = _page(rng)
        shot = []
        lines = rng.random() < 0.5
        shown, top, speed = int(rng.integers(60, 120)), 0, 0
        x, y = rng.uniform(0, SIZE[0]), rng.uniform(0, SIZE[1])
        popup = int(rng.integers(10, length)) if rng.random() < 0.3 else length
        for t in range(length):
            if lines:
                view = page[: SIZE[1]].copy()
                if t and rng.random() < 0.05:
                    shown += int(rng.integers(15, 60))
                view[min(shown, SIZE[1]) :] = page[0, 0]
            else:
                if rng.random() < 0.06:
                    speed = int(rng.choice([0, 0, 4, 12, 40]))
                top = min(top + speed, len(page) - SIZE[1])
                view = page[top : top + SIZE[1]].copy()
            if t >= popup:
                cv2.rectangle(view, (90, 60), (290, 160), (120, 120, 160), -1)
                cv2.rectangle(view, (90, 60), (290, 76), (70, 70, 110), -1)
            x, y = x + rng.normal(0, 5), y + rng.normal(0, 4)
            cv2.circle(view, (int(x), int(y)), 4, (10, 10, 10), -1)
            shot.append(view.astype(np.float32))
        made.cut(shot)
    return Made(made.pictures, made.truth.joins)


def _short(rng: Rng, shelf: Shelf) -> Made:
    """Shots of one frame and of two among others; joins in the first and the last second."""
    made = Cutting()
    made.cut(
        _shot(rng, shelf, 8, 20, traps=0.0)
        if rng.random() < 0.5
        else _shot(rng, shelf, 3, 20, traps=0.0)
    )
    for _ in range(26):
        roll = rng.random()
        n = 1 if roll < 0.15 else 2 if roll < 0.3 else 0
        made.cut(
            _shot(rng, shelf, n, n, traps=0.0)[:n] if n else _shot(rng, shelf, 10, 50, traps=0.0)
        )
    if rng.random() < 0.5:
        last = _shot(rng, shelf, 24, 30, traps=0.0)
        if room_in(made) > 24:
            made.mix(last, 10)
        else:
            made.cut(last)
    made.cut(_shot(rng, shelf, 3, 20, traps=0.0))
    return Made(made.pictures, made.truth.joins)


def _deep(rng: Rng, shelf: Shelf) -> Made:
    """8, 10 and 12 bit, limited and full range, PQ and HLG."""
    made = Cutting()
    for _ in range(20):
        _gradual_mix(rng, made, _shot(rng, shelf, 24, 70), 0.35)
    way = int(rng.integers(5))
    joins = made.truth.joins
    if way == 0:
        return Made(
            made.pictures,
            joins,
            codec="prores_ks",
            pixels="yuv422p10le",
            options={"profile": "2"},
            suffix="mov",
        )
    if way == 1:
        return Made(
            made.pictures, joins, codec="libx265", pixels="yuv420p12le", options=_X265, suffix="mkv"
        )
    if way == 2:
        return Made(
            made.pictures,
            joins,
            codec="libx264",
            pixels="yuvj420p",
            options={"crf": "20", "preset": "veryfast"},
            full=True,
        )
    curve = "pq" if way == 3 else "hlg"
    return Made(
        made.pictures,
        joins,
        codec="libx265",
        pixels="yuv420p10le",
        options=_X265,
        curve=curve,
        suffix="mp4",
    )


_X265 = {"preset": "ultrafast", "crf": "20", "x265-params": "log-level=none"}

MAKERS: dict[str, Callable[[Rng, Shelf], Made]] = {
    "stops": _stops,
    "fields": _fields,
    "pulldown": _pulldown,
    "bars": _bars,
    "moves": _of_joins(MOVES, 36, 70),
    "wipes": _of_joins(WIPES, 70, 110),
    "graphics": _graphics,
    "punch": _punch,
    "rates": _rates,
    "twos": _twos,
    "phone": _phone,
    "split": _split,
    "screens": _screens,
    "short": _short,
    "deep": _deep,
    "blended": _blended,
    "lights": _lights,
    "lamps": _lamps,
}


def curved(p: NDArray[np.float32], curve: str) -> NDArray[np.float32]:
    """Return a display picture (0 to 1, gamma 2.4, white at 203 nits) as it is coded in HDR.

    PQ: SMPTE ST 2084; HLG: ARIB STD-B67; white at 203 nits: ITU-R BT.2408. From memory.
    """
    light = p**2.4
    if curve == "pq":
        y = np.clip(light * 203 / 10000, 0, 1) ** 0.1593017578125
        return ((0.8359375 + 18.8515625 * y) / (1 + 18.6875 * y)) ** 78.84375
    scene = np.clip(light * 0.265, 0, 1)  # HLG white at 75 % of the signal
    return np.where(
        scene <= 1 / 12,
        np.sqrt(3 * scene),
        0.17883277 * np.log(np.maximum(12 * scene - 0.28466892, 1e-6)) + 0.55991073,
    ).astype(np.float32)


_CHOICES = (
    (
        "mp4",
        "libx264",
        lambda r: {"crf": str(int(r.integers(18, 28))), "preset": "veryfast", "bf": "3"},
    ),
    ("mpg", "mpeg2video", lambda _r: {"b": "1800000", "bf": "2"}),
    ("avi", "mpeg4", lambda _r: {"b": "1500000"}),
)


def write(made: Made, stem: Path, category: str, rng: Rng) -> Path:
    """Encode a film and write its truth beside it."""
    codec, options, suffix = made.codec, dict(made.options), made.suffix
    if not codec:
        even = made.times is None
        suffix, codec, settings = _CHOICES[int(rng.choice(3, p=[0.7, 0.15, 0.15])) if even else 0]
        options = settings(rng)
    rate = Fraction(24) if made.rate < 25 and codec == "mpeg2video" else made.rate
    file = stem.with_suffix(f".{suffix}")
    with av.open(str(file), "w") as out:
        stream = out.add_stream(codec, rate=rate, options=options)
        assert isinstance(stream, VideoStream)
        stream.width, stream.height, stream.pix_fmt = *made.size, made.pixels
        stream.codec_context.time_base = 1 / rate
        if "b" in options:
            stream.bit_rate = int(options["b"])
        if made.curve:
            stream.codec_context.color_trc = 16 if made.curve == "pq" else 18
            stream.codec_context.color_primaries = 9
            stream.codec_context.colorspace = 9
        marked = _marked(made)
        for n, p in enumerate(made.pictures):
            frame = marked(_frame(p, made))
            frame.pts, frame.time_base = made.times[n] if made.times else n, 1 / rate
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    told = {"category": category, "joins": made.joins}
    file.with_suffix(file.suffix + ".json").write_text(json.dumps(told))
    return file


def _frame(p: Any, made: Made) -> av.VideoFrame:
    if made.curve:
        deep = (curved(np.clip(p, 0, 255).astype(np.float32) / 255, made.curve) * 65535).astype(
            np.uint16
        )
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(deep), "rgb48le")
        return frame.reformat(format=made.pixels, dst_colorspace=9)
    flat = np.ascontiguousarray(np.clip(p, 0, 255).astype(np.uint8))
    frame = av.VideoFrame.from_ndarray(flat, "rgb24")
    return _by_fields(flat) if made.size == _SD else frame


def _marked(made: Made) -> Callable[[av.VideoFrame], av.VideoFrame]:
    """Return what marks pictures as interlaced where the stream is to say so."""
    if not made.fields:
        return lambda frame: frame
    graph = av.filter.Graph()
    source = graph.add_buffer(
        width=made.size[0], height=made.size[1], format="yuv420p", time_base=1 / made.rate
    )
    mark = graph.add("setfield", made.fields)
    sink = graph.add("buffersink")
    source.link_to(mark)
    mark.link_to(sink)
    graph.configure()

    def marked(frame: av.VideoFrame) -> av.VideoFrame:
        graph.push(frame)
        got = graph.pull()
        assert isinstance(got, av.VideoFrame)
        return got

    return marked


def _by_fields(flat: NDArray[np.uint8]) -> av.VideoFrame:
    """Return a woven RGB picture as yuv420p whose chroma lines belong to one field each."""
    fields = [
        av.VideoFrame.from_ndarray(np.ascontiguousarray(flat[k::2]), "rgb24")
        .reformat(format="yuv420p")
        .to_ndarray()
        for k in (0, 1)
    ]
    high, wide = flat.shape[:2]
    out = np.empty((high * 3 // 2, wide), np.uint8)
    half = high // 2
    for k in (0, 1):
        out[k:high:2] = fields[k][:half]
        for c in (0, 1):
            part = fields[k][half + c * half // 4 : half + (c + 1) * half // 4].reshape(
                half // 2, wide // 2
            )
            plane = out[high + c * high // 4 : high + (c + 1) * high // 4].reshape(
                high // 2, wide // 2
            )
            plane[k::2] = part
    return av.VideoFrame.from_ndarray(out, "yuv420p")


_shelf: tuple[str, Shelf] | None = None


def make(task: tuple[str, str, int, Path]) -> str:
    """Make one film of a side; nothing when it is there."""
    side, category, seed, folder = task
    stem = folder / f"{category}-{seed}"
    if not list(folder.glob(f"{category}-{seed}.*.json")):
        global _shelf
        if _shelf is None or _shelf[0] != side:
            _shelf = (side, Shelf(side, wide=True))
        rng = np.random.default_rng([seed, 100 + CATEGORIES.index(category), side == "learn"])
        write(MAKERS[category](rng, _shelf[1]), stem, category, rng)
    return stem.name


if __name__ == "__main__":
    make_all(CATEGORIES, make)
