"""The sound of the player: decoded ahead on a thread, handed to the device, told where it is.

A device may take seconds to open or to stop: it is only ever spoken to on a thread of its own.
"""

from __future__ import annotations

import contextlib
import logging
import queue
import threading
import time
from collections import deque
from collections.abc import Callable, Generator, Iterator
from fractions import Fraction
from typing import Any, Protocol

import numpy as np

from offcut.core.errors import OffcutError
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.readers import sound_of
from offcut.core.media.sound import CHANNELS, RATE, Samples

log = logging.getLogger("offcut")

_LATENCY = 0.06
_AHEAD = 2 * RATE
_PATIENCE = 1.5


class Device(Protocol):
    """What takes the sound: started with a generator that is sent how many samples it wants."""

    def start(self, callback: Generator[bytes, int, None]) -> None:
        """Begin to ask for sound."""

    def stop(self) -> None:
        """Ask for no more."""

    def close(self) -> None:
        """Stop, and let the device go."""


def open_device(*, silent: bool = False) -> Device | None:
    """Return the system's sound device, None where there is none; ``silent`` takes the null one."""
    try:
        import miniaudio

        null, real = (
            miniaudio.Backend.NULL,
            (
                miniaudio.Backend.PULSEAUDIO,
                miniaudio.Backend.ALSA,
                miniaudio.Backend.JACK,
            ),
        )
        device: Any = miniaudio.PlaybackDevice(
            output_format=miniaudio.SampleFormat.SIGNED16,
            nchannels=CHANNELS,
            sample_rate=RATE,
            buffersize_msec=round(1000 * _LATENCY),
            backends=[null] if silent else list(real),
            app_name="Offcut",
        )
    except Exception as error:  # the library raises its own errors and, without a device, others
        log.info("no sound device: %s", error)
        return None
    return device


class Sound:
    """Plays the sound of a film from a time on; tells the time that is heard now.

    Attributes: ``film`` the film, None when it has no sound; ``trouble`` a sentence on sound that
    could not be read, empty once it was told.
    """

    def __init__(self, device: Any = open_device) -> None:
        self._open = device
        self.film: OpenedFilm | None = None
        self.trouble = ""
        self._device: Device | None = None
        self._tried = False
        self._orders: queue.SimpleQueue[Callable[[], object] | None] = queue.SimpleQueue()
        self._obeys: threading.Thread | None = None
        self._lock = threading.Condition()
        self._held: deque[Samples] = deque()
        self._ready = 0
        self._turn = 0
        self._from = Fraction(0)
        self._given = 0
        self._anchor = (0, 0.0)

    @property
    def missing(self) -> bool:
        """True once it was tried and there is no device."""
        return self._tried and self._device is None

    def is_quiet(self, began: float) -> bool:
        """True where nothing is heard that was to begin at a `time.monotonic`, and nothing will."""
        late = time.monotonic() - began > _PATIENCE
        return self.moment() is None and (self.missing or late)

    def start(self, moment: Fraction) -> bool:
        """Play from a moment of the film; False when there is known to be nothing to play it on."""
        film = self.film
        if film is None:
            self.stop()
            return False
        return self.play(lambda: sound_of(film, moment), moment)

    def play(self, pieces: Callable[[], Iterator[Samples]], moment: Fraction) -> bool:
        """Play pieces of sound one after another, the first sample at a moment.

        False when there is known to be nothing to play them on.
        """
        self.stop()
        with self._lock:
            self._turn += 1
            turn = self._turn
            self._held.clear()
            self._ready = self._given = 0
            self._from, self._anchor = moment, (0, 0.0)
        threading.Thread(
            target=self._decode, args=(turn, pieces), name="offcut-sound", daemon=True
        ).start()
        again = self.missing
        self._tell_device(lambda: self._sound_out(turn, quiet=again))
        return not again

    def stop(self) -> None:
        """Be quiet at once."""
        with self._lock:
            self._turn += 1
            self._held.clear()
            self._lock.notify_all()
        if self._obeys is not None:
            self._tell_device(self._stop_device)

    def close(self) -> None:
        """Let the device go; one that hangs is left behind."""
        self.stop()
        if self._obeys is not None:
            self._orders.put(self._close_device)
            self._orders.put(None)
            self._obeys.join(1.0)
            self._obeys = None

    def _tell_device(self, order: Callable[[], object]) -> None:
        self._orders.put(order)
        if self._obeys is None:
            self._obeys = threading.Thread(target=self._obey, name="offcut-device", daemon=True)
            self._obeys.start()

    def _obey(self) -> None:
        while (order := self._orders.get()) is not None:
            try:
                order()
            except Exception as error:  # the library raises its own errors
                log.warning("the sound device: %s", error)

    def _sound_out(self, turn: int, *, quiet: bool) -> None:
        """Start the device for a turn; ``quiet`` only looks whether there is one by now."""
        if self._device is None:
            self._device = self._open()
            self._tried = True
        if self._device is not None and not quiet and self._turn == turn:
            callback = self._asked(turn)
            next(callback)
            self._device.start(callback)

    def _stop_device(self) -> None:
        if self._device is not None:
            with contextlib.suppress(Exception):  # one that does not run
                self._device.stop()

    def _close_device(self) -> None:
        if self._device is not None:
            self._device.close()
            self._device = None

    def moment(self) -> Fraction | None:
        """Return the moment of the film that is heard now, None before the first sample is."""
        with self._lock:
            given, when = self._anchor
        if not when:
            return None
        heard = given / RATE - _LATENCY + (time.monotonic() - when)
        return self._from + Fraction(max(0.0, min(heard, given / RATE + 0.5)))

    def _decode(self, turn: int, pieces: Callable[[], Iterator[Samples]]) -> None:
        try:
            for piece in pieces():
                with self._lock:
                    while self._ready > _AHEAD and self._turn == turn:
                        self._lock.wait(0.2)
                    if self._turn != turn:
                        return
                    self._held.append(piece)
                    self._ready += len(piece)
        except OffcutError as error:
            log.warning("%s", error)
            self.trouble = str(error)
        with self._lock:
            if self._turn == turn:
                self._ready = 1 << 40  # what is held is all there is: silence from here

    def _asked(self, turn: int) -> Generator[bytes, int, None]:
        wanted = yield b""
        while True:
            wanted = yield self._taken(turn, wanted)

    def _taken(self, turn: int, wanted: int) -> bytes:
        out = np.zeros((wanted, CHANNELS), np.int16)
        with self._lock:
            if self._turn != turn or (not self._given and self._ready < RATE // 10):
                return out.tobytes()
            if not self._anchor[1]:
                self._anchor = (0, time.monotonic())
            filled = 0
            while self._held and filled < wanted:
                piece = self._held.popleft()
                part = piece[: wanted - filled]
                out[filled : filled + len(part)] = part
                filled += len(part)
                if len(part) < len(piece):
                    self._held.appendleft(piece[len(part) :])
            self._ready -= filled
            self._given += wanted
            self._anchor = (self._given, time.monotonic())
            self._lock.notify_all()
        return out.tobytes()
