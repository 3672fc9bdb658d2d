"""Frame pairs: a frame of each of two films, decoded together on a thread of their own."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

import numpy as np
from av.video.reformatter import VideoReformatter
from PySide6.QtCore import QObject, QThread, Signal
from PySide6.QtGui import QImage

from offcut.app.session.standing import Idle, Standing, StandingThread
from offcut.app.shared.picture_workers import image_of
from offcut.core.errors import OffcutError
from offcut.core.media.display import display_of
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.pictures import fit, rgb_of
from offcut.core.media.probe import open_source, shown_size
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.source import Source

_OPEN = 4


@dataclass(frozen=True, eq=False)
class AskedFrame:
    """A frame of a film; ``film`` is the film where it is open already."""

    source: Source
    frame: int
    film: OpenedFilm | None = None


Asked = tuple[AskedFrame | None, AskedFrame | None]


class FramePairs(QObject):
    """Gives pairs of pictures; only what was asked for last is decoded.

    ``came`` tells the key that was asked with and both pictures, None for one that is not there.
    """

    came = Signal(object, object, object)

    def __init__(self) -> None:
        super().__init__()
        self._lock = threading.Condition()
        self._wanted: tuple[Any, Asked, tuple[int, int]] | None = None
        self._standing = Standing()

    def want(self, key: Any, asked: Asked, room: tuple[int, int]) -> None:
        """Ask for two frames, each to fit into so many pixels."""
        with self._lock:
            self._wanted = key, asked, room
            self._lock.notify_all()
        self._standing.begin("one", lambda: _PairWorker(self), QThread.Priority.NormalPriority)

    def take(self, leaving: threading.Event) -> tuple[Any, Asked, tuple[int, int]] | None:
        """Wait for what is wanted and return it; None when leaving or idle. For the worker."""
        idle = Idle()
        with self._lock:
            while not leaving.is_set() and not idle.over:
                if self._wanted is not None:
                    taken, self._wanted = self._wanted, None
                    return taken
                self._lock.wait(0.5)
        return None

    def close(self) -> None:
        """Stop the thread for good."""
        self._standing.close()

    def wake(self) -> None:
        """End the worker's waiting."""
        with self._lock:
            self._lock.notify_all()


class _PairWorker(StandingThread):
    def __init__(self, pairs: FramePairs) -> None:
        super().__init__()
        self._pairs = pairs
        self._readers: OrderedDict[object, Reader | None] = OrderedDict()
        self._reformatter = VideoReformatter()

    def wake(self) -> None:
        self._pairs.wake()

    def serve(self) -> None:
        while (taken := self._pairs.take(self.leaving)) is not None:
            key, asked, room = taken
            images = [self._image(a, room) if a is not None else None for a in asked]
            self._pairs.came.emit(key, *images)

    def let_go(self) -> bool:
        opened = [reader for reader in self._readers.values() if reader is not None]
        for reader in opened:
            reader.close()
        self._readers.clear()
        return bool(opened)

    def _image(self, asked: AskedFrame, room: tuple[int, int]) -> QImage | None:
        source = asked.source
        try:
            reader = self._reader(asked)
            if reader is None:
                return None
            frame = min(max(0, asked.frame), source.media.frames - 1)
            size = fit(*shown_size(source.media), *room)
            rgb = rgb_of(reader.frame(frame), *size)
            display = display_of(source.ticket.display)
            return image_of(np.ascontiguousarray(rgb if display is None else display.seen(rgb)))
        except (OffcutError, ValueError, OSError):
            return None

    def _reader(self, asked: AskedFrame) -> Reader | None:
        source = asked.source
        key = source.media, source.ticket.fields
        if key not in self._readers:
            film = asked.film or as_set(open_source(source.media.path, source.media.run), source)
            self._readers[key] = open_reader(film, Purpose.PLAY)
            while len(self._readers) > _OPEN:
                old = self._readers.popitem(last=False)[1]
                if old is not None:
                    old.close()
        self._readers.move_to_end(key)
        return self._readers[key]
