"""Stopping work from outside, and hearing how far it is, where what does it is many calls away."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_STOP: ContextVar[threading.Event | None] = ContextVar("offcut-stop", default=None)


_TELL: ContextVar[Callable[[int, int], object] | None] = ContextVar("offcut-tell", default=None)


@contextmanager
def stops_with(
    stop: threading.Event, tell: Callable[[int, int], object] | None = None
) -> Iterator[None]:
    """Let what is done inside, on this thread, end early once an event is set.

    ``tell`` hears how far it is, as (done, whole).
    """
    stopped, told = _STOP.set(stop), _TELL.set(tell)
    try:
        yield
    finally:
        _STOP.reset(stopped)
        _TELL.reset(told)


def is_stopped() -> bool:
    """Tell whether what is done on this thread is to end."""
    stop = _STOP.get()
    return stop is not None and stop.is_set()


def tell(done: int, whole: int) -> None:
    """Say how far what is done on this thread is, to whoever asked for it."""
    hearer = _TELL.get()
    if hearer is not None:
        hearer(done, whole)
