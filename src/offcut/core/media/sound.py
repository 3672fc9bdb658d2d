"""Sound: read forward from any place in a film as even samples, for playing and waveforms."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.audio.stream import AudioStream
from av.error import FFmpegError
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.media.index import FrameIndex, decoded

RATE = 48_000
CHANNELS = 2
Samples = NDArray[np.int16]


def has_sound(path: str | Path) -> bool:
    """Tell whether a film carries sound that can be decoded."""
    try:
        with av.open(str(path), metadata_errors="replace") as film:
            return any(s.codec_context is not None for s in film.streams.audio)
    except (FFmpegError, OSError, ValueError):
        return False


def time_of_frame(index: FrameIndex, frame: int, rate: Fraction) -> Fraction:
    """Return when a frame is shown, in seconds of the film's own clock."""
    if index.by_count:
        return Fraction(frame) / rate
    held = max(0, min(len(index) - 1, frame))
    return int(index.times[held]) * index.time_base + Fraction(frame - held) / rate


def samples_from(path: str | Path, time: Fraction) -> Iterator[Samples]:
    """Yield sound from a time on as int16 of shape (n, 2) at 48 kHz, sample-exact, in small pieces.

    Where the film's sound begins later, or has a hole, silence stands in, so that sample k is
    always the one heard k / 48000 seconds after ``time``. Raises MediaError when there is none.
    """
    try:
        container = av.open(str(path), metadata_errors="replace")
    except (FFmpegError, OSError, ValueError) as error:
        raise MediaError(f"{path}: its sound cannot be read") from error
    with container:
        stream = next((s for s in container.streams.audio if s.codec_context is not None), None)
        if stream is None:
            raise MediaError(f"{path}: it has no sound")
        yield from _even(container, stream, time)


def _even(
    container: av.container.InputContainer, stream: AudioStream, time: Fraction
) -> Iterator[Samples]:
    base = stream.time_base or Fraction(1, RATE)
    early = time - Fraction(1, 5)  # a codec's first packet after a seek may be muffled
    try:
        container.seek(int(early / base), stream=stream, backward=True, any_frame=False)
    except (FFmpegError, OSError):
        container.seek(0)
    resampler = av.AudioResampler(format="s16", layout="stereo", rate=RATE)
    due = 0
    for frame in decoded(container, stream):
        if frame.pts is None:
            at = due
        else:
            at = round((frame.pts * (frame.time_base or base) - time) * RATE)
        frame.pts = None  # the resampler would fill holes by itself, without saying where
        for even in resampler.resample(frame):
            piece = even.to_ndarray().reshape(-1, CHANNELS).astype(np.int16, copy=False)
            if at > due + RATE // 50:
                yield np.zeros((min(at - due, 10 * RATE), CHANNELS), np.int16)
                due = at
            elif abs(at - due) <= RATE // 50 and due:
                at = due  # times in files are rounded; what adjoins, adjoins
            piece = piece[max(0, due - at) :]
            at += len(piece)
            if len(piece):
                due += len(piece)
                yield piece
