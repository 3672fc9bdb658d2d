"""The reference: the same frame of both versions, side by side, split, swapped, their difference,
or one over the other.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QHideEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.shared.back_to_back import PlayedStretch
from offcut.app.shared.frame_pairs import AskedFrame, FramePairs
from offcut.app.shared.pair_player import PairPlayer
from offcut.app.theme import WELL
from offcut.app.views.tally.paired import Paired
from offcut.app.views.tally.well_drawing import Look, Looking, WellDrawing
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.source import Source
from offcut.core.tally.versions.changes import Change
from offcut.core.tally.versions.lockstep import (
    Here,
    frames_at,
    old_as_new,
    shown_span,
    telling_frame,
)
from offcut.core.timecode import timecode_from_frame

HEAD, FOOT = 26, 64
_SOON = 15
_NEAREST = 8.0


class ReferenceWell(QWidget):
    """Shows a change in both versions, locked to the same frame.

    Attributes: ``look`` how; ``frame`` frames from the first that either version has of the shot;
    ``later`` by how many frames the new one is shown later than it lies; ``gain`` of the
    difference; ``share`` of the new one over the old; ``split`` where the line lies, 0 to 1;
    ``swapped`` True where the new one is shown while swapping; ``nearer`` how far both are
    magnified.
    """

    moved = Signal()
    menu_asked = Signal(QPoint)

    def __init__(self, session: Session, tally: Paired) -> None:
        super().__init__()
        self._s = session
        self._tally = tally
        self.pairs = FramePairs()
        self.look = Look.BESIDE
        self.frame = self.later = 0
        self.gain, self.share, self.split = 4.0, 0.5, 0.5
        self.swapped = False
        self.nearer = 1.0
        self._centre = QPointF(0.5, 0.5)
        self._images: tuple[QImage | None, QImage | None] = (None, None)
        self._asked: object = None
        self._being_read = True
        self._of: tuple[object, object] | None = None
        self._drag: QPointF | None = None
        self.setMinimumSize(420, 240)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("The same frame of both versions")
        self._soon = soon(self, _SOON, self._ask)
        self.pairs.came.connect(self._take)
        self.player = PairPlayer(self)
        self.player.shown.connect(self._show_played)
        self.player.ended.connect(self._play_on)
        self._round = False
        self._began = 0
        tally.chosen_changed.connect(self._show_change)
        tally.changed.connect(self._show_change)

    def sizeHint(self) -> QSize:
        return QSize(700, 360)

    # where one is

    @property
    def here(self) -> Here:
        """The frames that are shown."""
        at = frames_at(self._tally.change, self.frame, self.later)
        return Here(_inside(self._tally.old, at.old), _inside(self._tally.new, at.new))

    @property
    def later_name(self) -> str:
        """What the one that can be shown later is called."""
        return self._tally.names[1]

    @property
    def length(self) -> int:
        """How many frames can be walked through."""
        change = self._tally.change
        if change is None:
            return 0
        first, last = shown_span(change)
        return last - first

    def go_to(self, frame: int) -> None:
        """Show another frame of the shot, in both."""
        self.stop()
        frame = max(0, min(self.length - 1, frame))
        if frame != self.frame:
            self.frame = frame
            self._ask_soon()
            self.moved.emit()

    def set_later(self, frames: int) -> None:
        """Show the new version so many frames later."""
        if frames != self.later:
            self.later = frames
            self._ask_soon()
            self.moved.emit()

    def set_look(self, look: Look) -> None:
        """Look at both another way."""
        self.look = look
        self._ask_soon()
        self.update()
        self.moved.emit()

    def swap(self) -> None:
        """Show the other of both."""
        self.look = Look.SWAP
        self.swapped = not self.swapped
        self._ask_soon()
        self.update()
        self.moved.emit()

    def magnify(self, times: float, at: QPointF | None = None) -> None:
        """Look nearer, or from farther, in both at once."""
        before = self.nearer
        self.nearer = max(1.0, min(_NEAREST, self.nearer * times))
        if at is not None and self.nearer > before:
            self._centre += (at - self._centre) * (1 - before / self.nearer)
        self._keep_inside()
        self._ask_soon()
        self.update()

    def fit(self) -> None:
        """Show all of both."""
        self.magnify(0.0)

    def change_gain(self, times: float) -> None:
        """Show a difference stronger or weaker, or more or less of the new one over the old."""
        if self.look is Look.OVER:
            self.share = max(0.0, min(1.0, self.share + (0.1 if times > 1 else -0.1)))
        else:
            self.look = Look.DIFFERENCE
            self.gain = max(1.0, min(64.0, self.gain * times))
        self._ask_soon()
        self.update()
        self.moved.emit()

    def _keep_inside(self) -> None:
        half = 0.5 / self.nearer
        self._centre = QPointF(
            max(half, min(1 - half, self._centre.x())), max(half, min(1 - half, self._centre.y()))
        )

    def _show_change(self) -> None:
        change = self._tally.change
        now = (change.old, change.new) if change is not None else None
        if now != self._of:
            self.stop()
            self._of = now
            self.later = 0
            self.frame = telling_frame(change) if change is not None else 0
            self.moved.emit()
        self._ask_soon()
        self.update()

    # pictures

    def _ask_soon(self) -> None:
        self._being_read = True
        if self.isVisible() and not self._soon.isActive():
            self._soon.start()

    def _ask(self) -> None:
        here, old, new = self.here, self._tally.old, self._tally.new
        ratio = self.devicePixelRatioF() * self.nearer
        room = self._rooms()[0].size() * ratio
        asked = tuple(
            AskedFrame(source, frame, self._film_of(source))
            if source is not None and frame is not None
            else None
            for source, frame in ((old, here.old), (new, here.new))
        )
        key = (here, room.width(), room.height(), old, new)
        self._asked = key
        self.pairs.want(key, (asked[0], asked[1]), (max(2, int(room.width())), int(room.height())))

    def _film_of(self, source: Source) -> OpenedFilm | None:
        held = self._s.project.holds(source.id)
        return self._s.bench_of(source.id).film if held else None

    def _take(self, key: object, old: QImage | None, new: QImage | None) -> None:
        if key == self._asked:
            self._being_read = False
            flop = old is not None and self._tally.flopped
            self._images = old.mirrored(True, False) if flop and old is not None else old, new
            self.update()

    @property
    def images(self) -> tuple[QImage | None, QImage | None]:
        """The pictures that are shown, of the old and the new version."""
        return self._images

    # playing

    def toggle_play(self) -> None:
        """Play both in step from here to the end of the shot, round and round; or stop."""
        if self.player.playing:
            self.stop()
            return
        change, here = self._tally.change, self.here
        if change is None or here.old is None or here.new is None:
            self._s.said.emit("There is only one of both to play here")
        elif change.speed != 1:
            self._s.said.emit("They run at another speed, so they are not played together")
        else:
            self._round = True
            self._play_from(self.frame)

    def stop(self) -> None:
        """Stop playing."""
        self._round = False
        self.player.stop()

    def hear_other(self) -> None:
        """Hear the other one of both."""
        self.player.heard = 1 - self.player.heard
        self._s.said.emit(f"The {self._tally.names[self.player.heard]} one is heard")
        if self.player.playing:
            at = self.frame
            self.stop()
            self._round = True
            self._play_from(at)

    def _play_from(self, frame: int) -> None:
        self.frame, self._began = frame, frame
        here, left = self.here, self.length - frame
        old, new = self._tally.old, self._tally.new
        if old is None or new is None or here.old is None or here.new is None or left < 2:
            return
        stretches = []
        for source, first in ((old, here.old), (new, here.new)):
            first = max(0, first)
            end = min(source.media.frames, first + left)
            stretches.append(PlayedStretch(source, first, end, film=self._film_of(source)))
        ratio = self.devicePixelRatioF()
        room = self._rooms()[0].size() * ratio
        size = max(2, int(room.width())), max(2, int(room.height()))
        self.player.find_proxies_in(self._s.room.proxy_folder)
        self.player.play((stretches[0], stretches[1]), size)

    def _show_played(self, old: QImage | None, new: QImage | None, count: int) -> None:
        flop = self._tally.flopped
        self._images = old.mirrored(True, False) if old is not None and flop else old, new
        self.frame = min(self.length - 1, self._began + count)
        self.update()

    def _play_on(self) -> None:
        if self._round and self.isVisible() and self.length > 2:
            QTimer.singleShot(0, self._again)

    def _again(self) -> None:
        if self._round and not self.player.playing:
            self._play_from(0)

    # drawing

    def _rooms(self) -> tuple[QRectF, QRectF]:
        """Return the room of each picture; the same one for both where they lie over each other."""
        whole = QRectF(10, HEAD, self.width() - 20, self.height() - HEAD - FOOT)
        if self.look is not Look.BESIDE:
            return whole, whole
        half = (whole.width() - 4) / 2
        return (
            QRectF(whole.left(), whole.top(), half, whole.height()),
            QRectF(whole.left() + half + 4, whole.top(), half, whole.height()),
        )

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(WELL)
        painter.drawRoundedRect(QRectF(self.rect()), 5, 5)
        change = self._tally.change
        if change is not None:
            self._paint(WellDrawing(painter, self.looking), change)

    @property
    def looking(self) -> Looking:
        """How both are looked at now."""
        return Looking(
            self.look, self.gain, self.share, self.split, self.swapped, self.nearer, self._centre,
            self.devicePixelRatioF(),
        )  # fmt: skip

    def _paint(self, drawing: WellDrawing, change: Change) -> None:
        here, tally, rooms = self.here, self._tally, self._rooms()
        old, new = self._images
        for n, (source, frame) in enumerate(((tally.old, here.old), (tally.new, here.new))):
            of = tally.names[n]
            words = f"{of}  {_words_of(source, frame)}" if tally.new is not None else of
            drawing.words(words, n, QRectF(rooms[n].left(), 0, rooms[n].width(), HEAD))
        if self.look is Look.BESIDE:
            said = tally.said_of(change)
            for image, room, why, at in zip((old, new), rooms, said, here, strict=True):
                on_its_way = self._being_read and at is not None
                drawing.picture(image, room, "" if on_its_way else why)
        else:
            drawing.together(rooms[0], old, new)
        marks = self._marks(change)
        drawing.track(
            change, self._track(), self.frame, marks, tally.told(change).words, _about(self)
        )

    def _marks(self, change: Change) -> tuple[list[int], list[int]]:
        """Return the joins inside both shots, as frames of what is shown."""
        first, last = shown_span(change)
        found: list[list[int]] = []
        for side, lead in enumerate((change.offset if old_as_new(change) else None, 0)):
            marks = self._tally.marks(side)
            if lead is None:
                found.append([])
                continue
            low, high = bisect_right(marks, first + lead), bisect_left(marks, last + lead)
            found.append([mark - lead for mark in marks[low:high]])
        return found[0], found[1]

    def _track(self) -> QRectF:
        return QRectF(24, self.height() - FOOT + 10, self.width() - 48, 26)

    # hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.RightButton:
            self.menu_asked.emit(event.globalPosition().toPoint())
            return
        self._drag = event.position()
        self._drag_to(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag_to(event.position())

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._drag = None

    def _drag_to(self, place: QPointF) -> None:
        assert self._drag is not None
        line = self._track()
        if self._drag.y() >= line.top() - 4:
            share = (place.x() - line.left()) / max(1.0, line.width())
            self.go_to(int(share * self.length))
        elif self.look is Look.SPLIT and self.nearer == 1.0:
            room = self._rooms()[0]
            self.split = max(0.0, min(1.0, (place.x() - room.left()) / max(1.0, room.width())))
            self.update()
        elif self.nearer > 1.0:
            room = self._rooms()[0]
            by = place - self._drag
            self._centre -= QPointF(
                by.x() / room.width() / self.nearer, by.y() / room.height() / self.nearer
            )
            self._keep_inside()
            self._drag = place
            self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            room = self._rooms()[0]
            at = event.position() - room.topLeft()
            self.magnify(
                1.25 if event.angleDelta().y() > 0 else 0.8,
                QPointF(at.x() / room.width(), at.y() / room.height()),
            )
        else:
            self.go_to(self.frame + (-1 if event.angleDelta().y() > 0 else 1))

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.stop()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._ask_soon()


def _about(well: ReferenceWell) -> str:
    """Return what is set of the look, in a few words."""
    said, name = [], well.later_name
    if well.later:
        said.append(f"{name} {abs(well.later)} fr {'later' if well.later > 0 else 'earlier'}")
    if well.look is Look.DIFFERENCE:
        said.append(f"difference x {well.gain:g}")
    if well.look is Look.OVER:
        said.append(f"{name} at {well.share:.0%}")
    if well.nearer > 1:
        said.append(f"{well.nearer:.1f} x nearer")
    return ", ".join(said)


def _inside(source: Source | None, frame: int | None) -> int | None:
    """Return a frame, None where a film does not go so far."""
    if frame is None or (source is not None and not 0 <= frame < source.media.frames):
        return None
    return frame


def _words_of(source: Source | None, frame: int | None) -> str:
    if source is None or frame is None:
        return "not there"
    media = source.media
    frame = min(max(0, frame), media.frames - 1)
    return timecode_from_frame(media.start + frame, media.rate, media.drop)
