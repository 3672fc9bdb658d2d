"""The one thing that gives frames by number; movies, and whatever comes later, stand behind it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Protocol, Self

import av

from offcut.core.media.index import FrameIndex
from offcut.core.media.sound import Samples, SoundTrack


class Reader(Protocol):
    """Reads one film, every picture upright; belongs to one thread at a time.

    Attributes: ``index`` of the film; ``missing`` frames that it promises and that could not be
    read.
    """

    index: FrameIndex
    missing: set[int]

    def frame(
        self, number: int, passed: Callable[[int, av.VideoFrame], None] | None = None
    ) -> av.VideoFrame:
        """Return exactly frame ``number``; where it is damaged, the last good one before it.

        ``passed`` is shown the frames read on the way there, which cost nothing more. Raises
        MediaError outside the film or when nothing near it can be read.
        """

    def key(self, number: int) -> av.VideoFrame:
        """Return a keyframe's picture, sooner than `frame` where it can be. Raises MediaError."""

    def frames(self, start: int, end: int) -> Iterator[tuple[int, av.VideoFrame]]:
        """Yield (number, picture) for frames [start, end) in order; damaged ones are left out."""

    def samples(self, time: Fraction, track: SoundTrack | None = None) -> Iterator[Samples]:
        """Yield sound from a time of the film on. Raises MediaError where there is none."""

    def close(self) -> None:
        """Let the file go; the next read opens it again."""

    def __enter__(self) -> Self: ...

    def __exit__(self, *_: object) -> None: ...
