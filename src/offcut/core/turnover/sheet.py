"""The contact sheet: every shot with its picture, name, timecodes, length and note, to print.

The layout is worked out once, in millimetres; a PDF (real text, with our fonts in it) and PNG
pages are drawn from it alike.
"""

from __future__ import annotations

import io
import textwrap
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import OffcutError
from offcut.core.model.papers import PAPERS
from offcut.core.model.scene_look import TINT_RGB, Pattern, Tint, strokes_of
from offcut.core.timecode import length_words, timecode_from_frame
from offcut.core.turnover.plan import Item, Plan
from offcut.core.words import printable

MARGIN, HEAD, FOOT = 12.0, 15.0, 8.0
COLUMNS, ROWS = 4, 5
GAP = 4.0
DPI = 150
BAND, STEP = 1.5, 1.4
"""How high the band of a scene is, and how far its strokes are apart, in millimetres."""
_MM = 72 / 25.4
FONTS = Path(__file__).parents[2] / "fonts"
_FACES = {
    "sans": "FiraSans_400Regular.ttf",
    "strong": "FiraSans_600SemiBold.ttf",
    "mono": "FiraMono_400Regular.ttf",
}
INK, FAINT, WELL = (30, 30, 30), (94, 94, 94), (43, 43, 43)


@dataclass(frozen=True, slots=True)
class Line:
    """One line of text: place of its baseline's left end (or right end), in millimetres."""

    x: float
    y: float
    text: str
    face: str
    size: float
    colour: tuple[int, int, int] = INK
    room: float = 0.0
    right: bool = False


@dataclass(frozen=True, slots=True)
class Box:
    """Where the picture of a shot lies: its place in the plan, and its rectangle."""

    place: int
    x: float
    y: float
    wide: float
    high: float


@dataclass(frozen=True, slots=True)
class Band:
    """The band of a scene under a picture, in millimetres."""

    x: float
    y: float
    wide: float
    pattern: Pattern
    tint: Tint


@dataclass(frozen=True)
class Page:
    """One page: its pictures, its lines, and the bands of scenes."""

    boxes: tuple[Box, ...]
    lines: tuple[Line, ...]
    bands: tuple[Band, ...] = ()


def pages_of(plan: Plan) -> list[Page]:
    """Lay the shots of a plan out on pages, 4 across and 5 down, with what is known of them."""
    wide, high = PAPERS.get(plan.asked.paper, PAPERS["A4"])
    cell_wide = (wide - 2 * MARGIN - (COLUMNS - 1) * GAP) / COLUMNS
    cell_high = (high - 2 * MARGIN - HEAD - FOOT) / ROWS
    room = (cell_wide, cell_high - 19)
    picture_high = max((_fitted(plan, i, room)[1] for i in plan.items), default=room[1])
    below = BAND + 0.4 if any(plan.project.scene(i.shot.card.scene) for i in plan.items) else 0.0
    each = COLUMNS * ROWS
    beside = 2.0 + 1.65 * max((len(str(i.number)) for i in plan.items), default=1)
    count = max(1, -(-len(plan.items) // each))
    pages = []
    for number in range(count):
        boxes, bands = [], []
        lines = list(_head(plan, number, count, wide, high))
        for k, item in enumerate(plan.items[number * each : (number + 1) * each]):
            x = MARGIN + (k % COLUMNS) * (cell_wide + GAP)
            y = MARGIN + HEAD + (k // COLUMNS) * cell_high
            shown_wide, shown_high = _fitted(plan, item, room)
            inset, drop = (cell_wide - shown_wide) / 2, picture_high - shown_high
            boxes.append(Box(number * each + k, x + inset, y + drop, shown_wide, shown_high))
            shot, media = item.shot, item.source.media
            at = y + picture_high + 3.6 + below
            lines.append(Line(x, at, f"{item.number}", "mono", 2.7, FAINT))
            name = shot.title
            lines.append(Line(x + beside, at, name, "strong", 2.7, INK, cell_wide - beside))
            first, last = (
                timecode_from_frame(media.start + f, media.rate, media.drop)
                for f in (shot.start, shot.end)
            )
            lines.append(Line(x, at + 3.8, first, "mono", 2.4))
            lines.append(Line(x, at + 7.2, last, "mono", 2.4))
            length = length_words(shot.length, media.rate)
            lines.append(Line(x + cell_wide, at + 3.8, length, "mono", 2.4, INK, 0, True))
            scene = plan.project.scene(shot.card.scene)
            if scene is not None:
                bands.append(Band(x, y + picture_high, cell_wide, scene.pattern, scene.tint))
                room_left = cell_wide * 0.5
                lines.append(
                    Line(x + cell_wide, at + 7.2, scene.name, "sans", 2.4, FAINT, room_left, True)
                )
            note = " ".join(shot.card.note.split())
            inside = plan.inside(item.source, shot).line
            told = [*_folded(note, 34)[:2], *_folded(inside, 40)]
            for row, part in enumerate(told[:2]):
                y_note = at + 10.8 + 3.1 * row
                lines.append(Line(x, y_note, part, "sans", 2.4, FAINT, cell_wide))
        pages.append(Page(tuple(boxes), tuple(lines), tuple(bands)))
    return pages


def _fitted(plan: Plan, item: Item, room: tuple[float, float]) -> tuple[float, float]:
    """Return width and height of a shot's picture in the room it has, in millimetres."""
    media = plan.written_of(item.source)
    shape = float(media.width * media.pixel_shape / media.height)
    high = min(room[0] / shape, room[1])
    return high * shape, high


def _head(plan: Plan, number: int, count: int, wide: float, high: float) -> list[Line]:
    media = plan.media
    frames = sum(i.shot.length for i in plan.items)
    about = f"{len(plan.items)} shots, {length_words(frames, media.rate)}"
    names = [Path(s.media.path).name for s in plan.sources] or [Path(media.path).name]
    films = ", ".join(names[:3]) + (" …" if len(names) > 3 else "")
    y = MARGIN + 5
    foot = high - MARGIN + 3
    return [
        Line(MARGIN, y, plan.project.name, "strong", 5.2, INK, wide - 2 * MARGIN - 50),
        Line(wide - MARGIN, y, about, "sans", 3.0, FAINT, 0, True),
        Line(MARGIN, y + 4.6, films, "sans", 2.7, FAINT, wide - 2 * MARGIN),
        Line(wide - MARGIN, foot, f"{number + 1} of {count}", "mono", 2.5, FAINT, 0, True),
    ]


def _folded(text: str, wide: int) -> list[str]:
    folded = textwrap.wrap(text, wide)
    if len(folded) > 2:
        folded[1] = folded[1][: wide - 1].rstrip() + "…"
    return folded


Picture = NDArray[np.uint8]
ShotsPictures = Mapping[int, Picture]
"""The pictures of one page by their shots' places in the plan, uint8 RGB."""


class PdfSheet:
    """Pages of pictures as PDF, drawn one by one: no more than a page's pictures are held."""

    def __init__(self, title: str, paper: str) -> None:
        from reportlab.pdfbase import pdfmetrics  # slow to load, so only where it is used
        from reportlab.pdfbase.ttfonts import TTFont
        from reportlab.pdfgen.canvas import Canvas

        self._wide, self._high = PAPERS.get(paper, PAPERS["A4"])
        for face, file in _FACES.items():
            pdfmetrics.registerFont(TTFont(f"offcut-{face}", str(FONTS / file)))
        self._long = pdfmetrics.stringWidth
        self._out = io.BytesIO()
        size = (self._wide * _MM, self._high * _MM)
        self._canvas: Any = Canvas(self._out, pagesize=size, pageCompression=1, invariant=1)
        self._canvas.setTitle(title)
        self._canvas.setCreator("Offcut")

    def draw(self, page: Page, pictures: ShotsPictures) -> None:
        """Draw the next page. Raises OffcutError for a picture that cannot be put on it."""
        from reportlab.lib.utils import ImageReader

        canvas = self._canvas
        for box in page.boxes:
            canvas.setFillColorRGB(*(c / 255 for c in WELL))
            foot = self._high - box.y - box.high
            place = (box.x * _MM, foot * _MM, box.wide * _MM, box.high * _MM)
            canvas.rect(*place, stroke=0, fill=1)
            picture = pictures[box.place][..., ::-1]
            good, data = cv2.imencode(".jpg", picture, (cv2.IMWRITE_JPEG_QUALITY, 90))
            if not good:
                raise OffcutError("a picture of the page cannot be drawn")
            canvas.drawImage(ImageReader(io.BytesIO(data.tobytes())), *place)
        for band in page.bands:
            self._draw_band(band)
        for line in page.lines:
            size = line.size * _MM * 1.25
            face = f"offcut-{line.face}"

            def long(text: str, face: str = face, size: float = size) -> float:
                return float(self._long(text, face, size))

            text = _shortened(line.text, line.room * _MM, long)
            canvas.setFillColorRGB(*(c / 255 for c in line.colour))
            canvas.setFont(face, size)
            draw = canvas.drawRightString if line.right else canvas.drawString
            draw(line.x * _MM, (self._high - line.y) * _MM, text)
        canvas.showPage()

    def _draw_band(self, band: Band) -> None:
        canvas = self._canvas
        left, foot = band.x * _MM, (self._high - band.y - BAND) * _MM
        canvas.saveState()
        path = canvas.beginPath()
        path.rect(left, foot, band.wide * _MM, BAND * _MM)
        canvas.clipPath(path, stroke=0, fill=0)
        canvas.setFillColorRGB(*(c / 255 for c in TINT_RGB[band.tint]))
        canvas.rect(left, foot, band.wide * _MM, BAND * _MM, stroke=0, fill=1)
        canvas.setStrokeColorRGB(*(c / 255 for c in INK))
        top = foot + BAND * _MM
        for x, y, to_x, to_y, thick in strokes_of(band.pattern, band.wide, BAND, STEP):
            canvas.setLineWidth(thick * _MM)
            canvas.line(left + x * _MM, top - y * _MM, left + to_x * _MM, top - to_y * _MM)
        canvas.restoreState()

    def data(self) -> bytes:
        """Return the whole PDF."""
        self._canvas.save()
        return self._out.getvalue()


@lru_cache(maxsize=64)
def _font(face: str, size: int) -> Any:
    from PIL import ImageFont

    return ImageFont.truetype(str(FONTS / _FACES[face]), size)


def png_of(plan: Plan, page: Page, pictures: ShotsPictures) -> bytes:
    """Return one page of the contact sheet as PNG at 150 dots an inch."""
    from PIL import Image, ImageDraw

    wide, high = PAPERS.get(plan.asked.paper, PAPERS["A4"])
    dots = DPI / 25.4
    image = Image.new("RGB", (round(wide * dots), round(high * dots)), "white")
    draw = ImageDraw.Draw(image)
    for box in page.boxes:
        size = (max(1, round(box.wide * dots)), max(1, round(box.high * dots)))
        small = cv2.resize(pictures[box.place], size, interpolation=cv2.INTER_AREA)
        image.paste(Image.fromarray(small), (round(box.x * dots), round(box.y * dots)))
    for band in page.bands:
        size = (max(1, round(band.wide * dots)), max(2, round(BAND * dots)))
        strip = Image.new("RGB", size, TINT_RGB[band.tint])
        pen = ImageDraw.Draw(strip)
        for stroke in strokes_of(band.pattern, *size, STEP * dots):
            pen.line(stroke[:4], fill=INK, width=max(1, round(stroke.thick)))
        image.paste(strip, (round(band.x * dots), round(band.y * dots)))
    for line in page.lines:
        face = _font(line.face, round(line.size * dots * 1.25))
        text = _shortened(line.text, line.room * dots, face.getlength)
        anchor = "rs" if line.right else "ls"
        draw.text((line.x * dots, line.y * dots), text, line.colour, font=face, anchor=anchor)
    out = io.BytesIO()
    image.save(out, "PNG", dpi=(DPI, DPI))
    return out.getvalue()


def _shortened(text: str, room: float, long: Any) -> str:
    """Return a text cut to the room it has, 0 for any."""
    text = printable(text)
    if room <= 0 or long(text) <= room:
        return text
    while text and long(text + "…") > room:
        text = text[:-1]
    return text.rstrip() + "…"
