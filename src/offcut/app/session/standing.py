"""Threads that stand for as long as a part of the window does, and serve what it wants."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Callable

from PySide6.QtCore import QThread

from offcut.core.machine.memory import give_back

AGAIN_AFTER = 0.5
"""Seconds after which a thread that failed serves again."""
IDLE = 10.0
"""Seconds after which a thread that nothing was asked of closes what it opened: each decoder
holds its pictures, and those of a large film are many megabytes."""


class Idle:
    """Nothing was asked for since it was made; ``over`` once that is long enough."""

    def __init__(self) -> None:
        self._until = time.monotonic() + IDLE

    @property
    def over(self) -> bool:
        """True after `IDLE` seconds."""
        return time.monotonic() > self._until


class StandingThread(QThread):
    """Serves until it is told to leave; a failure nobody foresaw is told, and it goes on.

    A subclass overrides `serve`, which returns once ``leaving`` is set, or when nothing was asked
    for `IDLE` seconds; `wake`, which ends its waiting, and `let_go`, which closes what it opened
    and tells whether there was anything: its memory is given back then.
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

    def let_go(self) -> bool:
        """Close what was opened, which may be wanted again; tell whether there was anything."""
        return False

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
                self._give_back()
        finally:
            self._give_back()

    def _give_back(self) -> None:
        if self.let_go():
            give_back()

    def leave(self) -> None:
        """Stop, and wait until it has."""
        self.leaving.set()
        self.wake()
        self.wait(20_000)


class Standing:
    """The threads of a part of the window: each begins when it is first wanted, all end with it."""

    def __init__(self) -> None:
        self._threads: dict[str, StandingThread] = {}
        self._closed = False

    def begin(
        self,
        name: str,
        make: Callable[[], StandingThread],
        priority: QThread.Priority = QThread.Priority.InheritPriority,
    ) -> None:
        """Have a thread of that name serve, begun anew where it ended by itself."""
        before = self._threads.get(name)
        if self._closed or (before is not None and before.isRunning()):
            return
        if before is not None:
            before.wait()
        self._threads[name] = make()
        self._threads[name].start(priority)

    def __contains__(self, name: str) -> bool:
        return name in self._threads

    def close(self) -> None:
        """End them for good."""
        self._closed = True
        while self._threads:
            self._threads.popitem()[1].leave()
