"""The window’s place on the screen: inside its free room, the frame counted, from the start on."""

from __future__ import annotations

from PySide6.QtCore import QByteArray, QMargins, QRect, QSettings, QSize
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMainWindow

WANTED = QSize(1280, 800)
LEAST = QSize(1100, 700)
USUAL_FRAME = QMargins(2, 34, 2, 2)
"""What a window manager may lay around a window, before it has told."""
_KEY = "window-place"


def place_in(free: QRect, frame: QMargins, wanted: QRect) -> QRect:
    """Return where a window is put so that it and its frame lie in the free room."""
    inside = free.marginsRemoved(frame)
    size = wanted.size().boundedTo(inside.size())
    left = max(inside.left(), min(wanted.left(), inside.right() + 1 - size.width()))
    top = max(inside.top(), min(wanted.top(), inside.bottom() + 1 - size.height()))
    return QRect(left, top, size.width(), size.height())


def open_in_free_room(window: QMainWindow, settings: QSettings) -> None:
    """Give a window, before it is shown, the place it had last, or the usual one."""
    window.resize(WANTED)
    kept = settings.value(_KEY)
    if isinstance(kept, QByteArray) and not kept.isEmpty():
        window.restoreGeometry(kept)
    fit_into_free_room(window, USUAL_FRAME)


def fit_into_free_room(window: QMainWindow, frame: QMargins | None = None) -> None:
    """Move and shrink a window where a part of it, or of its frame, lies outside the free room."""
    if QGuiApplication.platformName() in ("offscreen", "minimal"):
        window.setMinimumSize(LEAST)  # there is no screen
        return
    if window.isMaximized() or window.isFullScreen():
        return
    free = window.screen().availableGeometry()
    if frame is None:
        handle = window.windowHandle()
        frame = handle.frameMargins() if handle is not None else QMargins()
    window.setMinimumSize(LEAST.boundedTo(free.marginsRemoved(frame).size()))
    now = window.geometry()
    placed = place_in(free, frame, now)
    if placed != now:
        window.setGeometry(placed)


def keep_place(window: QMainWindow, settings: QSettings) -> None:
    """Remember where a window lies, for the next start."""
    if not window.isFullScreen():
        settings.setValue(_KEY, window.saveGeometry())
