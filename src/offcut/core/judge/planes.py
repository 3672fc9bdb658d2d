"""Planes: the signals of a stretch of film as the judge reads them, by frame and distance."""

from __future__ import annotations

from copy import copy
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.signals import (
    CLOSE,
    DISTANCES,
    EDGE_DISTANCES,
    FARTHER,
    HISTORY,
    Signals,
)

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
_EDGE_COLUMNS = np.searchsorted(EDGE_DISTANCES, np.arange(EDGE_DISTANCES[-1] + 1))


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
        # a distance of all frames in one piece: they are mostly asked for frame after frame
        self.far = np.concatenate([signals.far.T, signals.farther.T], dtype=np.float32)
        self.edges = np.asarray(signals.edges, np.float32)
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
        found: Floats = self.far.ravel().take(self._held(frames) + self.n * column)
        return found

    def edges_kept(self, frames: Frames, distance: int | Frames, of_other: int = 0) -> Floats:
        """Return the share of edges that frames have in common with those so many before them.

        ``distance`` is 1 or more, for all or for each row of ``frames``; what is known of the next
        of EDGE_DISTANCES, or the last, stands for it. The share is of the edges of the picture with
        fewer of them; with ``of_other`` 1 of the other one's.
        """
        column = 2 * _EDGE_COLUMNS[np.minimum(distance, len(_EDGE_COLUMNS) - 1)] + of_other
        found: Floats = self.edges.ravel().take(self._held(frames) * self.edges.shape[1] + column)
        return found

    def between(self, earlier: Frames, later: Frames) -> Floats:
        """Return how far the tiny pictures of two frames are, at most 128 apart; 0 for the same."""
        apart = np.minimum(later - earlier, HISTORY)
        found = self.far.ravel().take(later + self.n * _FAR_COLUMNS[np.maximum(apart, 0)])
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
                    plane[columns, pairs] = self.between(a, b)
                else:
                    known = self.at(getattr(self, name), b, nearest_distance(np.maximum(b - a, 1)))
                    plane[pairs, columns] = np.where(b > a, known, 0)
                setattr(found, name, plane)
        found.edges = self._edges_without(last, flashes)
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

    def _edges_without(self, last: Frames, flashes: Frames) -> Floats:
        """Return ``edges`` with those of ``flashes`` (m, 1) taken from the frames that stand in."""
        found = self.edges.copy()
        for column, distance in enumerate(EDGE_DISTANCES):
            pairs = np.concatenate([flashes[:, 0], flashes[:, 0] + distance])
            pairs = pairs[pairs < self.n]
            b, a = last[pairs], last[np.maximum(pairs - distance, 0)]
            for of_other in (0, 1):
                kept = self.edges_kept(b, np.maximum(b - a, 1), of_other)
                found[pairs, 2 * column + of_other] = np.where(b > a, kept, np.float32(1))
        return found

    def moved_over(self, distance: int, first: Frames, after: Frames) -> NDArray[np.int32]:
        """Return the sum of every block's change over frames [first, after), (len(first), 40)."""
        if distance not in self._sums:
            # of whole rows and columns: a table of sums is quicker made than one for each column
            self._sums[distance] = np.asarray(cv2.integral(self.moved[distance]), np.int32)
        sums = self._sums[distance]
        return np.diff(sums[after] - sums[first], axis=1)

    def peaks(self, distance: int, firsts: Frames, width: int) -> NDArray[np.int32]:
        """Return each block's greatest change in ``width`` frames from some on, and its frame.

        Both in one number, (len(firsts), 40): change << 16, plus 0xFFFF less the frame, so that
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
        return np.maximum(doubled[firsts], doubled[firsts + width - (1 << step)])

    def forget_peaks(self) -> None:
        """Let go of what `peaks` keeps from one width to the next."""
        self._peaks.clear()


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
