"""Work off the interface thread: one small runner with progress, stop and error."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QCoreApplication, QObject, QRunnable, QThreadPool, QTimer, Signal

from offcut.core.errors import OffcutError

log = logging.getLogger("offcut")

TOLD_EVERY = 0.2
"""Seconds between two words of how far work is: more often nobody reads them, and each is painted
on the thread that the person works on."""


class Job(QObject):
    """One piece of work, told apart by its words ("Finding seams").

    The work is called with the job itself and says how far it is with `tell`; it looks at
    ``stop`` often and returns early once it is set. All signals arrive on the interface thread.
    """

    progressed = Signal(int, int)
    partial = Signal(object)
    done = Signal(object)
    failed = Signal(str)
    ended = Signal()

    def __init__(self, words: str, work: Callable[[Job], Any]) -> None:
        super().__init__()
        self.words = words
        self.stop = threading.Event()
        self.began = time.monotonic()
        self._told = 0.0
        self._work = work

    def tell(self, done: int, whole: int) -> None:
        """Say how far the work is; it is heard five times a second at most, and at its end."""
        now = time.monotonic()
        if done >= whole or now - self._told >= TOLD_EVERY:
            self._told = now
            self.progressed.emit(done, whole)

    def run(self) -> None:
        """Do the work and report its end, whatever it was."""
        try:
            self.done.emit(self._work(self))
        except OffcutError as error:
            self.failed.emit(str(error))
        except Exception as error:
            log.exception("%s failed", self.words)
            self.failed.emit(f"{self.words} failed: {error}")
        finally:
            self.ended.emit()


class _Runnable(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self._job = job

    def run(self) -> None:
        self._job.run()


class Jobs(QObject):
    """The jobs under way, oldest first; ``changed`` tells when one starts or ends."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.running: list[Job] = []
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(3)
        self._closed = False

    def start(self, words: str, work: Callable[[Job], Any]) -> Job:
        """Return a job that starts once the event loop runs, so that its signals can be heard."""
        job = Job(words, work)
        job.ended.connect(lambda: self._ended(job))
        self.running.append(job)
        QTimer.singleShot(0, lambda: self._begin(job))
        self.changed.emit()
        return job

    def _begin(self, job: Job) -> None:
        if not self._closed:
            self._pool.start(_Runnable(job))

    def _ended(self, job: Job) -> None:
        if self._closed:
            return
        self.running.remove(job)
        self.changed.emit()

    def close(self) -> None:
        """Stop every job, wait until the threads are free, and let none begin.

        What they said last is heard now, while those who listen are still there.
        """
        self._closed = True
        for job in self.running:
            job.stop.set()
        self._pool.waitForDone(20_000)
        QCoreApplication.sendPostedEvents()
        self.running.clear()
