"""Doing once, in a moment, what was asked for many times."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QTimer, SignalInstance


def soon(owner: QObject, milliseconds: int, then: Callable[..., Any] | SignalInstance) -> QTimer:
    """Return a timer that, once started, does something one time; it ends with its owner."""
    timer = QTimer(owner)
    timer.setSingleShot(True)
    timer.setInterval(milliseconds)
    timer.timeout.connect(then)
    return timer
