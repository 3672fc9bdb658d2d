"""Threads that stand for as long as a part of the window does, and serve what it wants."""

from __future__ import annotations

import sys
import threading

from PySide6.QtCore import QThread

AGAIN_AFTER = 0.5
"""Seconds after which a thread that failed serves again."""
IDLE = 10.0
"""Seconds after which a thread that nothing was asked of closes what it opened: each decoder
holds its pictures, and those of a large film are many megabytes."""


class StandingThread(QThread):
    """Serves until it is told to leave; a failure nobody foresaw is told, and it goes on.

    A subclass overrides `serve`, which returns once ``leaving`` is set, or when nothing was asked
    for `IDLE` seconds; `wake`, which ends its waiting, and `let_go`, which closes what it opened.
    """

    again = True

    def __init__(self) -> None:
        super().__init__()
        self.leaving = threading.Event()

    def serve(self) -> None:
        """Serve until ``leaving`` is set, or nothing was asked for a while."""
        raise NotImplementedError

    def wake(self) -> None:
        """End a wait of `serve`."""

    def let_go(self) -> None:
        """Close what was opened; it may be wanted again."""

    def run(self) -> None:
        """Serve, again where it failed."""
        try:
            while not self.leaving.is_set():
                try:
                    self.serve()
                except Exception:
                    sys.excepthook(*sys.exc_info())  # it is told on the interface thread
                    self.leaving.wait(AGAIN_AFTER if self.again else 0)
                if not self.again:
                    return
                self.let_go()
        finally:
            self.let_go()

    def leave(self) -> None:
        """Stop, and wait until it has."""
        self.leaving.set()
        self.wake()
        self.wait(20_000)
