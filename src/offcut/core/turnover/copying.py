"""Shots as movies without encoding: the film's packets copied, where its keyframes allow it."""

from __future__ import annotations

import contextlib
import io
import math
import re
import threading
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.container import InputContainer
from av.error import FFmpegError
from av.video.stream import VideoStream

from offcut.core.errors import MediaError
from offcut.core.files import whole_file
from offcut.core.media.container import can_seek_exactly, is_cover
from offcut.core.media.index import FrameIndex
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.readers import open_packets
from offcut.core.media.sound import time_of_frame
from offcut.core.timecode import timecode_from_frame
from offcut.core.turnover.movies import Stopped


@dataclass(frozen=True)
class Copying:
    """What copying packets would give for one shot: how many frames early and late it is."""

    early: int
    late: int

    @property
    def exact(self) -> bool:
        """True when it begins and ends at the very frame."""
        return not self.early and not self.late


class PacketMap:
    """The picture packets of a film in the order they are decoded, as frames.

    Attributes: ``frames`` int64, the frame each packet shows, -1 for one that shows none;
    ``keys`` bool, whether it is a keyframe.
    """

    def __init__(self, index: FrameIndex) -> None:
        self.frames = index.packets
        self.keys = index.packet_keys
        self._starts = np.flatnonzero(self.keys & (self.frames >= 0))

    def key_before(self, frame: int) -> int:
        """Return the number of the last keyframe's packet at or before a frame, -1 for none."""
        place = int(np.searchsorted(self.frames[self._starts], frame, side="right")) - 1
        return int(self._starts[place]) if place >= 0 else -1

    def span(self, start: int, end: int) -> tuple[int, int, Copying]:
        """Return the packets [first, last) that hold frames [start, end), and what comes along."""
        before = self._starts[self.frames[self._starts] <= start]
        first = int(before[-1]) if len(before) else 0
        inside = np.flatnonzero((self.frames >= start) & (self.frames < end))
        last = int(inside.max()) + 1 if len(inside) else first + 1
        first = min(first, int(inside.min())) if len(inside) else first
        shown = self.frames[first:last]
        shown = shown[shown >= self.frames[first]]  # what leads in from before cannot be decoded
        return first, last, Copying(start - int(shown.min()), int(shown.max()) + 1 - end)


def copying_of(film: OpenedFilm, spans: list[tuple[int, int]]) -> list[Copying]:
    """Return what copying would give for each of several shots. Raises MediaError."""
    if film.media.run is not None:
        raise MediaError(f"{film.media.path}: stills have no packets to copy; choose a codec")
    if film.index.by_count:
        path = film.media.path
        raise MediaError(f"{path}: its packets carry no times, so they cannot be copied exactly")
    packets = PacketMap(film.index)
    return [packets.span(start, end)[2] for start, end in spans]


_BEFORE = 2
"""Seconds before a shot from which its file is read: sound may lie that much before its picture."""


class _Astray(Exception):  # noqa: N818
    """A seek led elsewhere than to the keyframe that was wanted."""


def _sought(
    container: InputContainer, video: VideoStream, film: OpenedFilm, packets: PacketMap, first: int
) -> int:
    """Go to a keyframe some way before a packet; return the number of its packet, 0 where none is.

    Only in files where a seek is exact.
    """
    if not can_seek_exactly(container):
        return 0
    frames = packets.frames
    key = packets.key_before(int(frames[first]) - math.ceil(_BEFORE * film.media.rate))
    if key > 0:
        time = int(film.index.times[int(frames[key])])
        container.seek(time, stream=video, backward=True, any_frame=False)
    return max(0, key)


def copy_movie(
    film: OpenedFilm,
    start: int,
    end: int,
    path: Path,
    packets: PacketMap,
    *,
    stop: threading.Event | None = None,
    told: Callable[[int], None] | None = None,
    say: Callable[[str], None] | None = None,
) -> Copying:
    """Copy the packets of frames [start, end) into a movie of the film's own kind.

    Where the film is not all keyframes, it begins at the keyframe before and ends when all wanted
    frames are in. Returns what came along; ``say`` hears of sound that the new file cannot hold.
    Raises MediaError naming the file.
    """
    try:
        return _copied(film, start, end, path, packets, stop, told, say)
    except _Astray:
        return _copied(film, start, end, path, packets, stop, told, say, seeking=False)


def _copied(
    film: OpenedFilm,
    start: int,
    end: int,
    path: Path,
    packets: PacketMap,
    stop: threading.Event | None,
    told: Callable[[int], None] | None,
    say: Callable[[str], None] | None,
    *,
    seeking: bool = True,
) -> Copying:
    media = film.media
    first, last, copying = packets.span(start, end)
    begin = int(film.index.times[start - copying.early])
    start_time = begin * film.index.time_base
    end_time = time_of_frame(film.index, end + copying.late, media.rate)
    try:
        with (
            open_packets(film) as container,
            whole_file(path) as aside,
            av.open(str(aside), "w", format=_muxer(container, path)) as out,
        ):
            video = next(s for s in container.streams.video if not is_cover(s))
            pairs: dict[int, Any] = {video.index: out.add_stream_from_template(video)}
            for number, sound in enumerate(container.streams.audio, start=1):
                if not _refuses(_muxer(container, path), video, sound):
                    pairs[sound.index] = out.add_stream_from_template(sound)
                elif say is not None:
                    kind = path.suffix.removeprefix(".").upper()
                    say(f"{path.name}: sound track {number} is left out; {kind} refuses it")
            label = timecode_from_frame(media.start + start - copying.early, media.rate, media.drop)
            pairs[video.index].metadata["timecode"] = label
            place = _sought(container, video, film, packets, first) - 1 if seeking else -1
            astray = place >= 0
            for packet in container.demux([s for s in container.streams if s.index in pairs]):
                if stop is not None and stop.is_set():
                    raise Stopped(f"{path}: stopped")
                if packet.size == 0:
                    continue
                source, base = packet.stream, packet.stream.time_base or Fraction(1, 1000)
                if source.index == video.index:
                    place += 1
                    if astray and packet.pts != film.index.times[packets.frames[place]]:
                        raise _Astray
                    astray = False
                    if not first <= place < last:
                        if place >= last and len(pairs) == 1:
                            break
                        continue
                    if packets.frames[place] < packets.frames[first]:
                        continue
                    if told is not None:
                        told(1)
                else:
                    if packet.pts is None:
                        continue
                    time = packet.pts * base
                    if place >= last and time > end_time + 2:
                        break
                    trimmed = _trimmed(packet, source, start_time, end_time)
                    if trimmed is None:
                        continue
                    packet = trimmed
                shift = round(start_time / base)
                packet.pts = None if packet.pts is None else packet.pts - shift
                packet.dts = None if packet.dts is None else packet.dts - shift
                packet.stream = pairs[source.index]
                out.mux(packet)
    except (FFmpegError, OSError, ValueError) as error:
        words = getattr(error, "strerror", "") or str(error)
        raise MediaError(f"{path}: cannot be written ({words})") from error
    return copying


def _refuses(kind: str, video: Any, sound: Any) -> bool:
    """Tell whether a kind of file refuses a sound track: some do so only at their header."""
    trial = av.open(io.BytesIO(), "w", format=kind)
    try:
        trial.add_stream_from_template(video)
        trial.add_stream_from_template(sound)
        trial.start_encoding()
    except (FFmpegError, ValueError):
        return True
    finally:
        with contextlib.suppress(FFmpegError, ValueError, OSError):
            trial.close()
    return False


def _trimmed(packet: Any, stream: Any, start: Fraction, end: Fraction) -> Any:
    """Return what of a packet of sound is heard in [start, end) seconds, None where nothing is.

    Even samples (PCM) are cut to the sample; of compressed sound whole packets that begin inside.
    """
    base = stream.time_base or Fraction(1, 1000)
    time, rate = packet.pts * base, stream.rate
    block = _block(stream)
    if not block:
        return packet if start <= time < end else None
    many = packet.size // block
    first = max(0, round((start - time) * rate))
    last = min(many, round((end - time) * rate))
    if first >= last:
        return None
    if (first, last) == (0, many):
        return packet
    part = av.Packet(bytes(packet)[first * block : last * block])
    part.time_base = base
    part.pts = part.dts = packet.pts + round(Fraction(first, rate) / base)
    part.duration = round(Fraction(last - first, rate) / base)
    part.is_keyframe = True
    return part


_PCM = re.compile(r"pcm_(?:[suf](8|16|24|32|64)(?:le|be)?|alaw|mulaw)")


def _block(stream: Any) -> int:
    """Return the bytes of one sample of all channels, 0 for sound that is not plain PCM."""
    found = _PCM.fullmatch(stream.codec_context.name)
    return int(found[1] or 8) // 8 * int(stream.channels) if found else 0


def _muxer(container: Any, path: Path) -> str:
    known = {
        ".mp4": "mp4", ".m4v": "mp4", ".mov": "mov", ".mkv": "matroska", ".webm": "webm",
        ".avi": "avi", ".mxf": "mxf", ".ts": "mpegts", ".mts": "mpegts", ".m2ts": "mpegts",
        ".mpg": "mpeg", ".mpeg": "mpeg", ".nut": "nut",
    }  # fmt: skip
    return known.get(path.suffix.lower(), str(container.format.name).split(",")[0])
