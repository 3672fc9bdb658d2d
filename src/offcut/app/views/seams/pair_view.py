"""The large picture: the pair when parked on a seam, one picture anywhere else."""

from __future__ import annotations

from enum import Enum
from itertools import pairwise

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QHideEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.player import Player
from offcut.app.shared.wax_marks import draw_mark
from offcut.app.theme import SMALL, WELL, WELL_DEEP, WELL_FAINT, WELL_TEXT, font
from offcut.app.views.seams.difference import difference
from offcut.app.views.seams.seam_list import pair_frames
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.seam import Seam
from offcut.core.model.shots import Shot, is_counted
from offcut.core.model.source import Media
from offcut.core.timecode import rate_words, timecode_from_frame

MARGIN, HEAD = 10, 24
NEAREST = 8.0
PATIENCE_MS = 200
"""After so long a picture that is still being read is spoken of."""
SWAP_MS = 250
"""Each picture of a swapping pair stays this long: twice a second there and back, 2 Hz."""


class Look(Enum):
    """The three ways to look at a pair."""

    SIDE = "side by side"
    SWAP = "swapping"
    DIFFERENCE = "difference"


class PairView(QWidget):
    """Draws the last frame before and the first after a seam, its mark between.

    The wheel goes nearer and farther, a drag moves, both pictures alike. ``menu_wanted`` tells of
    what kind of thing a menu is asked for, and where on the screen.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, pictures: PicturesInHand, playing: Player) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures
        self._playing = playing
        self._last: QImage | None = None
        self._of = 0
        self._moved_back = False
        self._was_at = 0
        self.look = Look.SIDE
        self._held = False
        self._after = False
        self.near = 1.0
        self._middle = QPointF(0.5, 0.5)
        self._drag: QPointF | None = None
        self._dragged: tuple[int, int, int] | None = None
        self._swap = QTimer(self)
        self._swap.setInterval(SWAP_MS)
        self._swap.timeout.connect(self._turn)
        self._patience = soon(self, PATIENCE_MS, self.update)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Picture, or the pair of a seam")
        session.moved.connect(self._move)
        session.changed.connect(self._want)
        session.selection_changed.connect(self._want)
        session.film_changed.connect(self._turn_to_film)
        playing.changed.connect(self._want)
        session.dragging.connect(self._show_drag)
        pictures.arrived.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(700, 300)

    def minimumSizeHint(self) -> QSize:
        return QSize(360, 170)

    def _turn_to_film(self) -> None:
        """Show the film in hand; the whole of its picture where it is another one than before."""
        if self._of != self._session.in_hand:
            self._of = self._session.in_hand
            self._last = None
            self.whole()
        else:
            self._want()

    # ways to look

    def next_look(self) -> None:
        """Side by side, swapping, difference, and round again."""
        ways = list(Look)
        self.set_look(ways[(ways.index(self.look) + 1) % len(ways)])

    def set_look(self, look: Look) -> None:
        """Look at pairs in one of the three ways."""
        self.look = look
        self._session.said.emit(f"The pair {look.value}")
        self._show_swap()

    def hold_swap(self) -> None:
        """Swap for as long as a key is held."""
        if not self._held:
            self._held = True
            self._show_swap()

    def release_swap(self) -> None:
        """The key is let go."""
        if self._held:
            self._held = False
            self._show_swap()

    @property
    def shown_look(self) -> Look:
        """The way in force now."""
        return Look.SWAP if self._held else self.look

    def _show_swap(self) -> None:
        swapping = self.shown_look is Look.SWAP
        if swapping and not self._swap.isActive():
            self._after = True
            self._swap.start()
        elif not swapping:
            self._swap.stop()
        self._want()

    def _turn(self) -> None:
        self._after = not self._after
        self.update()

    def nearer(self) -> None:
        """Show the middle larger."""
        self._zoom(1.5, None)

    def farther(self) -> None:
        """Show more of the picture."""
        self._zoom(1 / 1.5, None)

    def whole(self) -> None:
        """Show all of the picture."""
        self.near, self._middle = 1.0, QPointF(0.5, 0.5)
        self._want()

    def _zoom(self, factor: float, at: QPointF | None) -> None:
        """Zoom about a place in the picture, both given as shares of it."""
        old = self.near
        self.near = max(1.0, min(NEAREST, old * factor))
        if at is not None and self.near > 1:
            self._middle += (at - QPointF(0.5, 0.5)) * (1 / old - 1 / self.near)
        self._hold_inside()
        self._want()

    def _hold_inside(self) -> None:
        half = 0.5 / self.near
        self._middle = QPointF(
            max(half, min(1 - half, self._middle.x())), max(half, min(1 - half, self._middle.y()))
        )

    # what is shown

    @property
    def waiting(self) -> bool:
        """True when what is shown is not yet what the playhead is at, and has not been for long."""
        if self._session.film_missing or self._playing.speed or self._patience.isActive():
            return False
        size = self._size(self._cells()[0])
        return any(self._pictures.picture(f, *size) is None for f in self._frames())

    def seam_shown(self) -> Seam | None:
        """Return the seam whose pair is shown, None when one picture is."""
        return None if self._playing.speed else self._session.seam_here()

    def _cells(self) -> list[QRectF]:
        room = QRectF(self.rect()).adjusted(MARGIN, HEAD, -MARGIN, -MARGIN)
        if self.seam_shown() is None or self.shown_look is not Look.SIDE:
            return [room]
        half = (room.width() - 12) / 2
        return [
            QRectF(room.x(), room.y(), half, room.height()),
            QRectF(room.right() - half, room.y(), half, room.height()),
        ]

    def _frames(self) -> list[int]:
        source = self._session.source
        seam = self.seam_shown()
        if source is None:
            return []
        if seam is None:
            return [self._session.playhead]
        if self._dragged is not None:
            _, start, end = self._dragged
            return [max(0, start - 1), min(source.media.frames - 1, end)]
        return list(pair_frames(seam, source.media.frames))

    def _show_drag(self, dragged: tuple[int, int, int] | None) -> None:
        """Show the pair a drag under way would give."""
        self._dragged = dragged
        self._want()

    def _size(self, cell: QRectF) -> tuple[int, int]:
        """Return the size to fetch for a cell, in pixels of the screen; nearer ones are larger."""
        source = self._session.source
        assert source is not None
        scale = self.devicePixelRatioF()
        wide, high = fit(
            *shown_size(source.media), int(cell.width() * scale), int(cell.height() * scale)
        )
        own = max(1.0, shown_size(source.media)[0] / max(1, wide))
        grown = min(self.near, own)
        return int(wide * grown) // 2 * 2, int(high * grown) // 2 * 2

    def _move(self, frame: int) -> None:
        self._moved_back = frame < self._was_at
        self._was_at = frame
        self._patience.start()
        self._want()
        if self._playing.speed and self._session.source is not None and self.isVisible():
            size = self._size(self._cells()[0])
            self._playing.count_picture(self._pictures.picture(frame, *size) is not None)

    def _want(self) -> None:
        if self._session.source is not None and self.width() > 60 and self.isVisible():
            size = self._size(self._cells()[0])
            self._pictures.want("large", self._frames(), *size)
            self._want_ahead(size)
        self.update()

    def _want_ahead(self, size: tuple[int, int]) -> None:
        """Fetch what is likely looked at next: the frames stepped to, the pairs walked to."""
        source = self._session.source
        assert source is not None
        here, whole = self._session.playhead, source.media.frames
        speed = self._playing.speed
        if speed:
            ahead = [here + k * speed for k in range(1, 10)]
            self._pictures.want("ahead", [f for f in ahead if 0 <= f < whole], *size)
            self._pictures.want("pairs", [], *size)
            return
        back = range(here - 1, here - (49 if self._moved_back else 13), -1)
        steps = [*back, *range(here + 1, here + 7)]
        if not self._moved_back:
            steps = [*range(here + 1, here + 13), *back]
        if self.seam_shown() is None:
            self._pictures.want("ahead", [f for f in steps if 0 <= f < whole], *size)
            room = QRectF(self.rect()).adjusted(MARGIN, HEAD, -MARGIN, -MARGIN)
            half = QRectF(0, 0, (room.width() - 12) / 2, room.height())
            pair = size if self.shown_look is not Look.SIDE else self._size(half)
        else:
            pair = size
            self._pictures.want("ahead", [], *size)
        pairs: list[int] = []
        for seam in self._session.next_stops():
            pairs += pair_frames(seam, whole)
        self._pictures.want("pairs", pairs, *pair)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._want()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        for asker in ("large", "ahead", "pairs"):
            self._pictures.want(asker, [], 2, 2)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._want()

    # painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(WELL)
        painter.drawRoundedRect(self.rect(), 6, 6)
        source = self._session.source
        if source is None:
            painter.setPen(WELL_TEXT)
            painter.setFont(font(13))
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "Open a film with Ctrl+O, or drop one here",
            )
            return
        if self._session.film_missing:
            self._draw_missing(painter, source.media)
            return
        seam = self.seam_shown()
        look = self.shown_look
        cells, frames = self._cells(), self._frames()
        if seam is None or look is Look.SIDE:
            for cell, frame in zip(cells, frames, strict=True):
                self._draw_picture(painter, cell, frame, moving=seam is None)
        elif look is Look.SWAP:
            self._draw_picture(painter, cells[0], frames[self._after], moving=False)
        else:
            self._draw_difference(painter, cells[0], frames)
        self._draw_heads(painter, seam)
        self._draw_proxy_word(painter, cells, frames)
        if seam is not None and look is Look.SIDE:
            x = self.width() / 2
            span = min(40.0, float(seam.end - seam.start)) / 2
            draw_mark(
                painter,
                seam,
                is_counted(seam, source),
                x,
                x - 4 - span / 3,
                x + 4 + span / 3,
                HEAD + 2,
                self.height() - MARGIN - 2,
                scale=1.25,
            )

    def _draw_proxy_word(self, painter: QPainter, cells: list[QRectF], frames: list[int]) -> None:
        """Say where what is seen is a proxy."""
        for cell, frame in zip(cells, frames, strict=False):
            if self._pictures.is_stand_in(frame, *self._size(cell)):
                painter.setFont(font(11))
                painter.setPen(WELL_FAINT)
                place = self._place(cell).adjusted(8, 0, -8, -5)
                corner = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom
                painter.drawText(place, corner, "proxy")

    def _draw_missing(self, painter: QPainter, media: Media) -> None:
        """Say which film is missing, and what is known of it."""
        length = timecode_from_frame(media.frames, media.rate, media.drop)
        facts = f"{media.frames} frames, {length}, {rate_words(media.rate)} fps"
        lines = (
            ("The film is missing", 20, WELL_TEXT),
            (media.path, 12, WELL_TEXT),
            (f"{facts}, {media.width}x{media.height}", 12, WELL_FAINT),
            ("Its seams can be judged and handed over all the same", 12, WELL_FAINT),
        )
        y = self.height() / 2 - 48
        for words, size, colour in lines:
            painter.setFont(font(size))
            painter.setPen(colour)
            room = QRectF(20, y, self.width() - 40, size + 10)
            fitted = painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideMiddle, int(room.width())
            )
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, fitted)
            y += size + 12

    def _place(self, cell: QRectF) -> QRectF:
        """Return where in a cell the picture lies."""
        source = self._session.source
        assert source is not None
        wide, high = fit(*shown_size(source.media), int(cell.width()), int(cell.height()))
        return QRectF(
            cell.x() + (cell.width() - wide) / 2, cell.y() + (cell.height() - high) / 2, wide, high
        )

    def _part(self, image: QImage) -> QRectF:
        """Return the part of a picture that is shown."""
        wide, high = image.width() / self.near, image.height() / self.near
        return QRectF(
            self._middle.x() * image.width() - wide / 2,
            self._middle.y() * image.height() - high / 2,
            wide,
            high,
        )

    def _draw_picture(self, painter: QPainter, cell: QRectF, frame: int, *, moving: bool) -> None:
        image = self._pictures.picture(frame, *self._size(cell))
        if image is not None and moving:
            self._last = image
        shown = image or (self._last if moving else None)
        if shown is None:
            painter.fillRect(self._place(cell), WELL_DEEP)
        else:
            if image is not None:
                self._pictures.pin(frame, *self._size(cell))
            painter.setOpacity(0.45 if image is None and self.waiting else 1.0)
            painter.drawImage(self._place(cell), shown, self._part(shown))
            painter.setOpacity(1.0)

    def _draw_difference(self, painter: QPainter, cell: QRectF, frames: list[int]) -> None:
        size = self._size(cell)
        pair = [self._pictures.picture(f, *size) for f in frames]
        before, after = pair[0], pair[-1]
        if before is None or after is None:
            painter.fillRect(self._place(cell), WELL_DEEP)
            return
        apart = difference(before, after)
        painter.drawImage(self._place(cell), apart, self._part(apart))

    def _draw_heads(self, painter: QPainter, seam: Seam | None) -> None:
        painter.setFont(font(SMALL))
        painter.setPen(WELL_FAINT)
        top = QRectF(MARGIN + 2, 2, self.width() - 2 * MARGIN - 4, HEAD - 3)
        near = f"zoomed in {self.near:.1f} times" if self.near > 1 else ""
        if self.waiting:
            near = "reading this picture …"
        painter.drawText(top, Qt.AlignmentFlag.AlignCenter, near)
        here = self._session.shot_here()
        if seam is None:
            words = here.title if here else "Outside the range"
            painter.drawText(top, Qt.AlignmentFlag.AlignVCenter, words)
            return
        before, after = "Before the seam", "After the seam"
        for earlier, later in pairwise(self._session.shots):
            if later.opened_by is not None and later.opened_by.id == seam.id:
                before, after = f"Last of {_said(earlier)}", f"First of {_said(later)}"
        if self.shown_look is Look.SWAP:
            before, after = (before, "") if not self._after else ("", after)
        elif self.shown_look is Look.DIFFERENCE:
            before, after = f"What changes from {before.lower()} to {after.lower()}", ""
        painter.drawText(top, Qt.AlignmentFlag.AlignVCenter, before)
        painter.drawText(top, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, after)

    # by hand

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self._session.source is not None:
            kind = "seam" if self.seam_shown() is not None else "picture"
            self.menu_wanted.emit(kind, event.globalPos())

    def _share_at(self, place: QPointF) -> QPointF:
        """Return a place on the widget as a share of what is shown of the picture."""
        cells = self._cells()
        cell = next((c for c in cells if c.contains(place)), cells[0])
        shown = self._place(cell)
        return QPointF(
            (place.x() - shown.x()) / max(1.0, shown.width()),
            (place.y() - shown.y()) / max(1.0, shown.height()),
        )

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._session.source is not None:
            self._zoom(1.0015 ** event.angleDelta().y(), self._share_at(event.position()))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._session.source is not None and self.near > 1:
            self._drag = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            return
        shown = self._place(self._cells()[0])
        by = event.position() - self._drag
        self._drag = event.position()
        self._middle -= QPointF(
            by.x() / max(1.0, shown.width()) / self.near,
            by.y() / max(1.0, shown.height()) / self.near,
        )
        self._hold_inside()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None
        self.setCursor(Qt.CursorShape.ArrowCursor)


def _said(shot: Shot) -> str:
    return shot.card.name or f"shot {shot.number}"
