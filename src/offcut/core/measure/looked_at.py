"""What is looked for in a few frames of each shot: which frames, and keeping what was seen there.

A row is kept for each frame that was looked at, those found later after those found before; what is
kept of a film grows with its shots, not with its frames.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Generic, TypeVar

import av
import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measurer import Kept
from offcut.core.measure.small_pictures import Crop
from offcut.core.model.source import Media

_Seen = TypeVar("_Seen")
Row = Mapping[str, Any]
FRAME = "frame"
"""The first array of what is kept so: int32 (k,), the frames that were looked at."""


def frames_to_look_at(shots: Iterable[tuple[int, int]], rate: float, every: float) -> list[int]:
    """Return the frames to look at: one every so many seconds of the film, one in each shot.

    They lie on the film's own grid, so that they are the same however it is cut; a shot that holds
    none of them is looked at in its middle.
    """
    step = max(1, round(every * rate))
    frames = []
    for start, end in shots:
        first = start + (step // 2 - start) % step
        frames += list(range(first, end, step)) or [(start + end) // 2]
    return frames


class Watcher(Generic[_Seen]):
    """Looks at wanted frames as a film is decoded; all of a pass share ``found``."""

    whole = True

    def __init__(
        self,
        wanted: frozenset[int],
        look: Callable[[int, av.VideoFrame], _Seen],
        found: dict[int, _Seen],
    ) -> None:
        self._wanted, self._look, self._found = wanted, look, found

    def see(self, number: int, frame: av.VideoFrame, _luma: NDArray[np.uint8]) -> None:
        """Look at a frame where it is wanted."""
        if number in self._wanted and number not in self._found:
            self._found[number] = self._look(number, frame)

    def end(self) -> None:
        """There is nothing to let go of."""


def keep_rows(media: Media, kind: Kept, rows: Mapping[int, Row], crop: Crop | None = None) -> None:
    """Keep a row for each of some frames, behind those that are kept."""
    made = [(frame, row) for frame, row in sorted(rows.items()) if 0 <= frame < media.frames]
    if not made:
        return
    store = KeptSignals(media, crop)
    at = max((end for _, end in store.ranges(kind, 0, _MOST)), default=0)
    arrays = {name: np.stack([row[name] for _, row in made]) for name in kind.arrays[1:]}
    store.keep(kind, at, [{FRAME: np.array([f for f, _ in made], np.int32), **arrays}])


def kept_rows(media: Media, kind: Kept, crop: Crop | None = None) -> dict[int, Row]:
    """Return the row of each frame that was looked at."""
    found: dict[int, Row] = {}
    for _, _, arrays in KeptSignals(media, crop).pieces(kind, 0, _MOST):
        for place, frame in enumerate(arrays[FRAME].tolist()):
            found[int(frame)] = {name: arrays[name][place] for name in kind.arrays[1:]}
    return found


_MOST = 1 << 40
