"""Work off the interface thread: the one door through which a thread begins, and answers return."""

from __future__ import annotations

import logging
import sys
import threading
import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QCoreApplication, QObject, QRunnable, QThreadPool, QTimer, Signal
from shiboken6 import isValid

from offcut.core.errors import OffcutError
from offcut.core.machine.memory import give_back
from offcut.core.machine.stopping import stops_with

log = logging.getLogger("offcut")

TOLD_EVERY = 0.2
"""Seconds between two words of how far work is: more often nobody reads them, and each is painted
on the thread that the person works on."""

LONG = 2.0
"""Seconds after which work took memory that is worth giving back."""

Hearer = Callable[..., object]


class Word:
    """One kind of thing that work says, on any thread; it is heard on the interface thread."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._hearers: list[Hearer] = []

    def connect(self, hearer: Hearer) -> None:
        """Let a function hear it."""
        self._hearers.append(hearer)

    def disconnect(self, hearer: Hearer) -> None:
        """Let a function hear it no more; nothing happens where it did not."""
        self._hearers = [h for h in self._hearers if h != hearer]

    def emit(self, *said: Any) -> None:
        """Say it. Any thread may."""
        self._job.post(self, said)

    def tell(self, said: tuple[Any, ...]) -> None:
        """Let everyone hear it now; who fails keeps no other from hearing."""
        for hearer in tuple(self._hearers):
            if _is_gone(hearer):
                continue
            try:
                hearer(*said)
            except Exception:
                sys.excepthook(*sys.exc_info())

    def forget(self) -> None:
        """Let nobody hear it any more."""
        self._hearers.clear()


def _is_gone(hearer: Hearer) -> bool:
    """Tell whether a function belongs to a part of the window that was taken away."""
    owner = getattr(hearer, "__self__", None)
    return isinstance(owner, QObject) and not isValid(owner)


class Job:
    """One piece of work, told apart by its words ("Finding seams").

    The work is called with the job itself and says how far it is with `tell`; it looks at
    ``stop`` often and returns early once it is set. What it says is heard on the interface thread.
    ``holds`` tells whether its answer still has a place: where not, nothing but its end is heard.
    """

    def __init__(
        self, words: str, work: Callable[[Job], Any], holds: Callable[[], bool] | None = None
    ) -> None:
        self.words = words
        self.stop = threading.Event()
        self.began = time.monotonic()
        self.progressed, self.partial, self.done = Word(self), Word(self), Word(self)
        self.failed, self.ended = Word(self), Word(self)
        self._told = 0.0
        self._work: Callable[[Job], Any] | None = work
        self._holds = holds
        self._jobs: Jobs | None = None

    def tell(self, done: int, whole: int) -> None:
        """Say how far the work is; it is heard five times a second at most, and at its end."""
        now = time.monotonic()
        if done >= whole or now - self._told >= TOLD_EVERY:
            self._told = now
            self.progressed.emit(done, whole)

    def goes_to(self, jobs: Jobs) -> None:
        """Let what it says be heard through the jobs it is one of."""
        self._jobs = jobs

    def post(self, word: Word, said: tuple[Any, ...]) -> None:
        """Bring a word to the interface thread; at once where there is none."""
        if self._jobs is not None:
            self._jobs.heard.emit(self, word, said)
        else:
            self.hear(word, said)

    def hear(self, word: Word, said: tuple[Any, ...]) -> None:
        """Let a word be heard where its answer still has a place; its end is heard always."""
        if word is self.ended or self._holds is None or self._holds():
            word.tell(said)
        elif word is self.failed:
            log.info("%s, asked for by what is closed now", said[0])

    def run(self) -> None:
        """Do the work and report its end, whatever it was."""
        assert self._work is not None
        try:
            with stops_with(self.stop, self.tell):
                answer = self._work(self)
            self.done.emit(answer)
        except OffcutError as error:
            self.failed.emit(str(error))
        except Exception as error:
            log.exception("%s failed", self.words)
            self.failed.emit(f"{self.words} failed: {error}")
        finally:
            self.ended.emit()

    def let_go(self) -> None:
        """Forget the work and all who heard of it: neither is held once it has ended."""
        self._work = self._holds = None
        for word in (self.progressed, self.partial, self.done, self.failed, self.ended):
            word.forget()


class _Runnable(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self._job = job

    def run(self) -> None:
        self._job.run()
        if time.monotonic() - self._job.began > LONG:
            give_back()


class Jobs(QObject):
    """The jobs under way, oldest first; ``changed`` tells when one starts or ends.

    What a person waits for and is soon done (opening, saving, looking) has a lane of its own, so
    that it never waits behind searches.
    """

    changed = Signal()
    heard = Signal(object, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.running: list[Job] = []
        self._lanes = {quick: QThreadPool(self) for quick in (False, True)}
        for quick, lane in self._lanes.items():
            lane.setMaxThreadCount(2 if quick else 3)
        self._closed = False
        self.heard.connect(self._hear)

    def start(
        self,
        words: str,
        work: Callable[[Job], Any],
        *,
        quick: bool = False,
        holds: Callable[[], bool] | None = None,
    ) -> Job:
        """Return a job that starts once the event loop runs, so that its words can be heard.

        Views ask `Session.work`, which knows whether the answer still has a place.
        """
        job = Job(words, work, holds)
        job.goes_to(self)
        job.ended.connect(lambda: self._ended(job))
        self.running.append(job)
        QTimer.singleShot(0, self, lambda: self._begin(job, quick))
        self.changed.emit()
        return job

    def _begin(self, job: Job, quick: bool) -> None:
        if not self._closed:
            self._lanes[quick].start(_Runnable(job))

    def _hear(self, job: Job, word: Word, said: tuple[Any, ...]) -> None:
        job.hear(word, said)
        if word is job.ended:
            job.let_go()

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
        for lane in self._lanes.values():
            lane.waitForDone(20_000)
        QCoreApplication.sendPostedEvents()
        self.running.clear()
