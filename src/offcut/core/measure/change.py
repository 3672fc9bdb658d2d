"""Change: how unlike each frame is to those before it, one pass and no looking ahead.

The unlikeness of two frames is a block match: each 8 by 8 block of one is laid over the other
at 35 offsets and the best fit counts, so that motion is not change (Shahraray 1995, "Scene
change detection and content-based sampling of video sequences", from memory). It is done on
pictures whose local mean and contrast were set to the same level, so that exposure is not change
either. Frames are compared at twelve distances up to 64, so that a judge can tell what stays
from what returns.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.edges import edges_kept, edges_of
from offcut.core.measure.signals import (
    ARRAYS,
    CLOSE,
    DISTANCES,
    EDGE_DISTANCES,
    FARTHER,
    HISTORY,
    METHOD,
    NEAR,
    Signals,
)
from offcut.core.measure.small_pictures import HEIGHT, WIDTH, SmallPictures

_PAD = 6
_OFFSETS = sorted(
    {(x, y) for x in range(-2, 3) for y in range(-2, 3)}
    | {(x, y) for x in (-4, 4) for y in (-2, 0, 2)}
    | {(-6, 0), (6, 0), (0, -4), (0, 4)},
    key=lambda o: (abs(o[0]) + abs(o[1]), o),
)
_UNMATCHED = 26.0
_AT_ONCE = 128
"""So many frames are matched at once: what they need stays in the processor's cache."""
_COLOURLESS = np.full((40, 32), 128, np.uint8)
_Bytes = NDArray[np.uint8]
_Floats = NDArray[np.float32]


class _Views:
    """The pictures derived from small ones, over which frames are compared.

    Attributes: ``even`` (n, 40, 64) luma with local mean and contrast set level; ``coarse`` the
    same at half size; ``luma``; ``tiny`` float32 (n, 480) luma and chroma, 16 by 10 each;
    ``colours`` float32 (n, 96) histograms; ``edges`` uint8 (n, PACKED) of `edges_of`; ``stats``
    float32 (n, 5); ``first`` (n, 40, 64) luma of the earlier field, the same as ``luma`` where
    there are no fields.
    """

    def __init__(self, run: SmallPictures) -> None:
        n = len(run)
        self.luma = run.luma
        self.first = run.first if len(run.first) else run.luma
        self.even = np.empty_like(run.luma)
        self.coarse = np.empty((n, HEIGHT // 2, WIDTH // 2), np.uint8)
        self.tiny = np.empty((n, 480), np.float32)
        self.colours = np.empty((n, 96), np.float32)
        self.stats = np.empty((n, 5), np.float32)
        for i in range(n):
            luma, chroma = run.luma[i], run.chroma[i]
            self.even[i] = levelled(luma)
            self.coarse[i] = levelled(cv2.resize(luma, (32, 20), interpolation=cv2.INTER_AREA))
            self.tiny[i, :160] = cv2.resize(luma, (16, 10), interpolation=cv2.INTER_AREA).ravel()
            for c in (0, 1):
                small = cv2.resize(chroma[c], (16, 10), interpolation=cv2.INTER_AREA)
                self.tiny[i, 160 + 160 * c : 320 + 160 * c] = small.ravel()
            hue = (chroma[0] >> 5) * 8 + (chroma[1] >> 5)
            grey = np.bincount((luma >> 3).ravel(), minlength=32)
            self.colours[i, :32] = grey / luma.size
            self.colours[i, 32:] = np.bincount(hue.ravel(), minlength=64) / hue.size
            inner = luma[7:33, 9:55]  # inside any usual black bars
            mean, deviation = cv2.meanStdDev(inner)
            detail = cv2.norm(inner[:, 1:], inner[:, :-1], cv2.NORM_L1) / inner[:, 1:].size
            tint = cv2.norm(chroma.reshape(-1, 32), _COLOURLESS, cv2.NORM_L1) / chroma.size
            self.stats[i, :4] = (mean[0, 0], deviation[0, 0], detail, tint)
        self.stats[:, 4] = _plain_deviation(self.tiny[:, :160])
        self.edges = edges_of(run.luma)

    def __len__(self) -> int:
        return len(self.luma)

    def after(self, before: Sequence[_Views]) -> _Views:
        """Put the last HISTORY pictures of earlier runs before these."""
        joined = _Views.__new__(_Views)
        for name in vars(self):
            parts = [getattr(views, name) for views in before]
            past = np.concatenate(parts)[-HISTORY:] if parts else getattr(self, name)[:0]
            setattr(joined, name, np.concatenate([past, getattr(self, name)]))
        return joined


def _plain_deviation(tiny: _Floats) -> _Floats:
    """Return the deviation of the seven tenths of the cells that lie nearest to their median, (n,).

    Letters over a picture that has gone dark are left out of it.
    """
    middle = np.partition(tiny, 80, axis=1)[:, 80:81]
    off = np.partition(np.abs(tiny - middle), 112, axis=1)[:, :112]
    found: _Floats = np.sqrt((off * off).mean(axis=1))
    return found


def levelled(luma: _Bytes) -> _Bytes:
    """Return luma with local mean 128 and local deviation 40, over a window of a quarter width.

    A floor keeps noise in flat parts from being blown up: 3 grey levels in a picture of usual
    contrast, less in a dim or logarithmic one, where a few levels are all there is. What lies
    far outside the tones of the picture's middle, a gate's dark frame above all, is cut off
    first: its edge would drown everything near it.
    """
    grey = luma.astype(np.float32)
    high, wide = luma.shape
    inner = luma[high // 6 : high - high // 6, wide // 7 : wide - wide // 7]
    mean, deviation = (float(v[0, 0]) for v in cv2.meanStdDev(inner))
    floor = min(3.0, max(0.7, 0.3 + 0.1 * deviation))
    reach = 2.2 * deviation + 2.0
    np.minimum(np.maximum(grey, mean - reach, out=grey), mean + reach, out=grey)
    size = (wide // 4 + 1, wide // 4 + 1)
    flat = grey - cv2.blur(grey, size)
    power = cv2.blur(flat * flat, size)
    # a picture flat to the last bit may come out below nothing
    spread = np.sqrt(np.maximum(power, 0, out=power), out=power)
    spread += floor
    np.divide(flat, spread, out=flat)
    flat *= 40.0
    flat += 128.0
    return np.asarray(np.minimum(np.maximum(flat, 0, out=flat), 255, out=flat), np.uint8)


def _block_fits(
    now: _Bytes, then: _Bytes, block: int, offsets: Sequence[tuple[int, int]] = _OFFSETS
) -> _Floats:
    """Return per block how unlike ``now`` is to ``then`` at the best offset, (n, 5, 8).

    Both are (n, h, w) uint8; the result is the mean absolute difference in grey levels.
    """
    n, high, wide = now.shape
    best = np.full((n, high // block, wide // block), 255, np.uint8)
    for first in range(0, n, _AT_ONCE):
        some = slice(first, min(n, first + _AT_ONCE))
        _best_fits(now[some], then[some], best[some], offsets)
    return best.astype(np.float32)


def _best_fits(now: _Bytes, then: _Bytes, best: _Bytes, offsets: Sequence[tuple[int, int]]) -> None:
    """Lower ``best`` (n, h / block, w / block) to the best fit of each block, in place."""
    n, high, wide = now.shape
    padded = np.pad(then, ((0, 0), (_PAD, _PAD), (_PAD, _PAD)), mode="edge")
    ours = np.ascontiguousarray(now).reshape(n * high, wide)
    laid = np.empty((n, high, wide), np.uint8)
    theirs = laid.reshape(ours.shape)
    # halved again and again: four pixels to one is what processors do quickest
    halved = [np.empty_like(ours)]
    lowest = best.reshape(-1, best.shape[2])
    while halved[-1].shape[1] > lowest.shape[1]:
        halved.append(np.empty((halved[-1].shape[0] // 2, halved[-1].shape[1] // 2), np.uint8))
    for dx, dy in offsets:
        np.copyto(laid, padded[:, _PAD + dy : _PAD + dy + high, _PAD + dx : _PAD + dx + wide])
        cv2.absdiff(ours, theirs, halved[0])
        for whole, half in pairwise(halved):
            cv2.resize(whole, half.shape[::-1], half, interpolation=cv2.INTER_AREA)
        cv2.min(lowest, halved[-1], lowest)


def _wide_shift(now: _Bytes, then: _Bytes) -> _Floats:
    """Return the mean difference of levelled coarse pictures at the best shift of the whole.

    Shifts up to half the width and a third of the height, for pans too fast for blocks; only
    the part that overlaps counts. Shapes (n, 20, 32) uint8 in, (n,) out.
    """
    n, high, wide = now.shape
    best = np.full(n, 255.0, np.float32)
    for dy in (-6, -3, 0, 3, 6):
        for dx in range(-16, 17, 2):
            ours = now[:, max(0, dy) : high + min(0, dy), max(0, dx) : wide + min(0, dx)]
            theirs = then[:, max(0, -dy) : high + min(0, -dy), max(0, -dx) : wide + min(0, -dx)]
            apart = cv2.absdiff(
                np.ascontiguousarray(ours).reshape(n, -1),
                np.ascontiguousarray(theirs).reshape(n, -1),
            )
            fit = cv2.reduce(apart, 1, cv2.REDUCE_AVG, dtype=cv2.CV_32F)[:, 0]
            np.minimum(best, fit, out=best)
    return best


class ChangeMeasurer:
    """The measurer of change; what it leaves are `offcut.core.measure.signals.Signals`."""

    name = "change"
    version = METHOD
    history = HISTORY
    arrays = ARRAYS
    bytes_a_frame = 438
    look = None

    def prepare(self, run: SmallPictures) -> tuple[SmallPictures, _Views]:
        """Return a run with the pictures derived from it, over which frames are compared."""
        return run, _Views(run)

    def compare(
        self,
        before: Sequence[tuple[SmallPictures, _Views]],
        now: tuple[SmallPictures, _Views],
    ) -> dict[str, NDArray[Any]]:
        """Return the signals of a run; at the film's head a frame is held against the first."""
        run, views = now
        both = views.after([earlier for _, earlier in before])
        signals = _signals_of(run, both, len(both) - len(run))
        return {name: getattr(signals, name) for name in ARRAYS}


def _signals_of(run: SmallPictures, both: _Views, before: int) -> Signals:
    n = len(run)
    here = np.arange(before, before + n)
    columns: dict[str, list[NDArray[np.floating]]] = {
        "unlike": [],
        "most": [],
        "unmatched": [],
        "colour": [],
    }
    moved: dict[int, _Bytes] = {}
    for distance in DISTANCES:
        then = np.maximum(here - distance, 0)
        view, block = (both.even, 8) if distance in NEAR else (both.coarse, 4)
        fits = _block_fits(view[here], view[then], block).reshape(n, -1)
        if distance in (1, 6, 24):
            moved[distance] = fits.astype(np.uint8)
        ranked = np.sort(fits, axis=1)
        columns["unlike"].append(fits.mean(axis=1))
        columns["most"].append(ranked[:, -10:].mean(axis=1))
        columns["unmatched"].append((fits > _UNMATCHED).mean(axis=1))
        columns["colour"].append(np.abs(both.colours[here] - both.colours[then]).sum(axis=1) / 2)
    before_one = np.maximum(here - 1, 0)
    raw_fits = _block_fits(both.luma[here], both.luma[before_one], 8, _OFFSETS[:9])
    raw = raw_fits.reshape(n, -1).mean(axis=1)
    wide = _wide_shift(both.coarse[here], both.coarse[before_one])
    far = _tiny_distances(both.tiny, before)
    edges = [
        edges_kept(both.edges[here], both.edges[np.maximum(here - d, 0)]) for d in EDGE_DISTANCES
    ]
    return Signals(
        start=run.start,
        unlike=_half(columns["unlike"]),
        unlike_most=_half(columns["most"]),
        unmatched=_half(columns["unmatched"]),
        raw=raw.astype(np.float16),
        colour=_half(columns["colour"]),
        wide=wide.astype(np.float16),
        far=far[:, :CLOSE],
        farther=far[:, np.array(FARTHER) - 1],
        moved=moved[1],
        moved_six=moved[6],
        moved_far=moved[24],
        edges=np.concatenate(edges, axis=1),
        stats=both.stats[before:].astype(np.float16),
        woven=_woven(both, here) if len(run.first) else np.zeros((n, 2), np.float16),
        held=run.held,
    )


def _woven(both: _Views, here: NDArray[np.int64]) -> NDArray[np.float16]:
    """Return how far earlier fields are from their later ones and from those before, (n, 2)."""
    apart = [
        cv2.absdiff(both.first[here], both.luma[of]).reshape(len(here), -1).mean(axis=1)
        for of in (here, np.maximum(here - 1, 0))
    ]
    return np.stack(apart, axis=1).astype(np.float16)


def _tiny_distances(tiny: _Floats, before: int) -> NDArray[np.float16]:
    """Return the distance of each picture to the HISTORY before it, (n, HISTORY).

    The numbers are whole and their sums below 2**24, so float32 holds them exactly and the order
    in which they are added, or how the film was divided, does not matter.
    """
    n = len(tiny) - before
    centred = tiny - 128.0
    norms = (centred * centred).sum(axis=1)
    apart = np.empty((n, HISTORY), np.float16)
    back = np.arange(1, HISTORY + 1)
    for first in range(0, n, CLOSE):
        here = np.arange(first, min(n, first + CLOSE)) + before
        low = max(0, int(here[0]) - HISTORY)
        products = centred[here] @ centred[low : here[-1] + 1].T
        then = np.maximum(here[:, None] - back, 0)
        dots = np.take_along_axis(products, then - low, axis=1)
        squared = norms[here][:, None] + norms[then] - 2.0 * dots
        apart[first : first + len(here)] = np.sqrt(np.maximum(squared, 0) / tiny.shape[1])
    return apart


def _half(columns: list[NDArray[np.floating]]) -> NDArray[np.float16]:
    return np.stack(columns, axis=1).astype(np.float16)
