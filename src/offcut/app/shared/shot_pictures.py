"""Pictures of frames of any films of the project, at the sizes the Board and its panels show."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable, Mapping

import numpy as np
from PySide6.QtCore import QObject, Qt, QThread, QTimer, Signal
from PySide6.QtGui import QImage

from offcut.app.session.session import Session
from offcut.app.shared.picture_workers import image_of
from offcut.core.board.looking import FramePictures
from offcut.core.errors import OffcutError
from offcut.core.media.display import display_of
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.source import Source
from offcut.core.store.thumbnails import film_key

Wanted = tuple[Source, int, bool]
"""A frame of a film, and whether it is wanted large."""
_Key = tuple[str, int, bool]
LARGE = (480, 360)
"""The room a large picture fits into; small ones are as they are kept."""
HELD = 96 << 20
_SCALED = 1200


class ShotPictures(QObject):
    """Gives pictures at once where they are in memory, and looks for the others on a thread.

    What is wanted is said anew with every `want`; the first is served first. ``arrived`` tells
    that some came. Memory is bounded by ``limit`` bytes.
    """

    arrived = Signal()
    _one_came = Signal()

    def __init__(self, session: Session, limit: int = HELD) -> None:
        super().__init__(session)
        self._s = session
        self._limit = limit
        self._bytes = 0
        self._held: OrderedDict[_Key, QImage] = OrderedDict()
        self._scaled: OrderedDict[tuple[_Key, int, int], QImage] = OrderedDict()
        self._wanted: OrderedDict[str, list[Wanted]] = OrderedDict()
        self._lock = threading.Condition()
        self._worker: _Worker | None = None
        self._closed = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(25)
        self._soon.timeout.connect(self.arrived)
        self._one_came.connect(self._gather)

    def _gather(self) -> None:
        if not self._soon.isActive():
            self._soon.start()

    def picture(self, source: Source, frame: int, large: bool = False) -> QImage | None:
        """Return a picture if it is there; a small one for a large one that is not."""
        with self._lock:
            for size in (True, False) if large else (False, True):
                image = self._held.get(_key(source, frame, size))
                if image is not None:
                    self._held.move_to_end(_key(source, frame, size))
                    return image
        return None

    def scaled(
        self, source: Source, frame: int, wide: int, high: int, large: bool = False
    ) -> QImage | None:
        """Return a picture scaled to pixels, if it is there."""
        image = self.picture(source, frame, large)
        if image is None:
            return None
        key = (_key(source, frame, image.width() > 200), wide, high)
        made = self._scaled.get(key)
        if made is None:
            made = image.scaled(
                wide, high, Qt.AspectRatioMode.IgnoreAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )  # fmt: skip
            self._scaled[key] = made
            while len(self._scaled) > _SCALED:
                self._scaled.popitem(last=False)
        return made

    def want(self, asker: str, wanted: Iterable[Wanted]) -> None:
        """Say what an asker wants to see now, most wanted first."""
        with self._lock:
            self._wanted[asker] = [w for w in wanted if _key(*w) not in self._held]
            self._lock.notify_all()
        if self._worker is None and not self._closed and self._wanted[asker]:
            self._worker = _Worker(self)
            self._worker.start(QThread.Priority.LowPriority)

    @property
    def idle(self) -> bool:
        """True when nothing is wanted that is not there."""
        with self._lock:
            return not any(self._wanted.values())

    @property
    def held_bytes(self) -> int:
        """Bytes of pictures held now."""
        return self._bytes

    def close(self) -> None:
        """Stop the thread for good."""
        self._closed = True
        if self._worker is not None:
            self._worker.leaving.set()
            with self._lock:
                self._lock.notify_all()
            self._worker.wait(20_000)
            self._worker = None

    # for the worker

    def take(self, leaving: threading.Event) -> Wanted | None:
        """Wait for the next one wanted and return it; None when leaving."""
        with self._lock:
            while not leaving.is_set():
                for wanted in self._wanted.values():
                    if wanted:
                        return wanted.pop(0)
                self._lock.wait(0.5)
        return None

    def films(self) -> Mapping[int, OpenedFilm]:
        """Return the films that are open already."""
        return self._s.films

    def put(self, wanted: Wanted, image: QImage) -> None:
        """Take a picture in and let the oldest go."""
        with self._lock:
            key = _key(*wanted)
            old = self._held.pop(key, None)
            self._held[key] = image
            self._bytes += image.sizeInBytes() - (old.sizeInBytes() if old is not None else 0)
            while self._bytes > self._limit and len(self._held) > 4:
                self._bytes -= self._held.popitem(last=False)[1].sizeInBytes()
        self._one_came.emit()


def _key(source: Source, frame: int, large: bool) -> _Key:
    name = film_key(source.media) or source.media.path
    return f"{name} {source.ticket.display} {source.ticket.squeeze}", frame, large


class _Worker(QThread):
    def __init__(self, pictures: ShotPictures) -> None:
        super().__init__()
        self._pictures = pictures
        self.leaving = threading.Event()

    def run(self) -> None:
        frames = FramePictures(self._pictures.films())
        try:
            while (wanted := self._pictures.take(self.leaving)) is not None:
                source, frame, large = wanted
                size = fit(*shown_size(source.media), *LARGE) if large else None
                rgb = frames.picture(source, frame, size)
                if rgb is None:
                    rgb = np.full((90, 160, 3), 44, np.uint8)
                try:
                    display = display_of(source.ticket.display)
                except OffcutError:
                    display = None
                seen = rgb if display is None else np.ascontiguousarray(display.seen(rgb))
                self._pictures.put(wanted, image_of(np.ascontiguousarray(seen)))
        finally:
            frames.close()
