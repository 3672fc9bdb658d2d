"""Joins of the rest of the world: made by movement, wipes of many forms, dips, long dissolves."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np

from films import SIZE, Cutting, Picture

Rng = np.random.Generator
_YY, _XX = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(np.float32)


def join_length(rng: Rng, low: int, high: int) -> int:
    return int(rng.integers(low, high + 1))


def room_in(made: Cutting) -> int:
    return len(made.pictures) - (made.truth.joins[-1][2] if made.truth.joins else 0)


def _over(
    made: Cutting,
    shot: list[Picture],
    n: int,
    kind: str,
    mix: Callable[[float, Picture, Picture], Picture],
) -> None:
    """Lay a shot over the end of the film for n frames; ``mix`` makes each of share, old, new."""
    tail, made.pictures = made.pictures[-n:], made.pictures[:-n]
    at = len(made.pictures)
    made.pictures += [
        mix((k + 1) / (n + 1), a, b).astype(np.float32)
        for k, (a, b) in enumerate(zip(tail, shot, strict=False))
    ]
    made.truth.joins.append((at + n // 2, at, at + n, kind))
    made.pictures += shot[n:]


def moved(p: Picture, dx: float, dy: float) -> Picture:
    m = np.array([[1.0, 0, dx], [0, 1.0, dy]])
    return cv2.warpAffine(p, m, SIZE, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT)


def turned(p: Picture, degrees: float, zoom: float) -> Picture:
    m = cv2.getRotationMatrix2D((SIZE[0] / 2, SIZE[1] / 2), degrees, zoom)
    return cv2.warpAffine(p, m, SIZE, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT)


def ease(q: float) -> float:
    return 4 * q**3 if q < 0.5 else 1 - (-2 * q + 2) ** 3 / 2


def _blurred(at: Callable[[float], Picture], q: float, step: float, many: int = 5) -> Picture:
    return np.mean(
        [at(min(1.0, max(0.0, q + (k / many - 0.5) * step))) for k in range(many)], axis=0
    )


def whip(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """The camera flies off and arrives somewhere else."""
    n = join_length(rng, 4, 16)
    angle = rng.choice([0, 0, 0, 0.5, 1, 1, 1.5]) * math.pi + rng.normal(0, 0.05)
    far = rng.uniform(0.7, 2.2) * SIZE[0]
    dx, dy = far * math.cos(angle), far * math.sin(angle) * 0.6
    soft = rng.uniform(0, 0.25)

    def mix(q: float, a: Picture, b: Picture) -> Picture:
        old = lambda e: moved(a, dx * ease(e), dy * ease(e))  # noqa: E731
        new = lambda e: moved(b, dx * (ease(e) - 1), dy * (ease(e) - 1))  # noqa: E731
        share = min(1.0, max(0.0, (q - 0.5) / max(soft, 1e-3) + 0.5))
        step = 1.0 / (n + 1)
        if share in (0.0, 1.0):
            return _blurred(new if share else old, q, step)
        return (1 - share) * _blurred(old, q, step) + share * _blurred(new, q, step)

    _over(made, shot, n, "whip", mix)


def zoom(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """A fast zoom into or out of the one and on into the other."""
    n, deep = join_length(rng, 5, 18), rng.uniform(1.8, 4.0) ** rng.choice([-1, 1])
    soft = rng.uniform(0, 0.4)

    def mix(q: float, a: Picture, b: Picture) -> Picture:
        old = lambda e: turned(a, 0, deep ** ease(e))  # noqa: E731
        new = lambda e: turned(b, 0, deep ** (ease(e) - 1))  # noqa: E731
        share = min(1.0, max(0.0, (q - 0.5) / max(soft, 1e-3) + 0.5))
        step = 1.0 / (n + 1)
        return (1 - share) * _blurred(old, q, step) + share * _blurred(new, q, step)

    _over(made, shot, n, "whip", mix)


def spin(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """The picture spins, and another one comes to rest."""
    n, turn = join_length(rng, 5, 18), rng.choice([-1, 1]) * rng.uniform(60, 200)
    grow = rng.uniform(1.0, 1.6)

    def mix(q: float, a: Picture, b: Picture) -> Picture:
        old = lambda e: turned(a, turn * ease(e), grow ** ease(e))  # noqa: E731
        new = lambda e: turned(b, turn * (ease(e) - 1), grow ** (1 - ease(e)))  # noqa: E731
        return _blurred(old if q < 0.5 else new, q, 1.0 / (n + 1))

    _over(made, shot, n, "whip", mix)


def glitch(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """The picture tears into slices and colours, of both shots by turns, and is another one."""
    n = join_length(rng, 3, 14)
    bands, far, apart = (
        int(rng.integers(3, 14)),
        rng.uniform(0.05, 0.4) * SIZE[0],
        rng.uniform(2, 18),
    )

    def mix(q: float, a: Picture, b: Picture) -> Picture:
        out = np.empty_like(a)
        edges = np.sort(rng.integers(0, SIZE[1], bands))
        low = 0
        for high in (*edges.tolist(), SIZE[1]):
            of = b if rng.random() < q else a
            out[low:high] = np.roll(of[low:high], int(rng.normal(0, far)), axis=1)
            low = high
        for c in (0, 2):
            out[..., c] = np.roll(out[..., c], int(rng.normal(0, apart)), axis=1)
        if rng.random() < 0.3:
            out = np.clip(out * rng.uniform(0.5, 1.8) + rng.uniform(-40, 60), 0, 255)
        return out

    _over(made, shot, n, "whip", mix)


def push(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """The new picture pushes the old one out, or slides over it."""
    n, way, slide = join_length(rng, 6, 32), int(rng.integers(4)), rng.random() < 0.3
    eased = rng.random() < 0.6

    def mix(q: float, a: Picture, b: Picture) -> Picture:
        q = ease(q) if eased else q
        whole = SIZE[way % 2]
        at = round(q * whole)
        axis = 1 - way % 2
        if way < 2:  # comes from the right or from below
            part = a if slide else np.roll(a, -at, axis=axis)
            out = part.copy()
            _set(out, axis, whole - at, whole, _get(b, axis, 0, at))
        else:
            part = a if slide else np.roll(a, at, axis=axis)
            out = part.copy()
            _set(out, axis, 0, at, _get(b, axis, whole - at, whole))
        return out

    _over(made, shot, n, "wipe", mix)


def _get(p: Picture, axis: int, low: int, high: int) -> Picture:
    return p[:, low:high] if axis == 1 else p[low:high]


def _set(p: Picture, axis: int, low: int, high: int, part: Picture) -> None:
    if axis == 1:
        p[:, low:high] = part
    else:
        p[low:high] = part


def masked(ramp: Picture, soft: float) -> Callable[[float, Picture, Picture], Picture]:
    """Return what mixes by a ramp of 0 to 1: where it is less than the share, the new picture."""

    def mix(q: float, a: Picture, b: Picture) -> Picture:
        m = np.clip((q * (1 + soft) - ramp) / max(soft, 0.01), 0, 1)[..., None]
        return a * (1 - m) + b * m

    return mix


def _levels(ramp: Picture) -> Picture:
    return (ramp - ramp.min()) / (ramp.max() - ramp.min() + 1e-6)


def iris(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """A circle, an oval or a diamond that grows or shrinks."""
    x, y = SIZE[0] / 2 + rng.normal(0, 20), SIZE[1] / 2 + rng.normal(0, 12)
    if rng.random() < 0.75:
        ramp = np.hypot(_XX - x, (_YY - y) * rng.choice([1.0, 1.0, 1.7]))
    else:
        ramp = np.abs(_XX - x) + np.abs(_YY - y) * 1.5
    ramp = _levels(ramp)
    soft = rng.choice([0.0, 0.02, rng.uniform(0.05, 0.35)])
    _over(
        made,
        shot,
        join_length(rng, 8, 48),
        "wipe",
        masked(ramp if rng.random() < 0.6 else 1 - ramp, soft),
    )


def clock(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """A hand that goes round."""
    way = rng.choice([-1, 1])
    angle = np.arctan2(way * (_XX - SIZE[0] / 2), -(_YY - SIZE[1] / 2)) / (2 * math.pi) % 1
    soft = rng.choice([0.0, 0.03, rng.uniform(0.03, 0.2)])
    _over(made, shot, join_length(rng, 8, 48), "wipe", masked(angle.astype(np.float32), soft))


def edge(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """A soft or slanted edge, one or two, or blinds."""
    angle = rng.uniform(0, 2 * math.pi)
    ramp = _levels(_XX * math.cos(angle) + _YY * math.sin(angle))
    roll = rng.random()
    if roll < 0.2:
        ramp = np.abs(_levels(_XX if rng.random() < 0.5 else _YY) - 0.5) * 2
        ramp = ramp if rng.random() < 0.5 else 1 - ramp
    elif roll < 0.32:
        many = int(rng.integers(3, 9))
        ramp = (_levels(_XX if rng.random() < 0.5 else _YY) * many) % 1
    soft = rng.choice([0.0, rng.uniform(0.05, 0.3), rng.uniform(0.2, 0.8)])
    _over(made, shot, join_length(rng, 8, 48), "wipe", masked(ramp.astype(np.float32), float(soft)))


def bright_first(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """Bright (or dark) parts change first: a wipe without an edge."""
    dark, of_new, soft = rng.random() < 0.4, rng.random() < 0.5, rng.uniform(0.1, 0.5)

    def mix(q: float, a: Picture, b: Picture) -> Picture:
        grey = cv2.GaussianBlur((b if of_new else a).mean(axis=2) / 255, (0, 0), 3)
        ramp = grey if dark else 1 - grey
        return masked(_levels(ramp), soft)(q, a, b)

    _over(made, shot, join_length(rng, 10, 48), "wipe", mix)


def long_dissolve(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """A dissolve of three to five seconds."""
    _over(made, shot, join_length(rng, 70, 120), "dissolve", lambda q, a, b: a * (1 - q) + b * q)


def dip(rng: Rng, made: Cutting, shot: list[Picture]) -> None:
    """Through a colour and out of it."""
    colour = rng.choice([np.array([255.0, 255, 255]), rng.uniform(0, 255, 3), np.zeros(3)])
    out, rest, back = join_length(rng, 4, 24), join_length(rng, 0, 8), join_length(rng, 4, 24)
    at = len(made.pictures) - out
    for k in range(out):
        q = (k + 1) / (out + 1)
        made.pictures[at + k] = made.pictures[at + k] * (1 - q) + colour.astype(np.float32) * q
    made.pictures += [np.broadcast_to(colour, (*SIZE[::-1], 3)).astype(np.float32)] * rest
    end = len(made.pictures) + back
    made.truth.joins.append(((at + end) // 2, at, end, "fade"))
    for k in range(back):
        q = 1 - (k + 1) / (back + 1)
        shot[k] = shot[k] * (1 - q) + colour.astype(np.float32) * q
    made.pictures += shot


MOVES = (whip, whip, zoom, spin, glitch)
WIPES = (push, iris, clock, edge, edge, bright_first, long_dissolve, dip)
