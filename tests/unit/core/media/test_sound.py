"""Sound: sample-exact from any place, whatever the codec, and in step with the picture."""

from __future__ import annotations

import threading
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from films import beeped
from offcut.core.errors import MediaError
from offcut.core.media.probe import open_source
from offcut.core.media.sound import RATE, samples_from, time_of_frame


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
    assert open_source(path).tracks
    for time in (Fraction(0), Fraction(1, 2), Fraction(77, 25), Fraction(4)):
        samples = heard(path, time, 1.5)
        wait = float(-time % 1)
        assert onset(samples) == pytest.approx(wait, abs=0.004)


def test_sound_that_begins_late_is_preceded_by_silence(tmp_path: Path) -> None:
    path = beeped(tmp_path / "late.mov", "pcm_s16le", late=24_000)
    samples = heard(path, Fraction(0), 2.0)
    assert onset(samples) == pytest.approx(0.5, abs=0.004)


def test_a_film_without_sound_says_so(four_shots: Path) -> None:
    assert not open_source(four_shots).tracks
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
