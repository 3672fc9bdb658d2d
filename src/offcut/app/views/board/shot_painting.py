"""How a shot is drawn on the Board: as a hanging strip, or as a picture on a sheet."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from offcut.app.shared.scene_bands import paint_band
from offcut.app.shared.shot_pictures import Wanted
from offcut.app.theme import SMALL, WAX, WELL_DEEP, font
from offcut.core.board.laying import STRIP_EDGE, STRIP_FOOT, STRIP_TOP, frames_along
from offcut.core.board.rows import BoardRow
from offcut.core.facts.findable import is_doubtful
from offcut.core.model.project import Scene
from offcut.core.store.pictures_on_the_way import STEP
from offcut.core.timecode import length_words, timecode_from_frame

PAPER, PAPER_TEXT, PAPER_FAINT = QColor("#EDEDED"), QColor("#1E1E1E"), QColor("#565656")
CUT_PAPER = QColor("#CFCFCF")
RED = QColor("#A83420")
DrawPicture = Callable[[BoardRow, Sequence[int], QRectF], None]
"""Draws the picture of a row's first frame that is there into a place."""


@dataclass(frozen=True)
class Drawn:
    """What a drawn shot needs beside its row.

    ``hover`` is the share of its length the pointer stands at, None for no pointer; ``number``
    what it is counted as; ``frame`` the one that stands for it where one picture does.
    """

    number: str
    chosen: bool
    current: bool
    focused: bool
    hover: float | None
    scene: Scene | None
    frame: int


def wanted_at(row: BoardRow, frame: int, place: QRectF, large: bool = False) -> Wanted:
    """Return the picture of a frame of a row as it is wanted for a place."""
    assert row.source is not None
    wide, high = max(1, round(place.width())), max(1, round(place.height()))
    return Wanted(row.source, frame, large, wide, high)


def shape_of(row: BoardRow) -> float:
    """Return width over height of a row's pictures as they are seen."""
    if row.source is None:
        return 16 / 9
    media = row.source.media
    pixel = media.pixel_shape
    return max(0.3, min(4.0, media.width * pixel.numerator / pixel.denominator / media.height))


def frames_of_strip(row: BoardRow, box: QRectF) -> list[int]:
    """Return the frames that a strip shows, from the top down."""
    if row.shot is None:
        return []
    high = (box.width() - 2 * STRIP_EDGE) / shape_of(row)
    room = box.height() - STRIP_TOP - STRIP_FOOT
    count = max(1, int(-(-room // max(1.0, high))))
    return frames_along(row.shot.start, max(row.shot.start + 1, row.clean_end), count)


def frame_of_sheet(row: BoardRow) -> int:
    """Return the frame that stands for a shot: that in the middle of what no seam mixes."""
    if row.shot is None:
        return 0
    start = row.shot.start
    if row.shot.opened_by is not None:
        start = min(max(start, row.shot.opened_by.end), row.shot.end - 1)
    return (start + max(start + 1, row.clean_end)) // 2


def frame_at(row: BoardRow, share: float) -> int:
    """Return the frame of a shot at a share of its length."""
    if row.shot is None:
        return 0
    return row.shot.start + min(row.shot.length - 1, max(0, int(share * row.shot.length)))


def frames_under(row: BoardRow, hover: float | None, usual: int) -> list[int]:
    """Return which frames are wanted under the pointer, the best first, and the usual one last.

    Of a long shot the nearest that measuring kept a picture of comes at once.
    """
    if hover is None or row.shot is None:
        return [usual]
    exact = frame_at(row, hover)
    near = round(exact / STEP) * STEP
    quick = [near] if row.shot.start <= near < row.shot.end else []
    return [exact, *quick, usual]


def paint_strip(
    painter: QPainter, row: BoardRow, box: QRectF, how: Drawn, picture: DrawPicture
) -> None:
    """Draw a shot as a strip of film that hangs from its rail."""
    _paint_paper(painter, row, box)
    if row.shot is None:
        _paint_gone(painter, row, box)
        return
    _paint_top(painter, row, box, how)
    wide = box.width() - 2 * STRIP_EDGE
    room = QRectF(box.left() + STRIP_EDGE, box.top() + STRIP_TOP, wide,
                  box.height() - STRIP_TOP - STRIP_FOOT)  # fmt: skip
    high = wide / shape_of(row)
    painter.save()
    painter.setClipRect(room, Qt.ClipOperation.IntersectClip)
    painter.fillRect(room, WELL_DEEP)
    shown = frames_of_strip(row, box)
    for n, frame in enumerate(shown if len(shown) > 1 else [how.frame]):
        frames = frames_under(row, how.hover, frame) if n == 0 else [frame]
        place = QRectF(room.left(), room.top() + n * high, wide, high)
        picture(row, frames, place)
        if n:
            painter.fillRect(QRectF(place.left(), place.top() - 1, wide, 2), PAPER)
    if how.hover is not None:
        x = room.left() + how.hover * wide
        painter.fillRect(QRectF(x - 1, room.top(), 2, min(high, room.height())), WAX)
    painter.restore()
    foot = QRectF(box.left() + 5, box.bottom() - STRIP_FOOT + 1, box.width() - 10, STRIP_FOOT - 3)
    painter.setFont(font(SMALL))
    painter.setPen(PAPER_TEXT if row.shot.card.name or row.use else PAPER_FAINT)
    _line(painter, foot, row.shot.card.name or row.title)


def paint_sheet_picture(
    painter: QPainter, row: BoardRow, box: QRectF, how: Drawn, picture: DrawPicture, foot: float
) -> None:
    """Draw a shot as one picture with its words under it."""
    _paint_paper(painter, row, box)
    if row.shot is None or row.source is None:
        _paint_gone(painter, row, box)
        return
    well = QRectF(box.left() + 3, box.top() + 3, box.width() - 6, box.height() - foot - 3)
    painter.fillRect(well, WELL_DEEP)
    shape = shape_of(row)
    wide, high = min(well.width(), well.height() * shape), min(well.height(), well.width() / shape)
    frames = frames_under(row, how.hover, how.frame)
    place = QRectF(well.center().x() - wide / 2, well.center().y() - high / 2, wide, high)
    picture(row, frames, place)
    if how.hover is not None:
        x = well.left() + how.hover * well.width()
        painter.fillRect(QRectF(x - 1, well.top(), 2, well.height()), WAX)
    words = QRectF(box.left() + 6, well.bottom() + 2, box.width() - 12, 16)
    if how.scene is not None:
        band = QRectF(words.left(), words.top() + 3, 10, 10)
        paint_band(painter, band, how.scene.pattern, how.scene.tint)
        words.setLeft(words.left() + 15)
    media = row.source.media
    painter.setFont(font(SMALL, strong=True))
    painter.setPen(PAPER_TEXT)
    number = f"{how.number}  "
    painter.drawText(words, _LEFT, number)
    words.setLeft(words.left() + painter.fontMetrics().horizontalAdvance(number))
    painter.setFont(font(SMALL))
    painter.setPen(PAPER_TEXT if row.shot.card.name or row.use else PAPER_FAINT)
    if row.shot.card.name or row.use is not None:
        _line(painter, words, row.shot.card.name or row.title)
    times = QRectF(box.left() + 6, well.bottom() + 17, box.width() - 12, 14)
    painter.setFont(font(SMALL, mono=True))
    painter.setPen(PAPER_FAINT)
    length = length_words(row.shot.length, media.rate)
    painter.drawText(times, _RIGHT, length)
    label = timecode_from_frame(media.start + row.shot.start, media.rate, media.drop)
    room = times.width() - painter.fontMetrics().horizontalAdvance(length) - 8
    if painter.fontMetrics().horizontalAdvance(label) <= room:
        painter.drawText(times, _LEFT, label)


_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


def paint_hook(painter: QPainter, box: QRectF, chosen: bool) -> None:
    """Draw what a strip hangs by."""
    colour = WAX if chosen else QColor("#E2E2E2")
    middle = box.center().x()
    painter.setPen(QPen(QColor("#BDBDBD"), 2))
    painter.drawLine(QPointF(middle, box.top() - 9), QPointF(middle, box.top() + 1))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawEllipse(QPointF(middle, box.top() - 10), 3.2, 3.2)


def _paint_paper(painter: QPainter, row: BoardRow, box: QRectF) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(PAPER if row.shot is not None else CUT_PAPER)
    painter.drawRoundedRect(box, 2, 2)


def paint_chosen(painter: QPainter, box: QRectF, how: Drawn) -> None:
    """Draw that a shot is chosen, or the one that keys go on from."""
    if how.chosen or how.current:
        width = 3.0 if how.chosen else 1.5
        pen = QPen(WAX if how.chosen else QColor("#F7F7F7"), width)
        if not how.chosen:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        out = 1.5 if how.chosen else 2.5
        painter.drawRoundedRect(box.adjusted(-out, -out, out, out), 4, 4)
        if how.current and how.chosen and how.focused:
            painter.setPen(QPen(QColor("#1C1C1C"), 1))
            painter.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 2, 2)


def _paint_top(painter: QPainter, row: BoardRow, box: QRectF, how: Drawn) -> None:
    assert row.shot is not None
    assert row.source is not None
    head = QRectF(box.left() + 5, box.top() + 1, box.width() - 10, STRIP_TOP - 2)
    painter.setFont(font(SMALL, mono=True))
    painter.setPen(PAPER_FAINT)
    length = length_words(row.shot.length, row.source.media.rate)
    painter.drawText(head, _RIGHT, length)
    taken = painter.fontMetrics().horizontalAdvance(length) + 4
    painter.setFont(font(SMALL, strong=True))
    doubtful = is_doubtful(row.shot.opened_by) and row.use is None
    painter.setPen(RED if doubtful else PAPER_TEXT)
    trimmed = row.use is not None and (row.use.start is not None or row.use.end is not None)
    number = f"{how.number}{' ?' if doubtful else ''}{' ›‹' if trimmed and row.use else ''}"
    _line(painter, head.adjusted(0, 0, -taken, 0), number)


def _paint_gone(painter: QPainter, row: BoardRow, box: QRectF) -> None:
    painter.setFont(font(SMALL))
    painter.setPen(RED)
    area = box.adjusted(6, 6, -6, -6)
    flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
    painter.drawText(area, int(flags), row.title)
    painter.setPen(QPen(RED, 1.2))
    painter.drawLine(area.bottomLeft(), area.topRight())


def _line(painter: QPainter, room: QRectF, words: str) -> None:
    shown = painter.fontMetrics().elidedText(
        words, Qt.TextElideMode.ElideRight, max(8, int(room.width()))
    )
    painter.drawText(room, _LEFT, shown)
