"""Notifications of the desktop, where there is one that shows them."""

from __future__ import annotations

import os
import shutil

from PySide6.QtCore import QProcess


def tell_desktop(title: str, words: str) -> bool:
    """Show a notification; False where nothing shows any."""
    program = shutil.which("notify-send")
    if program is None or not os.environ.get("DBUS_SESSION_BUS_ADDRESS"):
        return False
    started = QProcess.startDetached(program, ["--app-name=Offcut", title, words])
    return bool(started[0] if isinstance(started, tuple) else started)
