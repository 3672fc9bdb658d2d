"""Notes of what was found in shots as they are printed: each sign drawn from the thing itself.

A line as long as a pan, with its head where it goes; a wedge that opens with a zoom; a jagged line
for a hand that shakes; a ring as large as a face; a wave for speech. Dotted where it is not sure.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from offcut.core.facts.face_sizes import SIZES
from offcut.core.facts.fact import Fact, FactCertainty, Sort
from offcut.core.rhythm.noted import Note
from offcut.core.rhythm.print_look import INK

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_WAYS = {"left": (-1, 0), "right": (1, 0), "up": (0, 1), "down": (0, -1)}
_LEAST = 1.2
"""Millimetres that a sign takes at least."""


def draw_notes(ax: Axes, notes: tuple[Note, ...], first: float, scale: float, high: float) -> None:
    """Draw a lane's notes on axes in millimetres, ``scale`` of them a second from ``first``."""
    for note in notes:
        x, w = (note.begin - first) * scale, (note.end - note.begin) * scale
        w = max(_LEAST, w - 0.3)
        look: dict[str, Any] = {"color": INK, "lw": 0.6, "clip_on": False}
        if note.fact.certainty is not FactCertainty.SURE:
            look["ls"] = (0, (1, 1.4))
        if note.fact.sort is Sort.FACES:
            _rings(ax, note.fact, x, w, high, look)
        elif note.fact.sort is Sort.SOUND:
            _wave(ax, x, w, high, look)
        elif note.fact.sort is Sort.STEADINESS:
            _jagged(ax, x, w, high, 0.17 if note.fact.value == "strong" else 0.1, look)
        else:
            _move(ax, str(note.fact.value), x, w, high, look)


def _move(ax: Axes, value: str, x: float, w: float, high: float, look: dict[str, Any]) -> None:
    kind, _, way = value.partition(" ")
    mid, end = high / 2, x + w
    if kind == "zoom":
        a, b = (0.06, 0.42) if way == "in" else (0.42, 0.06)
        for side in (1, -1):
            ax.plot([x, end], [mid + side * a * high, mid + side * b * high], **look)
        return
    if kind == "roll":
        turn = np.linspace(0, 1.6 * np.pi, 24) * (1 if way == "left" else -1)
        r = 0.38 * high
        ax.plot(x + w / 2 + r * np.cos(turn), mid + r * np.sin(turn), **look)
        return
    dx, dy = _WAYS.get(way, (0, 0))
    if kind == "whip":
        look = {**look, "lw": 1.6}
    ax.plot([x, end], [mid, mid], **look)
    head = 0.28 * high
    if dx:
        tip, back = (end, end - head) if dx > 0 else (x, x + head)
        ax.plot([back, tip, back], [mid + head * 0.7, mid, mid - head * 0.7], **{**look, "ls": "-"})
    elif dy:
        tip = mid + dy * 0.42 * high
        at = x + w / 2
        ax.plot([at, at], [mid, tip], **look)
        sides = [at - head * 0.7, at, at + head * 0.7]
        ax.plot(sides, [tip - dy * head, tip, tip - dy * head], **{**look, "ls": "-"})


def _jagged(ax: Axes, x: float, w: float, high: float, tall: float, look: dict[str, Any]) -> None:
    count = max(3, round(w / 0.9))
    at = np.linspace(x, x + w, count)
    foot = 0.14 * high  # under what the camera does, which a hand may do as well
    ax.plot(at, foot + tall * high * np.where(np.arange(count) % 2, 1, -1), **look)


def _wave(ax: Axes, x: float, w: float, high: float, look: dict[str, Any]) -> None:
    at = np.linspace(x, x + w, max(8, round(w / 0.12)))
    ax.plot(at, high / 2 + 0.3 * high * np.sin(2 * np.pi * (at - x) / 1.6), **look)


def _rings(ax: Axes, fact: Fact, x: float, w: float, high: float, look: dict[str, Any]) -> None:
    size = str(fact.figures.get("size", SIZES[0]))
    nth = SIZES.index(size) if size in SIZES else 0
    r = high * (0.14 + 0.085 * nth)
    ax.plot([x, x + w], [0.03 * high] * 2, **{**look, "lw": 0.4})
    turn = np.linspace(0, 2 * np.pi, 28)
    room = max(1, int(w / (2 * r + 0.3)))
    count = min(room, 4, int(fact.value) if isinstance(fact.value, int) else 1)
    for n in range(max(1, count)):
        at = x + r + n * (2 * r + 0.3)
        ax.plot(at + r * np.cos(turn), high / 2 + r * np.sin(turn), **look)
