"""Sound: read forward from any place in a film as even samples, for playing and waveforms."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.audio.stream import AudioStream
from av.error import FFmpegError
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.media.container import open_container
from offcut.core.media.index import FrameIndex, decoded

RATE = 48_000
CHANNELS = 2
Samples = NDArray[Any]


@dataclass(frozen=True, slots=True)
class SoundTrack:
    """One track of sound: ``number`` from 0, ``rate`` in Hz, ``layout`` by FFmpeg's name.

    ``deep`` is True where samples have more than 16 bits.
    """

    number: int
    rate: int
    layout: str
    channels: int
    deep: bool


def tracks_in(container: Any) -> tuple[tuple[SoundTrack, ...], tuple[str, ...]]:
    """Return the tracks of sound that can be decoded, and in words those that cannot."""
    tracks: list[SoundTrack] = []
    mute: list[str] = []
    for place, stream in enumerate(container.streams.audio, start=1):
        if stream.codec_context is None:
            mute.append(f"track {place} of its sound cannot be read: its codec is not supported")
        elif not (stream.rate and stream.channels):
            mute.append(f"track {place} of its sound cannot be read: the file may be damaged")
        else:
            number = sum(s.codec_context is not None for s in container.streams.audio[: place - 1])
            tracks.append(
                SoundTrack(
                    number, stream.rate, stream.layout.name, stream.channels, _is_deep(stream)
                )
            )
    return tuple(tracks), tuple(mute)


def _is_deep(stream: AudioStream) -> bool:
    return stream.format.bits > 16 and stream.codec_context.name.startswith(("pcm", "flac", "alac"))


def time_of_frame(index: FrameIndex, frame: int, rate: Fraction) -> Fraction:
    """Return when a frame is shown, in seconds of the film's own clock."""
    if index.by_count:
        return Fraction(frame) / rate
    held = max(0, min(len(index) - 1, frame))
    return int(index.times[held]) * index.time_base + Fraction(frame - held) / rate


def samples_from(
    path: str | Path, time: Fraction, track: SoundTrack | None = None
) -> Iterator[Samples]:
    """Yield sound from a time on as int16 of shape (n, 2) at 48 kHz, sample-exact, in small pieces.

    With ``track`` that one comes as it is: at its own rate, shape (n, channels), int32 if deep.

    Where the film's sound begins later, or has a hole, silence stands in, so that sample k is
    always the one heard k / 48000 seconds after ``time``. Raises MediaError when there is none.
    """
    try:
        container = open_container(path)
    except (FFmpegError, OSError, ValueError) as error:
        raise MediaError(f"{path}: its sound cannot be read") from error
    with container:
        streams = [s for s in container.streams.audio if s.codec_context is not None]
        if not streams:
            raise MediaError(f"{path}: it has no sound")
        number = track.number if track is not None else 0
        if number >= len(streams):
            raise MediaError(f"{path}: it has no sound track {number + 1}")
        stream = streams[number]
        yield from _even(container, stream, time, track or SoundTrack(0, RATE, "stereo", 2, False))


def _even(
    container: av.container.InputContainer, stream: AudioStream, time: Fraction, track: SoundTrack
) -> Iterator[Samples]:
    rate = track.rate
    kind = np.int32 if track.deep else np.int16
    base = stream.time_base or Fraction(1, rate)
    early = time - Fraction(1, 5)  # a codec's first packet after a seek may be muffled
    try:
        container.seek(int(early / base), stream=stream, backward=True, any_frame=False)
    except (FFmpegError, OSError):
        container.seek(0)
    resampler = av.AudioResampler(
        format="s32" if track.deep else "s16", layout=track.layout, rate=rate
    )
    due = 0
    for frame in decoded(container, stream):
        if frame.pts is None:
            at = due
        else:
            at = round((frame.pts * (frame.time_base or base) - time) * rate)
        frame.pts = None  # the resampler would fill holes by itself, without saying where
        for even in resampler.resample(frame):
            piece = even.to_ndarray().reshape(-1, track.channels).astype(kind, copy=False)
            if at > due + rate // 50:
                yield np.zeros((min(at - due, 10 * rate), track.channels), kind)
                due = at
            elif abs(at - due) <= rate // 50 and due:
                at = due  # times in files are rounded; what adjoins, adjoins
            piece = piece[max(0, due - at) :]
            at += len(piece)
            if len(piece):
                due += len(piece)
                yield piece
