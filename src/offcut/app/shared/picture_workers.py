"""The threads that decode pictures: one reads the film, one its proxy; neither waits."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

import av
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray
from PySide6.QtGui import QImage

from offcut.app.session.standing import StandingThread
from offcut.core.errors import MediaError, OffcutError
from offcut.core.media.display import Display, display_of
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import rgb_of
from offcut.core.media.proxy import ProxyPieces, ProxyReader
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.source import Media
from offcut.core.store.pictures_on_the_way import STEP
from offcut.core.store.thumbnails import Thumbnails, film_key

Key = tuple[int, int, int]
"""A frame, and the width and height it is wanted at."""
SELDOM = 25
"""While seams are found, small pictures are decoded a twenty-fifth of the time."""
OPEN_READERS = 3
"""So many films are open for reading at once, for each kind of picture."""


@dataclass(frozen=True, eq=False)
class ShownFilm:
    """The film whose pictures are shown: a name for it, its facts, and it itself when open."""

    name: str
    media: Media
    film: OpenedFilm | None
    missing: bool
    display: str = ""

    def same(self, other: ShownFilm | None) -> bool:
        """Tell whether it is the very same film, open or not as before."""
        if other is None:
            return False
        mine, theirs = (self.name, self.missing), (other.name, other.missing)
        return mine == theirs and self.film is other.film and self.display == other.display


class PicturesAsked(Protocol):
    """What the threads ask of, and give to: `offcut.app.shared.pictures_in_hand.PicturesInHand`."""

    trouble: Any
    use_proxy: bool
    proxy_folder: Path | None
    disk_limit: int

    @property
    def moving(self) -> bool: ...
    @property
    def searching(self) -> bool: ...
    def postpone(self, key: Key) -> None: ...
    def has(self, name: str, key: Key) -> bool: ...
    def in_place_of(self, frame: int) -> int | None: ...
    @property
    def proxies_turn(self) -> int: ...
    def take_wanted(
        self, near: int, leaving: threading.Event
    ) -> tuple[ShownFilm, Key | None] | None: ...
    def take_for_proxy(self, leaving: threading.Event) -> tuple[ShownFilm, Key] | None: ...
    def sizes_wanted(self, name: str, frame: int) -> list[Key]: ...
    def give_way(self, leaving: threading.Event) -> None: ...
    def still_wanted(self, name: str, key: Key) -> bool: ...
    def put(self, name: str, key: Key, image: QImage, stand_in: bool = False) -> None: ...
    def tell_kept(self, name: str, frames: NDArray[np.int64], steps: bool) -> None: ...
    def wake(self) -> None: ...


def image_of(rgb: NDArray[np.uint8]) -> QImage:
    """Return RGB pixels, shape (height, width, 3), as an image of its own."""
    high, wide = rgb.shape[:2]
    return QImage(rgb.data, wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()


class _Proxies:
    """The readers of the proxies used last; belongs to one thread."""

    def __init__(self, pictures: PicturesAsked) -> None:
        self._pictures = pictures
        self._held: OrderedDict[str, tuple[int, ProxyReader]] = OrderedDict()

    def of(self, shown: ShownFilm) -> ProxyReader | None:
        """Return the reader of a film's proxy, None where it is not to be used."""
        film = shown.film
        if film is None or not self._pictures.use_proxy:
            return None
        turn = self._pictures.proxies_turn
        known = self._held.pop(shown.name, None)
        if known is None or known[0] != turn:
            if known is not None:
                known[1].close()
            pieces = ProxyPieces(shown.media, self._pictures.proxy_folder)
            known = turn, ProxyReader(pieces, lambda: open_reader(film, Purpose.PLAY), film.index)
        self._held[shown.name] = known
        while len(self._held) > OPEN_READERS:
            self._held.popitem(last=False)[1][1].close()
        return known[1]

    def close(self) -> None:
        """Let all files go."""
        for _, reader in self._held.values():
            reader.close()
        self._held.clear()


class _Worker(StandingThread):
    """A thread that serves pictures."""

    def __init__(self, pictures: PicturesAsked) -> None:
        super().__init__()
        self._pictures = pictures
        self._reformatter = VideoReformatter()
        self._proxies = _Proxies(pictures)

    def wake(self) -> None:
        self._pictures.wake()

    def let_go(self) -> bool:
        self._proxies.close()
        return False


class StandInWorker(_Worker):
    """Gives pictures of proxies, at once, while those of the film itself are decoded elsewhere."""

    def serve(self) -> None:
        while not self.leaving.is_set():
            taken = self._pictures.take_for_proxy(self.leaving)
            if taken is None:
                return
            if not self._gave(*taken):
                self.leaving.wait(0.02)  # the film itself is on its way

    def _gave(self, shown: ShownFilm, key: Key) -> bool:
        frame, width, height = key
        proxy = self._proxies.of(shown)
        if proxy is None or not proxy.holds(frame):
            return False
        try:
            picture = proxy.frame(frame)
            display = display_of(shown.display)
        except (OffcutError, ValueError):
            return False
        if proxy.lost:
            self._pictures.trouble.emit(proxy.lost)
            proxy.lost = ""
        quick = self._pictures.moving
        rgb = rgb_of(picture, width, height, self._reformatter, display, quick=quick)
        self._pictures.put(shown.name, key, image_of(rgb), stand_in=not proxy.from_film)
        return True


class _NoLongerWanted(Exception):  # noqa: N818
    """The picture being decoded is not wanted any more."""


class PictureWorker(_Worker):
    """Decodes what is wanted; keeps the few readers used last open, whatever film is shown."""

    def __init__(self, pictures: PicturesAsked, threads: int, small: bool) -> None:
        super().__init__(pictures)
        self._threads = threads
        self._small = small
        self._target: Key = (0, 0, 0)
        self._free_at = 0.0
        self._tried: set[Key] = set()
        self._key_shown: tuple[int, Any] = (-1, None)
        self._readers: OrderedDict[str, tuple[OpenedFilm, Reader]] = OrderedDict()
        self._disks: OrderedDict[str, Thumbnails] = OrderedDict()
        self._name = ""
        self._kept: Thumbnails | None = None
        self._display: Display | None = None

    def let_go(self) -> bool:
        opened = bool(self._readers)
        for _, reader in self._readers.values():
            reader.close()
        super().let_go()
        for kept in self._disks.values():
            kept.close()
        self._readers.clear()
        self._disks.clear()
        self._name, self._kept = "", None
        return opened

    def _turn_to(self, shown: ShownFilm) -> None:
        """Turn to the film that is shown now."""
        self._name = shown.name
        self._tried.clear()
        self._key_shown = -1, None
        try:
            self._display = display_of(shown.display)
        except OffcutError as error:
            self._display = None
            self._pictures.trouble.emit(f"{error}; its pictures are shown as they are")
        if not self._small:
            return
        kept = self._disks.pop(shown.name, None)
        if kept is None:
            kept = Thumbnails(film_key(shown.media), self._pictures.disk_limit)
        self._kept = self._disks[shown.name] = kept
        while len(self._disks) > OPEN_READERS:
            self._disks.popitem(last=False)[1].close()

    def _reader_of(self, shown: ShownFilm) -> Reader | None:
        if shown.film is None:
            return None
        film, reader = self._readers.pop(shown.name, (None, None))
        if reader is None or film is not shown.film:
            if reader is not None:
                reader.close()
            purpose = Purpose.SMALL if self._small else Purpose.PLAY
            try:
                reader = open_reader(shown.film, purpose, threads=self._threads)
            except MediaError as error:
                self._pictures.trouble.emit(str(error))
                return None
        self._readers[shown.name] = (shown.film, reader)
        while len(self._readers) > OPEN_READERS:
            self._readers.popitem(last=False)[1][1].close()
        return reader

    def _left_to_proxy(self, shown: ShownFilm, key: Key) -> bool:
        """Give a small picture of the proxy; leave a large one that moves to who gives those."""
        moving = self._pictures.moving and not self._small
        if not self._small and not moving:
            return False
        proxy = self._proxies.of(shown)
        if proxy is None or not proxy.holds(key[0]):
            return False
        if moving:
            self.leaving.wait(0.004)
            return True
        try:
            picture = proxy.frame(key[0])
        except (OffcutError, ValueError):
            return False
        self._give(key, picture)
        return True

    def serve(self) -> None:
        near = 0
        while not self.leaving.is_set():
            taken = self._pictures.take_wanted(near, self.leaving)
            if taken is None:
                return
            shown, key = taken
            if shown.name != self._name:
                near = 0
                self._turn_to(shown)
            if key is None:
                if self._kept is not None:
                    frames = self._kept.frames()
                    steps = int((frames % STEP == 0).sum()) >= shown.media.frames // STEP - 1
                    self._pictures.tell_kept(shown.name, frames, steps)
                continue
            if self._from_disk(key) or self._left_to_proxy(shown, key):
                continue
            reader = self._reader_of(shown)
            if reader is None:
                self._stand_in(key)
                continue
            if self._small and self._pictures.searching and time.monotonic() < self._free_at:
                self._pictures.postpone(key)  # the search may leave it by then
                self.leaving.wait(0.04)
                continue
            if self._small and self._stood_in(reader, shown, key):
                near = key[0]
                continue
            near = key[0]
            self._target = key
            self._pictures.give_way(self.leaving)
            began = time.monotonic()
            try:
                picture = reader.frame(near, self._passed)
                self._give(key, picture)
                self._spread(near, picture)
            except _NoLongerWanted:
                continue
            except (OffcutError, ValueError):
                self._stand_in(key)
            finally:
                now = time.monotonic()
                self._free_at = now + SELDOM * (now - began)

    def _stood_in(self, reader: Reader, shown: ShownFilm, key: Key) -> bool:
        """Give a keyframe of the same shot at first, where the picture takes a while."""
        frame, width, height = key
        if self._pictures.has(shown.name, key):
            return False
        other = self._pictures.in_place_of(frame)
        if other is None:
            if key in self._tried:
                return False
            self._tried.add(key)  # those that are there at once go before it
            self._pictures.postpone(key)
            return True
        if self._key_shown[0] != other:
            try:
                self._key_shown = other, reader.key(other)
            except (OffcutError, ValueError):
                return False
        rgb = rgb_of(self._key_shown[1], width, height, self._reformatter)
        rgb = rgb if self._display is None else self._display.seen(rgb)
        self._pictures.put(shown.name, key, image_of(rgb), stand_in=True)
        self._pictures.postpone(key)
        return True

    def _from_disk(self, key: Key) -> bool:
        if self._kept is None:
            return False
        rgb = self._kept.get(*key)
        if rgb is None:
            rgb = self._kept.at_any_size(*key, least=key[1] * 5 // 8)
        if rgb is not None:
            self._put(key, rgb if self._display is None else self._display.seen(rgb))
        return rgb is not None

    def _stand_in(self, key: Key) -> None:
        """Give the picture as it was kept at another size, or grey, where it cannot be read."""
        _, width, height = key
        rgb = self._kept.at_any_size(*key) if self._kept is not None else None
        if rgb is None:
            rgb = np.full((height, width, 3), 44, np.uint8)
        elif self._display is not None:
            rgb = self._display.seen(rgb)
        self._put(key, rgb)

    def _passed(self, frame: int, picture: av.VideoFrame) -> None:
        self._spread(frame, picture)
        self._pictures.give_way(self.leaving)
        if self.leaving.is_set() or not self._pictures.still_wanted(self._name, self._target):
            raise _NoLongerWanted

    def _spread(self, frame: int, picture: av.VideoFrame) -> None:
        for key in self._pictures.sizes_wanted(self._name, frame):
            self._give(key, picture)

    def _give(self, key: Key, picture: av.VideoFrame) -> None:
        frame, width, height = key
        if self._kept is None:
            rgb = rgb_of(picture, width, height, self._reformatter, self._display)
            self._put(key, rgb)
            return
        rgb = rgb_of(picture, width, height, self._reformatter)
        self._put(key, rgb if self._display is None else self._display.seen(rgb))
        self._kept.keep(frame, rgb)

    def _put(self, key: Key, rgb: NDArray[np.uint8]) -> None:
        self._pictures.put(self._name, key, image_of(rgb))
