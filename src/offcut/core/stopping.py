"""Stopping work from outside, where what does it is many calls away from who was asked."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_STOP: ContextVar[threading.Event | None] = ContextVar("offcut-stop", default=None)


@contextmanager
def stops_with(stop: threading.Event) -> Iterator[None]:
    """Let what is done inside, on this thread, end early once an event is set."""
    before = _STOP.set(stop)
    try:
        yield
    finally:
        _STOP.reset(before)


def is_stopped() -> bool:
    """Tell whether what is done on this thread is to end."""
    stop = _STOP.get()
    return stop is not None and stop.is_set()
