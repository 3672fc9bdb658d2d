"""Recovery: unsaved work is kept aside while one works, and told of after a fall."""

from __future__ import annotations

import logging
import threading
from concurrent.futures import Future, ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.core.errors import OffcutError
from offcut.core.store.recovery import LeftWork, Recovery

log = logging.getLogger("offcut")

WAIT_MS = 150
"""So long after an edit it is written aside: several at once are written once."""


class RecoverySaver(QObject):
    """Keeps the work of a session aside whenever it has unsaved edits."""

    failed = Signal(str)

    def __init__(self, session: Session, recovery: Recovery | None = None) -> None:
        super().__init__(session)
        self._session = session
        self._recovery = recovery or Recovery()
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="offcut-recovery")
        self._under_way: Future[None] | None = None
        self._kept: object = None
        self._told = False
        self._closed = threading.Event()
        self._soon = soon(self, WAIT_MS, self.keep)
        session.changed.connect(self._changed)

    def _changed(self) -> None:
        if self._closed.is_set():
            return
        if self._session.source is None or self._session.history.saved:
            self._clear()
        elif self._session.project is not self._kept and not self._soon.isActive():
            self._soon.start()

    def _clear(self) -> None:
        self._soon.stop()
        if self._kept is not None:
            self._kept = None
            self._pool.submit(self._recovery.clear)

    def keep(self) -> None:
        """Write the work aside now, off the interface thread."""
        if self._under_way is not None and not self._under_way.done():
            self._soon.start()
            return
        project, file = self._session.project, self._session.file
        in_hand = self._session.in_hand
        self._kept = project

        def write() -> None:
            try:
                self._recovery.keep(project, file, in_hand)
            except Exception as error:
                log.warning("%s", error, exc_info=not isinstance(error, OffcutError))
                if not self._told:
                    self._told = True
                    self.failed.emit(str(error))

        self._under_way = self._pool.submit(write)

    def keep_at_once(self) -> None:
        """Write the work aside, as it is now, before anything else happens."""
        if self._session.source is None or self._session.history.saved:
            return
        if self._under_way is not None:
            self._under_way.result(timeout=10)  # it may hold what was before
        self.keep()
        if self._under_way is not None:
            self._under_way.result(timeout=10)

    def close(self) -> None:
        """The work is saved or given up: nothing is left behind."""
        if self._closed.is_set():
            return
        self._closed.set()
        self._soon.stop()
        self._pool.submit(self._recovery.clear)
        self._pool.shutdown(wait=True)


def left_words(left: LeftWork) -> str:
    """Say what was left, and from when it is."""
    when = left.when.astimezone()
    name = left.file.name if left.file else left.project.name
    return f"Unsaved work on {name} was left when Offcut fell, from {when:%d %B, %H:%M:%S}"
