"""Loudness: how loud a film's sound is at each frame, by FFmpeg's measure after ITU-R BS.1770."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from fractions import Fraction

import av
import numpy as np
from av.error import FFmpegError
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.sound import RATE, samples_from, time_of_frame
from offcut.core.model.source import Media

SILENT = -70.0
"""BS.1770's gate in LUFS: what lies under it is silence."""
_STEP = RATE // 10
_BEHIND = 0.2
"""The momentary loudness of 400 ms belongs to their middle, in seconds before their end."""


class Loudness:
    """What the loudness of a film is kept under: float16 (n,), LUFS, a row for each frame."""

    name = "loudness"
    version = 1
    arrays = ("loudness",)


LOUDNESS = Loudness()


def measure_loudness(
    film: OpenedFilm,
    *,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> NDArray[np.float16] | None:
    """Measure the momentary loudness of a film's first sound track as stereo, and keep it.

    Returns float16 (frames,), at least -70; None for a film without sound and after ``stop``.
    Raises MediaError.
    """
    media = film.media
    if not film.tracks:
        return None
    seconds = media.frames / media.rate
    moments: list[float] = []
    for loud in _momentary(film):
        moments.append(loud)
        if stop is not None and stop.is_set():
            return None
        if len(moments) > seconds * 10 + 20:
            break
        if progress is not None and len(moments) % 50 == 0:
            progress(min(media.frames, int(len(moments) * media.rate / 10)), media.frames)
    if not moments:
        return None
    heard = (np.arange(len(moments)) + 1) / 10 - _BEHIND
    at = (np.arange(media.frames) + 0.5) / float(media.rate)
    loudness = np.interp(at, heard, np.array(moments))
    loudness[at > heard[-1] + 0.5] = SILENT
    made: NDArray[np.float16] = loudness.astype(np.float16)
    KeptSignals(media).keep(LOUDNESS, 0, [{"loudness": made}])
    return made


def _momentary(film: OpenedFilm) -> Iterator[float]:
    """Yield the loudness of the last 400 ms, every 100 ms from 100 ms on, in LUFS."""
    graph = av.filter.Graph()
    came = graph.add_abuffer(
        sample_rate=RATE, format="s16", layout="stereo", time_base=Fraction(1, RATE)
    )
    measure = graph.add("ebur128", "metadata=1:peak=none")
    goes = graph.add("abuffersink")
    came.link_to(measure)
    measure.link_to(goes)
    graph.configure()
    start = time_of_frame(film.index, 0, film.media.rate)
    sent = 0
    rest = np.zeros((0, 2), np.int16)
    for piece in samples_from(film.media.path, start):
        rest = np.concatenate([rest, piece])
        while len(rest) >= _STEP:
            frame = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(rest[:_STEP]).reshape(1, -1), format="s16", layout="stereo"
            )
            rest = rest[_STEP:]
            frame.sample_rate = RATE
            frame.pts = sent
            sent += _STEP
            came.push(frame)
            while True:
                try:
                    told = goes.pull().metadata.get("lavfi.r128.M")
                except (BlockingIOError, EOFError):
                    break
                except FFmpegError as error:
                    raise MediaError(f"{film.media.path}: its sound cannot be measured") from error
                loud = float(told) if told is not None else SILENT
                yield loud if loud > SILENT else SILENT  # of silence FFmpeg says it is no number


def kept_loudness(media: Media) -> NDArray[np.float16] | None:
    """Return the loudness that was measured of a film, None where it was not."""
    made = np.full(media.frames, SILENT, np.float16)
    known = 0
    for low, high, arrays in KeptSignals(media).pieces(LOUDNESS, 0, media.frames):
        made[low:high] = arrays["loudness"]
        known += high - low
    return made if known == media.frames else None
