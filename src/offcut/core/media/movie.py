"""Movies: frames of one by number, any one exactly, or a run of them fast."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.container import InputContainer
from av.error import FFmpegError
from av.video.stream import VideoStream

from offcut.core.errors import MediaError
from offcut.core.media.bands import Bands
from offcut.core.media.container import can_seek_exactly
from offcut.core.media.index import FrameIndex, decoded
from offcut.core.media.opening import open_film
from offcut.core.media.sound import Samples, SoundTrack, samples_from
from offcut.core.media.upright import Upright

CLOSE = 24
"""So many frames before one that was asked for are decoded whole, for stepping back."""
_LED_IN = 64
"""So many packets behind where a seek leads a keyframe is looked for."""


class MovieReader:
    """Reads one movie as `offcut.core.media.reader.Reader` asks, every picture upright.

    Attributes: ``missing`` frames that the index promises and the decoder did not give.
    """

    def __init__(
        self,
        path: str | Path,
        index: FrameIndex,
        *,
        threads: int = 0,
        options: dict[str, str] | None = None,
        opened: tuple[InputContainer, VideoStream] | None = None,
        bands: Bands | None = None,
    ) -> None:
        """``opened`` is the movie where it is open already, not at its beginning.

        With ``bands`` no more of its pictures is decoded, where that can be done.
        """
        self.path = Path(path)
        self.index = index
        self.missing: set[int] = set()
        self._threads = threads
        self._options = options
        self._bands = bands
        self._container: InputContainer | None = opened[0] if opened else None
        self._stream: VideoStream | None = opened[1] if opened else None
        self._run: Iterator[tuple[int, av.VideoFrame]] | None = None
        self._next = -1
        self._whole_from = 0
        self._back = 0
        self._fresh = True
        self._upright = Upright()

    @property
    def turn(self) -> int:
        """Degrees counterclockwise that the last picture read was turned."""
        return self._upright.turn

    def upright(self, picture: av.VideoFrame) -> av.VideoFrame:
        """Return a picture of this movie turned upright."""
        return self._upright(picture)

    def close(self) -> None:
        """Close the file; the next read opens it again."""
        self._run = None
        self._next = -1
        self._shut()

    def _shut(self) -> None:
        """Close the file under the run that is under way, which opens it again."""
        if self._container is not None:
            self._container.close()
        self._container = self._stream = None

    def __enter__(self) -> MovieReader:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def frame(
        self, number: int, passed: Callable[[int, av.VideoFrame], None] | None = None
    ) -> av.VideoFrame:
        """Return exactly frame ``number``; where it is damaged, the last good one before it.

        ``passed`` is shown the frames decoded on the way there, which cost nothing more. Raises
        MediaError outside the film or when nothing near it can be decoded.
        """
        if not 0 <= number < len(self.index):
            raise MediaError(f"{self.path}: there is no frame {number}")
        key = self.index.key_before(number)
        near = key <= self._next <= number or 0 <= number - self._next < 8
        if self._run is None or not near or number < self._whole_from:
            self._run = self._frames_from(number)
            self._whole_from = max(0, number - CLOSE)
        assert self._run is not None
        best: av.VideoFrame | None = None
        for at, picture in self._run:
            self._next = at + 1
            if at == number:
                return picture
            if at > number:
                self.missing.add(number)
                self._run = None
                return best if best is not None else picture
            best = picture
            if passed is not None:
                passed(at, picture)
        self._run = None
        self.missing.add(number)
        if best is None and number > 0:
            best = self._last_before(number)
        if best is None:
            raise MediaError(f"{self.path}: frame {number} cannot be decoded")
        return best

    def key(self, number: int) -> av.VideoFrame:
        """Return the picture of a keyframe; it is decoded alone, without those it waits for.

        Raises MediaError as `frame` does, which gives it where that cannot be.
        """
        picture = self._alone(number)
        return picture if picture is not None else self.frame(number)

    def _alone(self, number: int) -> av.VideoFrame | None:
        index = self.index
        place = int(np.searchsorted(index.keys, number))
        if index.by_count or place == len(index.keys) or int(index.keys[place]) != number:
            return None
        time = int(index.times[number])
        try:
            container, stream = self._opened()
            if not can_seek_exactly(container):
                return None
            self._run, self._next = None, -1
            context = stream.codec_context
            container.seek(time, stream=stream, backward=True, any_frame=False)
            context.skip_frame = "DEFAULT"
            for packet in islice(container.demux(stream), _LED_IN):
                if packet.pts == time:
                    packet = self._bands.narrowed(context.name, packet) if self._bands else packet
                    found = [*context.decode(packet), *context.decode(None)]
                    context.flush_buffers()
                    picture = next((p for p in found if p.pts == time), None)
                    return None if picture is None else self._upright(picture)
        except (FFmpegError, OSError):
            self._shut()
        return None

    def samples(self, time: Fraction, track: SoundTrack | None = None) -> Iterator[Samples]:
        """Yield sound from a time on, as `offcut.core.media.sound.samples_from` does."""
        return samples_from(self.path, time, track)

    def _last_before(self, number: int) -> av.VideoFrame | None:
        best = None
        start = self.index.key_before(max(0, number - 1))
        for at, picture in self._frames_from(start):
            if at >= number:
                break
            best = picture
        return best

    def frames(self, start: int, end: int) -> Iterator[tuple[int, av.VideoFrame]]:
        """Yield (number, picture) for frames [start, end) in order; damaged ones are left out."""
        self._run, self._back = None, 0  # a run is the same whatever was read before it
        expected = start
        for at, picture in self._frames_from(start, alike=True):
            if at >= end:
                break
            if at < expected:
                continue
            self.missing.update(range(expected, at))
            expected = at + 1
            yield at, picture
        self.missing.update(range(expected, end))

    def _frames_from(
        self, number: int, *, alike: bool = False
    ) -> Iterator[tuple[int, av.VideoFrame]]:
        """Seek so that ``number`` is not missed and yield every shown picture from there.

        ``alike`` where they are to be the same whatever was decoded before.
        """
        if self.index.by_count:
            self._shut()
            container, stream = self._opened()
            for at, picture in enumerate(decoded(container, stream)):
                yield at, self._upright(picture)
            return
        keys = self.index.keys
        place = int(np.searchsorted(keys, number, side="right")) - 1
        place = max(-1, place - self._back)  # before the first one lies the film's beginning
        while True:
            key = int(keys[place]) if place >= 0 else 0
            run = self._numbered_from(key, number)
            first = next(run, None)
            if key > 0 and first is not None and self._misnumbered(*first):
                place -= 1
                continue
            if alike and first is not None and first[1].is_corrupt and not self._fresh:
                self._shut()  # else it is mended with what was decoded before, somewhere else
                continue
            if key == 0 or (first is not None and first[0] <= max(key, 0)):
                break
            if first is not None and first[0] <= number and first[0] - key <= 4:
                break  # a keyframe whose first pictures cannot be decoded (an open start)
            if first is not None and first[0] <= number and self._back and first[0] in keys:
                break  # late, as before, but at a keyframe that is early enough
            # some containers lead to far behind what is asked for, and do so all the time
            self._back = max(1, 2 * self._back)
            place = max(-1, place - self._back)
        if first is not None:
            yield first
            yield from run

    def _misnumbered(self, at: int, picture: av.VideoFrame) -> bool:
        """Tell whether the first picture after a seek got the time of another one.

        Many small pictures of MPEG-2 share a packet that tells the time of one: where a seek leads
        into the middle of them it is taken for that of the next. Then no keyframe is known there.
        """
        coded = self._stream.codec_context.name if self._stream is not None else ""
        return (
            coded in ("mpeg1video", "mpeg2video")
            and bool(picture.key_frame)
            and at not in self.index.keys
        )

    def _numbered_from(self, key: int, number: int) -> Iterator[tuple[int, av.VideoFrame]]:
        """Yield shown pictures from a keyframe on, on the way to ``number``.

        Pictures that no other one refers to are not decoded until shortly before it: they change
        nothing in what follows.
        """
        if key == 0:
            self._shut()
        self._fresh = self._container is None
        container, stream = self._opened()
        if key > 0:
            try:
                container.seek(
                    int(self.index.times[key]), stream=stream, backward=True, any_frame=False
                )
            except (FFmpegError, OSError):
                self._shut()
                container, stream = self._opened()
        last = -1
        close = int(self.index.times[max(0, number - CLOSE)])
        for picture in decoded(container, stream, close, self._narrow(stream)):
            if picture.pts is None:
                continue
            at = self.index.frame_after(last, picture.pts)
            if at is not None:
                last = at
                yield at, self._upright(picture)

    def _narrow(self, stream: VideoStream) -> Callable[[Any], Any] | None:
        return partial(self._bands.narrowed, stream.codec_context.name) if self._bands else None

    def _opened(self) -> tuple[InputContainer, VideoStream]:
        if self._container is None or self._stream is None:
            self._container, self._stream = open_film(
                self.path, threads=self._threads, options=self._options
            )
        return self._container, self._stream
