"""Runs of stills: frames by number, read with OpenImageIO, and the facts of their headers."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

import av
import numpy as np
import OpenImageIO as oiio
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.media.index import FrameIndex
from offcut.core.media.log import screen_values
from offcut.core.media.sound import Samples, SoundTrack
from offcut.core.model.run import Holes, Run
from offcut.core.timecode import Rate, rate_from

LOOKS = 24
"""So many headers of a run are looked at for their size."""
MOST_PRINTED = 200
"""So many pictures of a run go into its fingerprint at most."""
_BLOCK = 1 << 14
_LOG = ("Printing density", "Logarithmic")
"""Transfer characteristics 1 and 3 of SMPTE ST 268-1, as OpenImageIO names them."""

_KINDS = {"openexr": "EXR", "jpeg2000": "JPEG 2000", "cineon": "Cineon"}

oiio.attribute("threads", 1)


@dataclass(frozen=True)
class Header:
    """What the header of a still says: size in pixels, bits of a sample, and more where told.

    ``rate`` frames per second and ``timecode`` None and empty where not told; ``log`` True where
    samples are densities; ``floats`` True where they are linear light; ``shape`` of a pixel;
    ``reel`` and ``device`` names, often empty; ``kind`` the file format.
    """

    width: int
    height: int
    bits: int
    rate: Rate | None = None
    timecode: str = ""
    log: bool = False
    floats: bool = False
    shape: Fraction = Fraction(1)
    reel: str = ""
    device: str = ""
    kind: str = ""

    @property
    def codec(self) -> str:
        """What the pictures are coded as, in words."""
        depth = "float" if self.floats else f"{self.bits} bit"
        return f"{self.kind} {depth}{' log' if self.log else ''}"


def header_of(path: Path) -> Header:
    """Return what the header of a still says. Raises MediaError naming the file."""
    still = _opened(path)
    try:
        spec = still.spec()
        kind = str(still.format_name())
        return _header(spec, _KINDS.get(kind, kind.upper()))
    finally:
        still.close()


def _opened(path: Path) -> Any:
    try:
        if not path.is_file():
            raise MediaError(f"{path}: there is no such file")
        if path.stat().st_size == 0:
            raise MediaError(f"{path}: the file is empty")
        with path.open("rb"):
            pass
    except PermissionError as error:
        raise MediaError(f"{path}: no permission to read it") from error
    except OSError as error:
        raise MediaError(f"{path}: cannot be read ({error.strerror})") from error
    still = _input_of(path)
    if still is None:
        oiio.geterror()
        raise MediaError(f"{path}: not a picture that can be read; it may be damaged")
    return still


def _input_of(path: Path) -> Any:
    try:
        str(path).encode()
    except UnicodeEncodeError:  # a name that is no UTF-8, which the library does not take
        handle = os.open(path, os.O_RDONLY)
        try:
            return oiio.ImageInput.open(f"/proc/self/fd/{handle}")
        finally:
            os.close(handle)
    return oiio.ImageInput.open(str(path))


def _header(spec: Any, kind: str) -> Header:
    sides = (spec.width, spec.height, spec.full_width, spec.full_height)
    if not all(0 < side <= 100_000 for side in sides):
        raise MediaError("the size of the picture makes no sense")
    told = {a.name: a.value for a in spec.extra_attribs}
    kind_of_sample = str(spec.format)
    floats = kind_of_sample in ("half", "float", "double")
    bits = int(told.get("oiio:BitsPerSample", 8 if kind_of_sample == "uint8" else 16))
    transfer = str(told.get("dpx:Transfer", ""))
    return Header(
        spec.full_width,
        spec.full_height,
        bits,
        _rate(told),
        _timecode(told),
        log=transfer in _LOG or kind == "Cineon",
        floats=floats,
        shape=_shape(told),
        reel=_reel(told),
        device=_words(told.get("dpx:InputDevice", told.get("cineon:InputDevice", ""))),
        kind=kind,
    )


def _words(value: object) -> str:
    return " ".join(str(value).split())[:120]


def _reel(told: dict[str, Any]) -> str:
    """Return the reel that a header names: EXR has a word for it, DPX the scanned image's name."""
    own = _words(told.get("reelName", ""))
    if own:
        return own
    name = _words(told.get("dpx:SourceImageFileName", told.get("cineon:SourceImageFileName", "")))
    return Path(name).stem.rstrip("0123456789").rstrip("._-") if name else ""


def _rate(told: dict[str, Any]) -> Rate | None:
    for name in ("dpx:FrameRate", "dpx:TemporalFrameRate", "FramesPerSecond", "cineon:FrameRate"):
        value = told.get(name)
        if value is None:
            continue
        try:
            parts = np.atleast_1d(np.asarray(value, float))
            rate = parts[0] / parts[1] if len(parts) == 2 else parts[0]
            if 1 <= rate <= 1000:
                return rate_from(float(rate))
        except (TypeError, ValueError, ZeroDivisionError):
            continue
    return None


def _shape(told: dict[str, Any]) -> Fraction:
    try:
        shape = Fraction(float(told.get("PixelAspectRatio", 1))).limit_denominator(1000)
    except (TypeError, ValueError, OverflowError):
        return Fraction(1)
    return shape if Fraction(1, 4) <= shape <= 4 else Fraction(1)


def _timecode(told: dict[str, Any]) -> str:
    """Return the timecode of a header, whose two words are packed as SMPTE ST 12-1 has them."""
    value = told.get("smpte:TimeCode")
    if value is None:
        return str(told.get("dpx:TimeCode", ""))
    if isinstance(value, str):
        return value
    try:
        word = int(np.atleast_1d(np.asarray(value)).astype(np.uint64)[0]) & 0xFFFFFFFF
    except (TypeError, ValueError, IndexError):
        return ""
    return timecode_of_bits(word)


def timecode_of_bits(word: int) -> str:
    """Return the timecode in a 32-bit word of binary coded digits (SMPTE ST 12-1), or nothing.

    From the low end: frames (6 bits), drop-frame and colour flags, seconds (7) and a flag,
    minutes (7) and a flag, hours (6) and flags.
    """
    pairs = [(word >> shift) & mask for shift, mask in ((24, 63), (16, 127), (8, 127), (0, 63))]
    if word == 0xFFFFFFFF or any(p & 15 > 9 for p in pairs):
        return ""
    hours, minutes, seconds, frames = (10 * (p >> 4) + (p & 15) for p in pairs)
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}{';' if word >> 6 & 1 else ':'}{frames:02d}"


def pixels_of(path: Path, size: tuple[int, int]) -> NDArray[Any]:
    """Return a still as RGB, uint8 or uint16, shape (height, width, 3).

    Deep samples are spread over all 16 bits; linear light comes through the curve of sRGB
    (IEC 61966-2-1). Raises MediaError for what cannot be read whole or has another size.
    """
    still = _opened(path)
    try:
        spec = still.spec()
        if (spec.full_width, spec.full_height) != size:
            shown = f"{spec.full_width}x{spec.full_height}"
            raise MediaError(f"{path}: is {shown}, not {size[0]}x{size[1]}")
        floats = str(spec.format) in ("half", "float", "double")
        kind = "float" if floats else "uint8" if str(spec.format) == "uint8" else "uint16"
        many = min(spec.nchannels, 3)
        pixels = still.read_image(0, 0, 0, many, kind)
        if pixels is None:
            raise MediaError(f"{path}: {_words(still.geterror()) or 'damaged'}")
    finally:
        still.close()
    shaped: NDArray[Any] = np.asarray(pixels).reshape(spec.height, spec.width, many)
    if (spec.width, spec.height) != size:
        shaped = _in_window(shaped, spec, size)
    if many < 3:
        shaped = np.repeat(shaped[..., :1], 3, axis=2)
    return _seen(shaped) if floats else shaped


def _in_window(pixels: NDArray[Any], spec: Any, size: tuple[int, int]) -> NDArray[Any]:
    """Return pixels of a part of the picture (OpenEXR's data window) laid in the whole of it."""
    whole = np.zeros((size[1], size[0], pixels.shape[2]), pixels.dtype)
    left, top = spec.x - spec.full_x, spec.y - spec.full_y
    x0, y0 = max(0, left), max(0, top)
    x1, y1 = min(size[0], left + spec.width), min(size[1], top + spec.height)
    if x0 < x1 and y0 < y1:
        whole[y0:y1, x0:x1] = pixels[y0 - top : y1 - top, x0 - left : x1 - left]
    return whole


@cache
def _curve() -> NDArray[np.uint16]:
    """Return what each half float is on a screen, in 16 bits, by its bits."""
    half = np.arange(1 << 16, dtype=np.uint16).view(np.float16).astype(np.float64)
    light = np.nan_to_num(half, nan=0.0, posinf=1.0, neginf=0.0)
    return np.round(screen_values(light).astype(np.float64) * 65535).astype(np.uint16)


def _seen(light: NDArray[np.float32]) -> NDArray[np.uint16]:
    """Return linear light as sRGB in 16 bits, what is over 1 cut off."""
    with np.errstate(over="ignore"):
        return _curve()[light.astype(np.float16).view(np.uint16)]


def index_of_run(run: Run, rate: Rate) -> FrameIndex:
    """Return the index of a run: every picture can be gone to."""
    frames = np.arange(run.frames, dtype=np.int64)
    return FrameIndex(
        frames, frames, 1 / rate, packets=frames, packet_keys=np.ones(len(frames), bool)
    )


class StillsReader:
    """Reads one run as `offcut.core.media.reader.Reader` asks.

    Attributes: ``missing`` frames whose picture is there and could not be read.
    """

    def __init__(self, folder: Path, run: Run, size: tuple[int, int], index: FrameIndex) -> None:
        self.index = index
        self.missing: set[int] = set()
        self._folder = folder
        self._run = run
        self._size = size
        self._last: tuple[int, av.VideoFrame] | None = None
        self._black: av.VideoFrame | None = None

    def close(self) -> None:
        """Let go of the last picture; no file stays open."""
        self._last = None

    def __enter__(self) -> StillsReader:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def frame(
        self, number: int, passed: Callable[[int, av.VideoFrame], None] | None = None
    ) -> av.VideoFrame:
        """Return exactly frame ``number``; where it is damaged, the last good one before it."""
        if not 0 <= number < len(self.index):
            raise MediaError(f"{self._folder / self._run.pattern}: there is no frame {number}")
        fault: MediaError | None = None
        for near in (*range(number, max(-1, number - 12), -1), *range(number + 1, number + 12)):
            if near >= len(self.index):
                break
            try:
                return self._picture(near, number)
            except MediaError as error:
                fault = fault or error
                self.missing.add(near)
        raise fault or MediaError(f"{self._folder}: frame {number} cannot be read")

    def key(self, number: int) -> av.VideoFrame:
        """Return the picture of a keyframe."""
        return self.frame(number)

    def frames(self, start: int, end: int) -> Iterator[tuple[int, av.VideoFrame]]:
        """Yield (number, picture) for frames [start, end) in order; damaged ones are left out."""
        for number in range(max(0, start), min(end, len(self.index))):
            try:
                yield number, self._picture(number, number)
            except MediaError:
                if not self._folder.is_dir():
                    raise MediaError(f"{self._folder}: is no longer there") from None
                self.missing.add(number)

    def samples(self, time: Fraction, track: SoundTrack | None = None) -> Iterator[Samples]:
        """Raise MediaError: stills have no sound."""
        raise MediaError(f"{self._folder / self._run.pattern}: stills have no sound")

    def _picture(self, near: int, number: int) -> av.VideoFrame:
        own = self._run.number_of(near)
        held = self._run.held_for(own)
        if held is not None:
            if self._run.holes is Holes.BLACK:
                return self._blank(number)
            own = held
        if self._last is None or self._last[0] != own:
            pixels = pixels_of(self._folder / self._run.name_of(own), self._size)
            self._last = own, _frame(pixels)
        return _at(self._last[1], number, self.index.time_base)

    def _blank(self, number: int) -> av.VideoFrame:
        if self._black is None:
            self._black = _frame(np.zeros((self._size[1], self._size[0], 3), np.uint8))
        return _at(self._black, number, self.index.time_base)


def _frame(pixels: NDArray[Any]) -> av.VideoFrame:
    deep = pixels.dtype == np.uint16
    return av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), "rgb48le" if deep else "rgb24")


def _at(picture: av.VideoFrame, number: int, base: Fraction) -> av.VideoFrame:
    picture.pts, picture.time_base = number, base
    return picture


def fingerprint_of_run(folder: Path, run: Run) -> str:
    """Return a short hash of a run's numbers and of a few of its pictures. Raises OSError."""
    told = f"{run.head}|{run.tail}|{run.first}|{run.last}|{run.missing}"
    digest = hashlib.blake2b(told.encode("utf-8", "surrogateescape"), digest_size=16)
    whole = run.last - run.first + 1
    for number in looked_at(run, min(MOST_PRINTED, 5 + whole // 50)):
        file = folder / run.name_of(number)
        with file.open("rb") as data:
            digest.update(str(file.stat().st_size).encode())
            for place in (0, file.stat().st_size // 2):
                data.seek(place)
                digest.update(data.read(_BLOCK))
    return digest.hexdigest()


def looked_at(run: Run, many: int) -> list[int]:
    """Return numbers spread over a run that have a picture, the first and the last among them."""
    spread = np.linspace(run.first, run.last, many).round().astype(int).tolist()
    found = []
    for number in spread:
        held = run.held_for(number)
        found.append(number if held is None else held)
    return list(dict.fromkeys(found))
