"""Playing: picture and sound in step, loops, and a machine without a sound device."""

from __future__ import annotations

import threading
import time
from collections.abc import Generator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from films import beeped
from offcut.app.shared.player import Player
from offcut.app.shared.player_sound import Sound, open_device
from offcut.app.shell.window import Window
from offcut.core.media.probe import open_source
from windows import found, press


@pytest.fixture
def sounding(window: Window, qtbot: QtBot, films: Path) -> Window:
    """A film with sound, played into the sound library's null device, which keeps real time."""
    path = films / "beeped.mp4"
    if not path.exists():
        beeped(path, "aac")
    window.player.sound = Sound(lambda: open_device(silent=True))
    window.dialogs.open_paths([path])
    found(window, qtbot)
    qtbot.waitUntil(lambda: window.player.sound.film is not None, timeout=5000)
    return window


def test_the_picture_follows_the_sound(sounding: Window, qtbot: QtBot) -> None:
    w = sounding
    press(w, Qt.Key.Key_L)
    qtbot.waitUntil(lambda: w.session.playhead > 20, timeout=5000)
    moment = w.player.sound.moment()
    assert moment is not None
    assert abs(float(moment) - w.session.playhead / 25) < 0.5  # a busy machine shows it late
    press(w, Qt.Key.Key_K)
    assert w.player.sound.moment() is not None


def test_sound_is_muted_at_any_other_speed(sounding: Window, qtbot: QtBot) -> None:
    w = sounding
    press(w, Qt.Key.Key_L)
    press(w, Qt.Key.Key_L)
    assert w.player.speed == 2
    assert not w.player._sounding
    press(w, Qt.Key.Key_K)


def test_a_loop_begins_its_sound_again(sounding: Window, qtbot: QtBot) -> None:
    w = sounding
    starts: list[Fraction] = []
    begin = w.player.sound.start

    def start(moment: Fraction) -> bool:
        starts.append(moment)
        return begin(moment)

    w.player.sound.start = start  # type: ignore[method-assign]
    w.player.round_and_round(50, 60)
    qtbot.waitUntil(lambda: len(starts) >= 3, timeout=8000)
    w.player.stop()
    assert len({round(float(s), 3) for s in starts}) == 1


def test_without_a_device_it_plays_silent_and_says_so_once(sounding: Window, qtbot: QtBot) -> None:
    w = sounding
    w.player.sound = Sound(lambda: None)
    w.player.sound.film = w.session.film
    said: list[str] = []
    w.session.said.connect(said.append)
    for _ in range(2):
        w.session.go_to(0)
        press(w, Qt.Key.Key_L)
        qtbot.waitUntil(lambda: w.session.playhead > 5, timeout=5000)
        press(w, Qt.Key.Key_K)
    assert [s for s in said if "sound device" in s] == [
        "There is no sound device: playing without sound"
    ]


class _Taker:
    """A device that takes sound as it is told to."""

    def __init__(self) -> None:
        self.asked: Generator[bytes, int, None] | None = None

    def start(self, callback: Generator[bytes, int, None]) -> None:
        self.asked = callback

    def stop(self) -> None:
        self.asked = None

    def close(self) -> None:
        self.stop()


def test_what_the_device_gets_is_the_sound_from_the_moment_asked_for(
    films: Path, qtbot: QtBot
) -> None:
    path = films / "beeped.mov"
    if not path.exists():
        beeped(path, "pcm_s16le")
    taker = _Taker()
    sound = Sound(lambda: taker)
    sound.film = open_source(path)
    assert sound.start(Fraction(5, 2))
    qtbot.waitUntil(lambda: sound._ready > 48_000, timeout=5000)
    qtbot.waitUntil(lambda: taker.asked is not None, timeout=5000)
    assert taker.asked is not None
    got = np.frombuffer(taker.asked.send(48_000), np.int16).reshape(-1, 2)
    first = int(np.flatnonzero(np.abs(got[:, 0]) > 4000)[0])
    assert first / 48_000 == pytest.approx(0.5, abs=0.004)
    sound.close()
    assert taker.asked is None


def test_a_device_that_takes_its_time_holds_nothing_up(sounding: Window, qtbot: QtBot) -> None:
    w = sounding
    opens, on = threading.Event(), []

    def slow_device() -> None:
        on.append(threading.current_thread())
        opens.wait(20)

    w.player.sound = Sound(slow_device)
    w.player.sound.film = w.session.film
    began = time.monotonic()
    press(w, Qt.Key.Key_L)
    press(w, Qt.Key.Key_K)
    press(w, Qt.Key.Key_L)
    w.player.sound.close()
    assert time.monotonic() - began < 5  # closing waits a second for it at most
    qtbot.waitUntil(lambda: w.session.playhead > 5, timeout=8000)
    assert on
    assert threading.main_thread() not in on
    opens.set()
    press(w, Qt.Key.Key_K)


def test_pictures_left_out_are_told_once(opened: Window) -> None:
    playing: Player = opened.player
    said: list[str] = []
    opened.session.said.connect(said.append)
    playing.speed = 1
    for n in range(300):
        playing.count_picture(n % 2 == 0)
    playing.speed = 0
    assert len([s for s in said if "pictures are left out" in s]) == 1


def test_playing_keeps_the_films_time(opened: Window, qtbot: QtBot) -> None:
    began = time.monotonic()
    press(opened, Qt.Key.Key_L)
    qtbot.waitUntil(lambda: opened.session.playhead >= 50, timeout=8000)
    gone = time.monotonic() - began
    press(opened, Qt.Key.Key_K)
    assert opened.session.playhead / 25 == pytest.approx(gone, abs=0.9)
