"""Playing back to back: every picture in its turn, the sound without a gap and to the sample."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtGui import QImage
from pytestqt.qtbot import QtBot

from films import beeped, encode, number_in, picture_of
from offcut.app.shared.back_to_back import BackToBack, PlayedStretch
from offcut.app.shared.player_sound import Sound, open_device
from offcut.core.media.probe import open_source
from offcut.core.media.readers import sound_back_to_back
from offcut.core.model.source import Source


def silent() -> Sound:
    return Sound(lambda: open_device(silent=True))


def test_pictures_of_two_films_follow_one_another(tmp_path: Path, qtbot: QtBot) -> None:
    paths = [
        encode(tmp_path / f"{first}.mp4", (picture_of(first + n) for n in range(60)))
        for first in (0, 1000)
    ]
    films = [open_source(p) for p in paths]
    sources = [Source(n + 1, f.media, 0, f.media.frames) for n, f in enumerate(films)]
    player = BackToBack(sound=silent())
    seen: list[tuple[int, int, int]] = []

    def shown(image: QImage, stretch: int, frame: int) -> None:
        rgb = image.convertToFormat(QImage.Format.Format_RGB888)
        held = np.frombuffer(rgb.constBits(), np.uint8).reshape(rgb.height(), -1)
        pixels = held[:, : 3 * rgb.width()].reshape(rgb.height(), rgb.width(), 3)
        seen.append((stretch, frame, number_in(pixels)))

    player.shown.connect(shown)
    stretches = [
        PlayedStretch(sources[0], 50, 58, "a", films[0]),
        PlayedStretch(sources[1], 3, 13, "b"),
        PlayedStretch(sources[0], 0, 8, "c", films[0]),
    ]
    with qtbot.waitSignal(player.ended, timeout=15_000):
        player.play(stretches, (160, 96))
    expected = [(0, f, f) for f in range(50, 58)]
    expected += [(1, f, 1000 + f) for f in range(3, 13)]
    expected += [(2, f, f) for f in range(8)]
    assert set(seen) <= set(expected)
    assert seen == sorted(seen, key=expected.index)
    assert player.count + player.dropped >= len(expected) - 1
    player.close()


def test_a_film_that_is_gone_plays_on_and_says_so(
    tmp_path: Path, four_shots: Path, qtbot: QtBot
) -> None:
    film = open_source(four_shots)
    from dataclasses import replace

    here = Source(1, film.media, 0, film.media.frames)
    gone = Source(2, replace(film.media, path=str(tmp_path / "gone.mp4")), 0, 50)
    player = BackToBack(sound=silent())
    told: list[str] = []
    frames: list[int] = []
    player.said.connect(told.append)
    player.shown.connect(lambda _image, _stretch, frame: frames.append(frame))
    with qtbot.waitSignal(player.ended, timeout=15_000):
        player.play([PlayedStretch(gone, 0, 5), PlayedStretch(here, 0, 5, "", film)], (160, 96))
    assert frames
    assert any("gone.mp4" in words for words in told)
    player.close()


def test_stopping_ends_at_once(four_shots: Path, qtbot: QtBot) -> None:
    film = open_source(four_shots)
    player = BackToBack(sound=silent())
    source = Source(1, film.media, 0, film.media.frames)
    player.play([PlayedStretch(source, 0, 160, "", film)], (160, 96))
    with qtbot.waitSignal(player.ended, timeout=5_000):
        player.stop()
    assert not player.playing


@pytest.mark.parametrize("codec", ["pcm_s16le", "aac"])
def test_sound_goes_over_the_joins_to_the_sample(tmp_path: Path, codec: str) -> None:
    """A beep of 50 ms at the start of every second: cut together, they come when they must."""
    film = open_source(beeped(tmp_path / "beeps.mov", codec))
    rate = film.media.rate
    runs = [(film, 25, 45, rate), (None, 0, 10, rate), (film, 100, 125, rate), (film, 50, 53, rate)]
    sound = np.concatenate(list(sound_back_to_back(runs)))
    assert len(sound) == round((20 + 10 + 25 + 3) / rate * 48_000)
    loud = np.abs(sound[:, 0].astype(int)) > 6000
    begins = [0, round(Fraction(30) / rate * 48_000), round(Fraction(55) / rate * 48_000)]
    edges = np.flatnonzero(np.diff(np.concatenate([[0], loud.astype(int)])) == 1)
    starts = [int(e) for n, e in enumerate(edges) if n == 0 or e - edges[n - 1] > 4800]
    near = 40 if codec.startswith("pcm") else 1200  # AAC smears a beep's begin
    assert len(starts) == len(begins)
    assert all(abs(a - b) < near for a, b in zip(starts, begins, strict=True))
