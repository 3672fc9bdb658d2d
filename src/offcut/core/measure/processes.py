"""Films measured on processes of this machine: a part each, whole pictures stay there."""

from __future__ import annotations

import multiprocessing
import threading
from collections import deque
from collections.abc import Callable, Generator
from concurrent.futures import Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures import TimeoutError as NotYet
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from offcut.core.errors import MediaError
from offcut.core.measure.crew import cores, crew
from offcut.core.measure.film_pass import Measured
from offcut.core.measure.measuring import JUDGES, ToMeasure
from offcut.core.measure.part import measure_part
from offcut.core.measure.plan import parts_between
from offcut.core.measure.small_pictures import Crop

TASK = 1800
"""A process is given about so many frames at once: a part before them is decoded again, for what
they are compared with."""
_WAIT = 0.2


class OnProcesses:
    """Measures on processes. They are started at the first film and stay until it is closed."""

    def __init__(self, processes: int = 0) -> None:
        """``processes`` 0 for one a core."""
        self._many = processes or cores()
        self._pool: ProcessPoolExecutor | None = None
        self._judges: ThreadPoolExecutor | None = None

    def __enter__(self) -> OnProcesses:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """End the processes; what they work on is waited for, what waits is not begun."""
        for pool in (self._pool, self._judges):
            if pool is not None:
                pool.shutdown(cancel_futures=True)
        self._pool = self._judges = None

    @property
    def each(self) -> Callable[..., Any]:
        """What windows are judged by: threads of this process."""
        if self._judges is None:
            self._judges = crew(JUDGES)
        return self._judges.map

    def measured(self, wanted: ToMeasure) -> Generator[Measured]:
        """Yield signals as `Measuring` has it; a stop waits for no part. Nothing watches."""
        if self._pool is None:
            # a copy of a process with threads may hang: begun anew they know nothing of them
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(self._many, mp_context=context)
        pool, film, start, end = self._pool, wanted.film, wanted.start, wanted.end
        media = film.media
        least = max(1, min(TASK, (end - start) // (2 * self._many)))
        left = iter(parts_between(film.index, start, end, least))
        names = [m.name for m in wanted.measurers]
        waiting: deque[Future[list[Measured]]] = deque()

        def ask() -> None:
            part = next(left, None)
            if part is not None:
                waiting.append(
                    pool.submit(
                        measure_part, media.path, media.fingerprint, media.run,
                        wanted.crop or Crop(),
                        *part, names, fields=film.fields,
                    )
                )  # fmt: skip

        try:
            for _ in range(self._many + 1):
                ask()
            while waiting:
                runs = _result(waiting[0], wanted.stop)
                if runs is None:
                    return
                waiting.popleft()
                ask()
                yield from runs
        except BrokenProcessPool as error:
            self._pool = None
            words = "a process that measured it was ended; look again"
            raise MediaError(f"{media.path}: {words}") from error
        finally:
            for job in waiting:
                job.cancel()


def _result(job: Future[list[Measured]], stop: threading.Event | None) -> list[Measured] | None:
    """Return what a process gave, None once ``stop`` is set."""
    while stop is None or not stop.is_set():
        try:
            return job.result(_WAIT)
        except NotYet:
            continue
    return None
