"""Playing: moves the playhead in real time, in step with the sound, over a loop if asked."""

from __future__ import annotations

import time
from fractions import Fraction

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from offcut.app.session.session import Session
from offcut.app.shared.player_sound import Sound
from offcut.core.media.sound import time_of_frame

SPEEDS = (1, 2, 4, 8)


class Player(QObject):
    """The clock of the player.

    Attributes: ``speed`` 0 when stopped, negative backwards; ``loop`` the frames [first, last)
    played round and round, or None; ``dropped`` and ``shown`` pictures since it began.
    """

    changed = Signal()

    def __init__(self, session: Session, sound: Sound | None = None) -> None:
        super().__init__(session)
        self._session = session
        self.sound = sound or Sound()
        self.speed = 0
        self.loop: tuple[int, int] | None = None
        self.dropped = self.shown = 0
        self._back_to: int | None = None
        self._from = 0
        self._began = 0.0
        self._sounding = False
        self._told_silent = self._told_slow = False
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        session.film_changed.connect(self._film_changed)

    def _film_changed(self) -> None:
        film = self._session.film
        if film is self.sound.film:
            return
        self.stop()
        self._told_slow = False
        self.sound.film = film if film is not None and film.tracks else None

    def toggle(self) -> None:
        """Play, or stop. On a seam: across it, a second before and after, again and again."""
        if self.speed:
            self.stop()
            return
        source = self._session.source
        if source is None:
            return
        seam = self._session.seam_here()
        self.loop = self._back_to = None
        if seam is not None:
            second = round(source.media.rate)
            self.loop = (max(0, seam.start - second), min(source.media.frames, seam.end + second))
            self._back_to = self._session.playhead
            self._session.go_to(self.loop[0])
        self._start(1)

    def round_and_round(self, first: int, last: int) -> None:
        """Play frames [first, last) again and again."""
        self.stop()
        self.loop, self._back_to = (first, last), None
        self._session.go_to(first)
        self._start(1)

    def toggle_range(self) -> None:
        """Play the marked range again and again, or the shot where nothing is marked; or stop."""
        if self.speed:
            self.stop()
            return
        shot = self._session.shot_here()
        marked = self._session.marked or ((shot.start, shot.end) if shot else None)
        if marked is not None:
            self.round_and_round(*marked)

    def faster(self, way: int) -> None:
        """L and J: play that way; again, go up a speed."""
        self.loop = self._back_to = None
        if self.speed * way > 0:
            at = SPEEDS.index(abs(self.speed))
            self._start(way * SPEEDS[min(at + 1, len(SPEEDS) - 1)])
        else:
            self._start(way)

    def stop(self) -> None:
        """Stop here; after playing across a seam, back on it."""
        if not self.speed:
            return
        self.speed = 0
        self._timer.stop()
        self.sound.stop()
        self._sounding = False
        back, self._back_to, self.loop = self._back_to, None, None
        if back is not None:
            self._session.go_to(back)
        self.changed.emit()

    def close(self) -> None:
        """Stop for good."""
        self.stop()
        self.sound.close()

    def _start(self, speed: int) -> None:
        source = self._session.source
        if source is None:
            return
        self.speed = speed
        self.dropped = self.shown = 0
        self._begin_at(self._session.playhead)
        self._timer.start(max(4, round(500 / source.media.rate)))
        self.changed.emit()

    def _begin_at(self, frame: int) -> None:
        source, film = self._session.source, self._session.film
        self._from, self._began = frame, time.monotonic()
        self._sounding = False
        self.sound.stop()
        if self.speed == 1 and source is not None and film is not None and self.sound.film:
            self._sounding = self.sound.start(time_of_frame(film.index, frame, source.media.rate))

    def _frame_now(self, rate: Fraction) -> int:
        film = self._session.film
        if self._sounding and film is not None:
            moment = self.sound.moment()
            if moment is None:
                if self.sound.is_quiet(self._began):
                    self._go_on_silent()
                return self._from
            gone = moment - time_of_frame(film.index, self._from, rate)
            return self._from + int(gone * rate)
        return self._from + int((time.monotonic() - self._began) * self.speed * rate)

    def _go_on_silent(self) -> None:
        self.sound.stop()
        self._sounding = False
        self._began = time.monotonic()

    def _tick(self) -> None:
        if self.sound.missing and not self._told_silent:
            self._told_silent = True
            self._session.said.emit("There is no sound device: playing without sound")
        if self.sound.trouble:
            self._session.failed.emit(f"{self.sound.trouble}: playing without it")
            self.sound.trouble = ""
        source = self._session.source
        if source is None:
            self.stop()
            return
        to = self._frame_now(source.media.rate)
        if self.loop is not None and to >= self.loop[1]:
            to = self.loop[0]
            self._begin_at(to)
        elif not 0 <= to < source.media.frames:
            self._session.go_to(to)
            self.stop()
            return
        self._session.go_to(to)

    def count_picture(self, there: bool) -> None:
        """Hear from the large picture whether a frame was there when its moment came."""
        if not self.speed:
            return
        self.shown += there
        self.dropped += not there
        whole = self.shown + self.dropped
        if self.speed == 1 and whole > 72 and self.dropped > whole / 4 and not self._told_slow:
            self._told_slow = True
            self._session.said.emit("This film decodes slower than it plays: pictures are left out")
