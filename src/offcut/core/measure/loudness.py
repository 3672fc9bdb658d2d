"""Loudness: how loud a film's sound is at each frame, by FFmpeg's measure after ITU-R BS.1770."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from dataclasses import replace
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
    """What the loudness of a film is kept under, a row for each frame, LUFS: ``loudness`` float16
    (n,), the momentary one, and ``integrated`` float32 (n,), that of all that was heard until then.
    """

    name = "loudness"
    version = 2
    arrays = ("loudness", "integrated")


LOUDNESS = Loudness()


def measure_loudness(
    film: OpenedFilm,
    *,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> NDArray[np.float16] | None:
    """Measure the loudness of a film's first sound track with its own channels, and keep it.

    Returns the momentary one as float16 (frames,), at least -70; None for a film without sound and
    after ``stop``. Raises MediaError.
    """
    media = film.media
    if not film.tracks:
        return None
    seconds = media.frames / media.rate
    moments: list[float] = []
    so_far: list[float] = []
    for loud, whole in _momentary(film):
        moments.append(loud)
        so_far.append(whole)
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
    # the integrated one of the last tenth of a second of the film is that of all of it
    places = np.minimum((at * 10).astype(np.int64), len(so_far) - 1)
    places[-1] = len(so_far) - 1
    integrated = np.array(so_far, np.float32)[places]
    KeptSignals(media).keep(LOUDNESS, 0, [{"loudness": made, "integrated": integrated}])
    return made


def _momentary(film: OpenedFilm) -> Iterator[tuple[float, float]]:
    """Yield the loudness of the last 400 ms and of all before, LUFS, every 100 ms."""
    track = replace(film.tracks[0], rate=RATE, deep=False)
    graph = av.filter.Graph()
    came = graph.add_abuffer(
        sample_rate=RATE, format="s16", layout=track.layout, time_base=Fraction(1, RATE)
    )
    measure = graph.add("ebur128", "metadata=1:peak=none")
    goes = graph.add("abuffersink")
    came.link_to(measure)
    measure.link_to(goes)
    graph.configure()
    start = time_of_frame(film.index, 0, film.media.rate)
    sent = 0
    rest = np.zeros((0, track.channels), np.int16)
    for piece in samples_from(film.media.path, start, track):
        rest = np.concatenate([rest, piece])
        while len(rest) >= _STEP:
            frame = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(rest[:_STEP]).reshape(1, -1), format="s16", layout=track.layout
            )
            rest = rest[_STEP:]
            frame.sample_rate = RATE
            frame.pts = sent
            sent += _STEP
            came.push(frame)
            while True:
                try:
                    told = goes.pull().metadata
                except (BlockingIOError, EOFError):
                    break
                except FFmpegError as error:
                    raise MediaError(f"{film.media.path}: its sound cannot be measured") from error
                yield _lufs(told.get("lavfi.r128.M")), _lufs(told.get("lavfi.r128.I"))


def _lufs(told: str | None) -> float:
    loud = float(told) if told is not None else SILENT
    return loud if loud > SILENT else SILENT  # of silence FFmpeg says it is no number


def kept_integrated(media: Media) -> float | None:
    """Return the integrated loudness of a film's sound in LUFS; None where it was not measured."""
    last = media.frames - 1
    for _, _, arrays in KeptSignals(media).pieces(LOUDNESS, last, media.frames):
        return float(arrays["integrated"][-1])
    return None


def kept_loudness(media: Media) -> NDArray[np.float16] | None:
    """Return the loudness that was measured of a film, None where it was not."""
    made = np.full(media.frames, SILENT, np.float16)
    known = 0
    for low, high, arrays in KeptSignals(media).pieces(LOUDNESS, 0, media.frames):
        made[low:high] = arrays["loudness"]
        known += high - low
    return made if known == media.frames else None
