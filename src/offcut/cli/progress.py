"""How far the work is, on a terminal."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable

from offcut.core.words import time_left


def progress_told(quiet: bool) -> Callable[[int, int], None] | None:
    """Return what tells the share done and the time left, None where nobody looks."""
    if quiet or not sys.stderr.isatty():
        return None
    began = time.monotonic()

    def tell(done: int, whole: int) -> None:
        left = (time.monotonic() - began) / max(1, done) * (whole - done)
        print(
            f"\r{100 * done // whole:3d} %  {time_left(left):<14s}",
            end="\n" if done >= whole else "",
            file=sys.stderr,
            flush=True,
        )

    return tell
