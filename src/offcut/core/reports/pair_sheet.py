"""A sheet of pairs: what belongs together, row by row on paper, with a picture of either side."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from offcut.core.board.looking import FramePictures
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.papers import PAPERS
from offcut.core.model.source import Source
from offcut.core.turnover.sheet import (
    FAINT,
    INK,
    MARGIN,
    Box,
    Line,
    Page,
    PdfSheet,
    Picture,
)

_ROW, _HEAD = 27.0, 29.0
_WIDE = 38.0


@dataclass(frozen=True, slots=True)
class PaperSide:
    """One side of a pair: its picture's film and frame, None for none; where it lies, and for how
    long, in words; ``flopped`` True where its picture is shown the other way round.
    """

    source: Source | None
    frame: int
    place: str
    length: str = ""
    flopped: bool = False


@dataclass(frozen=True, slots=True)
class PaperPair:
    """A row: what is told of a pair, what it is called, both sides, and a line at its foot."""

    words: str
    name: str
    sides: tuple[PaperSide, PaperSide]
    foot: str


def pairs_pdf(
    heads: tuple[str, str, str, str],
    names: tuple[str, str],
    pairs: Sequence[PaperPair],
    paper: str = "A4",
) -> bytes:
    """Return pairs on paper: ``heads`` the title and three lines under it, ``names`` what the sides
    are called.
    """
    wide, high = PAPERS.get(paper, PAPERS["A4"])
    each = max(1, int((high - 2 * MARGIN - _HEAD - 6) // _ROW))
    sheet = PdfSheet(heads[0], paper)
    pictures = FramePictures()
    count = max(1, -(-len(pairs) // each))
    try:
        for number in range(count):
            boxes, lines = [], list(_head(heads, names, f"{number + 1} of {count}", wide, high))
            drawn: dict[int, Picture] = {}
            for k, pair in enumerate(pairs[number * each : (number + 1) * each]):
                y = MARGIN + _HEAD + k * _ROW
                for place, side in enumerate(pair.sides):
                    if side.source is not None:
                        box = _box(side.source, y, place, 2 * k + place)
                        boxes.append(box)
                        drawn[box.place] = _picture(pictures, side)
                lines += _lines(pair, names, y, wide)
            sheet.draw(Page(tuple(boxes), tuple(lines)), drawn)
    finally:
        pictures.close()
    return sheet.data()


def _head(
    heads: tuple[str, str, str, str], names: tuple[str, str], foot: str, wide: float, high: float
) -> Iterator[Line]:
    y, room = MARGIN + 5, wide - 2 * MARGIN
    yield Line(MARGIN, y, heads[0], "strong", 5.2, INK, room)
    yield Line(MARGIN, y + 5.2, heads[1], "sans", 2.9, INK, room)
    yield Line(MARGIN, y + 9.6, heads[2], "sans", 2.7, INK, room)
    yield Line(MARGIN, y + 13.6, heads[3], "sans", 2.7, FAINT, room)
    yield Line(MARGIN, y + 19.4, names[0], "sans", 2.7, FAINT)
    yield Line(MARGIN + _WIDE + 3, y + 19.4, names[1], "sans", 2.7, FAINT)
    yield Line(wide - MARGIN, high - MARGIN + 3, foot, "mono", 2.5, FAINT, 0, True)


def _lines(pair: PaperPair, names: tuple[str, str], y: float, wide: float) -> Iterator[Line]:
    x = MARGIN + 2 * (_WIDE + 3)
    room = wide - MARGIN - x
    yield Line(x, y + 3.6, pair.words, "strong", 3.1, INK, room)
    yield Line(x, y + 7.9, pair.name, "sans", 2.7, INK, room)
    for k, (words, side) in enumerate(zip(names, pair.sides, strict=True)):
        at = y + 12.2 + 3.8 * k
        yield Line(x, at, words, "sans", 2.4, FAINT)
        yield Line(x + 13, at, side.place or "not there", "mono" if side.place else "sans", 2.4)
        yield Line(x + 71, at, side.length, "sans", 2.4, FAINT)
    yield Line(x, y + 20.2, pair.foot, "sans", 2.4, FAINT, room)


def _box(source: Source, y: float, side: int, place: int) -> Box:
    """Return where the picture of a side lies."""
    size = shown_size(source.media)
    high = min(_ROW - 5.0, _WIDE * size[1] / size[0])
    long = high * size[0] / size[1]
    return Box(place, MARGIN + side * (_WIDE + 3) + (_WIDE - long) / 2, y, long, high)


def _picture(pictures: FramePictures, side: PaperSide) -> Picture:
    """Return a picture at print size; a grey well where it cannot be had."""
    assert side.source is not None
    size = fit(*shown_size(side.source.media), 320, 240)
    picture = pictures.picture(side.source, side.frame, size)
    if picture is None:
        return np.full((9, 16, 3), 43, np.uint8)
    return np.ascontiguousarray(picture[:, ::-1]) if side.flopped else picture
