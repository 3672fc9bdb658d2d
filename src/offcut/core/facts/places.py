"""Looks like one place: shots of one set-up, or of one place framed otherwise.

Two pictures show the same place where distinctive points of one are found again in the other, all
moved in one way (SIFT, Lowe, "Distinctive image features from scale-invariant keypoints", IJCV
2004; RANSAC, Fischler and Bolles, Communications of the ACM 1981), and the pictures then agree
block by block. What moves in front of the camera, other light and another grade do not matter.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, MutableMapping, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.facts.looks import LookIndex, Picture, ShotLook

Grey = NDArray[np.uint8]
PictureOf = Callable[[int, int], Picture | None]
"""Gives picture ``k`` of shot ``n``, in the order of the looks; None where there is none."""

WIDE = 192
POINTS = 220
NEAREST = 14
"""So many of the shots that look most alike are compared in earnest, by each of two measures."""
NEARBY = 6
"""So many shots before and after are compared in any case: a conversation goes to and fro."""
_HELD = 1500
_STEPS = 512
_RATIO = 0.8
_REACH = 2.2
_LEAST_POINTS = 9
_BLOCKS = (12, 8)
_AGREE = 0.55
_DULL = 3.0
SAME_SCALE, SAME_SHIFT, SAME_TURN = 0.10, 0.14, 0.06
ENOUGH, PLACE_ENOUGH, UNMOVED_ENOUGH = 0.57, 0.55, 0.85
_LEAST_BLOCKS = 40
"""So many blocks that show something must agree where there are no points to go by."""
_PLACE_POINTS = 22
TRIED = 2
"""So many pairs of pictures of two shots are held together."""
_NEAR_LAYOUT = 0.12


@dataclass(frozen=True, slots=True)
class Match:
    """How one picture lies in another: as much larger, moved, and how well they agree.

    ``likeness`` 0 to 100 is the share of ``blocks`` that agree, of those that show anything;
    ``points`` how many points were found again; ``same`` True where camera and framing are the
    same; ``matrix`` takes places in the second picture to the first, both `WIDE` pixels wide.
    """

    likeness: float
    points: int
    scale: float
    same: bool
    matrix: NDArray[np.float64]
    blocks: int


@dataclass(frozen=True, slots=True)
class Alike:
    """Shots that look alike: their places in the list that was given, and how alike they are.

    ``setup`` True where they are of one set-up, False where they show one place otherwise framed.
    """

    shots: tuple[int, ...]
    likeness: float
    setup: bool


def points_of(grey: Grey, still: NDArray[np.bool_] | None = None) -> PicturePoints:
    """Return the distinctive points of a picture, but for those where ``still`` is True."""
    mask = None
    if still is not None:
        size = (grey.shape[1], grey.shape[0])
        large = cv2.resize(still.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST)
        mask = (1 - large) * 255
    points, marks = _sift().detectAndCompute(grey, mask)
    places = np.array([p.pt for p in points], np.float32).reshape(-1, 2)
    if marks is None:
        marks = np.zeros((0, 128), np.float32)
    # root SIFT: Arandjelović and Zisserman, "Three things everyone should know", CVPR 2012
    marks = np.sqrt(marks / np.maximum(1e-6, marks.sum(axis=1, keepdims=True)))
    soft = np.asarray(cv2.GaussianBlur(grey, (0, 0), 0.8), np.uint8)
    return PicturePoints(soft, places, np.minimum(255, marks * _STEPS).astype(np.uint8))


def _sift() -> Any:
    return cv2.SIFT_create(nfeatures=POINTS, contrastThreshold=0.02)  # type: ignore[attr-defined]


class _Points:
    """Distinctive points of pictures, found once and held within bounds."""

    def __init__(self, picture_of: PictureOf, still: NDArray[np.bool_] | None) -> None:
        self._picture_of = picture_of
        self._still = still
        self._held: OrderedDict[tuple[int, int, bool], PicturePoints | None] = OrderedDict()

    def of(self, shot: int, k: int, flopped: bool = False) -> PicturePoints | None:
        key = (shot, k, flopped)
        if key in self._held:
            self._held.move_to_end(key)
            return self._held[key]
        picture = self._picture_of(shot, k)
        seen = None
        if picture is not None:
            grey = large_grey(picture)
            still = self._still[:, ::-1] if flopped and self._still is not None else self._still
            seen = points_of(np.ascontiguousarray(grey[:, ::-1]) if flopped else grey, still)
        self._held[key] = seen
        while len(self._held) > _HELD:
            self._held.popitem(last=False)
        return seen


@dataclass(frozen=True, slots=True)
class PicturePoints:
    """A picture, softened; its points, and what tells each from others, in steps of 1/512."""

    soft: Grey
    places: NDArray[np.float32]
    marks: NDArray[np.uint8]


def large_grey(picture: Picture) -> Grey:
    """Return a picture in grey, `WIDE` pixels wide."""
    grey = cv2.cvtColor(np.ascontiguousarray(picture), cv2.COLOR_RGB2GRAY)
    high = max(16, round(grey.shape[0] * WIDE / grey.shape[1]))
    return np.asarray(cv2.resize(grey, (WIDE, high), interpolation=cv2.INTER_CUBIC), np.uint8)


def match(a: PicturePoints, b: PicturePoints, *, near: bool = True) -> Match | None:
    """Return how picture b lies in picture a, None where they do not show the same.

    Only where they are ``near`` in layout can they agree as they lie.
    """
    if a.soft.shape != b.soft.shape:
        return None
    found = _by_points(a, b)
    unmoved = _as_it_lies(a, b) if near else None
    return max((m for m in (found, unmoved) if m), key=lambda m: m.likeness, default=None)


def _by_points(a: PicturePoints, b: PicturePoints) -> Match | None:
    if min(len(a.places), len(b.places)) < _LEAST_POINTS:
        return None
    near = _unit(a.marks) @ _unit(b.marks).T
    rows = np.arange(len(near))
    best = near.argmax(axis=1)
    high = near[rows, best]
    back = near.argmax(axis=0)
    near[rows, best] = -1.0
    low = near.max(axis=1)
    # distances of unit vectors from their products; the ratio test is Lowe's
    good = np.sqrt(np.maximum(0, 2 - 2 * high)) < _RATIO * np.sqrt(np.maximum(1e-9, 2 - 2 * low))
    good &= back[best] == rows
    if good.sum() < _LEAST_POINTS:
        return None
    to, start = a.places[good], b.places[best[good]]
    matrix, inside = cv2.estimateAffinePartial2D(
        start, to, method=cv2.RANSAC, ransacReprojThreshold=_REACH, maxIters=400
    )
    if matrix is None:
        return None
    held = inside.ravel().astype(bool)
    count = int(held.sum())
    if count < _LEAST_POINTS or count < 0.3 * len(held):
        return None
    spread = np.ptp(to[held], axis=0)
    if spread[0] < 0.25 * a.soft.shape[1] and spread[1] < 0.25 * a.soft.shape[0]:
        return None  # a sign or a logo, not a place
    return _judged(a.soft, b.soft, np.asarray(matrix, np.float64), count)


def _unit(marks: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Return marks as vectors of length 1."""
    values = marks.astype(np.float32)
    norm = np.maximum(1e-6, np.linalg.norm(values, axis=1, keepdims=True))
    return np.asarray(values / norm, np.float32)


def _as_it_lies(a: PicturePoints, b: PicturePoints) -> Match | None:
    """Hold the pictures against each other unmoved: for what has few points."""
    whole = np.array([[1.0, 0, 0], [0, 1, 0]])
    return _judged(a.soft, b.soft, whole, 0)


def _judged(a: Grey, b: Grey, matrix: NDArray[np.float64], points: int) -> Match | None:
    scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    turn = float(np.arctan2(matrix[1, 0], matrix[0, 0]))
    if not 0.35 < scale < 2.9 or abs(turn) > 0.35:
        return None
    high, wide = a.shape
    centre = matrix @ np.array([wide / 2, high / 2, 1.0]) - np.array([wide / 2, high / 2])
    moved = float(np.abs(centre / [wide, high]).max())
    warped = np.asarray(cv2.warpAffine(b, matrix, (wide, high)), np.uint8)
    there = cv2.warpAffine(np.full_like(b, 255), matrix, (wide, high)) > 250
    agree, looked, covered = _blocks_that_agree(a, warped, there)
    if looked < 12:
        return None
    likeness = 100 * agree / looked
    same = abs(np.log(scale)) < SAME_SCALE and moved < SAME_SHIFT and abs(turn) < SAME_TURN
    return Match(likeness, points, scale, same and covered > 0.6, matrix, looked)


def _blocks_that_agree(a: Grey, b: Grey, there: NDArray[np.bool_]) -> tuple[int, int, float]:
    """Return how many blocks agree, of how many that show anything, and the share both cover.

    Blocks agree by normalised correlation (Lewis, "Fast normalized cross-correlation", 1995).
    """
    columns, rows = _BLOCKS
    high, wide = a.shape[0] // rows, a.shape[1] // columns
    size = (rows, high, columns, wide)

    def blocks(picture: NDArray[np.float32]) -> NDArray[np.float32]:
        cut = picture[: rows * high, : columns * wide].reshape(size)
        return cut.transpose(0, 2, 1, 3).reshape(rows * columns, high * wide)

    mine = blocks(a.astype(np.float32))
    theirs = blocks(b.astype(np.float32))
    inside = blocks(there.astype(np.float32)).mean(axis=1) > 0.95
    mine = mine - mine.mean(axis=1, keepdims=True)
    theirs = theirs - theirs.mean(axis=1, keepdims=True)
    mine_spread, theirs_spread = mine.std(axis=1), theirs.std(axis=1)
    shows = inside & (np.maximum(mine_spread, theirs_spread) > _DULL)
    alike = (mine * theirs).mean(axis=1) / np.maximum(1e-6, mine_spread * theirs_spread)
    agree = shows & (alike > _AGREE)
    return int(agree.sum()), int(shows.sum()), float(inside.mean())


def what_never_changes(pictures: Sequence[Picture]) -> NDArray[np.bool_] | None:
    """Return which places look the same in all shots: bars, a logo, a burnt-in clock's box.

    None with too few pictures to tell.
    """
    if len(pictures) < 12:
        return None
    greys = np.stack([cv2.resize(large_grey(p), (80, 45)) for p in pictures[:200]])
    still = greys.astype(np.float32).std(axis=0) < 7.0
    return cv2.dilate(still.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)


class PlaceFinder:
    """Finds which shots look alike, and how; one for one list of shots."""

    def __init__(
        self,
        looks: Sequence[ShotLook | None],
        picture_of: PictureOf,
        compared: MutableMapping[tuple[int, int], Match | None] | None = None,
    ) -> None:
        """``looks`` of each shot, None where there is none; ``picture_of`` its pictures again.

        ``compared`` are pairs that were compared before; what is compared now is put into it.
        """
        self._compared = {} if compared is None else compared
        self.looks = looks
        known = self._known = [n for n, look in enumerate(looks) if look is not None]
        self._index = LookIndex([look for look in looks if look is not None])
        some = (picture_of(n, 0) for n in known[:: max(1, len(known) // 60)])
        still = what_never_changes([p for p in some if p is not None])
        self._points = _Points(picture_of, still)

    def pairs(
        self,
        progress: Callable[[int, int], None] | None = None,
        stop: threading.Event | None = None,
    ) -> dict[tuple[int, int], Match]:
        """Return the pairs of shots (first, second) that show the same place."""
        found: dict[tuple[int, int], Match] = {}
        known = self._known
        for at, n in enumerate(known):
            if stop is not None and stop.is_set():
                break
            for other in self._candidates(at):
                pair = min(n, other), max(n, other)
                if pair not in self._compared:
                    self._compared[pair] = self.compare(*pair)
                best = self._compared[pair]
                if best is not None:
                    found[pair] = best
            if progress is not None:
                progress(at + 1, len(known))
        return found

    def _candidates(self, at: int) -> list[int]:
        """Return the later shots that are compared with the one at a place, the likeliest first."""
        others = self._known[at + 1 :]
        if not others:
            return []
        far = self._index.far(at, at + 1)
        chosen = [others[i] for i in _least(far, NEAREST) if far[i] < 0.75]
        by_colours = _least(self._index.colours_far(at, at + 1), NEAREST // 2)
        chosen += [others[i] for i in by_colours]
        return list(dict.fromkeys([*others[:NEARBY], *chosen]))

    def compare(self, n: int, other: int, *, flopped: bool = False) -> Match | None:
        """Return how two shots match best, None where they do not show the same place."""
        mine, theirs = self.looks[n], self.looks[other]
        if mine is None or theirs is None:
            return None
        best: Match | None = None
        for k, m, far in _nearest_pictures(mine, theirs, flopped):
            a, b = self._points.of(n, k), self._points.of(other, m, flopped)
            if a is None or b is None:
                continue
            found = match(a, b, near=far < _NEAR_LAYOUT)
            if found is not None and is_alike(found) and _better(found, best):
                best = found
            if best is not None and best.likeness > 80:
                break
        return best

    def flopped_pairs(self, stop: threading.Event | None = None) -> list[tuple[int, int]]:
        """Return pairs of shots the second of which shows the first flopped."""
        found = []
        for at, n in enumerate(self._known[:-1]):
            if stop is not None and stop.is_set():
                break
            far = self._index.far(at, at + 1, flopped=True)
            for i in _least(far, 3):
                other = self._known[at + 1 + i]
                if far[i] < 0.4:
                    best = self.compare(n, other, flopped=True)
                    if best is not None and best.points and best.likeness >= 60:
                        found.append((n, other))
        return found


def _least(values: NDArray[np.float64], count: int) -> list[int]:
    """Return where the least values stand, the least first."""
    if len(values) > count:
        some = np.argpartition(values, count - 1)[:count]
        return [int(i) for i in some[np.argsort(values[some], kind="stable")]]
    return [int(i) for i in np.argsort(values, kind="stable")]


def is_alike(found: Match) -> bool:
    """Tell whether a match is good enough to say that two shots show one place."""
    if found.same:
        return found.likeness >= 100 * ENOUGH and (
            found.points > 0
            or (found.likeness >= 100 * UNMOVED_ENOUGH and found.blocks >= _LEAST_BLOCKS)
        )
    return found.points >= _PLACE_POINTS and found.likeness >= 100 * PLACE_ENOUGH


def _better(found: Match, best: Match | None) -> bool:
    return best is None or (found.same, found.likeness) > (best.same, best.likeness)


def _nearest_pictures(
    mine: ShotLook, theirs: ShotLook, flopped: bool
) -> list[tuple[int, int, float]]:
    """Return which pictures of two shots are held together, the likeliest first, and how far."""
    layouts = mine.layouts, theirs.layouts[:, :, ::-1] if flopped else theirs.layouts
    wide = [x.astype(np.float32) for x in layouts]
    far = np.abs(wide[0][:, None] - wide[1][None]).mean(axis=(2, 3, 4))
    order = np.argsort(far.ravel(), kind="stable")[:TRIED].tolist()
    return [(i // far.shape[1], i % far.shape[1], float(far.flat[i])) for i in order]


def alike_groups(count: int, pairs: dict[tuple[int, int], Match]) -> list[Alike]:
    """Return groups of shots that look alike: set-ups first, then places that join them.

    A shot joins a group where it matches at least half of those it was compared with that are in
    it, so that one chance match does not join two places.
    """
    setups = _grouped(count, {k: m for k, m in pairs.items() if m.same})
    groups = [Alike(g, _mean_likeness(g, pairs), True) for g in setups if len(g) > 1]
    by_shot = {n: i for i, g in enumerate(setups) for n in g}
    between: dict[tuple[int, int], list[Match]] = {}
    for (a, b), found in pairs.items():
        i, j = by_shot[a], by_shot[b]
        if i != j and not found.same:
            between.setdefault((min(i, j), max(i, j)), []).append(found)
    best = {k: max(v, key=lambda m: m.likeness) for k, v in between.items()}
    for group in _grouped(len(setups), best):
        if len(group) > 1:
            shots = tuple(sorted(n for i in group for n in setups[i]))
            groups.append(Alike(shots, _mean_likeness(shots, pairs), False))
    return sorted(groups, key=lambda g: (not g.setup, -g.likeness * len(g.shots) ** 0.25))


def _grouped(count: int, pairs: dict[tuple[int, int], Match]) -> list[tuple[int, ...]]:
    """Join things by their pairs, the most alike first."""
    group = {n: {n} for n in range(count)}
    near: dict[int, set[int]] = {n: set() for n in range(count)}
    for a, b in pairs:
        near[a].add(b)
        near[b].add(a)
    for a, b in sorted(pairs, key=lambda k: -pairs[k].likeness):
        mine, theirs = group[a], group[b]
        if mine is theirs:
            continue
        links = sum(len(near[n] & theirs) for n in mine)
        if links * 2 < min(len(mine), len(theirs)):
            continue
        if links < 2 and len(mine) > 2 and len(theirs) > 2:
            continue
        joined = mine | theirs
        for n in joined:
            group[n] = joined
    unique = {id(g): tuple(sorted(g)) for g in group.values()}
    return sorted(unique.values())


def _mean_likeness(shots: Sequence[int], pairs: dict[tuple[int, int], Match]) -> float:
    inside = set(shots)
    found = [m.likeness for (a, b), m in pairs.items() if a in inside and b in inside]
    return float(np.mean(found)) if found else 0.0
