"""Playing: moves the playhead in real time, forwards and backwards, over a loop if asked."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from offcut.app.session import Session

SPEEDS = (1, 2, 4, 8)


class Playing(QObject):
    """The clock of the player. ``speed`` is 0 when stopped, negative backwards."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.speed = 0
        self._loop: tuple[int, int] | None = None
        self._from = 0
        self._began = 0.0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)

    def toggle(self) -> None:
        """Play, or stop. On a seam: across it, a second before and after, again and again."""
        if self.speed:
            self.stop()
            return
        source = self._session.source
        if source is None:
            return
        seam = self._session.seam_here()
        if seam is not None:
            second = round(source.media.rate)
            self._loop = (max(0, seam.start - second), min(source.media.frames, seam.end + second))
            self._session.go_to(self._loop[0])
        else:
            self._loop = None
        self._start(1)

    def faster(self, way: int) -> None:
        """L and J: play that way; again, go up a speed."""
        self._loop = None
        if self.speed * way > 0:
            at = SPEEDS.index(abs(self.speed))
            self._start(way * SPEEDS[min(at + 1, len(SPEEDS) - 1)])
        else:
            self._start(way)

    def stop(self) -> None:
        """Stop here; after a loop, back on its seam."""
        if not self.speed:
            return
        self.speed = 0
        self._timer.stop()
        if self._loop is not None:
            second = round(self._session.source.media.rate) if self._session.source else 0
            chosen = self._session.selected
            loop, self._loop = self._loop, None
            if len(chosen) == 1:
                self._session.select(chosen[0])
            else:
                self._session.go_to(loop[0] + second)
        self.changed.emit()

    def _start(self, speed: int) -> None:
        if self._session.source is None:
            return
        self.speed = speed
        self._from, self._began = self._session.playhead, time.monotonic()
        self._timer.start(max(4, round(500 / self._session.source.media.rate)))
        self.changed.emit()

    def _tick(self) -> None:
        source = self._session.source
        if source is None:
            self.stop()
            return
        gone = int((time.monotonic() - self._began) * self.speed * source.media.rate)
        to = self._from + gone
        if self._loop is not None:
            first, last = self._loop
            if to >= last:
                self._from, self._began = first, time.monotonic()
                to = first
        elif not 0 <= to < source.media.frames:
            self._session.go_to(to)
            self.stop()
            return
        self._session.go_to(to)
