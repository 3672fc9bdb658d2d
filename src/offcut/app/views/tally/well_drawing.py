"""The reference drawn: both beside, split, swapped, their difference, one over the other."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from offcut.app.theme import BODY, SMALL, WAX, WELL_FAINT, WELL_TEXT, font
from offcut.core.tally.versions.changes import Change
from offcut.core.tally.versions.lockstep import held_span, shown_span

_WHITE, _GREY = QColor("#FFFFFF"), QColor("#8C8C8C")


class Look(StrEnum):
    """How two pictures are looked at."""

    BESIDE = "side by side"
    SPLIT = "split by a line"
    SWAP = "swapping"
    DIFFERENCE = "difference"
    OVER = "one over the other"


@dataclass(frozen=True)
class Looking:
    """How both are looked at: as `ReferenceWell` has it; ``centre`` in shares of the picture."""

    look: Look
    gain: float
    share: float
    split: float
    swapped: bool
    nearer: float
    centre: QPointF
    ratio: float


class WellDrawing:
    """Draws both versions of a shot."""

    def __init__(self, painter: QPainter, looking: Looking) -> None:
        self._painter = painter
        self._l = looking

    def words(self, said: str, side: int, line: QRectF) -> None:
        """Draw what stands above a side: beside each other, or at both ends."""
        align = Qt.AlignmentFlag.AlignVCenter
        if self._l.look is not Look.BESIDE and side:
            align |= Qt.AlignmentFlag.AlignRight
        self._painter.setFont(font(SMALL, mono=True))
        dim = self._l.look is Look.SWAP and bool(side) != self._l.swapped
        self._painter.setPen(WELL_FAINT if dim else WELL_TEXT)
        self._painter.drawText(line, align, said)

    def picture(self, image: QImage | None, room: QRectF, why: str) -> None:
        """Draw one picture, or in words why there is none."""
        painter = self._painter
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
        wide, high = image.width() / self._l.nearer, image.height() / self._l.nearer
        part = QRectF(
            self._l.centre.x() * image.width() - wide / 2,
            self._l.centre.y() * image.height() - high / 2, wide, high,
        )  # fmt: skip
        return place, part

    def together(self, room: QRectF, old: QImage | None, new: QImage | None) -> None:
        """Draw both in one room."""
        if old is None or new is None:
            self.picture(old if old is not None else new, room, "")
            return
        painter, how = self._painter, self._l
        place, part = self._placed(old, room)
        new_part = self._placed(new, room)[1]
        if how.look is Look.SWAP:
            image, shown = (new, new_part) if how.swapped else (old, part)
            painter.drawImage(place, image, shown)
        elif how.look is Look.SPLIT:
            painter.drawImage(place, old, part)
            x = place.left() + how.split * place.width()
            painter.save()
            painter.setClipRect(QRectF(x, place.top(), place.right() - x, place.height()))
            painter.drawImage(place, new, new_part)
            painter.restore()
            painter.setPen(QPen(_WHITE, 1.5))
            painter.drawLine(QPointF(x, place.top()), QPointF(x, place.bottom()))
        elif how.look is Look.OVER:
            painter.drawImage(place, old, part)
            painter.setOpacity(how.share)
            painter.drawImage(place, new, new_part)
            painter.setOpacity(1.0)
        else:
            size = place.size().toSize() * how.ratio
            painter.drawImage(place, _difference(old, part, new, new_part, size, how.gain))

    def track(
        self,
        change: Change,
        line: QRectF,
        frame: int,
        marks: tuple[list[int], list[int]],
        words: str,
        about: str,
    ) -> None:
        """Draw the shot as long as it is in both, what changed in wax, and where one is.

        ``marks`` are the joins of each side, ``words`` what changed, ``about`` what is set.
        """
        painter = self._painter
        first, last = shown_span(change)
        each = line.width() / max(1, last - first)

        def x_of(at: float) -> float:
            return line.left() + (at - first) * each

        painter.setPen(Qt.PenStyle.NoPen)
        held = held_span(change)
        spans = [(change.new or change.old or (0, 1), WELL_FAINT)]
        if held is not None:
            spans = [((first, last), WAX), (held, _GREY)]
        painter.setBrush(WELL_FAINT)
        for side, joins in enumerate(marks):
            for at in joins:
                top = line.center().y() + (3 if side else -11)
                painter.drawRect(QRectF(x_of(at) - 0.75, top, 1.5, 8))
        for (start, end), colour in spans:
            wide = max(2.0, (end - start) * each)
            painter.setBrush(colour)
            painter.drawRoundedRect(QRectF(x_of(start), line.center().y() - 3, wide, 6), 3, 3)
        x = x_of(first + frame + 0.5)
        painter.fillRect(QRectF(x - 1, line.top(), 2, line.height()), _WHITE)
        painter.setFont(font(SMALL))
        below = QRectF(line.left(), line.bottom() + 2, line.width(), 18)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(WELL_TEXT)
        painter.drawText(below, middle, words)
        painter.setPen(WELL_FAINT)
        painter.drawText(below, middle | Qt.AlignmentFlag.AlignRight, about)


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
