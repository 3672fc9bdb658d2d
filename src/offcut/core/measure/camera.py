"""Camera: how the picture as a whole moved since the frame before, and how well that is known.

In each cell of a grid the corner that tells most (Shi and Tomasi 1994, "Good features to track") is
followed into the next picture (Lucas and Kanade 1981, in the pyramids of Bouguet 2001; both from
memory), and one affine motion is laid through what was found: first the likeliest of many that two
points each say (Fischler and Bolles 1981), then by weighted least squares that leave out what moves
otherwise. Cells at the border count more: what goes in front stands in the middle more often.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measurer import Arrays
from offcut.core.measure.seen_whole import seen_luma
from offcut.core.measure.small_pictures import Crop, SmallPictures
from offcut.core.model.source import Media

WIDE, HIGH = 160, 90
"""The pictures that are looked at, in pixels, whatever shape the film has."""
_CELL = 10
_ACROSS, _DOWN = WIDE // _CELL, HIGH // _CELL
_MARGIN = 3
_LEAST_CORNERS, _LEAST_FOLLOWED = 10, 8
_FLAT, _FLAT_BESIDE = 1e-4, 1e-3
"""A corner says something from this strength on, and beside the strongest from this share of it."""
_WINDOW, _LEVELS = (13, 13), 3
_UNTIL = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 10, 0.01)
_TRIED = 48
_AT_BORDER = 1.5
_DOUBTFUL = 0.45
"""Where less than this share goes along, the shift of the whole picture is tried as a beginning."""
_ROUNDS = 4
_SPREAD = 5
"""Of nine parts of a picture, what goes along lies in so many where it is all of the picture."""
_PAIRS = np.random.default_rng(7).integers(0, 1 << 30, (_TRIED, 2))
_LEVEL, _CONTRAST, _MOST_GAIN = 128.0, 45.0, 8.0
"""Pictures are set to one light and contrast before they are compared, as far as so many times."""
_DIRECT = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 25, 1e-4)
_ALIKE, _SURELY_ALIKE, _UNDONE = 0.85, 0.97, 0.4
"""Pictures laid on each other as wholes match from this correlation on, and where the way back is
the same within so many pixels."""
_EVERYWHERE = np.full((HIGH // 2, WIDE // 2), 255, np.uint8)
_TONES = np.arange(256.0)
_HANN = cv2.createHanningWindow((WIDE, HIGH), cv2.CV_32F)
_MIDDLE = np.array([(WIDE - 1) / 2, (HIGH - 1) / 2], np.float32)

_Floats = NDArray[np.float32]
_Picture = NDArray[np.uint8]


class _Fit(NamedTuple):
    """A motion: ``affine`` (3, 2), what a point (1, x, y) from the middle moves by, in pixels.

    ``share`` of what was followed goes along with it; ``rest`` pixels by which that is off;
    ``beside`` is the share that goes the same way, slower or faster.
    """

    affine: NDArray[np.float64]
    share: float
    rest: float
    beside: float


_NO_FIT = _Fit(np.zeros((3, 2)), 0.0, 0.0, 0.0)


@dataclass(frozen=True)
class _Followed:
    """A run as it was prepared: its first and last picture, and its rows, the first one empty."""

    first: _Picture
    last: _Picture
    motion: _Floats
    fit: _Floats


class Camera:
    """The measurer of the camera.

    Its signals are ``motion`` float32 (n, 6): by how much the content moved since the frame before,
    at the middle in picture widths to the right and in picture heights down, then the matrix xx,
    xy, yx, yy by which that differs elsewhere, of a picture 160 by 90; and ``fit`` float16 (n, 3):
    the share of places followed that go along (0 where nothing can be told), by how many
    thousandths of a width they are off, and the share that goes the same way at another pace.
    """

    name = "camera"
    version = 1
    arrays = ("motion", "fit")
    bytes_a_frame = 30
    history = 1

    @staticmethod
    def look(frame: av.VideoFrame, crop: Crop) -> _Picture:
        """Return what is looked at of a frame, uint8 (90, 160)."""
        soft = cv2.GaussianBlur(seen_luma(frame, crop, WIDE, HIGH), (5, 5), 1.0)
        return np.asarray(soft, np.uint8)

    def prepare(self, run: SmallPictures) -> _Followed:
        """Return the motion inside a run."""
        seen: NDArray[np.uint8] = run.looked[self.name]
        motion = np.zeros((len(run), 6), np.float32)
        fit = np.zeros((len(run), 3), np.float32)
        for i in range(1, len(run)):
            motion[i], fit[i] = _row(seen[i - 1], seen[i])
        return _Followed(seen[0], seen[-1], motion, fit)

    def compare(self, before: Sequence[_Followed], now: _Followed) -> Arrays:
        """Return the signals of a run; of the film's first frame nothing can be told."""
        motion, fit = now.motion.copy(), now.fit.copy()
        if before:
            motion[0], fit[0] = _row(before[-1].last, now.first)
        return {"motion": motion, "fit": fit.astype(np.float16)}


def _row(before: _Picture, now: _Picture) -> tuple[_Floats, _Floats]:
    """Return a row of both signals."""
    found = motion_between(before, now)
    flat = found.affine.ravel()  # shifts first, then what x adds to both, then y
    motion = [flat[0] / WIDE, flat[1] / HIGH, flat[2], flat[4], flat[3], flat[5]]
    fit = [found.share, 1000 * found.rest / WIDE, found.beside]
    return np.array(motion, np.float32), np.array(fit, np.float32)


def motion_between(before: _Picture, now: _Picture) -> _Fit:
    """Return how a picture moved into the next, both uint8 (90, 160) and softened."""
    before, now = _set_level(before), _set_level(now)
    places = _corners(before)
    found = _NO_FIT
    if len(places) >= _LEAST_CORNERS:
        found = _followed(before, now, places, None)
    if found.share < _DOUBTFUL:
        at, _ = cv2.phaseCorrelate(before.astype(np.float32), now.astype(np.float32), _HANN)
        shift = np.array(at, np.float32)
        if len(places) >= _LEAST_CORNERS:
            other = _followed(before, now, places, shift)
            found = other if other.share > found.share else found
        if found.share < _DOUBTFUL:
            other = _laid_on(before, now, shift)
            found = other if other.share > found.share else found
    return found


def _set_level(picture: _Picture) -> _Picture:
    """Return a picture of usual light and contrast."""
    mean, deviation = cv2.meanStdDev(picture)
    gain = min(_MOST_GAIN, _CONTRAST / max(1.0, float(deviation[0, 0])))
    tones = (_TONES - float(mean[0, 0])) * gain + _LEVEL
    table = np.clip(np.rint(tones), 0, 255).astype(np.uint8)
    return np.asarray(cv2.LUT(picture, table), np.uint8)


def _laid_on(before: _Picture, now: _Picture, shift: _Floats) -> _Fit:
    """Return the motion by which one picture as a whole lies best on the other, at half their size.

    For pictures with edges and hardly a corner (Evangelidis and Psarakis 2008, from memory).
    """
    best, matrix = 0.0, np.zeros((2, 3))
    before, now, shift = _halved(before), _halved(now), np.asarray(shift / 2, np.float32)
    for begin in (np.zeros(2, np.float32), shift):
        found = _warp(before, now, begin)
        if found is not None and found[0] > best:
            best, matrix = found
        if best > _SURELY_ALIKE:
            break
    if best < _ALIKE:
        return _NO_FIT
    back = _warp(now, before, -matrix[:, 2] if best > _SURELY_ALIKE else -shift)
    if back is None or _off_when_undone(matrix, back[1]) > _UNDONE:
        return _NO_FIT  # on a plain ground anything lies on anything
    middle = (_MIDDLE - 0.5) / 2
    moved = 2 * (matrix[:, :2] @ middle + matrix[:, 2] - middle)
    affine = np.concatenate([moved[None], (matrix[:, :2] - np.eye(2)).T])
    return _Fit(affine, 0.35 + 0.15 * (best - _ALIKE) / (1 - _ALIKE), 0.0, 0.0)


def _halved(picture: _Picture) -> _Picture:
    half = cv2.resize(picture, (WIDE // 2, HIGH // 2), interpolation=cv2.INTER_AREA)
    return np.asarray(half, np.uint8)


def _warp(
    before: _Picture, now: _Picture, begin: NDArray[Any]
) -> tuple[float, NDArray[np.float64]] | None:
    """Return how alike pictures are laid on each other, and by what (2, 3) places move."""
    warp = np.eye(2, 3, dtype=np.float32)
    warp[:, 2] = begin
    try:
        alike, found = cv2.findTransformECC(
            before, now, warp, cv2.MOTION_AFFINE, _DIRECT, _EVERYWHERE, 3
        )
    except cv2.error:  # flat, or it runs away
        return None
    return float(alike), np.asarray(found, np.float64)


def _off_when_undone(there: NDArray[np.float64], back: NDArray[np.float64]) -> float:
    """Return by how many pixels corners of the picture are off after going there and back."""
    corners = np.array([[20, 12], [WIDE - 20, 12], [20, HIGH - 12], [WIDE - 20, HIGH - 12]]) / 2
    went = corners @ there[:, :2].T + there[:, 2]
    came = went @ back[:, :2].T + back[:, 2]
    return 2 * float(np.hypot(*(came - corners).T).max())


def _corners(picture: _Picture) -> _Floats:
    """Return the place in each cell that can be followed best, float32 (k, 2)."""
    strength = cv2.cornerMinEigenVal(picture, 3)
    strength[:_MARGIN], strength[-_MARGIN:] = 0, 0
    strength[:, :_MARGIN], strength[:, -_MARGIN:] = 0, 0
    cells = (
        strength.reshape(_DOWN, _CELL, _ACROSS, _CELL).transpose(0, 2, 1, 3).reshape(-1, _CELL**2)
    )
    at = cells.argmax(axis=1)
    best = cells[np.arange(len(cells)), at]
    cell = np.arange(len(cells))
    x = cell % _ACROSS * _CELL + at % _CELL
    y = cell // _ACROSS * _CELL + at // _CELL
    told = best > max(_FLAT, float(best.max()) * _FLAT_BESIDE)
    found: _Floats = np.stack([x, y], axis=1).astype(np.float32)[told]
    return found


def _followed(before: _Picture, now: _Picture, places: _Floats, shift: _Floats | None) -> _Fit:
    """Return the motion of places followed from a picture into the next."""
    there = np.zeros_like(places) if shift is None else places + shift
    to, met, _ = cv2.calcOpticalFlowPyrLK(
        before, now, places, there, winSize=_WINDOW, maxLevel=_LEVELS, criteria=_UNTIL,
        flags=0 if shift is None else cv2.OPTFLOW_USE_INITIAL_FLOW,
    )  # fmt: skip
    good = met[:, 0] > 0
    if good.sum() < _LEAST_FOLLOWED:
        return _NO_FIT
    fit = _laid_through(places[good] - _MIDDLE, (to - places)[good])
    return fit._replace(share=fit.share * float(good.mean()))


def _laid_through(places: _Floats, moved: _Floats) -> _Fit:
    """Return the one motion that most of the places share; both (k, 2), pixels from the middle."""
    count = len(places)
    border = (np.abs(places) > _MIDDLE - (20, 12)).any(axis=1)
    counts = np.where(border, _AT_BORDER, 1.0)
    off, within = _likeliest(places, moved, counts)
    rows = np.concatenate([np.ones((count, 1)), places], axis=1)
    scale = within
    affine = np.zeros((3, 2))
    weight = counts
    for _ in range(_ROUNDS):
        weight = counts * np.maximum(0, 1 - (off / (2 * scale)) ** 2) ** 2
        if np.count_nonzero(weight) < 8:
            return _NO_FIT
        weighed = rows * weight[:, None]
        affine = np.linalg.solve(rows.T @ weighed + _CALM, weighed.T @ moved)
        off = np.hypot(*(rows @ affine - moved).T)
        near = off[off < 2 * scale]
        scale = max(0.08, min(within, 1.5 * float(np.median(near)))) if len(near) else within
    along = off < max(0.25, within)
    share = float((counts * along).sum() / counts.sum()) * _spread(places[along])
    rest = float(np.sqrt((weight * off * off).sum() / max(1e-9, weight.sum())))
    return _Fit(affine, share, rest, _beside(rows @ affine, moved, along, counts))


def _spread(places: _Floats) -> float:
    """Return 1 where places lie all over the picture, less where they crowd in one part of it."""
    part = (places + _MIDDLE) // np.array([WIDE / 3, HIGH / 3])
    return min(1.0, len(np.unique(part[:, 0] * 3 + part[:, 1])) / _SPREAD)


_CALM = np.diag([1e-6, 1e-2, 1e-2])


def _likeliest(
    places: _Floats, moved: _Floats, counts: NDArray[np.float64]
) -> tuple[NDArray[np.float64], float]:
    """Return how far each place is off the likeliest turn, zoom and shift, and what is near, px."""
    pairs = _PAIRS % len(places)
    one, two = pairs[:, 0], pairs[:, 1]
    apart, parted = places[two] - places[one], moved[two] - moved[one]
    squared = (apart**2).sum(axis=1)
    wide = squared > 200
    squared = np.where(wide, squared, 1)
    zoom = np.where(wide, (apart * parted).sum(axis=1) / squared, 0)
    turn = np.where(wide, (apart[:, 0] * parted[:, 1] - apart[:, 1] * parted[:, 0]) / squared, 0)
    wild = np.maximum(np.abs(zoom), np.abs(turn)) > 0.25
    zoom, turn = np.where(wild, 0, zoom), np.where(wild, 0, turn)
    x, y = places[:, 0], places[:, 1]
    here = places[one]
    shift_x = moved[one, 0] - zoom * here[:, 0] + turn * here[:, 1]
    shift_y = moved[one, 1] - turn * here[:, 0] - zoom * here[:, 1]
    off_x = shift_x[:, None] + zoom[:, None] * x - turn[:, None] * y - moved[:, 0]
    off_y = shift_y[:, None] + turn[:, None] * x + zoom[:, None] * y - moved[:, 1]
    off = np.sqrt(off_x * off_x + off_y * off_y)
    within = 0.3 + 0.06 * np.minimum(np.hypot(shift_x, shift_y), 10)[:, None]
    votes = (counts * np.maximum(0, 1 - (off / within) ** 2)).sum(axis=1)
    best = int(votes.argmax())
    return off[best].astype(np.float64), float(within[best, 0])


def _beside(
    expected: NDArray[np.float64],
    moved: _Floats,
    along: NDArray[np.bool_],
    counts: NDArray[np.float64],
) -> float:
    """Return the share of places that go the way the motion has there, slower or faster."""
    length = np.hypot(*expected.T)
    goes = length > 0.5
    unit = expected / np.maximum(length, 1e-6)[:, None]
    forward = (moved * unit).sum(axis=1)
    aside = np.abs(moved[:, 0] * unit[:, 1] - moved[:, 1] * unit[:, 0])
    other = goes & ~along & (forward > 0.15 * length) & (aside < 0.12 * np.abs(forward) + 0.15)
    return float((counts * other).sum() / counts.sum())


def kept_camera(
    media: Media, start: int, end: int, crop: Crop | None = None
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return motion (n, 6) and fit (n, 3) of frames [start, end); fit is 0 where unknown."""
    motion = np.zeros((end - start, 6), np.float32)
    fit = np.zeros((end - start, 3), np.float32)
    for low, high, arrays in KeptSignals(media, crop).pieces(Camera(), start, end):
        if arrays["motion"].shape[1:] == (6,) and arrays["fit"].shape[1:] == (3,):
            motion[low - start : high - start] = arrays["motion"]
            fit[low - start : high - start] = arrays["fit"]
    return motion, fit
