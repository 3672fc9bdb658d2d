"""Pictures on demand: decoded off the interface thread, kept within bounds, nearest first."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable

from av.video.reformatter import VideoReformatter
from PySide6.QtCore import QObject, QThread, Signal
from PySide6.QtGui import QImage

from offcut.core.errors import OffcutError
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import OpenedFilm
from offcut.core.media.reader import FrameReader

Key = tuple[int, int, int]


class Pictures(QObject):
    """Gives the pictures of one film at the sizes asked for.

    Several askers (the ribbon, the list, the strip ...) each say what they want now, which
    replaces what they wanted before. `picture` answers at once from memory or with None;
    ``arrived`` tells when more are there. Memory is bounded by ``limit`` bytes. ``small`` ones are
    decoded without the loop filter, which cannot be seen at their size.
    """

    arrived = Signal()

    def __init__(self, limit: int = 96 << 20, threads: int = 1, *, small: bool = False) -> None:
        super().__init__()
        self._small = small
        self._limit = limit
        self._held: OrderedDict[Key, QImage] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Condition()
        self._wanted: OrderedDict[str, list[Key]] = OrderedDict()
        self._worker: _Worker | None = None
        self._threads = threads

    def set_film(self, film: OpenedFilm | None) -> None:
        """Show another film; everything held is forgotten."""
        self.close()
        with self._lock:
            self._held.clear()
            self._wanted.clear()
            self._bytes = 0
        if film is not None:
            self._worker = _Worker(self, film, self._threads, self._small)
            self._worker.start()

    def close(self) -> None:
        """Stop the thread."""
        if self._worker is not None:
            self._worker.leave()
            self._worker = None

    def want(self, asker: str, frames: Iterable[int], width: int, height: int) -> None:
        """Say what an asker wants to see now, most wanted first."""
        with self._lock:
            keys = [(f, width, height) for f in frames]
            self._wanted[asker] = [k for k in keys if k not in self._held]
            self._lock.notify_all()

    def picture(self, frame: int, width: int, height: int) -> QImage | None:
        """Return a picture if it is there."""
        key = (frame, width, height)
        image = self._held.get(key)
        if image is not None:
            self._held.move_to_end(key)
        return image

    @property
    def idle(self) -> bool:
        """True when nothing is wanted that is not there."""
        with self._lock:
            return not any(self._wanted.values())

    # for the worker

    def take_wanted(self, near: int, leaving: threading.Event) -> Key | None:
        """Wait for something wanted and return the best of it: what lies just ahead."""
        with self._lock:
            while not leaving.is_set():
                for keys in self._wanted.values():
                    if keys:
                        ahead = [k for k in keys if 0 <= k[0] - near < 30]
                        return min(ahead) if ahead else keys[0]
                self._lock.wait(0.5)
        return None

    def wake(self) -> None:
        """Wake the worker."""
        with self._lock:
            self._lock.notify_all()

    def put(self, key: Key, image: QImage | None) -> None:
        """Take a picture in and let the oldest go."""
        with self._lock:
            for keys in self._wanted.values():
                if key in keys:
                    keys.remove(key)
            if image is not None:
                self._held[key] = image
                self._bytes += image.sizeInBytes()
                while self._bytes > self._limit and len(self._held) > 8:
                    self._bytes -= self._held.popitem(last=False)[1].sizeInBytes()
        self.arrived.emit()


class _Worker(QThread):
    def __init__(self, pictures: Pictures, film: OpenedFilm, threads: int, small: bool) -> None:
        super().__init__()
        self._small = small
        self._pictures = pictures
        self._film = film
        self._threads = threads
        self._leaving = threading.Event()

    def leave(self) -> None:
        """Stop and wait."""
        self._leaving.set()
        self._pictures.wake()
        self.wait(20_000)

    def run(self) -> None:
        near = 0
        reformatter = VideoReformatter()
        with FrameReader(self._film.media.path, self._film.index, threads=self._threads) as reader:
            while not self._leaving.is_set():
                key = self._pictures.take_wanted(near, self._leaving)
                if key is None:
                    return
                frame, width, height = key
                near = frame
                try:
                    rgb = rgb_of(reader.frame(frame), width, height, reformatter)
                    image = QImage(
                        rgb.data, width, height, 3 * width, QImage.Format.Format_RGB888
                    ).copy()
                except (OffcutError, ValueError):
                    image = QImage(width, height, QImage.Format.Format_RGB888)
                    image.fill(0x2C2C2C)
                self._pictures.put(key, image)
