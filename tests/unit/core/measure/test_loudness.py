"""Loudness, held against EBU Tech 3341: a stereo tone of 1 kHz at -23 dBFS is -23 LUFS."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np
import pytest

from films import beeped
from offcut.core.measure.loudness import SILENT, kept_loudness, measure_loudness
from offcut.core.media.probe import open_source


def test_a_tone_at_minus_23_is_minus_23(tmp_path: Path) -> None:
    film = open_source(beeped(tmp_path / "tone.mov", "pcm_s16le", steady=10 ** (-23 / 20)))
    assert kept_loudness(film.media) is None
    told: list[tuple[int, int]] = []
    loudness = measure_loudness(film, progress=lambda *at: told.append(at))
    assert loudness is not None
    assert len(loudness) == film.media.frames
    assert loudness[20:-10].astype(float) == pytest.approx(-23.0, abs=0.1)
    assert told
    kept = kept_loudness(film.media)
    assert kept is not None
    assert (kept == loudness).all()


def test_beeps_are_heard_where_they_are(tmp_path: Path) -> None:
    loudness = measure_loudness(open_source(beeped(tmp_path / "beeps.mov", "pcm_s16le")))
    assert loudness is not None
    second = loudness[25:50].astype(float)
    assert second[:3].max() > -30  # the beep at the second's start, and 200 ms about it
    assert second[12] == SILENT
    assert abs(int(np.argmax(loudness[30:70])) + 30 - 51) <= 5


def test_a_film_without_sound_has_none_and_stopping_keeps_nothing(
    four_shots: Path, tmp_path: Path
) -> None:
    assert measure_loudness(open_source(four_shots)) is None
    film = open_source(beeped(tmp_path / "stop.mov", "pcm_s16le"))
    stop = threading.Event()
    stop.set()
    assert measure_loudness(film, stop=stop) is None
    assert kept_loudness(film.media) is None
