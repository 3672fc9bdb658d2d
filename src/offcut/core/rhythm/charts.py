"""Charts that are kept alone: which there are, how large they are printed, and writing them."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from offcut.core.errors import ListError
from offcut.core.files import write_whole
from offcut.core.rhythm.drawing import draw_echo, draw_points, draw_pulse, draw_skyline, draw_spread
from offcut.core.rhythm.print_look import MM, in_our_look
from offcut.core.rhythm.whole_study import WholeStudy

if TYPE_CHECKING:
    from matplotlib.figure import Figure

DPI = 300
CHARTS: dict[str, tuple[Callable[[Any, WholeStudy], None], float, float]] = {
    "skyline": (draw_skyline, 240, 90),
    "spread": (draw_spread, 120, 70),
    "echo": (draw_echo, 120, 70),
    "pulse": (draw_pulse, 160, 70),
    "movement": (draw_points, 120, 80),
    "light": (lambda ax, study: draw_points(ax, study, "light"), 120, 80),
}
"""Charts that are kept alone: what draws each, and how large it is printed, in millimetres."""


def chart(study: WholeStudy, name: str) -> Figure:
    """Return a chart alone, at print size."""
    from matplotlib.figure import Figure

    draw, wide, high = CHARTS[name]
    with in_our_look():
        figure = Figure((wide * MM, high * MM))
        left, foot, right, top = 10 / wide, 8 / high, 1 - 6 / wide, 1 - 9 / high
        draw(figure.add_axes((left, foot, right - left, top - foot)), study)
    return figure


def chart_bytes(study: WholeStudy, name: str, form: str) -> bytes:
    """Return a chart as SVG, PNG at 300 dots an inch, or PDF."""
    out = io.BytesIO()
    with in_our_look():
        meta: dict[str, Any] = {"svg": {"Date": None}, "pdf": {"CreationDate": None}}.get(form, {})
        chart(study, name).savefig(out, format=form, dpi=DPI, metadata=meta)
    return out.getvalue()


def write_charts(
    study: WholeStudy, folder: str | Path, form: str, names: Sequence[str] = ()
) -> list[Path]:
    """Write charts into a folder, which is made; all of them that can be drawn, or some by name.

    Raises ListError.
    """
    place = Path(folder)
    written = []
    for name in names or charts_of(study):
        file = place / f"{name}.{form}"
        try:
            place.mkdir(parents=True, exist_ok=True)
            write_whole(file, chart_bytes(study, name, form))
        except OSError as error:
            raise ListError(f"{file}: cannot be written ({error.strerror})") from error
        written.append(file)
    return written


def charts_of(study: WholeStudy) -> list[str]:
    """Return the charts that there is something for: those of pictures only where some are."""
    lanes = study.lanes
    return [
        name
        for name in CHARTS
        if name not in ("movement", "light")
        or (lanes is not None and bool(np.isfinite(getattr(lanes, name)).any()))
    ]
