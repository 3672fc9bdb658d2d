"""Pictures on demand: decoded off the interface thread, kept within bounds, nearest first."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable

import av
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray
from offcut.core.media.movie import FrameReader
from PySide6.QtCore import QObject, QThread, QTimer, Signal
from PySide6.QtGui import QImage

from offcut.core.errors import OffcutError
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import OpenedFilm
from offcut.core.model.source import Media
from offcut.core.store.thumbnails import LIMIT, Thumbnails

Key = tuple[int, int, int]
_RANK = {"large": 0, "ahead": 2, "pairs": 3}
"""Who is served first; all others come between."""


class Pictures(QObject):
    """Gives the pictures of one film at the sizes asked for.

    Several askers (the ribbon, the list, the strip ...) each say what they want now, most wanted
    first, which replaces what they wanted before. `picture` answers at once from memory or with
    None; ``kept`` are the frames on disk of a film that is missing, ``kept_known`` tells them;
    ``arrived`` tells of each that came, ``came`` of many at once. Memory is bounded by
    ``limit`` bytes. ``small`` ones are decoded without the loop filter, which cannot be seen at
    their size, and are kept on disk, ``disk_limit`` bytes of them at most. ``after`` are pictures
    that a person waits for: while those are decoded, these give way.
    """

    arrived = Signal()
    came = Signal()
    kept_known = Signal()

    def __init__(
        self,
        limit: int = 96 << 20,
        threads: int = 1,
        *,
        small: bool = False,
        after: Pictures | None = None,
    ) -> None:
        super().__init__()
        self._after = after
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(30)
        self._soon.timeout.connect(self.came)
        self.arrived.connect(self._gather)
        self._small = small
        self._limit = limit
        self.disk_limit = LIMIT
        self.kept: NDArray[np.int64] = np.zeros(0, np.int64)
        self._held: OrderedDict[Key, QImage] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Condition()
        self._wanted: OrderedDict[str, OrderedDict[Key, None]] = OrderedDict()
        self._worker: _Worker | None = None
        self._threads = threads

    def set_film(self, film: OpenedFilm | None, gone: Media | None = None) -> None:
        """Show another film; everything held is forgotten.

        ``gone`` are the facts of one that is missing: small pictures of it come from the disk.
        """
        self.close()
        with self._lock:
            self._held.clear()
            self._wanted.clear()
            self._bytes = 0
        self.kept = np.zeros(0, np.int64)
        media = film.media if film is not None else gone if self._small else None
        if media is not None:
            self._worker = _Worker(self, film, media, self._threads, self._small)
            self._worker.start()

    def _gather(self) -> None:
        if not self._soon.isActive():
            self._soon.start()

    def tell_kept(self, frames: NDArray[np.int64]) -> None:
        """Take in which frames of a missing film have a picture."""
        self.kept = frames
        self.kept_known.emit()

    def set_limit(self, limit: int) -> None:
        """Hold no more than so many bytes of pictures."""
        with self._lock:
            self._limit = limit
            self._let_go()

    @property
    def held_bytes(self) -> int:
        """Bytes of pictures held now."""
        return self._bytes

    def close(self) -> None:
        """Stop the thread."""
        if self._worker is not None:
            self._worker.leave()
            self._worker = None

    def want(self, asker: str, frames: Iterable[int], width: int, height: int) -> None:
        """Say what an asker wants to see now, most wanted first."""
        if self._worker is None:
            return
        with self._lock:
            keys = [(f, width, height) for f in frames]
            self._wanted[asker] = OrderedDict.fromkeys(k for k in keys if k not in self._held)
            self._lock.notify_all()

    def picture(self, frame: int, width: int, height: int) -> QImage | None:
        """Return a picture if it is there."""
        key = (frame, width, height)
        with self._lock:
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
        """Wait for something wanted and return the best of it: the first, or what leads to it.

        When the first one wanted lies just ahead of where the decoder stands, the earliest wanted
        one on the way is taken, so that nothing is decoded twice.
        """
        with self._lock:
            while not leaving.is_set():
                for _, keys in sorted(self._wanted.items(), key=lambda kv: _RANK.get(kv[0], 1)):
                    if keys:
                        first = next(iter(keys))
                        if 0 <= first[0] - near < 30:
                            return min(k for k in keys if k[0] >= near)
                        return first
                self._lock.wait(0.5)
        return None

    def sizes_wanted(self, frame: int) -> list[Key]:
        """Return in which sizes a frame that is at hand is wanted."""
        with self._lock:
            return [k for keys in self._wanted.values() for k in keys if k[0] == frame]

    @property
    def urgent(self) -> bool:
        """True while a person waits for the large picture."""
        return bool(self._wanted.get("large"))

    def give_way(self, leaving: threading.Event) -> None:
        """Wait while more urgent pictures are decoded, a second at most."""
        for _ in range(50):
            if self._after is None or not self._after.urgent or leaving.wait(0.02):
                return

    def still_wanted(self, key: Key) -> bool:
        """Tell whether anyone still wants a picture."""
        with self._lock:
            return any(key in keys for keys in self._wanted.values())

    def wake(self) -> None:
        """Wake the worker."""
        with self._lock:
            self._lock.notify_all()

    def put(self, key: Key, image: QImage) -> None:
        """Take a picture in and let the oldest go."""
        with self._lock:
            for keys in self._wanted.values():
                keys.pop(key, None)
            old = self._held.pop(key, None)
            self._held[key] = image
            self._bytes += image.sizeInBytes() - (old.sizeInBytes() if old else 0)
            self._let_go()
        self.arrived.emit()

    def _let_go(self) -> None:
        while self._bytes > self._limit and len(self._held) > 4:
            self._bytes -= self._held.popitem(last=False)[1].sizeInBytes()


class _NoLongerWanted(Exception):  # noqa: N818
    """The picture being decoded is not wanted any more."""


class _Worker(QThread):
    def __init__(
        self,
        pictures: Pictures,
        film: OpenedFilm | None,
        media: Media,
        threads: int,
        small: bool,
    ) -> None:
        super().__init__()
        self._pictures = pictures
        self._film = film
        self._media = media
        self._threads = threads
        self._small = small
        self._options = {"skip_loop_filter": "all"} if small else None
        self._leaving = threading.Event()
        self._reformatter = VideoReformatter()
        self._target: Key = (0, 0, 0)
        self._kept: Thumbnails | None = None

    def leave(self) -> None:
        """Stop and wait."""
        self._leaving.set()
        self._pictures.wake()
        self.wait(20_000)

    def run(self) -> None:
        if self._small:
            self._kept = Thumbnails(self._media.fingerprint, self._pictures.disk_limit)
        try:
            if self._film is None:
                if self._kept is not None:
                    self._pictures.tell_kept(self._kept.frames())
                self._serve(None)
                return
            with FrameReader(
                self._film.media.path,
                self._film.index,
                threads=self._threads,
                options=self._options,
            ) as reader:
                self._serve(reader)
        finally:
            if self._kept is not None:
                self._kept.close()

    def _serve(self, reader: FrameReader | None) -> None:
        near = 0
        while not self._leaving.is_set():
            key = self._pictures.take_wanted(near, self._leaving)
            if key is None:
                return
            if self._from_disk(key):
                continue
            if reader is None:
                self._stand_in(key)
                continue
            near = key[0]
            self._target = key
            self._pictures.give_way(self._leaving)
            try:
                picture = reader.frame(near, self._passed)
                self._give(key, picture)
                self._spread(near, picture)
            except _NoLongerWanted:
                continue
            except (OffcutError, ValueError):
                self._stand_in(key)

    def _from_disk(self, key: Key) -> bool:
        rgb = self._kept.get(*key) if self._kept is not None else None
        if rgb is not None:
            self._put(key, rgb)
        return rgb is not None

    def _stand_in(self, key: Key) -> None:
        """Give the picture as it was kept at another size, or grey, where it cannot be read."""
        _, width, height = key
        rgb = self._kept.at_any_size(*key) if self._kept is not None else None
        self._put(key, np.full((height, width, 3), 44, np.uint8) if rgb is None else rgb)

    def _passed(self, frame: int, picture: av.VideoFrame) -> None:
        self._spread(frame, picture)
        self._pictures.give_way(self._leaving)
        if self._leaving.is_set() or not self._pictures.still_wanted(self._target):
            raise _NoLongerWanted

    def _spread(self, frame: int, picture: av.VideoFrame) -> None:
        for key in self._pictures.sizes_wanted(frame):
            self._give(key, picture)

    def _give(self, key: Key, picture: av.VideoFrame) -> None:
        frame, width, height = key
        rgb = rgb_of(picture, width, height, self._reformatter)
        self._put(key, rgb)
        if self._kept is not None:
            self._kept.keep(frame, rgb)

    def _put(self, key: Key, rgb: NDArray[np.uint8]) -> None:
        _, width, height = key
        image = QImage(rgb.data, width, height, 3 * width, QImage.Format.Format_RGB888)
        self._pictures.put(key, image.copy())
