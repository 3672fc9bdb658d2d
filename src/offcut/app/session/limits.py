"""The limits a person may set: what is held in memory and on disk."""

from __future__ import annotations

from PySide6.QtCore import QSettings

from offcut.app.session.picture_budget import USUAL

MB = 1 << 20


class Limits:
    """The limits a person may set, by their names in the settings file, in bytes."""

    def __init__(self, settings: QSettings) -> None:
        self._settings = settings

    DEFAULTS = {  # noqa: RUF012
        "signals-bytes": 4096 * MB,
        "thumbnails-bytes": 256 * MB,
        "proxies-bytes": 20_480 * MB,
        "pictures-bytes": USUAL,
    }

    def get(self, name: str) -> int:
        """Return a limit, whatever the settings file says."""
        try:
            return max(8 * MB, int(str(self._settings.value(name))))
        except ValueError:
            return self.DEFAULTS[name]

    def set(self, name: str, limit: int) -> None:
        """Remember a limit."""
        self._settings.setValue(name, limit)
