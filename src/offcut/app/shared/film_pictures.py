"""Telling pictures of films: one for the label of each film of a project, in hand or not."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QThread, Signal
from PySide6.QtGui import QImage

from offcut.app.session.picture_budget import PictureBudget
from offcut.app.session.standing import Standing, StandingThread
from offcut.core.errors import OffcutError
from offcut.core.media.display import display_of
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.source import Media
from offcut.core.store.missing_films import first_file
from offcut.core.store.pictures_on_the_way import kept_size
from offcut.core.store.thumbnails import Thumbnails, film_key

MOST = 400
"""So many pictures are held at most."""
LOOKS = 7
_Picture = NDArray[np.uint8]


@dataclass(frozen=True)
class Telling:
    """The picture of a film, None where there is none; ``missing`` where its file is gone."""

    image: QImage | None
    missing: bool


class FilmPictures(QObject):
    """Gives telling pictures as they are asked for; those asked for last come first.

    ``arrived`` tells that one came.
    """

    arrived = Signal()

    def __init__(self, budget: PictureBudget) -> None:
        super().__init__()
        self._budget, self._bytes = budget, 0
        budget.join(self)
        self._held: OrderedDict[tuple[str, str], Telling] = OrderedDict()
        self._wanted: OrderedDict[tuple[str, str], Media] = OrderedDict()
        self._lock = threading.Condition()
        self._standing = Standing()

    def telling(self, media: Media, display: str) -> Telling | None:
        """Return the picture of a film; None while it is not there yet, and it is looked for."""
        key = (f"{film_key(media)} {media.path}", display)
        with self._lock:
            held = self._held.get(key)
            if held is None and key not in self._wanted:
                self._wanted[key] = media
                self._lock.notify_all()
        if held is None:
            self._standing.begin("one", lambda: _Worker(self), QThread.Priority.LowPriority)
        return held

    def forget(self) -> None:
        """Look again: films may have moved, and better pictures may be kept now."""
        with self._lock:
            self._held.clear()
            self._bytes = 0

    def take(self, leaving: threading.Event) -> tuple[tuple[str, str], Media] | None:
        """Wait for something wanted and return it; None when leaving. For the worker."""
        with self._lock:
            while not leaving.is_set():
                if self._wanted:
                    return self._wanted.popitem()
                self._lock.wait(0.5)
        return None

    def put(self, key: tuple[str, str], telling: Telling) -> None:
        """Take a picture in. For the worker."""
        with self._lock:
            self._bytes += _size(telling) - _size(self._held.pop(key, None))
            self._held[key] = telling
            while len(self._held) > MOST:
                self._bytes -= _size(self._held.popitem(last=False)[1])
        self._budget.settle()
        self.arrived.emit()

    @property
    def held_bytes(self) -> int:
        """Bytes of pictures held now."""
        return self._bytes

    def let_oldest_go(self, much: int) -> int:
        """Let the oldest pictures go; they are read again when they are asked for."""
        with self._lock:
            before = self._bytes
            while before - self._bytes < much and len(self._held) > 4:
                self._bytes -= _size(self._held.popitem(last=False)[1])
            return before - self._bytes

    def close(self) -> None:
        """Stop the thread for good."""
        self._standing.close()

    def wake(self) -> None:
        """End the worker's waiting."""
        with self._lock:
            self._lock.notify_all()


class _Worker(StandingThread):
    def __init__(self, pictures: FilmPictures) -> None:
        super().__init__()
        self._pictures = pictures

    def wake(self) -> None:
        self._pictures.wake()

    def serve(self) -> None:
        while not self.leaving.is_set():
            taken = self._pictures.take(self.leaving)
            if taken is None:
                return
            key, media = taken
            try:
                telling = self._found(media, key[1])
            except (OffcutError, ValueError, OSError):
                telling = Telling(None, not first_file(media).is_file())
            self._pictures.put(key, telling)

    def _found(self, media: Media, display: str) -> Telling:
        missing = not first_file(media).is_file()
        picture = self._kept(media)
        if picture is None and not missing:
            picture = self._decoded(media)
        if picture is None:
            return Telling(None, missing)
        shown = display_of(display)
        if shown is not None:
            picture = np.ascontiguousarray(shown.seen(picture))
        high, wide = picture.shape[:2]
        image = QImage(picture.data, wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()
        return Telling(image, missing)

    def _kept(self, media: Media) -> _Picture | None:
        """Return the most telling of pictures that are kept already, None where those are few."""
        kept = Thumbnails(film_key(media))
        try:
            frames = kept.frames()
            if len(frames) < 3:
                return None
            size = kept_size(media)
            spread = np.unique(np.linspace(0, len(frames) - 1, 9).round().astype(int))[1:]
            found = [kept.at_any_size(int(frames[i]), *size) for i in spread]
            return _most_telling([p for p in found if p is not None])
        finally:
            kept.close()

    def _decoded(self, media: Media) -> _Picture | None:
        film = open_source(media.path, media.run)
        size = kept_size(media)
        kept = Thumbnails(film_key(media))
        found: list[_Picture] = []
        try:
            with open_reader(film, Purpose.SMALL, threads=1) as reader:
                for k in range(1, LOOKS + 1):
                    if self.leaving.is_set():
                        return None
                    frame = film.index.key_before(media.frames * k // (LOOKS + 1))
                    picture = rgb_of(reader.frame(frame), *size)
                    kept.keep(frame, picture)
                    found.append(picture)
                    if k >= 3 and _tells(picture) > 40:
                        break
        finally:
            kept.close()
        return _most_telling(found)


def _size(telling: Telling | None) -> int:
    image = telling.image if telling is not None else None
    return image.sizeInBytes() if image is not None else 0


def _most_telling(pictures: list[_Picture]) -> _Picture | None:
    return max(pictures, key=_tells, default=None)


def _tells(picture: _Picture) -> float:
    """Return how much a picture shows: contrast and colour, and not too dark nor too light."""
    high, wide = picture.shape[:2]
    picture = picture[high // 5 : high - high // 5, wide // 5 : wide - wide // 5]
    grey = cv2.cvtColor(np.ascontiguousarray(picture), cv2.COLOR_RGB2GRAY)
    colour = float(picture.max(axis=2).astype(int).mean() - picture.min(axis=2).mean())
    light = float(grey.mean())
    far = max(0.0, 40 - light) + max(0.0, light - 205)
    return float(grey.std()) + 0.3 * colour - far
