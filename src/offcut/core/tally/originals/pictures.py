"""Pictures of a film and of its originals, read where prints do not tell enough."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from offcut.core.errors import OffcutError
from offcut.core.measure.small_pictures import Crop, crop_of
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.probe import open_source
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.source import Source
from offcut.core.tally.originals.clips import Clip
from offcut.core.tally.originals.closest import HIGH, WIDE, Greys

_OPEN = 3


class FilmsRead:
    """Reads pictures of a film, inside its framing, and of its originals. `close` it."""

    def __init__(self, source: Source, opened: OpenedFilm | None, clips: Sequence[Clip]) -> None:
        self._source, self._opened, self._clips = source, opened, clips
        self._readers: OrderedDict[int, Reader] = OrderedDict()
        self._reformatter = VideoReformatter()

    def film(self, frames: Sequence[int]) -> Greys | None:
        """Return pictures of frames of the film, counted from the first of its range."""
        crop = crop_of(self._source)
        return self._read(-1, [self._source.start + f for f in frames], crop)

    def clip(self, place: int, frames: Sequence[int]) -> Greys | None:
        """Return pictures of frames of an original, as far as it has them."""
        last = self._clips[place].media.frames
        return self._read(place, [f for f in frames if f < last], Crop())

    def close(self) -> None:
        """Give the files back."""
        while self._readers:
            self._readers.popitem()[1].close()

    def _read(self, place: int, frames: Sequence[int], crop: Crop) -> Greys | None:
        media = self._source.media if place < 0 else self._clips[place].media
        if media.rotation or not frames:
            return None
        wide = round(WIDE / max(0.1, crop.right - crop.left))
        high = round(HIGH / max(0.1, crop.bottom - crop.top))
        left, top = round(crop.left * wide), round(crop.top * high)
        try:
            reader = self._reader(place)
            seen: list[NDArray[Any]] = [
                self._reformatter.reformat(
                    reader.frame(f), wide, high, "gray", interpolation=Interpolation.AREA
                ).to_ndarray()[top : top + HIGH, left : left + WIDE]
                for f in frames
            ]
        except (OffcutError, ValueError, OSError):
            return None
        if seen[0].shape != (HIGH, WIDE):
            seen = [cv2.resize(p, (WIDE, HIGH), interpolation=cv2.INTER_AREA) for p in seen]
        return np.stack(seen).astype(np.float32)

    def _reader(self, place: int) -> Reader:
        """Return what reads the film, -1, or an original. Raises OffcutError."""
        if place not in self._readers:
            if place < 0:
                media = self._source.media
                film = self._opened or as_set(open_source(media.path, media.run), self._source)
            else:
                media = self._clips[place].media
                film = open_source(media.path, media.run)
            self._readers[place] = open_reader(film, Purpose.SMALL)
            while len(self._readers) > _OPEN:
                oldest = next(k for k in self._readers if k != -1 or len(self._readers) == 1)
                self._readers.pop(oldest).close()
        self._readers.move_to_end(place)
        return self._readers[place]
