"""Pictures on demand: decoded off the interface thread, kept within bounds, nearest first."""

from __future__ import annotations

import threading
from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Callable, Iterable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from offcut.app.session.picture_budget import PictureBudget
from offcut.app.session.soon import soon
from offcut.app.session.standing import Idle, Standing
from offcut.app.shared.picture_workers import Key, PictureWorker, ShownFilm, StandInWorker
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.source import Media
from offcut.core.store.thumbnails import LIMIT, film_key

PictureKey = tuple[str, int, int, int]
_RANK = {"large": 0, "live": 0, "ahead": 2, "pairs": 3}
"""Who is served first; all others come between."""


class PicturesInHand(QObject):
    """Gives the pictures of the film in hand at the sizes asked for.

    Several askers (the ribbon, the list, the strip ...) each say what they want now, most wanted
    first, which replaces what they wanted before. `picture` answers at once from memory or with
    None; ``kept`` are the frames on disk of a film that is missing, ``kept_known`` tells them;
    ``arrived`` tells of each that came, ``came`` of many at once. Memory is bounded by
    ``limit`` bytes over all films; of each film looked at lately the last picture shown stays.
    ``small`` ones are decoded without the loop filter, which cannot be seen at their size, and
    are kept on disk, ``disk_limit`` bytes of them at most. ``after`` are pictures that a person
    waits for: while those are decoded, these give way.

    Where a film has a proxy and ``use_proxy`` is set, pictures come from it while they are
    ``moving``, and at first when one is gone to; parked on one, the film's own takes its place.
    ``proxy_folder`` is where proxies lie. ``trouble`` tells what went wrong on the way.

    While ``searching`` seams come first: what a person looks at is decoded, nothing ahead of it,
    and small pictures as the search leaves them, or seldom. ``shots`` are the first frames of the
    film's shots: a small picture far from a keyframe is stood in for by one of the same shot.
    What is ahead of what is looked at waits for pictures ``before`` it that are not there at all.
    """

    trouble = Signal(str)

    arrived = Signal()
    came = Signal()
    kept_known = Signal()

    def __init__(
        self,
        budget: PictureBudget,
        threads: int = 1,
        *,
        small: bool = False,
        after: PicturesInHand | None = None,
    ) -> None:
        super().__init__()
        self._after = after
        self._soon = soon(self, 30, self.came)
        self.arrived.connect(self._gather)
        self._small = small
        self._budget = budget
        budget.join(self)
        self.disk_limit = LIMIT
        self.use_proxy = True
        self.proxy_folder: Path | None = None
        self.searching = False
        self.shots: tuple[int, ...] = ()
        self.before: PicturesInHand | None = None
        self.goes_before: Callable[[], bool] = lambda: False
        self._moving = False
        self._stand_ins: set[PictureKey] = set()
        self._proxies_turn = 0
        self.kept: NDArray[np.int64] = np.zeros(0, np.int64)
        self.steps_kept = False
        self._held: OrderedDict[PictureKey, QImage] = OrderedDict()
        self._pinned: OrderedDict[str, PictureKey] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Condition()
        self._wanted: OrderedDict[str, OrderedDict[Key, None]] = OrderedDict()
        self._shown: ShownFilm | None = None
        self._told: ShownFilm | None = None
        self._standing = Standing()
        self._threads = threads

    def show_film(
        self,
        media: Media | None,
        film: OpenedFilm | None,
        missing: bool,
        display: str = "",
    ) -> None:
        """Show another film; nothing is waited for, and what is held of others stays.

        ``film`` is None while it is not open; ``missing`` where it is gone: small pictures of it
        come from the disk then. ``display`` is what its pictures are seen through.
        """
        shown = None
        if media is not None:
            name = f"{film_key(media) or media.path} {media.frames} {display}"
            shown = ShownFilm(name, media, film, missing, display)
        with self._lock:
            if shown is not None and shown.same(self._shown):
                return
            self._shown = shown
            self._wanted.clear()
            self._lock.notify_all()
        self.kept = np.zeros(0, np.int64)
        self.steps_kept = False
        if shown is not None:
            self._standing.begin("one", lambda: PictureWorker(self, self._threads, self._small))
            if not self._small:
                self._standing.begin("stand-in", lambda: StandInWorker(self))

    @property
    def moving(self) -> bool:
        """True while pictures follow one another: those of a proxy are good enough then."""
        return self._moving

    def set_moving(self, moving: bool) -> None:
        """Say whether pictures follow one another."""
        self._moving = moving

    def set_use_proxy(self, use: bool) -> None:
        """Show proxies where there are any, or the film itself always."""
        with self._lock:
            self.use_proxy = use
            if not use:
                for held in list(self._stand_ins):
                    image = self._held.pop(held, None)
                    self._bytes -= image.sizeInBytes() if image is not None else 0
                self._stand_ins.clear()
        self.arrived.emit()

    def look_for_proxies(self) -> None:
        """There are more pieces of proxies now, or fewer."""
        with self._lock:
            self._proxies_turn += 1

    @property
    def proxies_turn(self) -> int:
        """Counts how often proxies changed."""
        return self._proxies_turn

    def is_stand_in(self, frame: int, width: int, height: int) -> bool:
        """Tell whether the picture that is there is that of a proxy."""
        with self._lock:
            shown = self._shown
            return shown is not None and (shown.name, frame, width, height) in self._stand_ins

    def _gather(self) -> None:
        if not self._soon.isActive():
            self._soon.start()

    def look_for_kept(self) -> None:
        """Measuring may have left pictures: look which there are."""
        with self._lock:
            self._told = None
            self._lock.notify_all()

    def tell_kept(self, name: str, frames: NDArray[np.int64], steps: bool) -> None:
        """Take in which frames of a film have a picture; ``steps`` where measuring left them."""
        shown = self._shown
        if shown is not None and shown.name == name and (shown.missing or steps):
            self.kept, self.steps_kept = frames, steps
            self.kept_known.emit()

    def pin(self, frame: int, width: int, height: int) -> None:
        """Keep a picture of the film in hand, so that coming back to it shows it at once."""
        with self._lock:
            if self._shown is not None:
                self._pinned.pop(self._shown.name, None)
                self._pinned[self._shown.name] = (self._shown.name, frame, width, height)

    @property
    def held_bytes(self) -> int:
        """Bytes of pictures held now."""
        return self._bytes

    def close(self) -> None:
        """Stop the threads."""
        self._standing.close()

    def want(self, asker: str, frames: Iterable[int], width: int, height: int) -> None:
        """Say what an asker wants to see now, most wanted first."""
        with self._lock:
            shown = self._shown
            if shown is None or (shown.film is None and not (shown.missing and self._small)):
                return
            keys = [(f, width, height) for f in frames]
            self._wanted[asker] = OrderedDict.fromkeys(
                k for k in keys if self._is_wanting((shown.name, *k))
            )
            self._lock.notify_all()

    def _is_wanting(self, held: PictureKey) -> bool:
        return held not in self._held or (held in self._stand_ins and not self._moving)

    def picture(self, frame: int, width: int, height: int) -> QImage | None:
        """Return a picture if it is there."""
        with self._lock:
            if self._shown is None:
                return None
            key = (self._shown.name, frame, width, height)
            image = self._held.get(key)
            if image is not None:
                self._held.move_to_end(key)
        return image

    @property
    def idle(self) -> bool:
        """True when nothing is wanted that is not there, but for what can wait."""
        with self._lock:
            return not any(keys and not self._can_wait(a) for a, keys in self._wanted.items())

    # for the worker

    def take_wanted(
        self, near: int, leaving: threading.Event
    ) -> tuple[ShownFilm, Key | None] | None:
        """Wait for something wanted and return the film and the best of it; None when leaving.

        None too where no small one was wanted for a while; a large one may be stepped on from, and
        its decoder stands where it is.

        When the first one wanted lies just ahead of where the decoder stands, the earliest wanted
        one on the way is taken, so that nothing is decoded twice. A missing film whose kept
        pictures are not known yet comes alone.
        """
        idle = Idle()
        with self._lock:
            while not leaving.is_set() and not (self._small and idle.over):
                shown = self._shown
                if shown is not None and self._small and shown is not self._told:
                    self._told = shown
                    return shown, None
                for asker, keys in sorted(self._wanted.items(), key=lambda kv: _RANK.get(kv[0], 1)):
                    if not self._small and self._can_wait(asker):
                        continue
                    if keys and shown is not None:
                        none = [k for k in keys if (shown.name, *k) not in self._held]
                        if self._small and none:
                            return shown, none[0]
                        first = next(iter(keys))
                        if 0 <= first[0] - near < 30:
                            return shown, min(k for k in keys if k[0] >= near)
                        return shown, first
                self._lock.wait(0.5)
        return None

    def _can_wait(self, asker: str) -> bool:
        """Tell whether nobody looks at what an asker wants yet, and others wait."""
        if self._moving or _RANK.get(asker, 1) <= 1:
            return False
        return self.searching or (self.before is not None and self.before.lacking)

    @property
    def lacking(self) -> bool:
        """True where a picture is wanted and nothing at all is shown in its place."""
        with self._lock:
            name = self._shown.name if self._shown is not None else ""
            return any((name, *k) not in self._held for keys in self._wanted.values() for k in keys)

    def in_place_of(self, frame: int) -> int | None:
        """Return the keyframe of the same shot that stands in for a frame far from its own."""
        shown, starts = self._shown, self.shots
        if shown is None or shown.film is None or not starts:
            return None
        at = bisect_right(starts, frame)
        end = starts[at] if at < len(starts) else shown.media.frames
        return shown.film.index.key_in_place_of(frame, starts[max(0, at - 1)], end)

    def has(self, name: str, key: Key) -> bool:
        """Tell whether there is a picture, be it one that stands in."""
        with self._lock:
            return (name, *key) in self._held

    def postpone(self, key: Key) -> None:
        """Let all else that is wanted go before a picture."""
        with self._lock:
            for keys in self._wanted.values():
                if key in keys:
                    keys.move_to_end(key)

    def take_for_proxy(self, leaving: threading.Event) -> tuple[ShownFilm, Key] | None:
        """Wait for a large picture that is not there at all and return it; None when leaving.

        While pictures move, those ahead count as well.
        """
        with self._lock:
            while not leaving.is_set():
                shown = self._shown
                askers = ("large", "live", "ahead") if self._moving else ("large", "live")
                for asker in askers if shown is not None and self.use_proxy else ():
                    for key in self._wanted.get(asker, ()):
                        if shown is not None and (shown.name, *key) not in self._held:
                            return shown, key
                self._lock.wait(0.5)
        return None

    def sizes_wanted(self, name: str, frame: int) -> list[Key]:
        """Return in which sizes a frame of a film that is at hand is wanted."""
        with self._lock:
            if self._shown is None or self._shown.name != name:
                return []
            return [k for keys in self._wanted.values() for k in keys if k[0] == frame]

    @property
    def urgent(self) -> bool:
        """True while a person waits for the large picture."""
        return bool(self._wanted.get("large") or self._wanted.get("live"))

    def give_way(self, leaving: threading.Event) -> None:
        """Wait while more urgent pictures are decoded, a second at most."""
        for _ in range(50):
            urgent = (self._after is not None and self._after.urgent) or self.goes_before()
            if not urgent or leaving.wait(0.02):
                return

    def still_wanted(self, name: str, key: Key) -> bool:
        """Tell whether anyone still wants a picture of a film."""
        with self._lock:
            if self._shown is None or self._shown.name != name:
                return False
            return any(key in keys for keys in self._wanted.values())

    def wake(self) -> None:
        """Wake the worker."""
        with self._lock:
            self._lock.notify_all()

    def put(self, name: str, key: Key, image: QImage, stand_in: bool = False) -> None:
        """Take a picture of a film in and let the oldest go.

        After one that only stands in, that of the film itself is still wanted, unless it moves.
        """
        with self._lock:
            held = (name, *key)
            if stand_in and held in self._held and held not in self._stand_ins:
                return
            if self._shown is not None and self._shown.name == name:
                for keys in () if stand_in and not self._moving else self._wanted.values():
                    keys.pop(key, None)
            if stand_in:
                self._stand_ins.add(held)
            else:
                self._stand_ins.discard(held)
            old = self._held.pop(held, None)
            self._held[held] = image
            self._bytes += image.sizeInBytes() - (old.sizeInBytes() if old else 0)
        self._budget.settle()
        self.arrived.emit()

    def let_oldest_go(self, much: int) -> int:
        """Let the oldest pictures go, the pinned ones only where they take over a third."""
        with self._lock:
            pinned: set[PictureKey] = set()
            room, before = self._budget.limit // 3, self._bytes
            for held in reversed(self._pinned.values()):
                image = self._held.get(held)
                if image is not None and image.sizeInBytes() <= room:
                    room -= image.sizeInBytes()
                    pinned.add(held)
            for held in [h for h in self._held if h not in pinned]:
                if before - self._bytes >= much or len(self._held) <= 4:
                    break
                self._bytes -= self._held.pop(held).sizeInBytes()
                self._stand_ins.discard(held)
            return before - self._bytes
