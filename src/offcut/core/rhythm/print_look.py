"""The look of charts on paper: our type, colours and line widths, for Matplotlib."""

from __future__ import annotations

import logging
import threading
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from offcut.core.machine.loading import loaded_apart

INK, GREY, PALE, FAINT, LINE, WAX = (
    "#1E1E1E", "#C4C4C4", "#E9E9E9", "#5E5E5E", "#E2E2E2", "#F5C518",
)  # fmt: skip
MM = 1 / 25.4
"""Inches in a millimetre: Matplotlib counts in inches."""
_FONTS = Path(__file__).parents[2] / "fonts"
_BACKENDS = ("agg", "pdf", "svg")
_FOREIGN = (
    "Noto Sans CJK JP", "Noto Sans CJK SC", "Source Han Sans", "WenQuanYi Zen Hei",
    "Droid Sans Fallback", "Noto Sans Devanagari", "Noto Sans Thai", "Noto Sans Arabic",
)  # fmt: skip


@cache
def _set_up() -> None:
    """Make the shipped type known to Matplotlib, once."""
    for part in ("font_manager", "figure", *(f"backends.backend_{b}" for b in _BACKENDS)):
        loaded_apart(f"matplotlib.{part}")
    from matplotlib import font_manager

    for talks in ("matplotlib", "fontTools"):
        logging.getLogger(talks).setLevel(logging.ERROR)
    for face in sorted(_FONTS.glob("*.ttf")):
        font_manager.fontManager.addfont(str(face))
    # a name in letters that no font here has is drawn as boxes, and nothing is said on a terminal
    warnings.filterwarnings("ignore", r"Glyph \d+ .*missing from", UserWarning)


@cache
def _families() -> list[str]:
    """Return our type, and what installed fonts there are for letters that it has not."""
    from matplotlib import font_manager

    there = {face.name for face in font_manager.fontManager.ttflist}
    return ["Fira Sans", "DejaVu Sans", *(name for name in _FOREIGN if name in there)]


_ONE_AT_A_TIME = threading.RLock()


@contextmanager
def in_our_look() -> Iterator[None]:
    """Let Matplotlib draw in our look, on one thread at a time: its settings are those of all."""
    with _ONE_AT_A_TIME:
        _set_up()
        import matplotlib as mpl

        with mpl.rc_context(_settings()):
            yield


def _settings() -> Any:
    """Return the settings of our look."""
    return {
        "font.family": _families(),
        "font.size": 7.5,
        "text.color": INK,
        "axes.edgecolor": INK,
        "axes.labelcolor": FAINT,
        "axes.linewidth": 0.6,
        "axes.titlesize": 8.5,
        "axes.titleweight": 600,
        "axes.titlelocation": "left",
        "axes.titlepad": 7.0,
        "axes.spines.top": False,
        "axes.spines.right": False,
        "axes.spines.left": False,
        "xtick.color": FAINT,
        "ytick.color": FAINT,
        "xtick.labelsize": 6.5,
        "ytick.labelsize": 6.5,
        "xtick.major.width": 0.5,
        "xtick.major.size": 2.5,
        "ytick.major.size": 0,
        "grid.color": LINE,
        "grid.linewidth": 0.5,
        "axes.axisbelow": True,
        "pdf.fonttype": 42,
        "svg.fonttype": "path",
        "svg.hashsalt": "offcut",
    }
