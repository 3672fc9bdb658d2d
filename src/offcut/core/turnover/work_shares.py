"""Shots shared out between workers, so that each reads on where it is and none is left idle."""

from __future__ import annotations

import threading
from collections.abc import Sequence

from offcut.core.turnover.plan import Item


class Shares:
    """Every worker has a run of shots that follow one another; who is done halves the longest.

    Reading a run costs one seek, and after a seek everything from the keyframe before is decoded:
    the fewer runs, the better.
    """

    def __init__(self, items: Sequence[Item], workers: int) -> None:
        self._turn = threading.Lock()
        whole = sum(i.frames for i in items)
        self._runs: list[list[Item]] = [[] for _ in range(workers)]
        before = 0
        for item in items:
            middle = before + item.frames / 2
            self._runs[min(workers - 1, int(middle * workers / max(1, whole)))].append(item)
            before += item.frames

    def next(self, worker: int) -> Item | None:
        """Return the shot a worker writes next, None when nothing is left."""
        with self._turn:
            own = self._runs[worker]
            if not own:
                longest = max(self._runs, key=_frames)
                middle = len(longest) // 2
                own[:], longest[middle:] = longest[middle:], []
            return own.pop(0) if own else None


def _frames(run: Sequence[Item]) -> int:
    return sum(i.frames for i in run)
