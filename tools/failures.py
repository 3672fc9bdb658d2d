"""Draws docs/failures.png: where detection still fails, on films drawn for it.

Each row is a film: some of its frames, what is true (white) and what was told (wax yellow).
"""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QApplication

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests/making"))

from films import encode, scene  # of the tests
from offcut.app.theme import WAX, WELL, WELL_TEXT, font, load_fonts
from offcut.core.errands.seams import find_seams
from offcut.core.media.probe import open_source
from offcut.core.model.seam import Seam

WIDE, HIGH, TILES = 116, 68, 10
Row = tuple[str, list[np.ndarray], list[tuple[int, int]], int, int]


def slow_light() -> Row:
    """Light that goes slowly over flat moving shapes."""
    pictures = [(p * max(0.4, 1 - t / 60)).astype(np.uint8) for t, p in enumerate(scene(66, 90))]
    return ("The light goes over 36 frames: no seam", pictures, [], 0, 60)


def long_dissolve() -> Row:
    """A dissolve of sixty frames between moving shapes."""
    before, after = list(scene(60, 90)), list(scene(61, 90))
    mixed = [
        (a * (1 - (k + 1) / 61) + b * ((k + 1) / 61)).astype(np.uint8)
        for k, (a, b) in enumerate(zip(before[30:], after[:60], strict=True))
    ]
    return (
        "A dissolve of 60 frames",
        [*before[:30], *mixed, *after[60:]],
        [(30, 90)],
        20,
        100,
    )


def grainy_cut(seed: int = 4) -> Row:
    """A cut between two dim shots under heavy grain, as on a thin logarithmic scan."""
    rng = np.random.default_rng(seed)
    shots = [*scene(80, 40), *scene(81, 40)]
    pictures = [
        np.clip(110 + (p.astype(float) - 110) * 0.045 + rng.normal(0, 16, p.shape), 0, 255).astype(
            np.uint8
        )
        for p in shots
    ]
    return ("A cut under heavy grain in a thin picture", pictures, [(40, 40)], 30, 50)


def short_shots() -> Row:
    """Shots of two and three frames among others of one place."""
    place = list(scene(90, 60))
    other = list(scene(91, 60))
    mix = [(0.75 * a + 0.25 * b).astype(np.uint8) for a, b in zip(place, other, strict=True)]
    pictures = [*place[:30], *mix[30:32], *place[32:60]]
    return ("Two frames of nearly the same place", pictures, [(30, 30), (32, 32)], 24, 40)


def titled_light() -> Row:
    """Light that goes slowly over a pan, under letters that stand."""
    pictures = []
    for t, p in enumerate(scene(72, 120)):
        lit = (p * max(0.35, min(1.0, 1 - 0.65 * (t - 30) / 50))).astype(np.uint8).copy()
        lit[70:100, 30:290:7] = 235
        pictures.append(lit)
    return ("The light goes over 50 frames under letters: no seam", pictures, [], 20, 100)


def told(pictures: Sequence[np.ndarray], folder: Path, name: str) -> list[Seam]:
    """Return the counted seams of the pictures made a film."""
    path = encode(folder / f"{name}.mp4", pictures)
    return [s for s in find_seams(open_source(path)).seams if s.score >= 50]


def draw(painter: QPainter, top: int, row: Row, seams: list[Seam]) -> None:
    """Draw a row: heading, frames, true spans above and told ones below."""
    words, pictures, truth, first, last = row
    painter.setFont(font(13, strong=True))
    painter.setPen(QColor("#FFFFFF"))
    said = "; ".join(f"{s.kind.value} {s.start} to {s.end}, score {s.score:.0f}" for s in seams)
    painter.drawText(QRectF(16, top, 1200, 20), Qt.AlignmentFlag.AlignVCenter, words)
    painter.setFont(font(12))
    painter.setPen(WAX)
    where = QRectF(16, top, WIDE * TILES, 20)
    painter.drawText(where, Qt.AlignmentFlag.AlignRight, f"told: {said or 'nothing'}")
    y = top + 34
    scale = WIDE * TILES / (last - first)
    for i in range(TILES):
        frame = first + round((i + 0.5) * (last - first) / TILES)
        rgb = np.ascontiguousarray(pictures[min(frame, len(pictures) - 1)])
        image = QImage(
            rgb.data, rgb.shape[1], rgb.shape[0], 3 * rgb.shape[1], QImage.Format.Format_RGB888
        )
        painter.drawImage(QRectF(16 + i * WIDE, y, WIDE - 3, HIGH), image)
        painter.setFont(font(11, mono=True))
        painter.setPen(WELL_TEXT)
        label = QRectF(16 + i * WIDE, y + HIGH + 8, WIDE - 3, 15)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, str(frame))
    for spans, colour, height in (
        (truth, QColor("#FFFFFF"), y - 6),
        ([(s.start, s.end) for s in seams], WAX, y + HIGH + 4),
    ):
        for start, end in spans:
            start, end = max(first, start), min(last, end)
            x, wide = 16 + (start - first) * scale, max(3.0, (end - start) * scale)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.fillRect(QRectF(x, height, wide, 4), colour)
            painter.setPen(QPen(colour, 1.5, Qt.PenStyle.DotLine))
            painter.drawLine(round(x), y - 6, round(x), y + HIGH + 6)


def main() -> None:
    """Draw the picture."""
    app = QApplication.instance() or QApplication(["offcut"])
    load_fonts()
    rows = [slow_light(), titled_light(), long_dissolve(), grainy_cut(), short_shots()]
    tall = 138
    sheet = QImage(WIDE * TILES + 32, tall * len(rows) + 10, QImage.Format.Format_RGB888)
    sheet.fill(WELL)
    painter = QPainter(sheet)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        for n, row in enumerate(rows):
            draw(painter, 10 + n * tall, row, told(row[1], Path(folder), str(n)))
    painter.end()
    sheet.save(str(ROOT / "docs/failures.png"))
    del app


if __name__ == "__main__":
    main()
