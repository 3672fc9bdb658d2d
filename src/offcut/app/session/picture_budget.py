"""One budget for all pictures held in memory, whichever part of the window holds them."""

from __future__ import annotations

import threading
import weakref
from typing import Protocol

USUAL = 192 << 20
"""Bytes of pictures held at most, unless a person sets another limit."""


class Holder(Protocol):
    """Holds pictures; belongs to any thread."""

    @property
    def held_bytes(self) -> int:
        """Bytes of pictures held now."""

    def let_oldest_go(self, much: int) -> int:
        """Let pictures go that were used longest ago, about so many bytes; return how many went."""


class PictureBudget:
    """The bytes that all holders together may hold; who holds most lets go first."""

    def __init__(self, limit: int = USUAL) -> None:
        self.limit = limit
        self._holders: weakref.WeakSet[Holder] = weakref.WeakSet()
        self._lock = threading.Lock()

    def join(self, holder: Holder) -> None:
        """Take a holder in, for as long as there is one."""
        with self._lock:
            self._holders.add(holder)

    @property
    def held_bytes(self) -> int:
        """Bytes of all pictures held now."""
        with self._lock:
            return sum(h.held_bytes for h in tuple(self._holders))

    def set_limit(self, limit: int) -> None:
        """Let all hold no more than so many bytes."""
        self.limit = limit
        self.settle()

    def settle(self) -> None:
        """Let pictures go until all fit. Never called with a holder's own lock held."""
        with self._lock:
            holders = [(h.held_bytes, n, h) for n, h in enumerate(tuple(self._holders))]
            over = sum(size for size, _, _ in holders) - self.limit
            for _, _, holder in sorted(holders, reverse=True):
                if over <= 0:
                    return
                over -= holder.let_oldest_go(over)
