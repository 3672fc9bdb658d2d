"""Playing two films in step: the same stretch of both, with the sound of either."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from offcut.app.shared.back_to_back import BackToBack, DueDecoder, PlayedStretch


class PairPlayer(QObject):
    """Plays two stretches of as many frames, frame on frame.

    The one that is heard leads; the other follows its clock, whatever rate it runs at itself.
    ``shown`` tells both pictures and how many frames it has come; ``ended`` the end.

    Attributes: ``heard`` which of both is heard, 0 or 1; ``playing`` True meanwhile.
    """

    shown = Signal(object, object, int)
    ended = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.heard = 1
        self.playing = False
        self._leader = BackToBack(self)
        self._leader.shown.connect(self._show)
        self._leader.ended.connect(self._end)
        self._follower: DueDecoder | None = None
        self._last: QImage | None = None
        self._begins = 0
        self._leads = 1

    def find_proxies_in(self, folder: Path | None) -> None:
        """Say where proxies lie, None for the usual place; where there are any they are shown."""
        self._leader.proxy_folder = folder

    @property
    def counts(self) -> tuple[int, int]:
        """How many pictures of the leading one were shown, and left out."""
        return self._leader.count, self._leader.dropped

    def play(self, pair: tuple[PlayedStretch, PlayedStretch], room: tuple[int, int]) -> None:
        """Play both stretches, pictures fitted into so many pixels."""
        self.stop()
        self._leads = self.heard
        first, other = pair[self._leads], pair[1 - self._leads]
        media = replace(other.source.media, rate=first.source.media.rate)
        other = replace(other, source=replace(other.source, media=media))
        self._begins, self._last = first.start, None
        self.playing = True
        follower = self._follower = DueDecoder((other,), room, self._leader)
        self._leader.together_with = follower
        self._leader.play([first], room)
        follower.start()

    def stop(self) -> None:
        """Stop both."""
        if self.playing:
            self.playing = False
            self._leader.stop()

    def close(self) -> None:
        """Stop for good."""
        self.stop()
        self._leader.close()

    def _show(self, image: QImage, _stretch: int, frame: int) -> None:
        follower = self._follower
        while follower is not None and (due := follower.next_due(self._leader.moment)) is not None:
            self._last = due.image or self._last
        pair = (image, self._last) if self._leads == 0 else (self._last, image)
        self.shown.emit(*pair, frame - self._begins)

    def _end(self) -> None:
        follower, self._follower = self._follower, None
        self._leader.together_with = None
        if follower is not None:
            follower.leave()
        self.playing = False
        self.ended.emit()
