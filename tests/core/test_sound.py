"""Sound: sample-exact from any place, whatever the codec, and in step with the picture."""

from __future__ import annotations

import math
import threading
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from films import picture_of
from offcut.core.errors import MediaError
from offcut.core.media.probe import open_source
from offcut.core.media.sound import RATE, has_sound, samples_from, time_of_frame

SECONDS = 6


def beeped(path: Path, codec: str, *, late: int = 0, rate: int = 48_000) -> Path:
    """A film whose sound is silent but for 50 ms of tone at the start of every second."""
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"preset": "ultrafast"})
        video.width, video.height, video.pix_fmt = 160, 96, "yuv420p"
        audio = out.add_stream(codec, rate=rate)
        for n in range(25 * SECONDS):
            frame = av.VideoFrame.from_ndarray(picture_of(n), "rgb24")
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
        t = np.arange(rate * SECONDS) / rate
        tone = np.where(t % 1 < 0.05, np.sin(2 * math.pi * 1000 * t), 0)
        pcm = (tone * 20_000).astype(np.int16)
        for first in range(0, len(pcm), 1024):
            piece = pcm[first : first + 1024]
            sound = av.AudioFrame.from_ndarray(
                np.repeat(piece[None], 2, axis=0).T.reshape(1, -1), "s16", "stereo"
            )
            sound.sample_rate, sound.pts = rate, first + late
            sound.time_base = Fraction(1, rate)
            out.mux(audio.encode(sound))
        out.mux(audio.encode(None))
    return path


def heard(path: Path, time: Fraction, seconds: float) -> np.ndarray:
    pieces, got = [], 0
    for piece in samples_from(path, time):
        pieces.append(piece)
        got += len(piece)
        if got >= seconds * RATE:
            break
    return np.concatenate(pieces)[: int(seconds * RATE), 0].astype(int)


def onset(samples: np.ndarray) -> float:
    """Seconds until it is first loud."""
    return float(np.flatnonzero(np.abs(samples) > 4000)[0]) / RATE


@pytest.mark.parametrize(
    ("name", "codec", "rate"),
    [("a.mov", "pcm_s16le", 48_000), ("b.mp4", "aac", 48_000), ("c.mkv", "flac", 44_100)],
)
def test_sound_from_any_place_begins_there_to_the_millisecond(
    name: str, codec: str, rate: int, tmp_path: Path
) -> None:
    path = beeped(tmp_path / name, codec, rate=rate)
    assert has_sound(path)
    for time in (Fraction(0), Fraction(1, 2), Fraction(77, 25), Fraction(4)):
        samples = heard(path, time, 1.5)
        wait = float(-time % 1)
        assert onset(samples) == pytest.approx(wait, abs=0.004)


def test_sound_that_begins_late_is_preceded_by_silence(tmp_path: Path) -> None:
    path = beeped(tmp_path / "late.mov", "pcm_s16le", late=24_000)
    samples = heard(path, Fraction(0), 2.0)
    assert onset(samples) == pytest.approx(0.5, abs=0.004)


def test_a_film_without_sound_says_so(four_shots: Path) -> None:
    assert not has_sound(four_shots)
    with pytest.raises(MediaError, match="no sound"):
        next(samples_from(four_shots, Fraction(0)))


def test_the_time_of_a_frame_is_the_one_its_packet_carries(tmp_path: Path) -> None:
    path = beeped(tmp_path / "t.mp4", "aac")
    film = open_source(path)
    for frame in (0, 1, 77, 149):
        told = time_of_frame(film.index, frame, film.media.rate)
        assert abs(told - Fraction(frame, 25) - time_of_frame(film.index, 0, film.media.rate)) < (
            Fraction(1, 1000)
        )


def test_reading_sound_leaves_no_thread_behind(tmp_path: Path) -> None:
    path = beeped(tmp_path / "n.mp4", "aac")
    before = threading.active_count()
    list(samples_from(path, Fraction(5)))
    assert threading.active_count() <= before
