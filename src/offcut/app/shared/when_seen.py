"""What nobody looks at is not drawn anew with every edit; it follows once it is seen."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, SignalInstance
from PySide6.QtWidgets import QWidget


class _WhenSeen(QObject):
    def __init__(self, widget: QWidget, follow: Callable[[], object]) -> None:
        super().__init__(widget)
        self._widget = widget
        self._follow = follow
        self._behind = False
        widget.installEventFilter(self)

    def heard(self, *_told: object) -> None:
        """Follow now where it is seen."""
        self._behind = not self._widget.isVisible()
        if not self._behind:
            self._follow()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if self._behind and event.type() == QEvent.Type.Show and watched is self._widget:
            self._behind = False
            self._follow()
        return False


def when_seen(signal: SignalInstance, widget: QWidget, follow: Callable[[], object]) -> None:
    """Call ``follow`` at a signal while a widget is seen; else once, when it is seen again."""
    signal.connect(_WhenSeen(widget, follow).heard)
