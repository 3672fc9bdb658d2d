"""Playing stretches of any films one after another, without a gap and with their sound.

One thread decodes ahead, a second and a half at most, over the joins of stretches; so what a jump
in a film costs is over before its moment comes. Pictures that come too late are left out.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import accumulate
from pathlib import Path

from av.video.reformatter import VideoReformatter
from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QImage

from offcut.app.session.standing import StandingThread
from offcut.app.shared.picture_workers import image_of
from offcut.app.shared.player_sound import Sound
from offcut.core.errors import OffcutError
from offcut.core.media.display import display_of
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.pictures import fit, rgb_of
from offcut.core.media.probe import open_source, shown_size
from offcut.core.media.proxy import ProxyPieces, ProxyReader
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader, sound_back_to_back
from offcut.core.model.source import Source

AHEAD = Fraction(3, 2)
_READY = 6
_OPEN = 3


@dataclass(frozen=True, eq=False)
class PlayedStretch:
    """Frames [start, end) of a film, and what they are called; ``film`` where it is open."""

    source: Source
    start: int
    end: int
    title: str = ""
    film: OpenedFilm | None = None

    @property
    def seconds(self) -> Fraction:
        """How long it plays."""
        return (self.end - self.start) / self.source.media.rate


@dataclass(frozen=True, eq=False)
class _DuePicture:
    moment: Fraction
    stretch: int
    frame: int
    image: QImage | None


class BackToBack(QObject):
    """Plays stretches; ``shown`` tells the picture, its stretch and its frame, ``ended`` the end.

    Attributes: ``playing`` True meanwhile; ``moment`` seconds since the first stretch began;
    ``count`` and ``dropped`` pictures shown, and left out; ``use_proxy`` pictures come from
    proxies where there are any, which lie in ``proxy_folder``; ``together_with`` what decodes
    beside it and is waited for.
    """

    shown = Signal(QImage, int, int)
    ended = Signal()
    said = Signal(str)

    def __init__(self, parent: QObject | None = None, sound: Sound | None = None) -> None:
        super().__init__(parent)
        self.sound = sound or Sound()
        self.stretches: tuple[PlayedStretch, ...] = ()
        self.playing = False
        self.moment = Fraction(0)
        self.count = self.dropped = 0
        self.use_proxy = True
        self.proxy_folder: Path | None = None
        self.together_with: DueDecoder | None = None
        self._thread: DueDecoder | None = None
        self._began = 0.0
        self._sounding = False
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)

    @property
    def whole(self) -> Fraction:
        """How long all stretches play."""
        return sum((s.seconds for s in self.stretches), Fraction(0))

    def play(self, stretches: Sequence[PlayedStretch], room: tuple[int, int]) -> None:
        """Play stretches, pictures fitted into so many pixels."""
        self.stop()
        self.stretches = tuple(s for s in stretches if s.end > s.start)
        if not self.stretches:
            return
        self.playing = True
        self.moment, self.count, self.dropped = Fraction(0), 0, 0
        self._began = 0.0
        self._thread = DueDecoder(self.stretches, room, self)
        self._thread.start()
        self._timer.start(8)

    def stop(self) -> None:
        """Stop; ``ended`` is told where something played."""
        self._timer.stop()
        self.sound.stop()
        if self._thread is not None:
            self._thread.leave()
            self._thread = None
        if self.playing:
            self.playing = False
            self.ended.emit()

    def close(self) -> None:
        """Stop for good."""
        self.stop()
        self.sound.close()

    def now(self) -> Fraction:
        """Return the moment that is due, 0 before it began. Any thread may ask."""
        if not self._began:
            return Fraction(0)
        if self._sounding:
            return self.sound.moment() or Fraction(0)
        return Fraction(time.monotonic() - self._began)

    def _tick(self) -> None:
        thread = self._thread
        if thread is None:
            return
        if not self._began:
            beside = self.together_with
            if not thread.ready or (beside is not None and not beside.ready):
                return
            self._began = time.monotonic()
            films = thread.films
            runs = [(films.get(s.source.id, s.film), s.start, s.end, s.source.media.rate)
                    for s in self.stretches]  # fmt: skip
            self._sounding = any(f is not None and f.tracks for f, *_ in runs) and self.sound.play(
                lambda: sound_back_to_back(runs), Fraction(0)
            )
        if self._sounding and self.sound.is_quiet(self._began):
            self.sound.stop()
            self._sounding = False
            self._began = time.monotonic()
        self.moment = self.now()
        last: _DuePicture | None = None
        while (due := thread.next_due(self.moment)) is not None:
            if last is not None:
                self.dropped += 1
            last = due
        if last is not None:
            self.count += 1
            if last.image is not None:
                self.shown.emit(last.image, last.stretch, last.frame)
        if self.moment >= self.whole:
            self.dropped += thread.skipped
            for problem in thread.problems:
                self.said.emit(problem)
            self.stop()


class DueDecoder(StandingThread):
    """Decodes pictures ahead of their moments."""

    again = False

    def __init__(
        self, stretches: tuple[PlayedStretch, ...], room: tuple[int, int], clock: BackToBack
    ) -> None:
        super().__init__()
        self._stretches = stretches
        self._begins = [Fraction(0), *accumulate(s.seconds for s in stretches)]
        self._room = room
        self._clock = clock
        self._lock = threading.Condition()
        self._queue: deque[_DuePicture] = deque()
        self._over = False
        self.skipped = 0
        self.films: dict[int, OpenedFilm | None] = {}
        self.problems: list[str] = []
        self._readers: dict[int, Reader] = {}

    @property
    def ready(self) -> bool:
        """True once there are pictures to begin with."""
        with self._lock:
            return len(self._queue) >= _READY or self._over

    def next_due(self, moment: Fraction) -> _DuePicture | None:
        """Return the next picture whose moment has come."""
        with self._lock:
            if self._queue and self._queue[0].moment <= moment:
                self._lock.notify_all()
                return self._queue.popleft()
        return None

    def wake(self) -> None:
        with self._lock:
            self._lock.notify_all()

    def serve(self) -> None:
        for stretch in self._stretches:  # opened first: the sound needs them all
            if stretch.source.id not in self.films and not self.leaving.is_set():
                self.films[stretch.source.id] = self._opened(stretch)
        for n, stretch in enumerate(self._stretches):
            self._play(n, stretch)
            if self.leaving.is_set():
                return

    def let_go(self) -> bool:
        with self._lock:
            self._over = True
        for reader in self._readers.values():
            reader.close()
        return bool(self._readers)

    def _opened(self, stretch: PlayedStretch) -> OpenedFilm | None:
        if stretch.film is not None:
            return stretch.film
        media = stretch.source.media
        try:
            return as_set(open_source(media.path, media.run), stretch.source)
        except OffcutError as error:
            self.problems.append(str(error))
            return None

    def _reader(self, stretch: PlayedStretch) -> Reader | None:
        film = self.films.get(stretch.source.id)
        if film is None:
            return None
        reader = self._readers.pop(stretch.source.id, None)
        if reader is None:
            pieces = ProxyPieces(film.media, self._clock.proxy_folder)
            if self._clock.use_proxy and pieces.there():
                plain = film  # what the proxy lacks, the film gives
                reader = ProxyReader(
                    pieces, lambda: open_reader(plain, Purpose.PLAY, threads=2), film.index
                )
            else:
                reader = open_reader(film, Purpose.PLAY, threads=2)
        self._readers[stretch.source.id] = reader
        while len(self._readers) > _OPEN:
            self._readers.pop(next(iter(self._readers))).close()
        return reader

    def _play(self, n: int, stretch: PlayedStretch) -> None:
        rate = stretch.source.media.rate
        reformatter = VideoReformatter()
        try:
            reader = self._reader(stretch)
        except OffcutError as error:
            self.problems.append(str(error))
            reader = None
        size = fit(*shown_size(stretch.source.media), *self._room)
        display = None
        try:
            display = display_of(stretch.source.ticket.display)
        except OffcutError as error:
            self.problems.append(str(error))
        frame = stretch.start
        while frame < stretch.end and not self.leaving.is_set():
            moment = self._begins[n] + (frame - stretch.start) / rate
            late = int((self._clock.now() - moment) * rate)
            if late > 2:  # leave out what is over already
                self.skipped += min(late, stretch.end - 1 - frame)
                frame = min(stretch.end - 1, frame + late)
                moment = self._begins[n] + (frame - stretch.start) / rate
                if late > stretch.end - frame:
                    return
            image = None
            if reader is not None:
                try:
                    picture = reader.frame(frame)
                    rgb = rgb_of(picture, *size, reformatter, display, quick=True)
                    image = image_of(rgb)
                except (OffcutError, ValueError) as error:
                    name = Path(stretch.source.media.path).name
                    self.problems.append(f"{name}: {error}")
                    reader = None
            with self._lock:
                while not self.leaving.is_set() and moment - self._clock.now() > AHEAD:
                    self._lock.wait(0.05)
                self._queue.append(_DuePicture(moment, n, frame, image))
            frame += 1
