"""Readers for handing over: what was read last is remembered, and few films are open at once."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping

import av

from offcut.core.errors import MediaError
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.source import Source

OPEN = 3
"""So many films are open at once, for each who reads."""
BYTES = 128 << 20


class TrailingReader:
    """A reader that remembers the frames it gave last: handles of one shot lie in the next.

    ``behind`` frames are remembered, `BYTES` of them at most.
    """

    def __init__(self, reader: Reader, behind: int) -> None:
        self.reader = reader
        self._behind = behind
        self._given: OrderedDict[int, av.VideoFrame] = OrderedDict()

    def frame(self, number: int) -> av.VideoFrame:
        """Return exactly frame ``number``, as `Reader.frame` does."""
        held = self._given.get(number)
        if held is not None:
            return held
        picture = self.reader.frame(number)
        if self._behind:
            self._given[number] = picture
            size = max(1, sum(p.buffer_size for p in picture.planes))
            while len(self._given) > min(self._behind, BYTES // size):
                self._given.popitem(last=False)
        return picture


class ReadersInUse:
    """Readers of several films, of which only the few used last are open."""

    def __init__(self, films: Mapping[int, OpenedFilm], *, behind: int = 0, threads: int = 0):
        self._films = films
        self._behind = behind
        self._threads = threads
        self._readers: OrderedDict[int, TrailingReader] = OrderedDict()

    def of(self, source: Source) -> TrailingReader:
        """Return the reader of a film. Raises MediaError where it is missing."""
        film = self._films.get(source.id)
        if film is None:
            raise MediaError(f"{source.media.path}: the film is missing")
        reader = self._readers.pop(source.id, None)
        if reader is None:
            made = open_reader(film, Purpose.HAND_OVER, threads=self._threads)
            reader = TrailingReader(made, self._behind)
        self._readers[source.id] = reader
        while len(self._readers) > OPEN:
            self._readers.popitem(last=False)[1].reader.close()
        return reader

    def __enter__(self) -> ReadersInUse:
        return self

    def __exit__(self, *_: object) -> None:
        for reader in self._readers.values():
            reader.reader.close()
