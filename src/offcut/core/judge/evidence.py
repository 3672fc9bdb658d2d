"""Evidence: what the signals say of one place in the film, as figures a judge weighs.

A cut at frame t leaves a triangle in the plane of distance and time: every pair of frames that
straddles it is unlike, every pair on one side alike. A flash leaves two peaks with alike pairs
across; a pan a plateau; a passer a gap that far pairs bridge. The figures below say how well the
place fits each of these.
"""

from __future__ import annotations

from copy import copy
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.signals import CLOSE, DISTANCES, FARTHER, HISTORY, Signals

Floats = NDArray[np.floating[Any]]
Frames = NDArray[np.int64]
HAT, _SHORT_HAT = 17, 5
"""Frames: what is lighter for fewer stands out."""
FLASH = 8.0
"""Grey levels by which a frame is lighter than what lies about it, from which on it is a flash."""
_COLUMN = {d: i for i, d in enumerate(DISTANCES)}
_COLUMNS = np.zeros(max(DISTANCES) + 1, np.int64)
_COLUMNS[list(DISTANCES)] = range(len(DISTANCES))
_FAR_COLUMNS = np.zeros(HISTORY + 1, np.int64)
"""Where the distance of tiny pictures so many frames apart is kept, or of the next farther ones."""
_FAR_COLUMNS[1 : CLOSE + 1] = range(CLOSE)
_FAR_COLUMNS[CLOSE + 1 :] = CLOSE + np.searchsorted(FARTHER, np.arange(CLOSE + 1, HISTORY + 1))
_FAR_WIDTH = CLOSE + len(FARTHER)


class Planes:
    """The signals of a stretch as float32, read by frame and distance, safe at the edges.

    Attributes: ``n`` frames, counted from 0 here; ``start`` the first one's number in the film.
    """

    def __init__(self, signals: Signals) -> None:
        self.n = len(signals)
        self.start = signals.start
        self.unlike = np.asarray(signals.unlike, np.float32)
        self.most = np.asarray(signals.unlike_most, np.float32)
        self.unmatched = np.asarray(signals.unmatched, np.float32)
        self.colour = np.asarray(signals.colour, np.float32)
        self.raw = np.asarray(signals.raw, np.float32)
        self.wide = np.asarray(signals.wide, np.float32)
        self.far = np.concatenate([signals.far, signals.farther], axis=1, dtype=np.float32)
        self.stats = np.asarray(signals.stats, np.float32)
        self.moved = {1: signals.moved, 6: signals.moved_six, 24: signals.moved_far}
        self.woven = np.asarray(signals.woven, np.float32)
        self._sums: dict[int, NDArray[np.int32]] = {}
        self._peaks: dict[int, tuple[int, NDArray[np.int32]]] = {}
        self._hat: Floats | None = None
        self._usual: Floats | None = None
        self._short_hat: Floats | None = None
        self._clear: tuple[Frames, Frames] | None = None
        self._calm: Planes | None = None

    def _held(self, frames: Frames) -> Frames:
        # np.clip costs more than both of these together
        found: Frames = np.minimum(np.maximum(frames, 0), self.n - 1)
        return found

    def usual_block(self) -> Floats:
        """Return how much the median block changes from frame to frame, (n,), in grey levels."""
        if self._usual is None:
            self._usual = np.median(self.moved[1], axis=1).astype(np.float32)
        return self._usual

    def at(self, plane: Floats, frames: Frames, distance: int | Frames) -> Floats:
        """Return a plane's column for a distance at some frames, the nearest at the ends.

        ``distance`` is one of DISTANCES for all, or one of them for each row of ``frames``.
        """
        column = _COLUMN[distance] if isinstance(distance, int) else _COLUMNS[distance]
        found: Floats = plane.ravel().take(self._held(frames) * plane.shape[1] + column)
        return found

    def apart(self, frames: Frames, distance: int | Frames) -> Floats:
        """Return how far the tiny pictures of frames and of those 1 to 128 before them are."""
        column = _FAR_COLUMNS[distance]
        found: Floats = self.far.ravel().take(self._held(frames) * _FAR_WIDTH + column)
        return found

    def between(self, earlier: Frames, later: Frames) -> Floats:
        """Return how far the tiny pictures of two frames are, at most 128 apart; 0 for the same."""
        apart = np.minimum(later - earlier, HISTORY)
        found = self.far.ravel().take(later * _FAR_WIDTH + _FAR_COLUMNS[np.maximum(apart, 0)])
        return np.where(apart > 0, found, np.float32(0))

    def of(self, signal: NDArray[Any], frames: Frames) -> NDArray[Any]:
        """Return the rows of a signal at some frames, the nearest at the ends."""
        found: NDArray[Any] = signal[self._held(frames)]
        return found

    def hat(self) -> Floats:
        """Return by how much each frame is lighter than what lies on either side; see `hat_of`."""
        if self._hat is None:
            self._hat = hat_of(self.stats[:, 0])
        return self._hat

    def short_hat(self) -> Floats:
        """Return the same of what is over in four frames, as the flashes of a strobe are."""
        if self._short_hat is None:
            self._short_hat = hat_of(self.stats[:, 0], _SHORT_HAT)
        return self._short_hat

    def clear(self) -> tuple[Frames, Frames]:
        """Return for each frame the last one up to it and the first one from it on without a flash.

        Where there is none at an end of the stretch, the frame itself.
        """
        if self._clear is None:
            frames = np.arange(self.n)
            plain = self.short_hat() < FLASH
            last = np.maximum.accumulate(np.where(plain, frames, -1))
            first = np.minimum.accumulate(np.where(plain, frames, self.n)[::-1])[::-1]
            self._clear = np.where(last < 0, frames, last), np.where(first >= self.n, frames, first)
        return self._clear

    def calm(self) -> Planes:
        """Return these planes as if each flash frame showed what the frame before it shows.

        Where nothing flashes they are these themselves.
        """
        if self._calm is None:
            last, _ = self.clear()
            flashes = bool((last != np.arange(self.n)).any())
            self._calm = self._without_flashes(last) if flashes else self
        return self._calm

    def _without_flashes(self, last: Frames) -> Planes:
        frames = np.arange(self.n)
        found = copy(self)
        found._sums, found._peaks = {}, {}
        found._hat = found._short_hat = found._usual = found._clear = None
        flashes = np.flatnonzero(last != frames)[:, None]
        far = np.array([*range(1, CLOSE + 1), *FARTHER])
        near = np.array(DISTANCES)
        for distances, names in (
            (far, ("far",)),
            (near, ("unlike", "most", "unmatched", "colour")),
        ):
            # a pair of which a frame flashes: it is the later one, or the earlier
            later = np.broadcast_to(flashes, (len(flashes), len(distances)))
            pairs = np.concatenate([later, later + distances])
            columns = np.broadcast_to(np.arange(len(distances)), pairs.shape)
            held = pairs < self.n
            pairs, columns = pairs[held], columns[held]
            b, a = last[pairs], last[np.maximum(pairs - distances[columns], 0)]
            for name in names:
                plane = getattr(self, name).copy()
                if name == "far":
                    plane[pairs, columns] = self.between(a, b)
                else:
                    known = self.at(getattr(self, name), b, nearest_distance(np.maximum(b - a, 1)))
                    plane[pairs, columns] = np.where(b > a, known, 0)
                setattr(found, name, plane)
        found.stats = self.stats[last]
        # a step to a flash frame or from one says nothing: the last one that does stands for it
        steady = last == frames
        steady[1:] &= last[:-1] == frames[:-1]
        stands = np.maximum(np.maximum.accumulate(np.where(steady, frames, -1)), 0)
        found.raw, found.wide = self.raw[stands], self.wide[stands]
        found.moved = {1: self.moved[1][stands]}
        for distance in (6, 24):
            clean = np.minimum(last[np.maximum(last - distance, 0)] + distance, self.n - 1)
            clean = np.where((last[clean] == clean) & (clean >= distance), clean, last)
            found.moved[distance] = self.moved[distance][clean]
        return found

    def moved_over(self, distance: int, first: Frames, after: Frames) -> NDArray[np.int32]:
        """Return the sum of every block's change over frames [first, after), (len(first), 40)."""
        if distance not in self._sums:
            # of whole rows and columns: a table of sums is quicker made than one for each column
            self._sums[distance] = np.asarray(cv2.integral(self.moved[distance]), np.int32)
        sums = self._sums[distance]
        return np.diff(sums[after] - sums[first], axis=1)

    def peaks(self, distance: int, width: int) -> NDArray[np.int32]:
        """Return each block's greatest change in the ``width`` frames from each on, and its frame.

        Both in one number, (n - width + 1, 40): change << 16, plus 0xFFFF less the frame, so that
        of equal changes the earliest counts. A stretch holds fewer than 65,536 frames. A running
        maximum by doubling; widths are best asked for from the least on.
        """
        step, doubled = self._peaks.get(distance, (0, np.zeros((0, 0), np.int32)))
        if not len(doubled) or 1 << step > width:
            frames = 0xFFFF - np.arange(self.n, dtype=np.int32)
            step, doubled = 0, (self.moved[distance].astype(np.int32) << 16) | frames[:, None]
        while 2 << step <= width:
            half = 1 << step
            step, doubled = step + 1, np.maximum(doubled[:-half], doubled[half:])
        self._peaks[distance] = step, doubled
        last = self.n - width + 1
        back = width - (1 << step)
        return np.maximum(doubled[:last], doubled[back : back + last])


def nearest_distance(distance: Frames) -> Frames:
    """Return for each distance the least of DISTANCES that is not below it, or the last."""
    steps = np.asarray(DISTANCES)
    found: Frames = steps[np.minimum(np.searchsorted(steps, distance), len(steps) - 1)]
    return found


def hat_of(light: Floats, frames: int = HAT) -> Floats:
    """Return by how much each frame is lighter than what lies on either side, in grey levels.

    The light less its opening over so many frames (a top-hat; Serra 1982, from memory): a flash and
    a picture that burns out stand on it, a lighter shot does not.
    """
    line = np.ascontiguousarray(light, np.float32)[None]
    found: Floats = (
        line[0] - cv2.morphologyEx(line, cv2.MORPH_OPEN, np.ones((1, frames), np.uint8))[0]
    )
    return found


def candidates(planes: Planes) -> Frames:
    """Return the places where a cut is thinkable: change that stands above its neighbours."""
    change = planes.unlike[:, 0]
    colour = planes.colour[:, 0]
    tiny = planes.far[:, 0]
    stands = np.zeros(planes.n, np.bool_)
    for signal, least, floor in ((change, 3.5, 0.4), (colour, 0.08, 0.02), (tiny, 2.0, 0.4)):
        before = np.concatenate([[0.0], signal[:-1]])
        after = np.concatenate([signal[1:], [0.0]])
        stands |= (
            (signal > least)
            & (signal >= before)
            & (signal >= after)
            & (signal > 1.12 * np.minimum(before, after) + floor)
        )
    # beside another cut, as with a shot of one frame, it need not be the greater of the two
    near = np.lib.stride_tricks.sliding_window_view(np.pad(change, 5, mode="edge"), 11)
    usual = np.partition(near, 5, axis=1)[:, 5]
    stands |= (change > 5.0) & (change > 1.8 * usual + 1.0)
    # at flash frames between pictures that are unlike
    last, first = planes.clear()
    at = np.flatnonzero(planes.short_hat() >= FLASH)
    at = np.union1d(at, np.minimum(at + 1, planes.n - 1))
    a, b = last[np.maximum(at - 1, 0)], first[at]
    far = nearest_distance(np.maximum(b - a, 1))
    stands[at] |= (planes.at(planes.unlike, b, far) > 6.0) & (b - a <= 12)
    stands[0] = False
    return np.flatnonzero(stands)


def _across(planes: Planes, plane: Floats, t: Frames, distance: int) -> tuple[Floats, Floats]:
    """Return the mean and the least of the pairs at a distance that straddle t."""
    step = max(1, distance // 8)
    rows = np.stack([planes.at(plane, t + k, distance) for k in range(0, distance, step)])
    return rows.mean(axis=0), rows.min(axis=0)


def join_figures(planes: Planes, t: Frames) -> tuple[Floats, tuple[str, ...]]:
    """Return the figures for a cut at each of frames ``t``, shape (len(t), F), and their names."""
    named: dict[str, Floats] = {}
    one = planes.at(planes.unlike, t, 1)
    named["step"] = one
    named["step_most"] = planes.at(planes.most, t, 1)
    named["step_unmatched"] = planes.at(planes.unmatched, t, 1)
    named["step_colour"] = planes.at(planes.colour, t, 1)
    named["step_raw"] = planes.of(planes.raw, t)
    named["step_wide"] = planes.of(planes.wide, t)
    named["step_tiny"] = planes.apart(t, 1)
    _add_sides(planes, t, one, named)
    for distance in (2, 4, 8, 16, 32, 64):
        mean, least = _across(planes, planes.unlike, t, distance)
        named[f"across_{distance}"] = mean
        named[f"across_least_{distance}"] = least
    for distance in (4, 8, 24):
        mean, least = _across(planes, planes.colour, t, distance)
        named[f"colour_{distance}"] = mean
        named[f"colour_least_{distance}"] = least
    for distance in (2, 4, 8, 16):
        named[f"within_before_{distance}"] = planes.at(planes.unlike, t - 1, distance)
        named[f"within_after_{distance}"] = planes.at(planes.unlike, t + distance, distance)
    for distance in (4, 8):
        named[f"unmatched_{distance}"] = _across(planes, planes.unmatched, t, distance)[0]
        named[f"most_{distance}"] = _across(planes, planes.most, t, distance)[1]
        side = [
            planes.at(planes.colour, t - 1, distance),
            planes.at(planes.colour, t + distance, distance),
        ]
        named[f"colour_within_{distance}"] = np.maximum(side[0], side[1])
    _add_returns(planes, t, named)
    _add_sides_apart(planes, t, named)
    _add_tiny(planes, t, named)
    _add_light(planes, t, named)
    _add_parts(planes, t, named)
    _add_clear(planes, t, named)
    within = np.maximum(named["within_before_4"], named["within_after_4"])
    named["triangle"] = named["across_least_4"] / (within + 2.0)
    named["triangle_8"] = named["across_least_8"] / (
        np.maximum(named["within_before_8"], named["within_after_8"]) + 2.0
    )
    return np.stack(list(named.values()), axis=1), tuple(named)


def _add_sides(planes: Planes, t: Frames, one: Floats, named: dict[str, Floats]) -> None:
    """How restless it is on either side, and how the step stands out of it."""
    near = np.stack([planes.at(planes.unlike, t + k, 1) for k in (-6, -5, -4, -3, -2, -1)])
    after = np.stack([planes.at(planes.unlike, t + k, 1) for k in (1, 2, 3, 4, 5, 6)])
    named["before_median"] = np.median(near, axis=0)
    named["after_median"] = np.median(after, axis=0)
    named["before_most"] = near[3:].max(axis=0)
    named["after_most"] = after[:3].max(axis=0)
    named["before_most_six"] = near.max(axis=0)
    named["after_most_six"] = after.max(axis=0)
    restless = np.maximum(named["before_most"], named["after_most"])
    named["stands_out"] = one / (restless + 1.5)
    calm = np.maximum(named["before_median"], named["after_median"])
    named["stands_out_median"] = one / (calm + 1.5)
    named["next_before"] = near[5] / (one + 1.0)
    named["next_after"] = after[0] / (one + 1.0)
    wide_around = np.stack([planes.of(planes.wide, t + k) for k in (-3, -2, -1, 1, 2, 3)])
    named["wide_out"] = named["step_wide"] / (np.median(wide_around, axis=0) + 2.0)
    colours = np.stack([planes.at(planes.colour, t + k, 1) for k in (-3, -2, -1, 1, 2, 3)])
    named["colour_out"] = named["step_colour"] / (colours.max(axis=0) + 0.03)
    peaks = np.zeros_like(one)
    for k in (*range(-14, 0), *range(1, 15)):
        peaks += planes.at(planes.unlike, t + k, 1) > 0.7 * one
    named["peaks_near"] = peaks


def _add_returns(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """Whether the picture from before comes back after: the alikest pair across."""
    groups = {
        "short": ((2, (1,)), (3, (1, 2)), (4, (1, 2, 3))),
        "middle": ((6, (2, 3, 4)), (8, (2, 3, 4, 5, 6))),
        "long": ((12, (3, 6, 9)), (16, (4, 8, 12)), (24, (6, 12, 18))),
        "very_long": ((32, (8, 16, 24)), (48, (12, 24, 36)), (64, (16, 32, 48))),
    }
    for name, pairs in groups.items():
        rows = [planes.at(planes.unlike, t + k, d) for d, ks in pairs for k in ks]
        named[f"returns_{name}"] = np.min(rows, axis=0)
        tiny = [planes.apart(t + k, d) for d, ks in pairs for k in ks]
        named[f"returns_tiny_{name}"] = np.min(tiny, axis=0) / (named["step_tiny"] + 1.0)


def _add_sides_apart(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """How far the mean picture of some frames before is from that of some frames after.

    Grain and flicker fall out of the means. It needs only the distances: mean squared distance
    across, less half of those within either side (the energy distance; Székely and Rizzo 2013,
    "Energy statistics", from memory). Set against what the picture does within a side.
    """
    for name, offsets in (("near", (0, 1, 2)), ("far", (0, 2, 4, 7)), ("wide", (3, 8, 14, 20))):
        across = np.mean(
            [planes.apart(t + j, j + i + 1) ** 2 for i in offsets for j in offsets], axis=0
        )
        pairs = [(i, j) for i in offsets for j in offsets if i < j]
        shares = 2 / len(offsets) ** 2
        before = shares * np.sum([planes.apart(t - 1 - i, j - i) ** 2 for i, j in pairs], axis=0)
        after = shares * np.sum([planes.apart(t + j, j - i) ** 2 for i, j in pairs], axis=0)
        between = np.maximum(0, across - before / 2 - after / 2)
        named[f"sides_{name}"] = np.sqrt(between)
        named[f"sides_{name}_out"] = between / (np.maximum(before, after) + 0.5)


def _add_tiny(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """The plain colour pictures: how much of the change happens in this one step."""
    before, after = planes.apart(t - 1, 4), planes.apart(t + 4, 4)
    across = planes.apart(t + 3, 7)
    named["tiny_share"] = named["step_tiny"] / (across + 1.0)
    named["tiny_out"] = named["step_tiny"] / (np.maximum(before, after) + 1.5)
    named["tiny_lasting"] = planes.apart(t + 8, 16)
    around = np.stack([planes.apart(t + k, 1) for k in (-3, -2, -1, 1, 2, 3)])
    named["tiny_neighbour"] = around.max(axis=0) / (named["step_tiny"] + 1.0)


def _add_light(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """Light, contrast and detail on either side."""
    now, then = (planes.of(planes.stats, f) for f in (t, t - 1))
    named["light_step"] = np.abs(now[:, 0] - then[:, 0])
    named["contrast_least"] = np.minimum(now[:, 1], then[:, 1])
    named["contrast_ratio"] = np.abs(np.log((now[:, 1] + 1) / (then[:, 1] + 1)))
    named["detail_least"] = np.minimum(now[:, 2], then[:, 2])
    named["detail_ratio"] = np.abs(np.log((now[:, 2] + 0.5) / (then[:, 2] + 0.5)))
    named["light_least"] = np.minimum(now[:, 0], then[:, 0])
    later, earlier = (planes.of(planes.stats, f) for f in (t + 3, t - 4))
    # a change of light scales mean and contrast alike
    scale = np.log((now[:, 1] + 1) / (then[:, 1] + 1))
    light = np.log(np.maximum(now[:, 0] - 12, 4) / np.maximum(then[:, 0] - 12, 4))
    named["scale_unlike"] = np.abs(light - scale)
    named["light_lasting"] = np.abs(later[:, 0] - earlier[:, 0])
    named["flat_near"] = np.min(
        [planes.of(planes.stats, t + k)[:, 1] for k in range(-4, 5)], axis=0
    )
    hat = planes.hat()
    named["burnt"] = np.max([planes.of(hat, t + k) for k in range(-4, 5)], axis=0)
    named["burnt_here"] = np.maximum(planes.of(hat, t), planes.of(hat, t - 1))


def _add_clear(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """The same without flash frames: a cut into the flashes of a strobe stands out of them."""
    last, first = planes.clear()
    earlier, later = [last[np.maximum(t - 1, 0)]], [first[np.minimum(t, planes.n - 1)]]
    for _ in range(2):
        earlier.append(last[np.maximum(earlier[-1] - 1, 0)])
        later.append(first[np.minimum(later[-1] + 1, planes.n - 1)])

    def unlike(a: Frames, b: Frames) -> Floats:
        apart = np.maximum(b - a, 0)
        found = planes.at(planes.unlike, b, nearest_distance(np.maximum(apart, 1)))
        return np.where(apart > 0, found, np.float32(0))

    a, b = earlier[0], later[0]
    step = unlike(a, b)
    around = np.maximum(unlike(earlier[1], a), unlike(b, later[1]))
    named["clear_step"], named["clear_gap"] = step, (b - a).astype(np.float32)
    named["clear_out"] = step / (around + 1.5)
    pairs = [(i, j) for i in range(3) for j in range(i + 1, 3)]
    across = np.mean([planes.between(i, j) ** 2 for i in earlier for j in later], axis=0)
    shares = 2 / len(earlier) ** 2
    before = shares * np.sum(
        [planes.between(earlier[j], earlier[i]) ** 2 for i, j in pairs], axis=0
    )
    after = shares * np.sum([planes.between(later[i], later[j]) ** 2 for i, j in pairs], axis=0)
    between = np.maximum(0, across - before / 2 - after / 2)
    named["clear_sides"] = np.sqrt(between)
    named["clear_sides_out"] = between / (np.maximum(before, after) + 0.5)
    # whether the flash frames before and after the place are of the shot they would fall to
    named["clear_own"] = unlike(a, t - 1) + unlike(t, b)
    named["clear_other"] = np.minimum(unlike(a, t), unlike(t - 1, b))


def _add_parts(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """Which parts of the picture change: of several pictures on a screen only one does."""
    for name, plane, at in (("step", planes.moved[1], t), ("six", planes.moved[6], t + 3)):
        blocks = planes.of(plane, at).astype(np.float32).reshape(-1, 5, 8)
        rows, columns = blocks.mean(axis=2), blocks.mean(axis=1)
        left, right = columns[:, :4].mean(axis=1), columns[:, 4:].mean(axis=1)
        upper, lower = rows[:, :2].mean(axis=1), rows[:, 3:].mean(axis=1)
        named[f"{name}_half_least"] = np.minimum.reduce([left, right, upper, lower])
        quarters = [
            blocks[:, y, x].mean(axis=(1, 2))
            for y in (slice(0, 2), slice(3, 5))
            for x in (slice(0, 4), slice(4, 8))
        ]
        named[f"{name}_quarter_least"] = np.minimum.reduce(quarters)
        named[f"{name}_blocks"] = (blocks > 9).mean(axis=(1, 2))
