"""Shots shared out between workers, so that each reads on where it is and none is left idle."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from pathlib import Path

import av

from offcut.core.media.index import FrameIndex
from offcut.core.media.reader import FrameReader
from offcut.core.turnover.plan import Item

BYTES = 128 << 20


class Shares:
    """Every worker has a run of shots that follow one another; who is done halves the longest.

    Reading a run costs one seek, and after a seek everything from the keyframe before is decoded:
    the fewer runs, the better.
    """

    def __init__(self, items: Sequence[Item], workers: int) -> None:
        self._turn = threading.Lock()
        whole = sum(i.end - i.start for i in items)
        self._runs: list[list[Item]] = [[] for _ in range(workers)]
        before = 0
        for item in items:
            middle = before + (item.end - item.start) / 2
            self._runs[min(workers - 1, int(middle * workers / max(1, whole)))].append(item)
            before += item.end - item.start

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
    return sum(i.end - i.start for i in run)


class TrailingReader(FrameReader):
    """Remembers the frames it gave last, for the handles of one shot that lie in the next.

    ``behind`` frames are remembered, `BYTES` of them at most.
    """

    def __init__(self, path: str | Path, index: FrameIndex, behind: int, threads: int = 0) -> None:
        super().__init__(path, index, threads=threads)
        self._behind = behind
        self._given: OrderedDict[int, av.VideoFrame] = OrderedDict()

    def frame(
        self, number: int, passed: Callable[[int, av.VideoFrame], None] | None = None
    ) -> av.VideoFrame:
        """Return exactly frame ``number``, as `FrameReader.frame` does."""
        held = self._given.get(number)
        if held is not None:
            return held
        picture = super().frame(number, passed)
        if self._behind:
            self._given[number] = picture
            size = max(1, sum(p.buffer_size for p in picture.planes))
            while len(self._given) > min(self._behind, BYTES // size):
                self._given.popitem(last=False)
        return picture
