"""Shots as they were drawn: each is drawn anew only where something of it changed."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPixmap

from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.views.board.board_shots import Key
from offcut.app.views.board.shot_painting import (
    Drawn,
    paint_sheet_picture,
    paint_strip,
    wanted_at,
)
from offcut.core.board.laying import SHEET_FOOT
from offcut.core.board.rows import BoardRow

BIN, SHEET = "bin", "sheet"
TILES = 240
"""So many shots are kept as they were drawn."""


@dataclass(frozen=True, eq=False)
class _Tile:
    """A shot as it was drawn: what of it was told, which pictures it wants, how many it has."""

    row: BoardRow
    told: tuple[object, ...]
    wanted: list[Wanted]
    ready: int
    pixmap: QPixmap


def _seen_of(row: BoardRow) -> tuple[object, ...]:
    """Return what of a row is drawn: not its source, which is another with every edit of it."""
    source = row.source
    of = (source.media, source.framing, source.ticket) if source is not None else ()
    return row.shot, row.use, row.why, row.clean_end, of


class ShotTiles:
    """Draws shots for one painting after another; `begin` each."""

    def __init__(self, pictures: ShotPictures) -> None:
        self._pictures = pictures
        self._tiles: OrderedDict[Key, _Tile] = OrderedDict()
        self._painter: QPainter | None = None
        self._layout, self._large, self._still = BIN, False, True
        self._wanted: list[Wanted] = []
        self._later: list[Wanted] = []

    @property
    def wanted(self) -> list[Wanted]:
        """The pictures wanted since it began, small ones first."""
        return [*self._wanted, *self._later]

    def begin(self, layout: str, large: bool, *, still: bool) -> None:
        """Begin to draw; while it is not ``still``, what was drawn at another size does."""
        self._layout, self._large, self._still = layout, large, still
        self._wanted, self._later = [], []

    def paint(self, painter: QPainter, row: BoardRow, box: QRectF, how: Drawn) -> None:
        """Draw a shot."""
        self._painter = painter
        if self._layout == BIN:
            paint_strip(painter, row, box, how, self._draw_picture)
        else:
            paint_sheet_picture(painter, row, box, how, self._draw_picture, SHEET_FOOT - 3)
        self._painter = None

    def tile(self, row: BoardRow, box: QRectF, how: Drawn, scale: float) -> QPixmap:
        """Return a shot as it is drawn, at so many device pixels to a pixel."""
        size = round(box.width()), round(box.height())
        told = (_seen_of(row), size, how.number, how.scene, how.frame, scale, self._layout)
        held = self._tiles.get(row.key)
        if held is not None and not self._still and held.row is row:
            return held.pixmap  # drawn anew once it comes to rest
        if held is not None and held.told == told:
            ready = self._pictures.readiness(held.wanted)
            if ready == held.ready:
                self._tiles.move_to_end(row.key)
                if ready < 2 * len(held.wanted):
                    self._wanted += held.wanted
                return held.pixmap
        pixmap = QPixmap(int(size[0] * scale), int(size[1] * scale))
        pixmap.setDevicePixelRatio(scale)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        before, self._wanted = self._wanted, []
        later, self._later = self._later, []
        self.paint(painter, row, QRectF(0, 0, *size), how)
        painter.end()
        wanted = self.wanted
        self._wanted, self._later = before + self._wanted, later + self._later
        self._tiles[row.key] = _Tile(row, told, wanted, self._pictures.readiness(wanted), pixmap)
        while len(self._tiles) > TILES:
            self._tiles.popitem(last=False)
        return pixmap

    def _draw_picture(self, row: BoardRow, frames: Sequence[int], place: QRectF) -> None:
        """Draw the first picture that is there, and remember that all are wanted."""
        assert self._painter is not None
        wanted = [wanted_at(row, frame, place) for frame in frames]
        large = wanted_at(row, frames[0], place, large=True)
        if self._large:
            self._later.append(large)
        if not (self._large and self._pictures.draw(self._painter, place, large)):
            any(self._pictures.draw(self._painter, place, w) for w in wanted)
        # what is kept comes at once, what must be decoded after it
        self._wanted += wanted[1:] + wanted[:1]
