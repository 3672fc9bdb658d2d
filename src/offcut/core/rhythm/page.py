"""The study page: skyline, lanes, charts, figures and pictures on paper, as a PDF of vectors."""

from __future__ import annotations

import io
import textwrap
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import ListError
from offcut.core.files import write_whole
from offcut.core.model.papers import PAPERS
from offcut.core.rhythm.comparing import running_words, seconds_words
from offcut.core.rhythm.drawing import (
    draw_echo,
    draw_light,
    draw_loudness,
    draw_movement,
    draw_noted,
    draw_points,
    draw_pulse,
    draw_scenes,
    draw_skyline,
    draw_spread,
)
from offcut.core.rhythm.print_look import FAINT, INK, LINE, MM, in_our_look
from offcut.core.rhythm.rows import ROWS
from offcut.core.rhythm.scales import STROKES
from offcut.core.rhythm.whole_study import WholeStudy
from offcut.core.words import many, printable

MARGIN = 15.0
LABELS = 13.0
"""Room at the left of charts for what stands beside their scales."""
ACROSS = 4
NOTED_HIGH = 4.6
SENTENCES, MOST_COLUMNS = 3, 6
"""So many things beside are told of on the first page, and have their figures on the second."""
MOST_PICTURES = 40
PRINTED = (540, 405)
"""Room in pixels that a printed picture fits into: 300 dots an inch."""


class ShotPicture(NamedTuple):
    """A picture of a shot: the shot's place in the lengths, and the picture, uint8 RGB."""

    place: int
    picture: NDArray[np.uint8]


class _Paper:
    """One page, measured in millimetres from its upper left corner."""

    def __init__(self, paper: str) -> None:
        from matplotlib.figure import Figure

        self.wide, self.high = PAPERS[paper]
        self.figure = Figure((self.wide * MM, self.high * MM))

    def axes(self, x: float, y: float, wide: float, high: float) -> Any:
        """Return axes at a place."""
        foot = 1 - (y + high) / self.high
        return self.figure.add_axes((x / self.wide, foot, wide / self.wide, high / self.high))

    def text(self, x: float, y: float, words: str, size: float = 7.5, **look: Any) -> None:
        """Write a line, its baseline at y."""
        shown = printable(words).replace("$", r"\$")
        look.setdefault("va", "baseline")
        self.figure.text(x / self.wide, 1 - y / self.high, shown, fontsize=size, **look)

    def rule(self, x: float, y: float, wide: float, colour: str = LINE) -> None:
        """Draw a thin line."""
        from matplotlib.lines import Line2D

        at = 1 - y / self.high
        line = Line2D([x / self.wide, (x + wide) / self.wide], [at, at], color=colour, lw=0.5)
        self.figure.add_artist(line)


def page_figures(
    study: WholeStudy, paper: str = "A4", pictures: Sequence[ShotPicture] = ()
) -> list[Any]:
    """Return the pages as Matplotlib's figures: charts first, figures and pictures after them.

    To be drawn `in_our_look`.
    """
    pages = [_charts_page(study, paper), *_figures_pages(study, paper, pictures)]
    for number, page in enumerate(pages, start=1):
        page.text(
            page.wide - MARGIN, page.high - 8, f"{number} of {len(pages)}", 6.5, color=FAINT,
            ha="right",
        )  # fmt: skip
    return [page.figure for page in pages]


def page_bytes(study: WholeStudy, paper: str = "A4", pictures: Sequence[ShotPicture] = ()) -> bytes:
    """Return the study as PDF."""
    out = io.BytesIO()
    with in_our_look():
        from matplotlib.backends.backend_pdf import PdfPages

        told = {"Title": f"{study.title}, rhythm", "Creator": "Offcut", "CreationDate": None}
        with PdfPages(out, metadata=told) as book:
            for figure in page_figures(study, paper, pictures):
                book.savefig(figure)
    return out.getvalue()


def write_page(
    study: WholeStudy, path: str | Path, paper: str = "A4", pictures: Sequence[ShotPicture] = ()
) -> Path:
    """Write the study page. Raises ListError."""
    file = Path(path)
    try:
        write_whole(file, page_bytes(study, paper, pictures))
    except OSError as error:
        raise ListError(f"{file}: cannot be written ({error.strerror})") from error
    return file


def _head(page: _Paper, study: WholeStudy) -> float:
    """Write what is studied at the top; return where the page goes on."""
    figures = study.figures
    page.text(MARGIN, MARGIN + 5, _cut(study.title, 60), 15, weight=600)
    about = f"{many(figures.shots, 'shot')}, {running_words(figures.seconds)}"
    page.text(page.wide - MARGIN, MARGIN + 5, about, 8.5, color=FAINT, ha="right")
    what = study.lengths.name if study.lengths.name != study.title else "the whole film"
    page.text(MARGIN, MARGIN + 10.5, _cut(what, 110), 8.5, color=FAINT)
    return MARGIN + 15


def _charts_page(study: WholeStudy, paper: str) -> _Paper:
    page = _Paper(paper)
    y = _head(page, study) + 6
    wide = page.wide - 2 * MARGIN
    left, room = MARGIN + LABELS, wide - LABELS
    rest = page.high - y - 18
    tall = rest * 0.28
    draw_skyline(page.axes(left, y, room, tall), study)
    y += tall + 9
    for draw, high in _lanes(study, room):
        draw(page.axes(left, y, room, high))
        y += high + 1.6
    y += 9
    half = (wide - 10) / 2
    below = page.high - 18 - y - 8 * len(study.beside[:SENTENCES])
    each = (below - 16) / 2
    rows = (
        (draw_spread, draw_echo, 0.0, LABELS * 0.6),
        (draw_pulse, draw_points, LABELS * 0.6, LABELS * 0.6),
    )
    for first, second, inset, other in rows:
        first(page.axes(MARGIN + inset, y, half - inset, each), study)
        second(page.axes(MARGIN + half + 10 + other, y, half - other, each), study)
        y += each + 16
    y -= 3
    for beside in study.beside[:SENTENCES]:
        for line in textwrap.wrap(beside.compared.words, 140)[:2]:
            page.text(MARGIN, y, line, 7.5)
            y += 3.6
    return page


def _lanes(study: WholeStudy, wide: float) -> list[tuple[Any, float]]:
    """Return what draws each lane there is, and how high it is."""
    lanes = []
    if study.lanes is not None and study.lanes.seen:
        lanes.append((lambda ax: draw_light(ax, study), 11.0))
    if study.lengths.scenes and study.scenes:
        lanes.append((lambda ax: draw_scenes(ax, study, wide, 3.6), 3.6))
    if study.lanes is not None and study.lanes.moves:
        lanes.append((lambda ax: draw_movement(ax, study), 7.0))
    if study.lanes is not None and study.lanes.heard:
        lanes.append((lambda ax: draw_loudness(ax, study), 7.0))
    for lane, notes in study.notes.items():
        if notes:
            lanes.append((partial(_noted, study, lane, wide), NOTED_HIGH))
    return lanes


def _noted(study: WholeStudy, lane: str, wide: float, ax: Any) -> None:
    draw_noted(ax, study, lane, wide, NOTED_HIGH)


def _figures_pages(study: WholeStudy, paper: str, pictures: Sequence[ShotPicture]) -> list[_Paper]:
    page = _Paper(paper)
    y = _head(page, study) + 4
    y = _table(page, study, y)
    if study.lengths.note:
        for line in textwrap.wrap(study.lengths.note, 130)[:3]:
            page.text(MARGIN, y, line, 7, color=FAINT)
            y += 3.6
        y += 2
    pages = [page]
    left = list(pictures[:MOST_PICTURES])
    while left:
        drawn = _pictures(page, study, left, y + 2)
        left = left[drawn:]
        if left:
            page = _Paper(paper)
            y = _head(page, study)
            pages.append(page)
            if not drawn and y + 60 > page.high:
                break
    return pages


def _table(page: _Paper, study: WholeStudy, y: float) -> float:
    """Write all figures with those of what is beside; return where the page goes on."""
    from matplotlib.lines import Line2D

    shown = study.beside[:MOST_COLUMNS]
    wide = min(34.0, (page.wide - 2 * MARGIN - 52) / (1 + len(shown)))
    ends = [MARGIN + 52 + wide * (n + 1) for n in range(1 + len(shown))]
    room = max(8, int(wide / 1.45))
    page.text(MARGIN, y, "Figures", 9, weight=600)
    page.text(ends[0], y, _cut(study.lengths.name, room), 7, color=FAINT, ha="right")
    for n, beside in enumerate(shown):
        page.text(ends[n + 1], y, _cut(beside.lengths.name, room), 7, color=FAINT, ha="right")
        at = 1 - (y + 1.6) / page.high
        x = [(ends[n + 1] - 9) / page.wide, ends[n + 1] / page.wide]
        dashes = STROKES[n % len(STROKES)]
        page.figure.add_artist(Line2D(x, [at, at], color=INK, lw=0.9, dashes=dashes))
    y += 5.2
    for row in ROWS:
        page.text(MARGIN, y, row.label(study.figures), 7.5)
        both = [study.figures, *(b.figures for b in shown)]
        for n, (end, figures) in enumerate(zip(ends, both, strict=True)):
            colour = INK if n == 0 else FAINT
            page.text(end, y, row.shown(figures), 7.5, ha="right", color=colour, family="Fira Mono")
        page.rule(MARGIN, y + 1.3, ends[-1] - MARGIN)
        y += 4.5
    y += 3
    more = len(study.beside) - len(shown)
    sentences = [b.compared.words for b in shown[SENTENCES:]]
    if more > 0:
        sentences.append(f"{more} more are beside; their figures are in the file of figures.")
    for line in (part for words in sentences for part in textwrap.wrap(words, 140)[:2]):
        page.text(MARGIN, y, line, 7.5)
        y += 3.6
    return y


def _pictures(page: _Paper, study: WholeStudy, pictures: Sequence[ShotPicture], y: float) -> int:
    """Draw as many rows of pictures as there is room for; return how many pictures that were."""
    gap = 4.0
    wide = (page.wide - 2 * MARGIN - (ACROSS - 1) * gap) / ACROSS
    shape = max(p.picture.shape[0] / p.picture.shape[1] for p in pictures)
    high = min(wide * shape, 40.0)
    drawn = 0
    while drawn < len(pictures) and y + high + 10 < page.high - 14:
        for column, shot in enumerate(pictures[drawn : drawn + ACROSS]):
            x = MARGIN + column * (wide + gap)
            own = shot.picture.shape[0] / shot.picture.shape[1]
            shown_wide = min(wide, high / own)
            ax = page.axes(x, y + high - shown_wide * own, shown_wide, shown_wide * own)
            ax.imshow(shot.picture, aspect="auto", interpolation="none")
            ax.set_axis_off()
            one = study.lengths.shots[shot.place]
            length = seconds_words(float(study.lengths.seconds[shot.place]))
            page.text(x, y + high + 3.6, _cut(one.title, 24), 7, weight=600)
            page.text(x + wide, y + high + 3.6, length, 7, ha="right", family="Fira Mono")
        drawn += len(pictures[drawn : drawn + ACROSS])
        y += high + 9
    return drawn


def _cut(words: str, room: int) -> str:
    return words if len(words) <= room else words[: room - 1].rstrip() + "…"
