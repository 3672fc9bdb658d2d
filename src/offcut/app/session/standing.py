"""Threads that stand for as long as a part of the window does, and serve what it wants."""

from __future__ import annotations

import sys
import threading

from PySide6.QtCore import QThread

AGAIN_AFTER = 0.5
"""Seconds after which a thread that failed serves again."""


class StandingThread(QThread):
    """Serves until it is told to leave; a failure nobody foresaw is told, and it goes on.

    A subclass overrides `serve`, which returns once ``leaving`` is set, `wake`, which ends its
    waiting, and `let_go`, which closes what it opened.
    """

    again = True

    def __init__(self) -> None:
        super().__init__()
        self.leaving = threading.Event()

    def serve(self) -> None:
        """Serve until ``leaving`` is set."""
        raise NotImplementedError

    def wake(self) -> None:
        """End a wait of `serve`."""

    def let_go(self) -> None:
        """Close what was opened."""

    def run(self) -> None:
        """Serve, again where it failed."""
        try:
            while not self.leaving.is_set():
                try:
                    self.serve()
                    return
                except Exception:
                    sys.excepthook(*sys.exc_info())  # it is told on the interface thread
                if not self.again:
                    return
                self.leaving.wait(AGAIN_AFTER)
        finally:
            self.let_go()

    def leave(self) -> None:
        """Stop, and wait until it has."""
        self.leaving.set()
        self.wake()
        self.wait(20_000)
