"""Pictures of frames of any films of the project, at the sizes the Board and its panels show."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QRectF, Qt, QThread, Signal
from PySide6.QtGui import QImage, QPainter

from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.session.standing import Idle, Standing, StandingThread
from offcut.app.shared.picture_workers import SELDOM, image_of
from offcut.core.board.looking import FramePictures
from offcut.core.errors import OffcutError
from offcut.core.media.display import display_of
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.source import Source
from offcut.core.store.thumbnails import film_key

_Key = tuple[str, int, bool]
LARGE = (480, 360)
"""The room a large picture fits into; small ones are as they are kept."""
MANY = 6
"""Where so many places stand empty, a second thread decodes for them."""
FROM_DISK = 0.02
"""Seconds that a picture takes at most that is not decoded."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """A frame of a film, whether it is wanted large, and the pixels it is shown at (0 for any)."""

    source: Source
    frame: int
    large: bool = False
    wide: int = 0
    high: int = 0


class ShotPictures(QObject):
    """Gives pictures at once where they are in memory, and looks for the others on a thread.

    What is wanted is said anew with every `want`; the first is served first. Where a picture lies
    far from a keyframe, the one of its shot that is there at once stands in for it at first.
    ``arrived`` tells that some came. Memory is bounded by the session's budget. ``ratio`` is how
    many of the screen's pixels go on one.
    """

    arrived = Signal()
    _one_came = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._s = session
        self._budget = session.pictures
        self._budget.join(self)
        self.ratio = 1.0
        self._bytes = 0
        self._held: OrderedDict[_Key, QImage] = OrderedDict()
        self._rough: set[_Key] = set()
        self._scaled: OrderedDict[tuple[_Key, int, int], QImage] = OrderedDict()
        self._names: dict[int, tuple[Source, str]] = {}
        self._wanted: OrderedDict[str, list[Wanted]] = OrderedDict()
        self._lock = threading.Condition()
        self._standing = Standing()
        self._reading: set[int] = set()
        self._soon = soon(self, 25, self.arrived)
        self._one_came.connect(self._gather)
        session.let_wait(lambda: not self.idle)
        session.let_go_before(lambda: self.lacking > 0)

    def _gather(self) -> None:
        if not self._soon.isActive():
            self._soon.start()

    def _key(self, source: Source, frame: int, large: bool) -> _Key:
        known = self._names.get(source.id)
        if known is None or known[0] is not source:
            if len(self._names) > 512:
                self._names.clear()
            name = film_key(source.media) or source.media.path
            ticket = source.ticket
            known = source, f"{name} {ticket.display} {ticket.squeeze}"
            self._names[source.id] = known
        return known[1], frame, large

    def picture(self, source: Source, frame: int, large: bool = False) -> QImage | None:
        """Return a picture if it is there; a small one for a large one that is not."""
        with self._lock:
            for size in (True, False) if large else (False, True):
                key = self._key(source, frame, size)
                image = self._held.get(key)
                if image is not None:
                    self._held.move_to_end(key)
                    return image
        return None

    def draw(self, painter: QPainter, place: QRectF, wanted: Wanted) -> bool:
        """Draw a picture where it is there: as it is scaled, or roughly until it is.

        Tells whether it is there.
        """
        key = self._key(wanted.source, wanted.frame, wanted.large)
        place_of = key, wanted.wide, wanted.high
        with self._lock:
            scaled = self._scaled.get(place_of)
            if scaled is not None:
                self._scaled.move_to_end(place_of)
        if scaled is not None:
            painter.drawImage(place.topLeft(), scaled)
            return True
        image = self.picture(wanted.source, wanted.frame, wanted.large)
        if image is not None:
            painter.drawImage(place, image)
        return image is not None

    def set_ratio(self, ratio: float) -> None:
        """Give pictures for another screen."""
        if ratio != self.ratio:
            with self._lock:
                self.ratio = ratio
                self._bytes -= sum(image.sizeInBytes() for image in self._scaled.values())
                self._scaled.clear()

    def want(self, asker: str, wanted: Iterable[Wanted]) -> None:
        """Say what an asker wants to see now, most wanted first."""
        missing = [w for w in wanted if not self._is_there(w)]
        with self._lock:
            self._wanted[asker] = missing
            if missing:
                self._lock.notify_all()
        low = QThread.Priority.LowPriority
        if missing and "one" not in self._standing:
            self._standing.begin("one", lambda: _ShotPictureWorker(self), low)
        elif len(missing) > MANY and not self.searching and self.lacking > MANY:
            # a second thread decodes as well, until no place stands empty any more
            helper = partial(_ShotPictureWorker, self, helping=True)
            self._standing.begin("helper", helper, low)

    @property
    def lacking(self) -> int:
        """How many pictures are wanted where there is none at all. Any thread may ask."""
        with self._lock:
            return sum(self._has_none(w) for ws in self._wanted.values() for w in ws)

    def readiness(self, wanted: Iterable[Wanted]) -> int:
        """Return how far pictures are there: 2 for each as it is shown, 1 for what stands in."""
        with self._lock:
            return sum(2 if self._is_there(w) else not self._has_none(w) for w in wanted)

    def _is_there(self, wanted: Wanted) -> bool:
        key = self._key(wanted.source, wanted.frame, wanted.large)
        if key in self._rough:
            return False
        if wanted.wide:
            return (key, wanted.wide, wanted.high) in self._scaled
        return key in self._held

    @property
    def idle(self) -> bool:
        """True when nothing is wanted that is not there, and nothing is on its way."""
        with self._lock:
            return not self._reading and not any(self._wanted.values())

    @property
    def held_bytes(self) -> int:
        """Bytes of pictures held now."""
        return self._bytes

    def close(self) -> None:
        """Stop the thread for good."""
        with self._lock:
            self._wanted.clear()
        self._standing.close()

    def wake(self) -> None:
        """End the worker's waiting."""
        with self._lock:
            self._lock.notify_all()

    # for the worker

    def take(self, leaving: threading.Event, *, helping: bool = False) -> Wanted | None:
        """Wait for the next one wanted and return it; None when leaving or idle.

        Who is ``helping`` gets what there is no picture of, and None once there is no such.
        """
        who, idle = id(leaving), Idle()
        with self._lock:
            while True:
                self._reading.discard(who)
                lists = [wanted for wanted in self._wanted.values() if wanted]
                if helping:
                    lists = [ws for ws in lists if any(map(self._has_none, ws))]
                if leaving.is_set() or (helping and not lists):
                    return None
                if lists:
                    self._reading.add(who)
                    return _first_of(lists, self._has_none)
                if idle.over:
                    return None
                self._lock.wait(0.5)

    @property
    def searching(self) -> bool:
        """True while seams are found, which come first."""
        return self._s.searching

    def films(self) -> Mapping[int, OpenedFilm]:
        """Return the films that are open already."""
        return self._s.films

    def held(self, wanted: Wanted) -> QImage | None:
        """Return the picture that is wanted where it is there already, at its own size."""
        with self._lock:
            key = self._key(wanted.source, wanted.frame, wanted.large)
            return None if key in self._rough else self._held.get(key)

    def _has_none(self, wanted: Wanted) -> bool:
        return self._key(wanted.source, wanted.frame, wanted.large) not in self._held

    def lacks(self, wanted: Wanted) -> bool:
        """Tell whether there is no picture at all where one is wanted."""
        with self._lock:
            return self._has_none(wanted)

    def stand_in(self, wanted: Wanted, image: QImage) -> None:
        """Take in what stands in for a picture, which is still wanted."""
        with self._lock:
            self._rough.add(self._key(wanted.source, wanted.frame, wanted.large))
        self.put(wanted, image, rough=True)
        with self._lock:
            if self._wanted:
                next(reversed(self._wanted.values())).append(wanted)

    def put(self, wanted: Wanted, image: QImage, *, rough: bool = False) -> None:
        """Take a picture in, and as it is shown; let the oldest go."""
        scaled = None
        if wanted.wide:
            size = round(wanted.wide * self.ratio), round(wanted.high * self.ratio)
            scaled = image.scaled(
                *size, Qt.AspectRatioMode.IgnoreAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            ).convertToFormat(QImage.Format.Format_RGB32)  # fmt: skip
            scaled.setDevicePixelRatio(self.ratio)
        with self._lock:
            key = self._key(wanted.source, wanted.frame, wanted.large)
            if not rough:
                self._rough.discard(key)
            old = self._held.pop(key, None)
            self._held[key] = image
            self._bytes += image.sizeInBytes() - (old.sizeInBytes() if old is not None else 0)
            if scaled is not None:
                place = key, wanted.wide, wanted.high
                old = self._scaled.pop(place, None)
                self._scaled[place] = scaled
                self._bytes += scaled.sizeInBytes() - (old.sizeInBytes() if old is not None else 0)
        self._budget.settle()
        self._one_came.emit()

    def let_oldest_go(self, much: int) -> int:
        """Let the oldest pictures go: those as they are kept first, they are soon read again."""
        with self._lock:
            before = self._bytes
            while before - self._bytes < much and len(self._held) > 4:
                gone, old = self._held.popitem(last=False)
                self._rough.discard(gone)
                self._bytes -= old.sizeInBytes()
            while before - self._bytes < much and len(self._scaled) > 4:
                self._bytes -= self._scaled.popitem(last=False)[1].sizeInBytes()
            return before - self._bytes


class _ShotPictureWorker(StandingThread):
    def __init__(self, pictures: ShotPictures, *, helping: bool = False) -> None:
        super().__init__()
        self._pictures = pictures
        self._helping = helping
        self.again = not helping
        self._read = False

    def wake(self) -> None:
        self._pictures.wake()

    def let_go(self) -> bool:
        read, self._read = self._read, False
        return read

    def serve(self) -> None:
        frames = FramePictures(self._pictures.films())
        try:
            while True:
                wanted = self._pictures.take(self.leaving, helping=self._helping)
                if wanted is None:
                    return
                self._read = True
                held = self._pictures.held(wanted)
                began = time.monotonic()
                if held is None and self._pictures.lacks(wanted):
                    held = self._at_once(frames, wanted)
                    if held is not None:
                        self._pictures.stand_in(wanted, held)
                        continue
                self._pictures.put(wanted, held if held is not None else _read(frames, wanted))
                took = time.monotonic() - began
                if took > FROM_DISK and self._pictures.searching:
                    self.leaving.wait(min(2.0, SELDOM * took))
        finally:
            frames.close()

    @staticmethod
    def _at_once(frames: FramePictures, wanted: Wanted) -> QImage | None:
        """Return what stands in for a picture that would have to be decoded, None for none."""
        if frames.kept(wanted.source, wanted.frame, _size_of(wanted)) is not None:
            return None
        rgb = frames.at_once(wanted.source, wanted.frame)
        return None if rgb is None else _seen(wanted.source, rgb)


def _first_of(lists: list[list[Wanted]], lacks: Callable[[Wanted], bool]) -> Wanted:
    """Take the first one wanted that has no picture at all, else the first."""
    for wanted in lists:
        for place, one in enumerate(wanted):
            if lacks(one):
                return wanted.pop(place)
    return lists[0].pop(0)


def _size_of(wanted: Wanted) -> tuple[int, int] | None:
    return fit(*shown_size(wanted.source.media), *LARGE) if wanted.large else None


def _read(frames: FramePictures, wanted: Wanted) -> QImage:
    rgb = frames.picture(wanted.source, wanted.frame, _size_of(wanted))
    return _seen(wanted.source, np.full((90, 160, 3), 44, np.uint8) if rgb is None else rgb)


def _seen(source: Source, rgb: NDArray[np.uint8]) -> QImage:
    try:
        display = display_of(source.ticket.display)
    except OffcutError:
        display = None
    return image_of(np.ascontiguousarray(rgb if display is None else display.seen(rgb)))
