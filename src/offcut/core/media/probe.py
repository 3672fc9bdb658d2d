"""The facts of a film: rate, size, start timecode, fingerprint."""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Iterator
from dataclasses import asdict, dataclass, fields, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.errors import MediaError, TimecodeError
from offcut.core.media.index import FirstPicture, FrameIndex, index_of
from offcut.core.media.kept_index import keep_index, kept_index
from offcut.core.media.movie import MovieReader
from offcut.core.media.opening import check_readable, open_film
from offcut.core.media.runs import FoundRun, numbers_words, run_at
from offcut.core.media.sound import SoundTrack, tracks_in
from offcut.core.media.stills import (
    LOOKS,
    Header,
    fingerprint_of_run,
    header_of,
    index_of_run,
    looked_at,
)
from offcut.core.model.run import Run
from offcut.core.model.source import Media, Source
from offcut.core.model.ticket import Fields
from offcut.core.timecode import Rate, can_drop, frame_from_timecode, rate_from, rate_words
from offcut.core.words import many

_BLOCK = 1 << 20
OTHERS = 8
"""Where keyframes look damaged, pictures at every eighth of the film are looked at as well."""
FEW = 100
"""So many frames after the last keyframe are decoded to see the last picture."""


@dataclass(frozen=True)
class OpenedFilm:
    """A film ready to be read: its facts, its index, and what is not right with it.

    Attributes: ``notes`` sentences that name the file; ``holes`` frames before which pictures
    are missing; ``fields`` True where pictures are interlaced, ``field_order`` how, as FFmpeg
    numbers it (0 where the file does not say); ``tracks`` of sound that can be decoded;
    ``log`` True where its pictures are densities; ``reel`` and ``device`` as its header names
    them; ``own_rate`` where sound and packets run at another rate than was set.
    """

    media: Media
    index: FrameIndex
    notes: tuple[str, ...] = ()
    title: str = ""
    holes: tuple[int, ...] = ()
    fields: bool = False
    field_order: int = 0
    tracks: tuple[SoundTrack, ...] = ()
    log: bool = False
    reel: str = ""
    device: str = ""
    own_rate: Rate | None = None


def opened_run(found: FoundRun, like: Run | None = None) -> OpenedFilm:
    """Return a run of stills ready to be read. Raises MediaError with a sentence naming it.

    Its holes are treated as those of ``like``. Where no picture tells a rate, 24 is taken.
    """
    folder, run = found.folder, found.run
    head: Header | None = None
    problem: MediaError | None = None
    others: dict[tuple[int, int], int] = {}
    for number in looked_at(run, LOOKS):
        try:
            seen = header_of(folder / run.name_of(number))
        except MediaError as error:
            problem = problem or error
            continue
        head = head or seen
        if (seen.width, seen.height) != (head.width, head.height):
            others.setdefault((seen.width, seen.height), number)
    if head is None:
        raise problem or MediaError(f"{found.path}: not one picture of it can be read")
    try:
        print_ = fingerprint_of_run(folder, run)
    except OSError as error:
        raise MediaError(f"{found.path}: cannot be read ({error.strerror})") from error
    rate = head.rate or Fraction(24)
    run = replace(
        run, rate_told=head.rate is not None, holes=like.holes if like is not None else run.holes
    )
    start, drop = _start(head.timecode, rate)
    media = Media(
        path=str(found.path.resolve()),
        rate=rate,
        frames=run.frames,
        width=head.width,
        height=head.height,
        start=start or 0,
        drop=drop,
        pixel_shape=head.shape,
        fingerprint=print_,
        codec=head.codec,
        run=run,
    )
    return OpenedFilm(
        media,
        index_of_run(run, rate),
        tuple(_notes_of_run(found, head, others, start is None)),
        log=head.log,
        reel=head.reel,
        device=head.device,
    )


def _notes_of_run(
    found: FoundRun, head: Header, others: dict[tuple[int, int], int], odd_timecode: bool
) -> Iterator[str]:
    """Yield what is not right with a run, a sentence each."""
    run, name = found.run, " ".join(found.run.pattern.split())
    if run.many_missing:
        gone = many(run.many_missing, "picture")
        yield f"{name} lacks {gone}: {numbers_words(run.missing)}"
    if head.rate is None:
        yield f"{name} tells no rate: 24 frames per second are taken until another is set"
    for (width, height), number in others.items():
        yield (
            f"{name} changes its size at {number} to {width}x{height}: "
            f"what is not {head.width}x{head.height} counts as damaged"
        )
    if odd_timecode:
        shown = head.timecode[:40]
        yield f"{name}: its start timecode “{shown}” makes no sense; it is counted from 0"
    again = run_at(found.path)
    if again is not None and again.run.last > run.last:
        yield f"{name} is still being written: it ends at {again.run.last} now; open it again"


def as_set(film: OpenedFilm, source: Source) -> OpenedFilm:
    """Return an opened film with what the ticket of its source says in place of the file's word.

    Where another rate was set the pictures keep their number and come at that rate; sound and
    packets do not follow, so sound is left out.
    """
    media = replace(film.media, **{n: getattr(source.media, n) for n in _SET})
    order = {Fields.TOP: _TOP_FIRST, Fields.BOTTOM: _BOTTOM_FIRST}.get(source.ticket.fields, 0)
    fields = {Fields.AS_FILE: film.fields, Fields.NONE: False}.get(source.ticket.fields, True)
    if media == film.media and fields == film.fields and (not order or order == film.field_order):
        return film
    changes: dict[str, Any] = {"media": media, "fields": fields}
    if order or not fields:
        changes["field_order"] = order
    own = film.own_rate or film.media.rate
    if media.run is not None:
        changes["media"] = replace(media, frames=media.run.frames)
        changes["index"] = index_of_run(media.run, media.rate)
    elif media.rate != own and not film.own_rate:
        scale = own / media.rate
        changes["index"] = replace(film.index, time_base=film.index.time_base * scale)
        changes |= {"tracks": (), "own_rate": own}
    return replace(film, **changes)


_SET = ("rate", "start", "drop", "pixel_shape", "run")
_TOP_FIRST, _BOTTOM_FIRST = 2, 3
"""AV_FIELD_TT and AV_FIELD_BB of FFmpeg's AVFieldOrder."""


@dataclass(frozen=True)
class _Looked:
    """What a file says of itself and what a look at its pictures showed; plain values.

    ``length`` and ``declared`` are fractions as text, empty for none; ``sizes`` the picture sizes
    met; ``mute`` the tracks of sound that cannot be decoded, in words.
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
        title = " ".join(str(container.metadata.get("title", "")).split())[:120]
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
        fields=interlaced,
        field_order=order if interlaced else 0,
        tracks=tuple((t.number, t.rate, t.layout, t.channels, t.deep) for t in tracks),
        mute=mute,
        codec=codec,
        reel=reel,
    )


def _opened(
    file: Path, index: FrameIndex, looked: _Looked, print_: str, growing: bool = False
) -> OpenedFilm:
    """Return a film by what is known of it; what is not right with it in sentences."""
    declared = Fraction(looked.declared) if looked.declared else None
    rate = index.rate(declared)
    start, drop = _start(looked.timecode, rate)
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
        yield (
            f"{name} says {rate_words(rate_from(declared))} frames per second, "
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
    if _start(looked.timecode, rate)[0] is None:
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
    for holder in (*container.streams, container):
        for key, value in holder.metadata.items():
            if key.lower() == name:
                return str(value)
    return ""


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


def _start(written: str, rate: Rate) -> tuple[int | None, bool]:
    """Return the frame of a start timecode and whether it drops; None for one without sense."""
    if not written:
        return 0, False
    try:
        return frame_from_timecode(written, rate), ";" in written and can_drop(rate)
    except TimecodeError:
        return None, False


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
