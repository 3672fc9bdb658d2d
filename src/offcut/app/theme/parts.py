"""Small parts that take their look from the style sheet by name."""

from __future__ import annotations

from html import escape
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSpinBox, QVBoxLayout, QWidget


def label(words: str = "", look: str = "") -> QLabel:
    """Return a label with one of the looks: head, large, faint, mono, monofaint."""
    made = QLabel()
    made.setTextFormat(Qt.TextFormat.PlainText)  # names of files and shots may look like markup
    made.setText(words)
    made.setObjectName(look)
    return made


def plain(words: str) -> str:
    """Return words as a tooltip shows them letter by letter, whatever names are in them."""
    if "<" not in words and "&" not in words:
        return words
    return f"<p style='white-space:pre-wrap'>{escape(words)}</p>"


def in_menu(words: str) -> str:
    """Return words as a menu shows them: a single & would underline the letter after it."""
    return words.replace("&", "&&")


def number(low: int, high: int, name: str, suffix: str = "") -> QSpinBox:
    """Return a field for a whole number, by the name it is read out with."""
    made = QSpinBox()
    made.setRange(low, high)
    made.setSuffix(suffix)
    made.setAccessibleName(name)
    made.lineEdit().setTextMargins(4, 0, 0, 0)
    return made


def pane(look: str) -> QWidget:
    """Return a surface that the style sheet paints: topbar, status, bench, list or side."""
    made = QWidget()
    made.setObjectName(look)
    made.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    return made


Margins = tuple[int, int, int, int]
_NONE = (0, 0, 0, 0)


def stacked(
    margins: Margins = _NONE, spacing: int | None = None, *, look: str = ""
) -> tuple[QWidget, QVBoxLayout]:
    """Return a part whose own parts stand one under the other, and what they are added to."""
    made = pane(look) if look else QWidget()
    return made, _laid(QVBoxLayout(made), margins, spacing)


def in_line(
    margins: Margins = _NONE, spacing: int | None = None, *, look: str = ""
) -> tuple[QWidget, QHBoxLayout]:
    """Return a part whose own parts stand side by side, and what they are added to."""
    made = pane(look) if look else QWidget()
    return made, _laid(QHBoxLayout(made), margins, spacing)


_Box = TypeVar("_Box", QVBoxLayout, QHBoxLayout)


def _laid(box: _Box, margins: Margins, spacing: int | None) -> _Box:
    box.setContentsMargins(*margins)
    if spacing is not None:
        box.setSpacing(spacing)
    return box
