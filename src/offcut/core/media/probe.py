"""The facts of a film: rate, size, start timecode, fingerprint."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import asdict, dataclass, fields
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from av.error import FFmpegError
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.media.container import tag_of
from offcut.core.media.fields_seen import first_field, plausible
from offcut.core.media.index import FirstPicture, FrameIndex, index_of
from offcut.core.media.kept_index import keep_index, kept_index
from offcut.core.media.movie import MovieReader
from offcut.core.media.opened import OpenedFilm, first_of, start_of
from offcut.core.media.opening import check_readable, open_film
from offcut.core.media.opening_runs import opened_run
from offcut.core.media.planes import luma_of
from offcut.core.media.runs import run_at
from offcut.core.media.same_film import fingerprint
from offcut.core.media.sound import SoundTrack, tracks_in
from offcut.core.model.run import Run
from offcut.core.model.source import Media
from offcut.core.timecode import FASTEST, Rate, rate_from, rate_words

OTHERS = 8
"""Where keyframes look damaged, pictures at every eighth of the film are looked at as well."""
FEW = 100
"""So many frames after the last keyframe are decoded to see the last picture."""


@dataclass(frozen=True)
class _Looked:
    """What a file says of itself and what a look at its pictures showed; plain values.

    ``length`` and ``declared`` are fractions as text, empty for none; ``sizes`` the picture sizes
    met; ``mute`` the tracks of sound that cannot be decoded, in words; ``woven`` which field comes
    first as the pictures show it, empty where they show none, "?" where they do not tell.
    """

    width: int
    height: int
    shape: str
    declared: str
    promised: int
    timecode: str
    length: str
    title: str
    sizes: tuple[tuple[int, int], ...]
    turn: int
    fields: bool
    field_order: int
    tracks: tuple[tuple[int, int, str, int, bool], ...]
    mute: tuple[str, ...]
    codec: str
    reel: str
    woven: str


def open_source(path: str | Path, like: Run | None = None) -> OpenedFilm:
    """Return a film ready to be read: from what is kept of it, or by one reading of its packets.

    A path may name a run of stills, such as K07_[0000-2411].dpx, or one still of it; ``like`` is
    how its holes are treated. Raises MediaError with a sentence naming the file.
    """
    file = Path(path)
    found = run_at(file)
    if found is not None:
        return opened_run(found, like)
    check_readable(file)
    try:
        print_ = fingerprint(file)
        before = file.stat()
    except OSError as error:
        raise MediaError(f"{file}: cannot be read ({error.strerror})") from error
    kept = _kept(print_)
    if kept is not None:
        return _opened(file, *kept, print_)
    index, looked = _looked_at(file)
    now = file.stat()
    growing = (now.st_size, now.st_mtime_ns) != (before.st_size, before.st_mtime_ns)
    if not growing:
        keep_index(print_, index, asdict(looked))
    return _opened(file, index, looked, fingerprint(file) if growing else print_, growing)


def _kept(print_: str) -> tuple[FrameIndex, _Looked] | None:
    """Return what is kept of a film, as far as it can be trusted."""
    held = kept_index(print_)
    if held is None:
        return None
    index, facts = held
    try:
        told = {f.name: facts[f.name] for f in fields(_Looked)}
        told["sizes"] = tuple((int(w), int(h)) for w, h in told["sizes"])
        told["tracks"] = tuple(
            (int(n), int(rate), str(layout), int(many), bool(deep))
            for n, rate, layout, many, deep in told["tracks"]
        )
        told["mute"] = tuple(str(m) for m in told["mute"])
        looked = _Looked(**told)
        Fraction(looked.shape)
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        return None
    return index, looked


def _looked_at(file: Path) -> tuple[FrameIndex, _Looked]:
    """Open a film, read its packets and look at a few of its pictures."""
    container, stream = open_film(file, threads=1)
    with container:
        declared = stream.guessed_rate or stream.average_rate
        shape = stream.sample_aspect_ratio or Fraction(1)
        length = _promised_length(container, stream)
        title = " ".join(tag_of(container, "title").split())[:120]
        promised = int(stream.frames or 0)
        timecode = _written(container, "timecode")
        width, height = stream.codec_context.width, stream.codec_context.height
        tracks, mute = tracks_in(container)
        index, first = index_of(container, stream, file)
        if not len(index):
            raise MediaError(f"{file}: not one picture in it can be read")
        order = int(stream.codec_context.field_order)
        codec = _codec_words(stream)
        reel = _written(container, "reel_name")[:120]
        with MovieReader(file, index, threads=1, opened=(container, stream)) as reader:
            sizes, turn, interlaced = _seen(file, reader, first)
            woven = _woven(reader, height, float(index.rate(None))) if turn % 180 == 0 else ""
    return index, _Looked(
        width=width,
        height=height,
        shape=str(Fraction(shape) if shape and shape > 0 else Fraction(1)),
        declared=str(Fraction(declared)) if declared else "",
        promised=promised,
        timecode=timecode,
        length=str(length) if length else "",
        title=title,
        sizes=tuple(sizes),
        turn=turn,
        fields=interlaced or woven in _ORDERS,
        field_order=_ORDERS.get(woven, order if interlaced else 0),
        tracks=tuple((t.number, t.rate, t.layout, t.channels, t.deep) for t in tracks),
        mute=mute,
        codec=codec,
        reel=reel,
        woven=woven,
    )


def _woven(reader: MovieReader, height: int, rate: float) -> str:
    """Return which field comes first as a few runs of pictures show it; see `_Looked`."""
    index = reader.index
    if not plausible(height, rate) or index.by_count or len(index) < 2 * _RUN:
        return "?"
    keys = index.keys.tolist() or [0]
    if len(keys) < _RUNS:  # then some way behind them, too, but not far: all before is decoded
        keys = sorted(k + 2 * _RUN * n for k in keys for n in range(_RUNS))

    many = _RUNS if height < _LARGE else _RUNS_LARGE

    def runs() -> Iterator[list[NDArray[np.uint8]]]:
        for share in range(many):
            start = min(keys[len(keys) * share // many], len(index) - _RUN)
            with contextlib.suppress(MediaError, FFmpegError):
                pictures = [luma_of(p) for _, p in reader.frames(start, start + _RUN)]
                yield [p for p in pictures if p is not None]

    first = first_field(runs())
    return "?" if first is None else first


_RUN, _RUNS, _RUNS_LARGE, _LARGE = 6, 5, 3, 720
"""So many pictures in a row are looked at, at so many places, of large pictures at fewer."""
_ORDERS = {"top": 2, "bottom": 3}
"""AV_FIELD_TT and AV_FIELD_BB of FFmpeg's AVFieldOrder."""


def _opened(
    file: Path, index: FrameIndex, looked: _Looked, print_: str, growing: bool = False
) -> OpenedFilm:
    """Return a film by what is known of it; what is not right with it in sentences."""
    declared = Fraction(looked.declared) if looked.declared else None
    rate = index.rate(declared)
    start, drop = start_of(looked.timecode, rate)
    width, height, shape = looked.width, looked.height, Fraction(looked.shape)
    if looked.turn % 180:
        width, height, shape = height, width, 1 / shape
    holes = index.holes()
    media = Media(
        path=str(file.resolve()),
        rate=rate,
        frames=len(index),
        width=width,
        height=height,
        start=start or 0,
        drop=drop,
        pixel_shape=shape,
        rotation=looked.turn,
        fingerprint=print_,
        codec=looked.codec + (", interlaced" if looked.fields else ""),
        fields=first_of(looked.fields, looked.field_order),
    )
    return OpenedFilm(
        media,
        index,
        tuple(_notes(file.name, index, looked, rate, growing)),
        looked.title,
        holes,
        looked.fields,
        looked.field_order,
        tuple(SoundTrack(*track) for track in looked.tracks),
        reel=looked.reel,
    )


def _notes(
    name: str, index: FrameIndex, looked: _Looked, rate: Rate, growing: bool
) -> Iterator[str]:
    """Yield what is not right with a film, a sentence each."""
    declared = Fraction(looked.declared) if looked.declared else None
    length = Fraction(looked.length) if looked.length else None
    if growing:
        yield (
            f"{name} is still being written: {len(index)} pictures so far; "
            "open it again when it is done"
        )
    elif looked.promised > len(index) + index.hidden + 1:
        yield f"{name} ends early: {len(index)} of {looked.promised} pictures can be read"
    elif length and len(index) / rate < length - max(Fraction(1, 2), length / 50):
        yield (
            f"{name} says it lasts {float(length):.1f} s, its pictures last "
            f"{float(len(index) / rate):.1f} s"
        )
    if declared and not index.uneven and abs(rate / declared - 1) > Fraction(1, 50):
        said = rate_from(declared) if 0 < declared <= FASTEST else declared
        yield (
            f"{name} says {rate_words(said)} frames per second, "
            f"its pictures come at {rate_words(rate)}"
        )
    if len(looked.sizes) > 1:
        words = ", then ".join(f"{w}x{h}" for w, h in looked.sizes)
        yield f"{name} changes its picture size on the way: {words}"
    holes = index.holes()
    if holes:
        yield f"{name}: pictures are missing before {_frames_words(holes)}"
    if index.uneven:
        yield f"{name} has a variable rate; timecode counts its pictures"
    if start_of(looked.timecode, rate)[0] is None:
        shown = looked.timecode[:40]
        yield f"{name}: its start timecode “{shown}” makes no sense; it is counted from 0"
    for track in looked.mute:
        yield f"{name}: {track}"


def _seen(
    file: Path, reader: MovieReader, first: FirstPicture | None
) -> tuple[list[tuple[int, int]], int, bool]:
    """Look at a few keyframes: picture sizes, each once in the order met; how far pictures are
    turned; whether they are interlaced.

    MediaError where hardly one of them, nor of others all over the film, can be decoded without
    damage: such a file may be encrypted. A decoder makes pictures of noise, too, but says so
    nearly always.
    """
    index = reader.index
    keys = index.keys.tolist() or [0]
    tried = dict.fromkeys((keys[0], keys[len(keys) // 2], keys[-1]))
    if len(index) - keys[-1] <= FEW:
        tried[len(index) - 1] = None
    others = {len(index) * n // OTHERS for n in range(1, OTHERS)} - {*tried}
    sizes: dict[tuple[int, int], None] = {}
    interlaced, whole, looked, turn = False, 0, 0, 0
    for frame in (*tried, *sorted(others)):
        if frame in others and 2 * whole > len(tried):
            break
        looked += 1
        with contextlib.suppress(MediaError):
            if frame == 0 and first is not None and first.time == int(index.times[0]):
                picture = reader.upright(first.picture)
            else:
                picture = reader.frame(frame)
            turn = reader.turn
            sizes[picture.width, picture.height] = None
            interlaced = interlaced or bool(picture.interlaced_frame)
            whole += not picture.is_corrupt
    if whole < min(2, looked):
        raise MediaError(
            f"{file}: its pictures cannot be decoded; it may be encrypted, or damaged throughout"
        )
    return list(sizes), turn, interlaced


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


def _written(container: Any, name: str) -> str:
    """Return what a file says under a name in any of its tracks, or as a whole."""
    told = (tag_of(holder, name) for holder in (*container.streams, container))
    return next(filter(None, told), "")


_CODECS = {
    "h264": "H.264", "hevc": "H.265", "prores": "ProRes", "dnxhd": "DNxHD", "mpeg2video": "MPEG-2",
    "mpeg4": "MPEG-4", "mjpeg": "Motion JPEG", "ffv1": "FFV1", "vp8": "VP8", "vp9": "VP9",
    "av1": "AV1", "libdav1d": "AV1", "rawvideo": "uncompressed", "dvvideo": "DV",
    "jpeg2000": "JPEG 2000", "cfhd": "CineForm",
}  # fmt: skip


def _codec_words(stream: Any) -> str:
    """Return in words what the pictures of a movie are coded as."""
    name = str(stream.codec_context.name)
    return _CODECS.get(name, name.upper())[:40]


def shown_size(media: Media) -> tuple[int, int]:
    """Return width and height in square pixels, as the picture is meant to be seen."""
    width = round(media.width * media.pixel_shape)
    return max(1, width), max(1, media.height)
