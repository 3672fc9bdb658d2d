"""Proxies: small stand-ins of heavy films, every picture a keyframe, in pieces with the film's own
frame numbers.

A piece is a movie of its own in the folder of its film, named by its frames; it appears whole or
not at all. So making them can be stopped and gone on with, in any order and on several threads,
and one that is damaged, swapped or gone costs no more than its own frames: those come from the
film itself.
"""

from __future__ import annotations

import contextlib
import os
import re
import shutil
from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import platformdirs
from av.error import FFmpegError
from av.video.reformatter import Colorspace, Interpolation, VideoReformatter

from offcut.core.errors import MediaError
from offcut.core.files import PART, bytes_below
from offcut.core.media.container import open_container, tag_of
from offcut.core.media.index import FrameIndex
from offcut.core.media.pictures import matrix_of
from offcut.core.media.reader import Reader
from offcut.core.media.sound import Samples, SoundTrack
from offcut.core.model.source import Media
from offcut.core.timecode import timecode_from_frame

VERSION = 1
PROXY_PIECE = 500
"""Frames in a piece at most."""
AREA = 960 * 540
"""Pixels of a proxy's picture at most."""
LIMIT = 20 << 30
OPEN = 3
"""So many pieces are open at once for reading."""
LONG_GROUP = 48
"""A film whose keyframes lie further apart seeks slowly."""
LARGE = 2560 * 1440
"""A picture with more pixels decodes slowly."""
Range = tuple[int, int]


def usual_folder() -> Path:
    """Return the folder that holds proxies where no other was chosen."""
    return Path(platformdirs.user_cache_path("offcut")) / "proxies"


def proxy_size(media: Media) -> tuple[int, int]:
    """Return width and height of a film's proxy, both even."""
    scale = min(1.0, (AREA / (media.width * media.height)) ** 0.5)
    return max(16, round(media.width * scale / 2) * 2), max(16, round(media.height * scale / 2) * 2)


def slow_because(media: Media, index: FrameIndex | None) -> str:
    """Return in words why a film plays or seeks too slowly, empty where it does not."""
    pixels = media.width * media.height
    if media.run is not None:
        return "large stills" if pixels > 1_000_000 else ""
    if pixels > LARGE:
        return "a large picture"
    if index is not None and pixels >= 1280 * 720:
        if index.by_count:
            return "no times in the file"
        longest = _longest_group(index)
        if longest > LONG_GROUP:
            return f"keyframes {longest} frames apart"
    return ""


def _longest_group(index: FrameIndex) -> int:
    keys = [*index.keys.tolist(), len(index)]
    return max((b - a for a, b in pairwise(keys)), default=len(index))


class ProxyPieces:
    """What there is of one film's proxy."""

    def __init__(self, media: Media, folder: Path | None = None) -> None:
        """``folder`` holds the proxies of all films, the usual one for None."""
        run = media.run
        holes = f"-{run.holes.value}" if run is not None and run.missing else ""
        top = folder or usual_folder()
        self.media = media
        self.folder = top / f"{media.fingerprint}-{media.frames}{holes}-{VERSION}"

    def there(self) -> list[tuple[int, int, Path]]:
        """Return the pieces by their first frame; of two that overlap the one made first holds."""
        found = []
        with contextlib.suppress(OSError), os.scandir(self.folder) as entries:
            for entry in entries:
                head, _, tail = entry.name.removesuffix(".mp4").partition("-")
                if entry.name.endswith(".mp4") and head.isdigit() and tail.isdigit():
                    found.append((int(head), int(tail), Path(entry.path)))
        return sorted(p for p in found if 0 <= p[0] < p[1] <= self.media.frames)

    def gaps(self, start: int, end: int) -> list[Range]:
        """Return what of frames [start, end) no piece holds."""
        gaps: list[Range] = []
        at = start
        for first, last, _ in self.there():
            if first > at:
                gaps.append((at, min(first, end)))
            at = max(at, last)
        if at < end:
            gaps.append((at, end))
        return [(low, high) for low, high in gaps if low < high]

    def share(self) -> float:
        """Return how much of the film is there, 0 to 1."""
        return 1 - sum(b - a for a, b in self.gaps(0, self.media.frames)) / self.media.frames

    def use(self, limit: int = LIMIT) -> None:
        """Say that the film is used now; past a limit of bytes those used longest ago go."""
        with contextlib.suppress(OSError):
            os.utime(self.folder)
        _trim(self.folder.parent, limit)


_FOLDER = re.compile(r"[0-9a-f]{32}-\d+(-[a-z]+)?-\d+$")
"""What the folder of a film's proxy is called: a chosen folder may hold other things as well."""


def _of_films(folder: Path) -> list[Path]:
    with contextlib.suppress(OSError):
        return [f for f in folder.iterdir() if f.is_dir() and _FOLDER.match(f.name)]
    return []


def _trim(folder: Path, limit: int) -> None:
    held = sorted((f.stat().st_mtime, bytes_below(f), f) for f in _of_films(folder))
    whole = sum(size for _, size, _ in held)
    for _, size, film in held:
        if whole <= limit:
            return
        shutil.rmtree(film, ignore_errors=True)
        whole -= size


def empty_proxies(folder: Path) -> None:
    """Delete all proxies in a folder, and nothing else."""
    for film in _of_films(folder):
        shutil.rmtree(film, ignore_errors=True)


class ProxyMaker:
    """Writes pieces out of pictures that come in order, on one thread: a watcher of a pass.

    Attributes: ``made`` frames written so far; ``trouble`` a sentence where nothing can be written.
    """

    whole = True

    def __init__(self, pieces: ProxyPieces) -> None:
        self._pieces = pieces
        self._gaps = pieces.gaps(0, pieces.media.frames)
        self._out: Any = None
        self._stream: Any = None
        self._start = self._next = 0
        self._reformatter = VideoReformatter()
        self.made = 0
        self.trouble = ""

    def see(self, number: int, frame: av.VideoFrame, _luma: object = None) -> None:
        """Take a frame in; one that is there already is passed over."""
        if self.trouble:
            return
        if not any(low <= number < high for low, high in self._gaps):
            self._close()
            return
        if self._out is not None and (number != self._next or number - self._start >= PROXY_PIECE):
            self._close()
        try:
            self._write(number, frame)
        except (FFmpegError, OSError, ValueError) as error:
            self.trouble = f"{self._pieces.folder}: proxies cannot be written ({error})"
            self._drop()

    def _write(self, number: int, frame: av.VideoFrame) -> None:
        if self._out is None:
            self._open(number, frame)
        width, height = self._stream.width, self._stream.height
        matrix = _matrix(frame)
        rgb = frame.format.name.startswith(("rgb", "gbr", "bgr", "gray"))
        small = self._reformatter.reformat(
            frame, width, height, format="yuv420p", interpolation=Interpolation.AREA,
            src_colorspace=None if rgb else matrix, dst_colorspace=matrix,
        )  # fmt: skip
        small.pts, small.time_base = number - self._start, 1 / self._pieces.media.rate
        small.pict_type = 0
        self._out.mux(self._stream.encode(small))
        self._next = number + 1
        self.made += 1

    def _aside(self) -> Path:
        return self._pieces.folder / f".{self._start}{PART}"

    def _open(self, number: int, frame: av.VideoFrame) -> None:
        media = self._pieces.media
        self._pieces.folder.mkdir(parents=True, exist_ok=True)
        self._start = number
        out = av.open(str(self._aside()), "w", format="mp4")
        out.metadata["comment"] = mark_of(media, number)
        label = timecode_from_frame(media.start + number, media.rate, media.drop)
        options = {"preset": "ultrafast", "crf": "23", "tune": "fastdecode",
                   "x264-params": "keyint=1:threads=1"}  # fmt: skip
        stream: Any = out.add_stream("libx264", rate=media.rate, options=options)
        stream.width, stream.height = proxy_size(media)
        stream.pix_fmt = "yuv420p"
        stream.metadata["timecode"] = label
        context = stream.codec_context
        context.time_base = 1 / media.rate
        context.thread_count = 1
        context.colorspace = _matrix(frame)
        context.sample_aspect_ratio = media.pixel_shape
        self._out, self._stream = out, stream

    def _close(self) -> None:
        """End the piece under way, and give it its name."""
        if self._out is None:
            return
        out, stream = self._out, self._stream
        self._out = self._stream = None
        try:
            out.mux(stream.encode(None))
            out.close()
            os.replace(self._aside(), self._pieces.folder / f"{self._start}-{self._next}.mp4")
        except (FFmpegError, OSError) as error:
            self.trouble = f"{self._pieces.folder}: proxies cannot be written ({error})"

    def _drop(self) -> None:
        if self._out is not None:
            with contextlib.suppress(FFmpegError, OSError):
                self._out.close()
            self._out = self._stream = None
        with contextlib.suppress(OSError):
            self._aside().unlink(missing_ok=True)

    def end(self) -> None:
        """End the piece under way."""
        self._close()


def mark_of(media: Media, start: int) -> str:
    """Return what a piece says of itself: which film's it is, and from where."""
    return f"offcut proxy {media.fingerprint} {start}"


def _matrix(frame: av.VideoFrame) -> int:
    """Return the colour matrix a frame's proxy is coded by; RGB becomes BT.601."""
    rgb = frame.format.name.startswith(("rgb", "gbr", "bgr", "gray"))
    return int(Colorspace.ITU601) if rgb else matrix_of(frame)


class ProxyReader:
    """Reads the proxy of a film as `offcut.core.media.reader.Reader` asks.

    What no piece gives, damaged, swapped or gone as it may be, comes from the film itself.
    Attributes: ``from_film`` True where the last picture did; ``lost`` a sentence once a piece that
    was there could not be read.
    """

    def __init__(self, pieces: ProxyPieces, film: Callable[[], Reader], index: FrameIndex) -> None:
        self.index = index
        self.missing: set[int] = set()
        self.from_film = False
        self.lost = ""
        self._pieces = pieces
        self._there = pieces.there()
        self._film = film
        self._reader: Reader | None = None
        self._held: dict[Path, _Piece] = {}

    def close(self) -> None:
        """Let all files go."""
        for piece in self._held.values():
            piece.close()
        self._held.clear()
        if self._reader is not None:
            self._reader.close()

    def __enter__(self) -> ProxyReader:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def holds(self, number: int) -> bool:
        """Tell whether a piece has a frame."""
        return any(first <= number < last for first, last, _ in self._there)

    def frame(
        self, number: int, passed: Callable[[int, av.VideoFrame], None] | None = None
    ) -> av.VideoFrame:
        """Return frame ``number``, small; as the film has it where no piece gives it."""
        for place in [p for p in self._there if p[0] <= number < p[1]]:
            try:
                picture = self._piece(place).frame(number)
                self.from_film = False
                return picture
            except (FFmpegError, OSError, ValueError, MediaError):
                self.lost = f"{place[2]}: the proxy cannot be read; the film itself is shown"
                self._there = [p for p in self._there if p is not place]
                held = self._held.pop(place[2], None)
                if held is not None:
                    held.close()
        self.from_film = True
        if self._reader is None:
            self._reader = self._film()
        return self._reader.frame(number, passed)

    def _piece(self, place: tuple[int, int, Path]) -> _Piece:
        path = place[2]
        piece = self._held.pop(path, None) or _Piece(place, mark_of(self._pieces.media, place[0]))
        self._held[path] = piece
        while len(self._held) > OPEN:
            self._held.pop(next(iter(self._held))).close()
        return piece

    def key(self, number: int) -> av.VideoFrame:
        """Return the picture of a keyframe."""
        return self.frame(number)

    def frames(self, start: int, end: int) -> Iterator[tuple[int, av.VideoFrame]]:
        """Yield (number, picture) for frames [start, end) in order; damaged ones are left out."""
        for number in range(start, min(end, len(self.index))):
            try:
                yield number, self.frame(number)
            except MediaError:
                self.missing.add(number)

    def samples(self, time: Fraction, track: SoundTrack | None = None) -> Iterator[Samples]:
        """Yield sound of the film itself."""
        if self._reader is None:
            self._reader = self._film()
        return self._reader.samples(time, track)


class _Piece:
    """One piece, open. Raises MediaError where it is not what its name says."""

    def __init__(self, place: tuple[int, int, Path], mark: str) -> None:
        self._start, self._end, path = place
        self._path = path
        self._container = open_container(path)
        self._stream = self._container.streams.video[0]
        self._stream.codec_context.thread_count = 1
        if tag_of(self._container, "comment") != mark:
            self.close()
            raise MediaError(f"{path}: not the proxy of this film")
        self._base = self._stream.time_base or Fraction(1)
        self._rate = Fraction(self._stream.average_rate or 25)
        self._run: Iterator[av.VideoFrame] | None = None
        self._next = -1

    def frame(self, number: int) -> av.VideoFrame:
        inside = number - self._start
        if self._run is None or inside != self._next:
            time = round(Fraction(inside) / self._rate / self._base)
            self._container.seek(time, stream=self._stream, backward=True)
            self._run = self._container.decode(self._stream)
        for picture in self._run:
            at = round(Fraction(picture.pts or 0) * self._base * self._rate)
            self._next = at + 1
            if at == inside:
                return picture
            if at > inside:
                break
        self._run = None
        raise MediaError(f"{self._path}: has no frame {number}")

    def close(self) -> None:
        self._run = None
        self._container.close()
