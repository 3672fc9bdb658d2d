"""The exact frame index: which picture is frame n, made from packets without decoding."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.error import FFmpegError
from av.video.stream import VideoStream
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.media.opening import open_film
from offcut.core.timecode import FASTEST, Rate, rate_from

MAX_FRAMES = 20_000_000
NEAR_KEY = 8
"""Frames after a keyframe that are decoded about as quickly as one in their place."""


@dataclass(frozen=True)
class FrameIndex:
    """Presentation times of every picture shown, in order: frame n is the n-th.

    Attributes: ``times`` int64, shape (frames,), rising, in ``time_base`` seconds (the same time
    twice where the file says so of two pictures); ``keys`` int64, the frames that are keyframes;
    ``packets`` int64, for each packet in the order they are decoded the frame it shows, -1 for
    none, and ``packet_keys`` bool, whether it is a keyframe; ``by_count`` True where the file
    carries no usable times: frames are then told apart only by counting decoded pictures from the
    start. ``hidden`` packets decode but are not shown.
    """

    times: NDArray[np.int64]
    keys: NDArray[np.int64]
    time_base: Fraction
    by_count: bool = False
    hidden: int = 0
    packets: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    packet_keys: NDArray[np.bool_] = field(default_factory=lambda: np.zeros(0, np.bool_))

    def __len__(self) -> int:
        return len(self.times)

    def frame_after(self, last: int, time: int) -> int | None:
        """Return the frame of a picture with this time decoded after frame ``last``, if any.

        Of pictures that share a time, the one decoded first is shown first.
        """
        at = int(np.searchsorted(self.times, time, side="left"))
        if at == last and at + 1 < len(self) and self.times[at + 1] == time:
            at += 1
        return at if last < at < len(self) and int(self.times[at]) == time else None

    def key_in_place_of(self, frame: int, start: int, end: int) -> int | None:
        """Return the keyframe of [start, end) nearest to a frame far from its own; else None.

        It is there at once, and shows the same shot where [start, end) is one.
        """
        if frame - self.key_before(frame) < NEAR_KEY:
            return None
        low, high = np.searchsorted(self.keys, (start, end))
        keys = self.keys[low:high]
        return int(keys[np.abs(keys - frame).argmin()]) if len(keys) else None

    def key_before(self, frame: int) -> int:
        """Return the last keyframe at or before a frame, 0 when there is none."""
        at = int(self.keys.searchsorted(frame, side="right")) - 1
        return int(self.keys[at]) if at >= 0 else 0

    def _steps_as(self, declared: Fraction) -> bool:
        """Tell whether the usual step between pictures is a rate's, to a tick of the clock."""
        usual = Fraction(int(np.median(np.diff(self.times)))) * self.time_base
        return bool(abs(usual - 1 / declared) < min(self.time_base, 1 / declared / 20))

    @cached_property
    def uneven(self) -> bool:
        """True where pictures are not all shown for as long: a variable rate."""
        if self.by_count or len(self) < 3:
            return False
        steps = np.diff(self.times)
        usual = float(np.median(steps))
        odd = int((np.abs(steps - usual) > max(1, usual // 20)).sum())
        return odd > max(2, len(steps) // 100)

    def holes(self) -> tuple[int, ...]:
        """Return the frames before which pictures are missing, where nearly all steps are even."""
        if self.by_count or len(self) < 8:
            return ()
        steps = np.diff(self.times)
        odd = np.flatnonzero(steps > 1.6 * np.median(steps)) + 1
        return tuple(odd.tolist()) if len(odd) <= max(2, len(steps) // 100) else ()

    def rate(self, declared: Fraction | None) -> Rate:
        """Return the exact rate: the declared one if the times bear it out, else their mean."""
        if declared is not None and not 0 < declared <= FASTEST:
            declared = None  # no film runs so: it is a clock's, or nonsense
        if self.by_count or len(self) < 2:
            return rate_from(declared or Fraction(25))
        if declared and self._steps_as(declared):
            return rate_from(declared)
        span = Fraction(int(self.times[-1] - self.times[0])) * self.time_base
        if span <= 0:
            return rate_from(declared or Fraction(25))
        mean = Fraction(len(self) - 1) / span
        if declared and abs(declared / mean - 1) < Fraction(1, 500):
            return rate_from(declared)
        known = rate_from(float(mean)) if 1 <= mean <= 1000 else Fraction(25)
        return known.limit_denominator(1001)


@dataclass(frozen=True)
class FirstPicture:
    """What was seen of the first picture while packets were read: its time, and the picture."""

    time: int
    picture: Any


def index_of(
    container: InputContainer, stream: VideoStream, path: str | Path
) -> tuple[FrameIndex, FirstPicture | None]:
    """Read all packets of a film's picture and return its index, and its first picture if seen.

    Packets that an edit list hides (they decode but are not shown) are left out. Raises
    MediaError when not one picture can be read.
    """
    times: list[int] = []
    marks: list[bool] = []
    shown: list[bool] = []
    timed = True
    first: FirstPicture | None = None
    base = stream.time_base or Fraction(1, 1000)
    try:
        for packet in container.demux(stream):
            if packet.size == 0:
                continue
            if packet.pts is None or len(times) > MAX_FRAMES:
                timed = timed and bool(packet.is_discard)
                if not timed:
                    break
            times.append(packet.pts if packet.pts is not None else -1)
            marks.append(packet.is_keyframe)
            shown.append(not packet.is_discard)
            if first is None and len(times) <= FIRST:
                first = _first_of(packet)
    except (FFmpegError, OSError):
        pass  # what came before the damage is used; the reader says what is missing
    at, seen = np.asarray(times, np.int64), np.asarray(shown, np.bool_)
    if timed and seen.any():
        order = _shown_times(at[seen])
        if len(order) >= 0.98 * int(seen.sum()):
            key = np.asarray(marks, np.bool_)
            keys = np.searchsorted(order, np.unique(at[seen & key])).astype(np.int64)
            place = np.minimum(np.searchsorted(order, at), len(order) - 1)
            frames = np.where(seen & (order[place] == at), place, -1).astype(np.int64)
            hidden = int((~seen).sum())
            return FrameIndex(order, keys, base, False, hidden, frames, key), first
    return _counted(path), None


FIRST = 60
"""The first picture is looked for among so many packets while they are read."""


def _first_of(packet: Any) -> FirstPicture | None:
    """Return the first picture that decoding a packet gives, if any; a broken one gives none."""
    try:
        for picture in packet.decode():
            if picture.pts is not None:
                return FirstPicture(int(picture.pts), picture)
    except (FFmpegError, OSError):
        pass
    return None


def _shown_times(times: NDArray[np.int64]) -> NDArray[np.int64]:
    """Return the times of the pictures shown, in order, one for each picture.

    Packets that share a time are one picture (two fields) unless a time is missing close by: then
    the file gave one picture its neighbour's time, and both are shown.
    """
    order, many = np.unique(times, return_counts=True)
    if len(order) == len(times) or len(order) < 3:
        return order
    steps = np.diff(order)
    usual = int(np.median(steps))
    gaps = np.flatnonzero(steps > 1.5 * usual)
    free = {int(g): round(int(steps[g]) / usual) - 1 for g in gaps} if usual else {}
    repeats: list[int] = []
    for at in np.flatnonzero(many > 1).tolist():
        near = min(free, key=lambda g: abs(g - at), default=None)
        if near is not None and abs(near - at) <= 16:
            repeats.append(int(order[at]))
            free[near] -= 1
            if not free[near]:
                del free[near]
    return np.sort(np.concatenate([order, np.asarray(repeats, np.int64)]))


def _counted(path: str | Path) -> FrameIndex:
    """Count pictures by decoding them, for files whose packets carry no times."""
    container, stream = open_film(path)
    shown = 0
    with container:
        for _ in decoded(container, stream):
            shown += 1
    if not shown:
        raise MediaError(f"{path}: not one picture in it can be decoded")
    return FrameIndex(
        np.arange(shown, dtype=np.int64), np.zeros(1, np.int64), Fraction(1), by_count=True
    )


def decoded(
    container: InputContainer,
    stream: VideoStream | AudioStream,
    close: int | None = None,
    narrow: Callable[[Any], Any] | None = None,
) -> Iterator[Any]:
    """Yield decoded frames of a stream in order, stepping over packets that cannot be decoded.

    Before the time ``close`` pictures that no other refers to are left out. ``narrow`` gives for
    each packet the one that is decoded in its place.
    """
    broken = 0
    hurried = False
    packets = container.demux(stream)
    while True:
        try:
            packet = next(packets)
        except StopIteration:
            return
        except (FFmpegError, OSError):
            broken += 1
            if broken > 100:
                return
            continue
        if close is not None:
            hurry = packet.pts is not None and packet.pts < close
            if hurry != hurried:
                stream.codec_context.skip_frame = "NONREF" if hurry else "DEFAULT"
                hurried = hurry
        try:
            if narrow is not None:
                yield from stream.codec_context.decode(narrow(packet))
            else:
                yield from packet.decode()
        except (FFmpegError, OSError):
            continue
