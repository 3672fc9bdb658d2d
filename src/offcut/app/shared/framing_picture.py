"""A picture with its framing on it: what is left out is darkened, its edges can be dragged."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.theme import WAX, WELL, WELL_FAINT, WELL_TEXT, font
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.source import SMALLEST, WHOLE, Framing, Media

_NEAR = 12.0
_HANDLE = 9.0
_DARK = QColor(16, 16, 16, 150)
_SHAPES = {
    frozenset(("left",)): Qt.CursorShape.SizeHorCursor,
    frozenset(("right",)): Qt.CursorShape.SizeHorCursor,
    frozenset(("top",)): Qt.CursorShape.SizeVerCursor,
    frozenset(("bottom",)): Qt.CursorShape.SizeVerCursor,
    frozenset(("left", "top")): Qt.CursorShape.SizeFDiagCursor,
    frozenset(("right", "bottom")): Qt.CursorShape.SizeFDiagCursor,
    frozenset(("right", "top")): Qt.CursorShape.SizeBDiagCursor,
    frozenset(("left", "bottom")): Qt.CursorShape.SizeBDiagCursor,
}
_OTHER = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}


class FramingPicture(QWidget):
    """A frame of a film in the room there is, its framing drawn on it.

    ``dragged`` tells of a framing while it is dragged, ``dropped`` of the one at the end.
    """

    dragged = Signal(object)
    dropped = Signal(object)

    def __init__(self, pictures: PicturesInHand, asker: str, margin: int = 12) -> None:
        super().__init__()
        self._pictures = pictures
        self._asker = asker
        self._margin = margin
        self._media: Media | None = None
        self.framing = WHOLE
        self.frame = 0
        self._sides: frozenset[str] = frozenset()
        self._before = WHOLE
        self.empty_words: tuple[str, ...] = ()
        self.setMouseTracking(True)
        self.setMinimumSize(120, 90)
        pictures.arrived.connect(self.update)

    def show_media(self, media: Media | None) -> None:
        """Show another film."""
        self._media = media
        self._want()

    def show_frame(self, frame: int) -> None:
        """Show another frame."""
        self.frame = frame
        self._want()

    def show_framing(self, framing: Framing) -> None:
        """Show another framing."""
        if not self._sides:
            self.framing = framing
            self.update()

    def seen_size(self) -> tuple[int, int]:
        """Return the size of the picture, in pixels of the screen."""
        scale = self.devicePixelRatioF()
        place = self.place()
        return max(2, round(place.width() * scale)), max(2, round(place.height() * scale))

    def place(self) -> QRectF:
        """Return where the picture lies on the widget."""
        if self._media is None:
            return QRectF()
        room = self.rect().adjusted(self._margin, self._margin, -self._margin, -self._margin)
        wide, high = fit(*shown_size(self._media), max(16, room.width()), max(16, room.height()))
        left = room.left() + (room.width() - wide) // 2
        top = room.top() + (room.height() - high) // 2
        return QRectF(left, top, wide, high)

    def inside(self) -> QRectF:
        """Return where the framing lies on the widget."""
        place = self.place()
        if self._media is None:
            return place
        across, down = place.width() / self._media.width, place.height() / self._media.height
        f = self.framing
        return place.adjusted(f.left * across, f.top * down, -f.right * across, -f.bottom * down)

    def _want(self) -> None:
        if self._media is not None and self.isVisible():
            size = self.seen_size()
            self._pictures.want(self._asker, [self.frame], *size)
            ahead = range(self.frame + 1, min(self.frame + 10, self._media.frames))
            self._pictures.want("ahead", ahead if self._pictures.moving else (), *size)
        self.update()

    def showEvent(self, event: object) -> None:
        self._want()

    def hideEvent(self, event: object) -> None:
        for asker in (self._asker, "ahead"):
            self._pictures.want(asker, [], 2, 2)

    def is_there(self) -> bool:
        """Tell whether the picture that is wanted is there."""
        return self._pictures.picture(self.frame, *self.seen_size()) is not None

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._want()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), WELL)
        if self._media is None:
            self._paint_empty(painter)
            return
        place, inside = self.place(), self.inside()
        image = self._pictures.picture(self.frame, *self.seen_size())
        if image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(place, image)
            if self._pictures.is_stand_in(self.frame, *self.seen_size()):
                painter.setFont(font(11))
                painter.setPen(WELL_FAINT)
                corner = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom
                painter.drawText(place.adjusted(6, 0, -6, -4), corner, "proxy")
        for part in (
            QRectF(place.left(), place.top(), place.width(), inside.top() - place.top()),
            QRectF(place.left(), inside.bottom(), place.width(), place.bottom() - inside.bottom()),
            QRectF(place.left(), inside.top(), inside.left() - place.left(), inside.height()),
            QRectF(inside.right(), inside.top(), place.right() - inside.right(), inside.height()),
        ):
            painter.fillRect(part, _DARK)
        painter.setPen(QPen(WAX, 2))
        painter.drawRect(inside)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor("#1C1C1C"), 1.2))
        painter.setBrush(WAX)
        half = _HANDLE / 2
        middle = inside.center()
        for x in (inside.left(), middle.x(), inside.right()):
            for y in (inside.top(), middle.y(), inside.bottom()):
                if (x, y) != (middle.x(), middle.y()):
                    spot = QRectF(x - half, y - half, _HANDLE, _HANDLE)
                    painter.drawRoundedRect(spot, 1.5, 1.5)

    def _paint_empty(self, painter: QPainter) -> None:
        """Say what to do where there is no film yet."""
        top = self.height() // 2 - 46
        for place, words in enumerate(self.empty_words):
            painter.setFont(font(20 if place == 0 else 12))
            painter.setPen(WELL_TEXT if place == 0 else WELL_FAINT)
            room = QRectF(20, top, self.width() - 40, 30)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)
            top += 38 if place == 0 else 24

    def _sides_at(self, at: QPointF) -> frozenset[str]:
        inside = self.inside()
        grown = inside.adjusted(-_NEAR, -_NEAR, _NEAR, _NEAR)
        if self._media is None or not grown.contains(at):
            return frozenset()
        found = set()
        for side, away in (
            ("left", abs(at.x() - inside.left())),
            ("right", abs(at.x() - inside.right())),
            ("top", abs(at.y() - inside.top())),
            ("bottom", abs(at.y() - inside.bottom())),
        ):
            if away <= _NEAR and _OTHER[side] not in found:
                found.add(side)
        return frozenset(found)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._sides = self._sides_at(event.position())
            self._before = self.framing

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._sides:
            shape = _SHAPES.get(self._sides_at(event.position()), Qt.CursorShape.ArrowCursor)
            self.setCursor(shape)
            return
        media, at, place = self._media, event.position(), self.place()
        if media is None:
            return
        x = (at.x() - place.left()) * media.width / place.width()
        y = (at.y() - place.top()) * media.height / place.height()
        out = {"left": x, "top": y, "right": media.width - x, "bottom": media.height - y}
        sides = {side: getattr(self.framing, side) for side in _OTHER}
        for side in self._sides:
            whole = media.width if side in ("left", "right") else media.height
            most = whole - sides[_OTHER[side]] - SMALLEST
            sides[side] = max(0, min(most, round(out[side] / 2) * 2))
        self.framing = Framing(**sides)
        self.dragged.emit(self.framing)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        moved = bool(self._sides) and self.framing != self._before
        self._sides = frozenset()
        if moved:
            self.dropped.emit(self.framing)
