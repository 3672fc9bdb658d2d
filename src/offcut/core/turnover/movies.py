"""Shots as movies: encoded frame by frame, or their packets copied where the film allows it."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.audio.stream import AudioStream
from av.codec.context import Flags
from av.error import FFmpegError
from av.video.reformatter import VideoReformatter
from av.video.stream import VideoStream
from numpy.typing import NDArray

from offcut.core.errors import MediaError, OffcutError
from offcut.core.files import whole_file
from offcut.core.media.display import Display
from offcut.core.media.framing import Cut
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import matrix_of
from offcut.core.media.readers import Purpose, open_reader, sound_of
from offcut.core.media.sound import SoundTrack, time_of_frame
from offcut.core.model.source import WHOLE, Framing
from offcut.core.timecode import timecode_from_frame
from offcut.core.turnover.readers_in_use import TrailingReader


class Stopped(OffcutError):  # noqa: N818
    """A person stopped the work."""


@dataclass(frozen=True)
class Way:
    """One way to write movies.

    ``codec`` by FFmpeg's name, empty for copying; ``pixels`` its picture formats for 8 and for
    more bits, empty for the film's own; ``bytes_a_pixel`` about what a picture takes.
    """

    code: str
    words: str
    about: str
    suffix: str
    codec: str
    pixels: tuple[str, str]
    options: tuple[tuple[str, str], ...]
    bytes_a_pixel: float


WAYS: dict[str, Way] = {
    w.code: w
    for w in (
        Way(
            "prores", "ProRes 422 HQ", "10 bit, MOV", ".mov", "prores_ks",
            ("yuv422p10le", "yuv422p10le"), (("profile", "hq"),), 0.44,
        ),
        Way(
            "dnxhr", "DNxHR HQ", "8 or 10 bit, MOV", ".mov", "dnxhd",
            ("yuv422p", "yuv422p10le"), (("profile", "dnxhr_hq"),), 0.44,
        ),
        Way(
            "h264", "H.264", "near lossless, MOV", ".mov", "libx264",
            ("yuv420p", "yuv420p10le"), (("crf", "14"), ("preset", "medium")), 0.07,
        ),
        Way(
            "ffv1", "FFV1", "lossless, MKV", ".mkv", "ffv1",
            ("", ""), (("level", "3"), ("slices", "4"), ("slicecrc", "1")), 0.75,
        ),
        Way("copy", "As it is", "packets copied", "", "", ("", ""), (), 0.0),
    )
}  # fmt: skip

_FFV1 = {
    "yuvj420p": "yuv420p", "yuvj422p": "yuv422p", "yuvj444p": "yuv444p", "nv12": "yuv420p",
    "rgb24": "bgr0", "bgr24": "bgr0", "p010le": "yuv420p10le", "uyvy422": "yuv422p",
    "yuyv422": "yuv422p", "pal8": "bgr0",
}  # fmt: skip
_TOP_FIRST = 2
"""AV_FIELD_TT of FFmpeg's AVFieldOrder, which most interlaced films have."""
_BOTTOM_SHOWN_FIRST = (3, 4)
"""AV_FIELD_BB and AV_FIELD_TB of the same: the lower field is the earlier moment."""


def write_movie(
    film: OpenedFilm,
    start: int,
    end: int,
    path: Path,
    way: Way,
    *,
    reader: TrailingReader | None = None,
    tracks: tuple[SoundTrack, ...] | None = None,
    framing: Framing = WHOLE,
    display: Display | None = None,
    threads: int = 0,
    stop: threading.Event | None = None,
    told: Callable[[int], None] | None = None,
    say: Callable[[str], None] | None = None,
) -> None:
    """Write frames [start, end) of a film as a movie of their own, cut to a framing, encoded anew.

    Rate, size, pixel shape, fields and colour tags are the film's, timecode goes on, a variable
    rate stays as it is, every track of sound is there to the sample as PCM. The file appears whole
    or not at all. With a ``display`` pictures are written as it shows them. ``reader`` may be
    handed on from shot to shot. Raises OffcutError naming the file, Stopped after ``stop``; ``say``
    hears what came otherwise than a person would expect.
    """
    media = film.media
    sound = film.tracks if tracks is None else tracks
    own = reader or TrailingReader(open_reader(film, Purpose.HAND_OVER), 0)
    kind = "mov" if path.suffix == ".mov" else "matroska"
    try:
        with whole_file(path) as aside, av.open(str(aside), "w", format=kind) as out:
            cut = _Shown(framing, display)
            first = cut(own.frame(start))
            stream = _video(out, film, first, way, threads, film.field_order)
            label = timecode_from_frame(media.start + start, media.rate, media.drop)
            if path.suffix == ".mov":
                stream.metadata["timecode"] = label
            else:
                out.metadata["timecode"] = label
            voices = [_Voice(out, film, track, start, end) for track in sound]
            shape, base = VideoReformatter(), stream.codec_context.time_base
            for number in range(start, end):
                if stop is not None and stop.is_set():
                    raise Stopped(f"{path}: stopped")
                picture = first if number == start else cut(own.frame(number))
                frame = _fitted(picture, stream, shape)
                frame.pts, frame.time_base = _time_of(number, start, film), base
                frame.pict_type = 0
                out.mux(stream.encode(frame))
                for voice in voices:
                    voice.upto(number + 1)
                if told is not None:
                    told(1)
            out.mux(stream.encode(None))
            for voice in voices:
                voice.end()
        for voice in voices:
            if say is not None and (voice.trouble or voice.silent > voice.rate // 2):
                say(f"{path.name}: {voice.silent_words()}")
    except (FFmpegError, OSError, ValueError) as error:
        words = getattr(error, "strerror", "") or str(error)
        raise MediaError(f"{path}: cannot be written ({words})") from error
    finally:
        if reader is None:
            own.reader.close()


class _Shown:
    """Pictures cut to a framing, and turned as a display shows them where there is one."""

    def __init__(self, framing: Framing, display: Display | None) -> None:
        self._cut = Cut(framing)
        self._display = display

    def __call__(self, frame: av.VideoFrame) -> av.VideoFrame:
        picture = self._cut(frame)
        if self._display is None:
            return picture
        matrix = matrix_of(picture)
        wide = picture.reformat(format="rgb48le", src_colorspace=matrix, dst_colorspace=matrix)
        seen = self._display.seen(wide.to_ndarray(), deep=True)
        out = av.VideoFrame.from_ndarray(seen, "rgb48le")
        out.pts, out.time_base = picture.pts, picture.time_base
        return out


def _video(
    out: Any, film: OpenedFilm, first: av.VideoFrame, way: Way, threads: int, fields: int
) -> VideoStream:
    media = film.media
    deep = any(c.bits > 8 for c in first.format.components)
    pixels = way.pixels[deep] or _FFV1.get(first.format.name, first.format.name)
    options = dict(way.options)
    if way.code == "dnxhr" and deep:
        options["profile"] = "dnxhr_hqx"
    by_fields = first.interlaced_frame and way.code != "dnxhr"  # DNxHR knows no fields
    order = fields if fields > 1 else _TOP_FIRST
    if by_fields and way.codec == "libx264":
        options["x264-params"] = "bff=1" if order in _BOTTOM_SHOWN_FIRST else "tff=1"
    stream: VideoStream = out.add_stream(way.codec, rate=media.rate, options=options)
    stream.width, stream.height = first.width, first.height
    stream.pix_fmt = pixels
    context = stream.codec_context
    context.time_base = film.index.time_base if film.index.uneven else 1 / media.rate
    context.sample_aspect_ratio = media.pixel_shape
    context.color_primaries = int(first.color_primaries)
    context.color_trc = int(first.color_trc)
    context.colorspace = int(first.colorspace)
    context.color_range = int(first.color_range)
    if by_fields:
        context.flags |= int(Flags.interlaced_dct | Flags.interlaced_me)
        context.field_order = order
    context.thread_count = threads
    if threads != 1:
        context.thread_type = "AUTO"
    return stream


def _time_of(number: int, start: int, film: OpenedFilm) -> int:
    """Return when a frame is shown after the first: by count, or as an uneven film has it."""
    times = film.index.times
    return int(times[number] - times[start]) if film.index.uneven else number - start


def _fitted(picture: av.VideoFrame, stream: VideoStream, shape: VideoReformatter) -> av.VideoFrame:
    """Return a picture as the encoder wants it, its colours untouched; fields stay apart."""
    same = (picture.width, picture.height) == (stream.width, stream.height)
    if same and picture.format.name == stream.pix_fmt:
        return picture
    matrix = int(picture.colorspace)
    wide = int(picture.color_range)
    return shape.reformat(
        picture,
        stream.width,
        stream.height,
        format=stream.pix_fmt,
        src_colorspace=matrix if matrix not in (0, 2) else None,
        dst_colorspace=matrix if matrix not in (0, 2) else None,
        src_color_range=wide or None,
        dst_color_range=wide or None,
    )


class _Voice:
    """One track of sound on its way into a movie, cut to the sample at both ends."""

    def __init__(self, out: Any, film: OpenedFilm, track: SoundTrack, start: int, end: int) -> None:
        self._out = out
        self._film = film
        self._track = track
        self._begin = time_of_frame(film.index, start, film.media.rate)
        self._start = start
        self.whole = self._samples(end)
        codec = "pcm_s24le" if track.deep else "pcm_s16le"
        self._stream: AudioStream = out.add_stream(codec, rate=track.rate, layout=track.layout)
        self._given = 0
        self.silent = 0
        self.trouble = ""
        self._held: list[NDArray[Any]] = []
        self._many = 0
        self._pieces: Iterator[NDArray[Any]] = sound_of(film, self._begin, track)

    @property
    def rate(self) -> int:
        """Samples in a second."""
        return self._track.rate

    def silent_words(self) -> str:
        """Say how much silence stands in at the end, and why."""
        if self.trouble:
            return f"{self.trouble}; silence stands in for {self.silent / self.rate:.1f} s"
        seconds = self.silent / self.rate
        track = self._track.number + 1
        return f"sound track {track} ends {seconds:.1f} s before the picture; silence stands in"

    def _samples(self, frame: int) -> int:
        """Return how many samples lie between the start and a frame."""
        index, rate = self._film.index, self._track.rate
        time = time_of_frame(index, frame, self._film.media.rate) - self._begin
        return round(time * rate)

    def upto(self, frame: int) -> None:
        """Write the sound that is heard before a frame."""
        self._write(min(self._samples(frame), self.whole))

    def end(self) -> None:
        """Write what is left."""
        self._write(self.whole)
        self._out.mux(self._stream.encode(None))

    def _next_piece(self) -> NDArray[Any] | None:
        try:
            return next(self._pieces, None)
        except MediaError as error:
            self.trouble = str(error)
            return None

    def _write(self, upto: int) -> None:
        wanted = upto - self._given
        if wanted <= 0:
            return
        while self._many < wanted:
            piece = self._next_piece()
            if piece is None:  # the film's sound ends before its picture does, or cannot be read
                self.silent += wanted - self._many
                kind = np.int32 if self._track.deep else np.int16
                piece = np.zeros((wanted - self._many, self._track.channels), kind)
            self._held.append(piece)
            self._many += len(piece)
        held = self._held[0] if len(self._held) == 1 else np.concatenate(self._held)
        now, later = held[:wanted], held[wanted:]
        self._held, self._many = [later], len(later)
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(now.reshape(1, -1)),
            "s32" if self._track.deep else "s16",
            self._track.layout,
        )
        frame.sample_rate = self._track.rate
        frame.pts, frame.time_base = self._given, Fraction(1, self._track.rate)
        self._given = upto
        self._out.mux(self._stream.encode(frame))
