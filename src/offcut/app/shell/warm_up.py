"""Loading statistics while nobody waits, so that Rhythm opens at once when it is first opened."""

from __future__ import annotations

import contextlib
import importlib
import threading

from PySide6.QtCore import QTimer

from offcut.core.measure.crew import give_way_to_others

AFTER = 2500
"""Milliseconds after the window is there."""
_SLOW = ("scipy.stats", "scipy.signal", "scipy.ndimage", "pyqtgraph", "offcut.core.rhythm.page")


def load_statistics_soon() -> None:
    """Load what Rhythm counts and draws with, on a thread of its own, in a moment."""
    QTimer.singleShot(AFTER, lambda: threading.Thread(target=_load, daemon=True).start())


def _load() -> None:
    give_way_to_others()
    for name in _SLOW:
        with contextlib.suppress(ImportError):
            importlib.import_module(name)
