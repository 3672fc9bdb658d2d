"""The live picture: where in the frame the film itself lies, found over many pictures.

Three things are looked at. Lines that are never lighter than black are bars; so are lines that
never differ from the one tone that all corners keep. And where pictures of
different shots lie, levels change from picture to picture, while the gate of a scanner, the film's
edge and its perforations stay as they are: a pixel is live when its deviation over the pictures is
a fair share of that in the middle of the frame (ours, measured on drawn scans).
"""

from __future__ import annotations

import contextlib
import json
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import astuple, dataclass
from itertools import pairwise
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.files import write_whole
from offcut.core.media.kept_index import index_folder
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.seam import Certainty
from offcut.core.model.source import SMALLEST, WHOLE, Framing

VERSION = 4
"""Of what is kept of a film: another way of looking gets another number."""
LOOKS = 24
LEAST = 12
ENOUGH = 8
"""So many pictures at most, and at least; keyframes alone do where there are enough of them."""
FEW = 5
"""Fewer different pictures than this say nothing for sure."""
BLACK = 30
"""A line is black below so much luma of 255. Black is 16 in video range (ITU-R BT.709); the rest is
room for the noise of an encoder."""
LIT = 0.02
"""Of a line of the picture at least this share is lighter than black in some frame."""
ACROSS = 0.6
"""So much of the line just inside a bar is lit in some frame; under it, it may be a title."""
_TONE = 12
"""So many levels off the corners' tone a pixel is no ground of one tone."""
_WIDE = 480
_LIVE = 0.3
_DEAD = 0.2

_Map = NDArray[np.float32]


@dataclass(frozen=True)
class FoundFraming:
    """What was found: the framing, how surely, in words what is left out, and of how many
    pictures."""

    framing: Framing
    certainty: Certainty
    words: str
    pictures: int


def find_framing(
    film: OpenedFilm,
    start: int,
    end: int,
    stop: threading.Event | None = None,
    *,
    thorough: bool = False,
) -> FoundFraming:
    """Return the framing of the live picture in frames [start, end).

    Pictures spread over the range are looked at: those that are quickly there, or, to be
    ``thorough``, more of them wherever they lie. Sides come out even, for chroma that is shared
    by two lines. What cannot be read is passed over.
    """
    file = _file_of(film, start, end, thorough)
    kept = _kept(file)
    if kept is not None:
        return kept
    seen = _seen(film, _frames(film, start, end, thorough), stop)
    if stop is not None and stop.is_set():
        return FoundFraming(WHOLE, Certainty.DOUBTFUL, "stopped", seen.many)
    found = seen.found()
    told = [*astuple(found.framing), found.certainty.value, found.words, found.pictures]
    with contextlib.suppress(OSError):
        file.parent.mkdir(parents=True, exist_ok=True)
        write_whole(file, json.dumps(told).encode())
    return found


def _file_of(film: OpenedFilm, start: int, end: int, thorough: bool) -> Path:
    how = "-thorough" if thorough else ""
    return index_folder() / f"{film.media.fingerprint}-{start}-{end}{how}-framing-{VERSION}.json"


def _kept(file: Path) -> FoundFraming | None:
    """Return what was found before, None where nothing was or it cannot be trusted."""
    try:
        left, top, right, bottom, certainty, words, pictures = json.loads(file.read_bytes())
        sides = Framing(int(left), int(top), int(right), int(bottom))
        return FoundFraming(sides, Certainty(certainty), str(words), int(pictures))
    except (OSError, ValueError, TypeError):
        return None


def _seen(film: OpenedFilm, frames: list[int], stop: threading.Event | None) -> _Seen:
    """Look at frames of a film, each half on a thread of its own, so that none is decoded twice."""

    def look(some: list[int]) -> _Seen:
        seen = _Seen()
        # more threads would decode ahead what nobody looks at
        with open_reader(film, Purpose.SMALL, threads=1) as reader:
            for frame in some:
                if stop is not None and stop.is_set():
                    break
                with contextlib.suppress(MediaError):
                    grey = reader.frame(frame).to_ndarray(format="gray")
                    seen.look(frame, np.asarray(grey, np.uint8))
        return seen

    with ThreadPoolExecutor(2, thread_name_prefix="offcut-framing") as pool:
        middle = len(frames) // 2
        first, second = pool.map(look, (frames[:middle], frames[middle:]))
    return first.with_other(second)


def _frames(film: OpenedFilm, start: int, end: int, thorough: bool) -> list[int]:
    """Return frames spread over [start, end): keyframes, and where those are few some after."""
    if thorough:
        many = min(2 * LOOKS, end - start)
        return sorted(set(np.linspace(start, end - 1, many).round().astype(int).tolist()))
    keys = film.index.keys
    keys = keys[(keys >= start) & (keys < end)]
    many = min(LOOKS, max(LEAST, (end - start) // 60))
    if film.index.by_count or not len(keys):
        return list(range(start, min(end, start + many)))
    spread = np.unique(np.linspace(0, len(keys) - 1, min(many, len(keys))).round().astype(int))
    chosen = keys[spread].tolist()
    if len(chosen) < ENOUGH:
        if len(chosen) < FEW and end - start < 40 * LEAST:
            chosen += np.linspace(start, end - 1, LEAST).round().astype(int).tolist()
        else:
            chosen += [min(end - 1, k + 4) for k in chosen]
    return sorted(set(chosen))


class _Seen:
    """What was seen over the pictures, as far as it tells live from dead."""

    def __init__(self) -> None:
        self.many = 0
        self._size = (0, 0)
        self._lit: NDArray[np.bool_] | None = None
        self._off: NDArray[np.bool_] | None = None
        self._tones: list[float] = []
        self._small: dict[int, _Map] = {}

    def with_other(self, other: _Seen) -> _Seen:
        """Return this with what another saw of the same film; of another size it is passed over."""
        if self._lit is None:
            return other
        if other._lit is not None and other._lit.shape == self._lit.shape:
            self._lit |= other._lit
            if self._off is not None and other._off is not None:
                self._off |= other._off
            self._tones += other._tones
            self._small |= other._small
            self.many += other.many
        return self

    def look(self, frame: int, grey: NDArray[np.uint8]) -> None:
        """Take a picture in; one of another size is passed over."""
        if self._lit is None:
            self._size = (grey.shape[1], grey.shape[0])
            self._lit = np.zeros(grey.shape, np.bool_)
            self._off = np.zeros(grey.shape, np.bool_)
        if grey.shape != self._lit.shape:
            return
        self._lit |= grey > _black(grey)
        tone = _tone_of_corners(grey)
        self._tones.append(tone)
        if self._off is not None and tone >= 0:
            self._off |= cv2.absdiff(grey, np.full_like(grey, round(tone))) > _TONE
        wide, high = self._size
        scale = min(1.0, _WIDE / wide)
        size = (max(8, round(wide * scale)), max(8, round(high * scale)))
        small = cv2.resize(grey, size, interpolation=cv2.INTER_AREA)
        self._small[frame] = np.asarray(small, np.float32)
        self.many += 1

    def found(self) -> FoundFraming:
        """Return what follows."""
        nothing = FoundFraming(WHOLE, Certainty.DOUBTFUL, "nothing found", self.many)
        if self._lit is None or not self._lit.any():
            return nothing
        stack = np.stack([self._small[frame] for frame in sorted(self._small)])
        bars = self._bars(self._lit)
        if not bars and self._one_tone():
            plain = self._in_one_tone(stack)
            if plain is not None:
                return plain
        gate = self._gate(stack, bars)
        if gate is not None:
            return gate
        if not bars:
            sure = Certainty.SURE if self.many >= FEW else Certainty.LIKELY
            return FoundFraming(WHOLE, sure, "no bars", self.many)
        certainty = self._sure_of_bars(stack, bars, self._lit)
        return FoundFraming(bars, certainty, "black bars", self.many)

    def _one_tone(self) -> bool:
        """Tell whether all corners keep one tone in all pictures."""
        return min(self._tones) >= 0 and max(self._tones) - min(self._tones) < 4

    def _in_one_tone(self, stack: _Map) -> FoundFraming | None:
        """Return the picture that lies on a ground of one tone; None where that is not sure."""
        assert self._off is not None
        framing = self._bars(self._off)
        tone = float(np.median(self._tones))
        certainty = self._sure_of_bars(stack, framing, self._off, tone)
        if not framing or certainty is not Certainty.SURE:
            return None
        return FoundFraming(framing, certainty, "a ground of one tone", self.many)

    def _bars(self, lit: NDArray[np.bool_]) -> Framing:
        """Return what a map of pixels that are no ground, in any picture, leaves out."""
        top, bottom = _sides(lit.mean(axis=1))
        left, right = _sides(lit.mean(axis=0))
        return self._whole_unless_fits(left, top, right, bottom)

    def _whole_unless_fits(self, left: int, top: int, right: int, bottom: int) -> Framing:
        wide, high = self._size
        fits = min(wide - left - right, high - top - bottom) >= SMALLEST
        return Framing(left, top, right, bottom) if fits else WHOLE

    def _sure_of_bars(
        self, stack: _Map, bars: Framing, lit: NDArray[np.bool_], tone: float | None = None
    ) -> Certainty:
        """Say how surely bars are bars: dead flat, and the line inside lit all across in time.

        They are black, or of a tone.
        """
        wide, high = self._size
        inside = lit[bars.top : high - bars.bottom, bars.left : wide - bars.right]
        lines = (
            (bars.top, inside[2]), (bars.bottom, inside[-3]),
            (bars.left, inside[:, 2]), (bars.right, inside[:, -3]),
        )  # fmt: skip
        full = all(line.mean() >= ACROSS for side, line in lines if side)
        scale = stack.shape[2] / wide
        flat = all(
            float(np.ptp(part, axis=0).mean()) < 6
            and (float(part.mean()) < BLACK if tone is None else abs(part.mean() - tone) < 3)
            for part in _strips(stack, bars, scale)
        )
        if self.many >= FEW and full and flat and _changing(stack):
            return Certainty.SURE
        return Certainty.LIKELY if full or flat else Certainty.DOUBTFUL

    def _gate(self, stack: _Map, bars: Framing) -> FoundFraming | None:
        """Return the live picture inside a gate, None where there is no gate to see."""
        if len(stack) < FEW or not _changing(stack):
            return None
        box = _live_box(stack)
        if box is None:
            return None
        scale = self._size[0] / stack.shape[2]
        framing = self._framing_of(box, scale)
        smallest = 0.025
        more = [
            (getattr(framing, side) - getattr(bars, side)) / whole
            for side, whole in zip(("left", "top", "right", "bottom"), self._size * 2, strict=True)
        ]
        if not framing or max(more) < smallest or not _dead_outside(stack, box):
            return None
        halves = [_live_box(stack[k::2]) for k in (0, 1)]
        apart = max(
            (abs(a - b) for half in halves if half for a, b in zip(half, box, strict=True)),
            default=99,
        )
        agree = all(halves) and apart <= 0.015 * stack.shape[2] + 1
        certainty = Certainty.SURE if agree and len(stack) >= 2 * FEW else Certainty.LIKELY
        words = "gate and perforations" if _perforated(stack, box) else "gate"
        return FoundFraming(framing, certainty, words, self.many)

    def _framing_of(self, box: tuple[int, int, int, int], scale: float) -> Framing:
        left, top, right, bottom = box
        wide, high = self._size

        def side(at: float) -> int:
            inside = int(np.ceil(at * scale + 0.5 * (scale > 1)))
            return inside + inside % 2 if at > 0 else 0

        rows, columns = round(high / scale), round(wide / scale)
        return self._whole_unless_fits(side(left), side(top), side(columns - right),
                                       side(rows - bottom))  # fmt: skip


def _deviation(stack: _Map) -> _Map:
    return np.asarray(cv2.blur(stack.std(axis=0), (3, 3)), np.float32)


def _middle(picture: _Map) -> _Map:
    high, wide = picture.shape[-2:]
    return picture[..., high * 3 // 10 : high * 7 // 10, wide * 3 // 10 : wide * 7 // 10]


def _changing(stack: _Map) -> bool:
    """Tell whether the pictures differ enough from one another to tell live from dead."""
    return float(np.median(_middle(stack.std(axis=0)))) >= 5


def _live_box(stack: _Map) -> tuple[int, int, int, int] | None:
    """Return left, top, right, bottom (exclusive) of the largest live box about the middle."""
    deviation = _deviation(stack)
    live = deviation > max(2.0, _LIVE * float(np.median(_middle(deviation))))
    high, wide = live.shape
    left, top, right, bottom = 0, 0, wide, high
    for _ in range(3):
        across = _stretch(live[top:bottom].mean(axis=0))
        down = _stretch(live[:, left:right].mean(axis=1))
        if across is None or down is None:
            return None
        (left, right), (top, bottom) = across, down
    inset = _inset(live[top:bottom, left:right])
    left, top, right, bottom = (
        left + inset * (left > 0), top + inset * (top > 0),
        right - inset * (right < wide), bottom - inset * (bottom < high),
    )  # fmt: skip
    return (left, top, right, bottom) if right - left > 8 and bottom - top > 8 else None


def _stretch(share: NDArray[np.floating]) -> tuple[int, int] | None:
    """Return the stretch about the middle that is mostly live; small gaps are crossed."""
    many = len(share)
    alive = share >= 0.5
    gap = max(2, many // 25)
    middle = many // 2
    near = np.flatnonzero(alive)
    if not len(near):
        return None
    at = int(near[np.argmin(np.abs(near - middle))])
    first = last = at
    for place in near[near < at][::-1].tolist():
        if first - place > gap:
            break
        first = place
    for place in near[near > at].tolist():
        if place - last > gap:
            break
        last = place
    return first, last + 1


def _inset(live: NDArray[np.bool_]) -> int:
    """Return by how much a box lies inside the rounded corners of its own live part.

    A corner of radius r leaves (1 - pi / 4) r squared dead; a box inside it begins 0.29 r further.
    """
    high, wide = live.shape
    side = max(3, min(high, wide) // 8)
    corners = (live[:side, :side], live[:side, -side:], live[-side:, :side], live[-side:, -side:])
    dead = float(np.median([(~corner).sum() for corner in corners]))
    radius = (dead / (1 - np.pi / 4)) ** 0.5
    return int(np.ceil(0.29 * radius)) if radius > 3 else 0


def _strips(stack: _Map, framing: Framing, scale: float) -> Iterator[_Map]:
    """Yield what of small pictures lies well outside a framing, side by side."""
    high, wide = stack.shape[1:]
    left, top, right, bottom = (
        int(side * scale) - 1 for side in (framing.left, framing.top, framing.right, framing.bottom)
    )
    if top > 0:
        yield stack[:, :top]
    if bottom > 0:
        yield stack[:, high - bottom :]
    if left > 0:
        yield stack[:, :, :left]
    if right > 0:
        yield stack[:, :, wide - right :]


def _dead_outside(stack: _Map, box: tuple[int, int, int, int]) -> bool:
    """Tell whether next to nothing changes outside a box."""
    deviation = _deviation(stack)
    live = deviation > max(2.0, _LIVE * float(np.median(_middle(deviation))))
    left, top, right, bottom = box
    outside = np.ones_like(live)
    margin = 3
    outside[max(0, top - margin) : bottom + margin, max(0, left - margin) : right + margin] = False
    return not outside.any() or float(live[outside].mean()) < _DEAD


def _perforated(stack: _Map, box: tuple[int, int, int, int]) -> bool:
    """Tell whether a row of bright, steady spots lies beside the picture."""
    mean = stack.mean(axis=0)
    beside = max(3, mean.shape[1] // 40)  # the edge of the picture weaves
    left, right = max(0, box[0] - beside), box[2] + beside
    for part in (mean[:, :left], mean[:, right:]):
        if part.shape[1] < 4:
            continue
        column = part.max(axis=1)
        light = column > 0.5 * (float(column.max()) + float(np.median(mean[:, [0, -1]])))
        turns = sum(bool(a) != bool(b) for a, b in pairwise(light.tolist()))
        if float(column.max()) > 90 and float(np.ptp(column)) > 50 and turns >= 5:
            return True
    return False


def _tone_of_corners(grey: NDArray[np.uint8]) -> float:
    """Return the tone that all four corners have, -1 where they differ or are not flat."""
    side = max(4, min(grey.shape) // 24)
    corners = [grey[:side, :side], grey[:side, -side:], grey[-side:, :side], grey[-side:, -side:]]
    means = [float(c.mean()) for c in corners]
    if max(means) - min(means) > 3 or max(float(c.std()) for c in corners) > 3:
        return -1.0
    return sum(means) / 4


def _black(grey: NDArray[np.uint8]) -> int:
    """Return the luma below which a picture is black; bars are never lighter than its darkest."""
    return max(BLACK, int(grey.min()) + 8) if grey.min() < BLACK else BLACK


def _sides(lit: NDArray[np.floating]) -> tuple[int, int]:
    """Return how many lines are dark all the time at both ends, even and inside the picture."""
    bright = np.flatnonzero(lit >= LIT)
    if not len(bright):
        return 0, 0
    first, last = int(bright[0]), len(lit) - 1 - int(bright[-1])
    return first + first % 2, last + last % 2
