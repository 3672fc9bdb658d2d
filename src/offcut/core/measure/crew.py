"""Threads to measure on, and how much of the machine they take."""

from __future__ import annotations

import os
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress


def cores() -> int:
    """Return how many cores this process may use."""
    return len(os.sched_getaffinity(0))


def crew(threads: int, *, gently: bool = False) -> ThreadPoolExecutor:
    """Return threads to measure on; ``gently`` where whatever a person waits for goes before."""
    return ThreadPoolExecutor(
        threads,
        thread_name_prefix="offcut-measure",
        initializer=give_way_to_others if gently else None,
    )


_GENTLY = 10
"""The niceness of threads that do what nobody waits for: they get a tenth of a core that
another thread wants."""


def give_way_to_others() -> None:
    """Let this thread, and those it starts, work where nothing else wants to. It is for good."""
    with suppress(OSError, AttributeError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _GENTLY)
