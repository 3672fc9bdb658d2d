"""Pegs of markers: a shape for each colour, none of them coloured."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtGui import QColor, QImage, QPainter

from offcut.app.shared.marker_pegs import draw_peg, peg_words
from offcut.core.model.source import Marker, MarkerColour


def drawn(colour: MarkerColour) -> np.ndarray:
    image = QImage(24, 24, QImage.Format.Format_RGB32)
    image.fill(QColor("black"))
    painter = QPainter(image)
    draw_peg(painter, colour, 12, 12, QColor("white"), QColor("black"), 8)
    painter.end()
    return np.frombuffer(image.constBits(), np.uint8).reshape(24, 24, 4)[..., :3].astype(int)


@pytest.mark.usefixtures("qapp")
def test_every_colour_has_a_shape_of_its_own_in_grey() -> None:
    heads = [drawn(colour) for colour in MarkerColour]
    for n, head in enumerate(heads):
        assert (head.max(2) - head.min(2)).max() == 0
        assert head.max() > 200
        for other in heads[:n]:
            assert np.abs(head - other).mean() > 8


def test_a_peg_says_its_name_its_colour_and_how_long_it_is() -> None:
    bell = Marker(1, 10, 35, "bell", "too loud", MarkerColour.CYAN)
    assert peg_words(bell) == "bell, cyan, 25 frames\ntoo loud"
    assert peg_words(Marker(2, 10, 11)) == "unnamed marker"
