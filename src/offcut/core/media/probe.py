"""The facts of a film: rate, size, start timecode, fingerprint."""

from __future__ import annotations

import contextlib
import hashlib
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.errors import MediaError, TimecodeError
from offcut.core.media.index import FrameIndex, build_index
from offcut.core.media.opening import open_film
from offcut.core.media.reader import FrameReader
from offcut.core.model.project import Media
from offcut.core.timecode import Rate, can_drop, frame_from_timecode, rate_from, rate_words

_BLOCK = 1 << 20
OTHERS = 8
"""Where keyframes look damaged, pictures at every eighth of the film are looked at as well."""
FEW = 100
"""So many frames after the last keyframe are decoded to see the last picture."""


@dataclass(frozen=True)
class OpenedFilm:
    """A film ready to be read: its facts, its index, and what is not right with it.

    Attributes: ``notes`` sentences that name the file; ``holes`` frames before which pictures
    are missing; ``fields`` True where pictures are interlaced.
    """

    media: Media
    index: FrameIndex
    notes: tuple[str, ...] = ()
    title: str = ""
    holes: tuple[int, ...] = ()
    fields: bool = False


def open_source(path: str | Path) -> OpenedFilm:
    """Probe a film and index its frames. Raises MediaError with a sentence naming the file."""
    file = Path(path)
    container, stream = open_film(file, threads=1)
    before = file.stat()
    with container:
        declared = stream.guessed_rate or stream.average_rate
        promised = int(stream.frames or 0)
        width, height = stream.codec_context.width, stream.codec_context.height
        shape = stream.sample_aspect_ratio or Fraction(1)
        written_start = _written_timecode(container)
        length = _promised_length(container, stream)
        title = " ".join(str(container.metadata.get("title", "")).split())[:120]
    index = build_index(file)
    if not len(index):
        raise MediaError(f"{file}: not one picture in it can be read")
    rate = index.rate(Fraction(declared) if declared else None)
    start, drop = _start(written_start, rate)
    sizes, turn, fields = _seen(file, index)
    if turn % 180:
        width, height, shape = height, width, 1 / Fraction(shape or 1)
    notes = []
    now = file.stat()
    if (now.st_size, now.st_mtime_ns) != (before.st_size, before.st_mtime_ns):
        notes.append(
            f"{file.name} is still being written: {len(index)} pictures so far; "
            "open it again when it is done"
        )
    elif promised > len(index) + index.hidden + 1:
        notes.append(f"{file.name} ends early: {len(index)} of {promised} pictures can be read")
    elif length and len(index) / rate < length - max(Fraction(1, 2), length / 50):
        notes.append(
            f"{file.name} says it lasts {float(length):.1f} s, its pictures last "
            f"{float(len(index) / rate):.1f} s"
        )
    if declared and not index.uneven and abs(rate / Fraction(declared) - 1) > Fraction(1, 50):
        notes.append(
            f"{file.name} says {rate_words(rate_from(Fraction(declared)))} frames per second, "
            f"its pictures come at {rate_words(rate)}"
        )
    if len(sizes) > 1:
        words = ", then ".join(f"{w}x{h}" for w, h in sizes)
        notes.append(f"{file.name} changes its picture size on the way: {words}")
    holes = index.holes()
    if holes:
        notes.append(f"{file.name}: pictures are missing before {_frames_words(holes)}")
    if index.uneven:
        notes.append(f"{file.name} has a variable rate; timecode counts its pictures")
    media = Media(
        path=str(file.resolve()),
        rate=rate,
        frames=len(index),
        width=width,
        height=height,
        start=start,
        drop=drop,
        pixel_shape=Fraction(shape) if shape and shape > 0 else Fraction(1),
        rotation=turn,
        fingerprint=fingerprint(file),
    )
    return OpenedFilm(media, index, tuple(notes), title, holes, fields)


def _seen(file: Path, index: FrameIndex) -> tuple[list[tuple[int, int]], int, bool]:
    """Look at a few keyframes: picture sizes, each once in the order met; how far pictures are
    turned; whether they are interlaced.

    MediaError where hardly one of them, nor of others all over the film, can be decoded without
    damage: such a file may be encrypted. A decoder makes pictures of noise, too, but says so
    nearly always.
    """
    keys = index.keys.tolist() or [0]
    tried = dict.fromkeys((keys[0], keys[len(keys) // 2], keys[-1]))
    if len(index) - keys[-1] <= FEW:
        tried[len(index) - 1] = None
    others = {len(index) * n // OTHERS for n in range(1, OTHERS)} - {*tried}
    sizes: dict[tuple[int, int], None] = {}
    fields, whole, looked = False, 0, 0
    with FrameReader(file, index, threads=1) as reader:
        for frame in (*tried, *sorted(others)):
            if frame in others and 2 * whole > len(tried):
                break
            looked += 1
            with contextlib.suppress(MediaError):
                picture = reader.frame(frame)
                sizes[picture.width, picture.height] = None
                fields = fields or bool(picture.interlaced_frame)
                whole += not picture.is_corrupt
    if whole < min(2, looked):
        raise MediaError(
            f"{file}: its pictures cannot be decoded; it may be encrypted, or damaged throughout"
        )
    return list(sizes), reader.turn, fields


def _promised_length(container: Any, stream: Any) -> Fraction | None:
    """Return how long the file says its pictures last, in seconds, where it says so."""
    if stream.duration and stream.time_base:
        return int(stream.duration) * Fraction(stream.time_base)
    if container.duration and not container.streams.audio and not _estimated(container):
        return Fraction(int(container.duration), 1_000_000)
    return None


def _estimated(container: Any) -> bool:
    """Tell whether a format carries no length of its own, so that FFmpeg guesses one."""
    return str(container.format.name) in ("mpegts", "mpeg", "h264", "hevc", "mpegvideo", "mjpeg")


def _frames_words(frames: tuple[int, ...]) -> str:
    shown = ", ".join(str(f) for f in frames[:3])
    many = f" and at {len(frames) - 3} more places" if len(frames) > 3 else ""
    return f"frame {shown}{many}"


def _written_timecode(container: Any) -> str:
    for holder in (*container.streams, container):
        for key, value in holder.metadata.items():
            if key.lower() == "timecode":
                return str(value)
    return ""


def _start(written: str, rate: Rate) -> tuple[int, bool]:
    if not written:
        return 0, False
    try:
        return frame_from_timecode(written, rate), ";" in written and can_drop(rate)
    except TimecodeError:
        return 0, False


def fingerprint(path: str | Path) -> str:
    """Return a short hash of a file's size and of blocks at its start, middle and end."""
    file = Path(path)
    size = file.stat().st_size
    digest = hashlib.blake2b(str(size).encode(), digest_size=16)
    with file.open("rb") as data:
        for place in sorted({0, max(0, size // 2 - _BLOCK // 2), max(0, size - _BLOCK)}):
            data.seek(place)
            digest.update(data.read(_BLOCK))
    return digest.hexdigest()


def shown_size(media: Media) -> tuple[int, int]:
    """Return width and height in square pixels, as the picture is meant to be seen."""
    width = round(media.width * media.pixel_shape)
    return max(1, width), max(1, media.height)
