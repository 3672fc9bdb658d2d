"""Memory given back to the system: malloc keeps what was freed, and a window is open all day.

Of glibc (mallopt(3), malloc_trim(3)); elsewhere nothing happens.
"""

from __future__ import annotations

import contextlib
import ctypes
from functools import cache

_M_TRIM_THRESHOLD, _M_MMAP_THRESHOLD, _M_ARENA_MAX = -1, -3, -8
"""Of glibc's malloc.h."""
MAPPED = 1 << 20
"""Bytes from which a piece of memory is mapped by itself, and goes back as soon as it is freed.

Left to itself malloc raises that to 32 MB once such a piece was freed, and then keeps them."""


@cache
def _libc() -> ctypes.CDLL | None:
    try:
        libc = ctypes.CDLL(None)
        libc.mallopt.argtypes = (ctypes.c_int, ctypes.c_int)
        libc.malloc_trim.argtypes = (ctypes.c_size_t,)
    except (OSError, AttributeError):
        return None
    return libc


def keep_little() -> None:
    """Let freed memory go back to the system early, and threads share few stores of it."""
    libc = _libc()
    if libc is not None:
        libc.mallopt(_M_MMAP_THRESHOLD, MAPPED)
        libc.mallopt(_M_TRIM_THRESHOLD, 4 * MAPPED)
        libc.mallopt(_M_ARENA_MAX, 4)


def give_back() -> None:
    """Give freed memory back to the system now, after long work. Takes milliseconds."""
    libc = _libc()
    if libc is not None:
        with contextlib.suppress(OSError):
            libc.malloc_trim(0)
