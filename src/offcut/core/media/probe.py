"""The facts of a film: rate, size, start timecode, fingerprint."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.errors import MediaError, TimecodeError
from offcut.core.media.index import FrameIndex, build_index
from offcut.core.media.opening import open_film
from offcut.core.model.project import Media
from offcut.core.timecode import Rate, can_drop, frame_from_timecode

_BLOCK = 1 << 20


@dataclass(frozen=True)
class OpenedFilm:
    """A film ready to be read: its facts, its index, and what is not right with it."""

    media: Media
    index: FrameIndex
    notes: tuple[str, ...] = ()
    title: str = ""


def open_source(path: str | Path) -> OpenedFilm:
    """Probe a film and index its frames. Raises MediaError with a sentence naming the file."""
    file = Path(path)
    container, stream = open_film(file, threads=1)
    with container:
        declared = stream.guessed_rate or stream.average_rate
        promised = int(stream.frames or 0)
        width, height = stream.codec_context.width, stream.codec_context.height
        shape = stream.sample_aspect_ratio or Fraction(1)
        written_start = _written_timecode(container)
        title = " ".join(str(container.metadata.get("title", "")).split())[:120]
    index = build_index(file)
    if not len(index):
        raise MediaError(f"{file}: not one picture in it can be read")
    rate = index.rate(Fraction(declared) if declared else None)
    start, drop = _start(written_start, rate)
    notes = []
    if promised > len(index) + index.hidden + 1:
        notes.append(f"{file.name} ends early: {len(index)} of {promised} pictures can be read")
    if _uneven(index):
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
        fingerprint=fingerprint(file),
    )
    return OpenedFilm(media, index, tuple(notes), title)


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


def _uneven(index: FrameIndex) -> bool:
    if index.by_count or len(index) < 3:
        return False
    steps = index.times[1:] - index.times[:-1]
    middle = sorted(steps.tolist())[len(steps) // 2]
    slack = max(1, middle // 20)
    odd = int(((steps - middle > slack) | (middle - steps > slack)).sum())
    return odd > max(2, len(steps) // 100)


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
