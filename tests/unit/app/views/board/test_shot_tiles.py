"""Shots on the Board are drawn anew whenever more of their pictures is there."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPixmap
from pytestqt.qtbot import QtBot

from offcut.app.session.session import Session
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.views.board.shot_painting import Drawn
from offcut.app.views.board.shot_tiles import BIN, ShotTiles
from offcut.core.board.rows import rows_of
from projects import cut_film


def of_colour(name: str) -> QImage:
    image = QImage(160, 90, QImage.Format.Format_RGB32)
    image.fill(QColor(name))
    return image


def shows(pixmap: QPixmap, name: str) -> bool:
    image = pixmap.toImage()
    places = ((x, y) for x in range(image.width()) for y in range(image.height()))
    return any(image.pixelColor(x, y) == QColor(name) for x, y in places)


def test_what_stands_in_is_shown_and_then_the_picture(qtbot: QtBot) -> None:
    pictures = ShotPictures(Session())
    pictures.close()  # nothing comes by itself
    tiles = ShotTiles(pictures)
    tiles.begin(BIN, False, still=True)
    row = rows_of(cut_film(Fraction(25), False))[0]
    how = Drawn("1", False, False, False, None, None, 30)

    def drawn() -> QPixmap:
        return tiles.tile(row, QRectF(0, 0, 100, 90), how, 1.0)

    assert not shows(drawn(), "red")
    wanted = list(tiles.wanted)
    assert wanted
    for one in wanted:
        pictures.stand_in(one, of_colour("red"))
    assert shows(drawn(), "red")
    for one in wanted:
        pictures.put(one, of_colour("lime"))
    assert shows(drawn(), "lime")
    assert not shows(drawn(), "red")
