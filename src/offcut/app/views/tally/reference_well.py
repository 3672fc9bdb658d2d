"""The reference: the same frame of both versions, side by side, split, swapped, their difference,
or one over the other.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from enum import StrEnum
from typing import NamedTuple

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QHideEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from offcut.app.session.session import Session
from offcut.app.shared.back_to_back import PlayedStretch
from offcut.app.shared.frame_pairs import AskedFrame, FramePairs
from offcut.app.shared.pair_player import PairPlayer
from offcut.app.theme import BODY, SMALL, WAX, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.app.views.tally.paired import Paired
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.source import Source
from offcut.core.tally.versions.changes import Change
from offcut.core.timecode import timecode_from_frame

HEAD, FOOT = 26, 64
_SOON = 15
_NEAREST = 8.0


class Look(StrEnum):
    """How two pictures are looked at."""

    BESIDE = "side by side"
    SPLIT = "split by a line"
    SWAP = "swapping"
    DIFFERENCE = "difference"
    OVER = "one over the other"


class Here(NamedTuple):
    """The frames that are shown: of the old and of the new version, None where there is none."""

    old: int | None
    new: int | None


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
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON)
        self._soon.timeout.connect(self._ask)
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

    def _bounds(self, change: Change) -> tuple[int, int]:
        """Return the frames of the new version [first, last) over which both are shown; where it is
        gone, those of the old one.
        """
        if change.new is None or change.old is None or change.offset is None:
            return change.new or change.old or (0, 1)
        old = change.old[0] - change.offset, change.old[1] - change.offset
        if change.speed != 1:
            return change.new
        return min(change.new[0], old[0]), max(change.new[1], old[1])

    @property
    def here(self) -> Here:
        """The frames that are shown."""
        change = self._tally.change
        if change is None:
            return Here(None, None)
        at = self._bounds(change)[0] + self.frame
        if change.new is None:
            return Here(at, None)
        new = self._inside(self._tally.new, at + self.later)
        if change.old is None or change.offset is None:
            return Here(None, new)
        old = at + change.offset
        if change.speed != 1:
            old = change.offset + round((at - change.new[0]) * change.speed)
        return Here(self._inside(self._tally.old, old), new)

    def _inside(self, source: Source | None, frame: int) -> int | None:
        """Return a frame, None where a film does not go so far."""
        outside = source is not None and not 0 <= frame < source.media.frames
        return None if outside else frame

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
        first, last = self._bounds(change)
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
            self.frame = self._telling_frame(change) if change is not None else 0
            self.moved.emit()
        self._ask_soon()
        self.update()

    def _telling_frame(self, change: Change) -> int:
        """Return the frame to begin with: at the end that changed, else the middle."""
        first, last = self._bounds(change)
        if change.old is None or change.new is None or change.offset is None:
            return (last - first) // 2
        held = (
            max(change.new[0], change.old[0] - change.offset) - first,
            min(change.new[1], change.old[1] - change.offset) - first,
        )
        if change.speed != 1 or held[1] <= held[0]:
            return (last - first) // 2
        if change.head and not change.tail:
            return held[0]
        if change.tail and not change.head:
            return held[1] - 1
        return sum(held) // 2

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
        if change is None:
            return
        rooms = self._rooms()
        self._paint_words(painter, rooms)
        old, new = self._images
        if self.look is Look.BESIDE:
            frames = self.here.old, self.here.new
            said = self._tally.said_of(change)
            for image, room, why, frame in zip((old, new), rooms, said, frames, strict=True):
                on_its_way = self._being_read and frame is not None
                self._paint_picture(painter, image, room, "" if on_its_way else why)
        else:
            self._paint_together(painter, rooms[0], old, new)
        self._paint_track(painter, change)

    def _paint_words(self, painter: QPainter, rooms: tuple[QRectF, QRectF]) -> None:
        here, tally = self.here, self._tally
        middle = Qt.AlignmentFlag.AlignVCenter
        beside = self.look is Look.BESIDE
        for n, (words, source, frame) in enumerate(
            (
                (tally.names[0], tally.old, here.old),
                (tally.names[1], tally.new, here.new),
            )
        ):
            line = QRectF(rooms[n].left(), 0, rooms[n].width(), HEAD)
            align = middle if beside or n == 0 else middle | Qt.AlignmentFlag.AlignRight
            said = f"{words}  {_words_of(source, frame)}" if tally.new is not None else words
            painter.setFont(font(SMALL, mono=True))
            dim = self.look is Look.SWAP and bool(n) != self.swapped
            painter.setPen(WELL_FAINT if dim else WELL_TEXT)
            painter.drawText(line, align, said)

    def _paint_picture(
        self, painter: QPainter, image: QImage | None, room: QRectF, why: str
    ) -> None:
        if image is None:
            painter.setPen(WELL_FAINT if "\n" not in why else WELL_TEXT)
            painter.setFont(font(BODY))
            inside = room.adjusted(12, 0, -12, 0)
            painter.drawText(inside, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, why)
            return
        place, part = self._placed(image, room)
        painter.drawImage(place, image, part)

    def _placed(self, image: QImage, room: QRectF) -> tuple[QRectF, QRectF]:
        """Return where an image is drawn in a room, and which part of it."""
        size = image.size().scaled(room.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
        place = QRectF(0, 0, size.width(), size.height())
        place.moveCenter(room.center())
        wide, high = image.width() / self.nearer, image.height() / self.nearer
        part = QRectF(
            self._centre.x() * image.width() - wide / 2,
            self._centre.y() * image.height() - high / 2, wide, high,
        )  # fmt: skip
        return place, part

    def _paint_together(
        self, painter: QPainter, room: QRectF, old: QImage | None, new: QImage | None
    ) -> None:
        if old is None or new is None:
            self._paint_picture(painter, old if old is not None else new, room, "")
            return
        place, part = self._placed(old, room)
        new_part = self._placed(new, room)[1]
        if self.look is Look.SWAP:
            image, shown = (new, new_part) if self.swapped else (old, part)
            painter.drawImage(place, image, shown)
        elif self.look is Look.SPLIT:
            painter.drawImage(place, old, part)
            x = place.left() + self.split * place.width()
            painter.save()
            painter.setClipRect(QRectF(x, place.top(), place.right() - x, place.height()))
            painter.drawImage(place, new, new_part)
            painter.restore()
            painter.setPen(QPen(QColor("#FFFFFF"), 1.5))
            painter.drawLine(QPointF(x, place.top()), QPointF(x, place.bottom()))
        elif self.look is Look.OVER:
            painter.drawImage(place, old, part)
            painter.setOpacity(self.share)
            painter.drawImage(place, new, new_part)
            painter.setOpacity(1.0)
        else:
            size = place.size().toSize() * self.devicePixelRatioF()
            painter.drawImage(place, _difference(old, part, new, new_part, size, self.gain))

    def _paint_track(self, painter: QPainter, change: Change) -> None:
        """Draw the shot as long as it is in both, what changed in wax, and where one is."""
        first, last = self._bounds(change)
        line = self._track()
        each = line.width() / max(1, last - first)

        def across(span: tuple[int, int]) -> tuple[float, float]:
            return line.left() + (span[0] - first) * each, (span[1] - span[0]) * each

        painter.setPen(Qt.PenStyle.NoPen)
        tied = change.old is not None and change.new is not None and change.offset is not None
        spans = [(change.new or change.old or (0, 1), WELL_FAINT)]
        if tied and change.speed == 1:
            assert change.old is not None
            assert change.new is not None
            assert change.offset is not None
            old = change.old[0] - change.offset, change.old[1] - change.offset
            held = max(old[0], change.new[0]), min(old[1], change.new[1])
            spans = [((first, last), WAX), (held, QColor("#8C8C8C"))]
        for side, lead in enumerate((change.offset if tied and change.speed == 1 else None, 0)):
            if lead is None:
                continue
            painter.setBrush(WELL_FAINT)
            for at in self._marks(side, first + lead, last + lead):
                x = across((at - lead, at - lead))[0]
                top = line.center().y() + (3 if side else -11)
                painter.drawRect(QRectF(x - 0.75, top, 1.5, 8))
        for span, colour in spans:
            x, wide = across(span)
            painter.setBrush(colour)
            painter.drawRoundedRect(QRectF(x, line.center().y() - 3, max(2.0, wide), 6), 3, 3)
        x = line.left() + (self.frame + 0.5) * each
        painter.fillRect(QRectF(x - 1, line.top(), 2, line.height()), QColor("#FFFFFF"))
        painter.setFont(font(SMALL))
        painter.setPen(WELL_TEXT)
        words = QRectF(line.left(), line.bottom() + 2, line.width(), 18)
        said = self._tally.told(change).words
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, said)
        painter.setPen(WELL_FAINT)
        about = _about(self)
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(words, right, about)
        painter.setPen(WELL_LINE)

    def _marks(self, side: int, first: int, last: int) -> list[int]:
        """Return the joins of a side within frames, not those at which they end."""
        marks = self._tally.marks(side)
        return list(marks[bisect_right(marks, first) : bisect_left(marks, last)])

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


def _words_of(source: Source | None, frame: int | None) -> str:
    if source is None or frame is None:
        return "not there"
    media = source.media
    frame = min(max(0, frame), media.frames - 1)
    return timecode_from_frame(media.start + frame, media.rate, media.drop)


def _difference(
    old: QImage, old_part: QRectF, new: QImage, new_part: QRectF, size: QSize, gain: float
) -> QImage:
    """Return how far two pictures differ, made stronger, in grey for the same."""
    made = QImage(size, QImage.Format.Format_RGB32)
    made.fill(QColor("#000000"))
    painter = QPainter(made)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    whole = QRectF(0, 0, size.width(), size.height())
    painter.drawImage(whole, old, old_part)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Difference)
    painter.drawImage(whole, new, new_part)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Plus)
    done, wanted = 1.0, max(1.0, gain)
    while done < wanted:
        again = made.copy()
        painter.setOpacity(min(1.0, wanted / done - 1.0))
        painter.drawImage(0, 0, again)
        done *= 2
    painter.end()
    return made
