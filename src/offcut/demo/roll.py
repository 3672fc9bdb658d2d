"""A short roll of Port Ansel as a scanner gives it: stills with gate and perforations, squeezed,
log, with camera stops; made on first use out of the demo film.
"""

from __future__ import annotations

import math
import shutil
from collections.abc import Iterator
from pathlib import Path

import av
import cv2
import numpy as np
import OpenImageIO as oiio
import platformdirs
from numpy.typing import NDArray

from offcut.core.media.log import cineon_code
from offcut.demo import FILM

NAME = "P07"
FIRST = 1001
RATE = 18
SIZE = (512, 384)
LIVE = (76, 22, 490, 362)
"""Left, top, right and bottom of the live picture in the scan."""
SQUEEZE = 1.5
HOLES = (1044, 1090, 1091)
TAKES = ((118, 26, 3, 2), (345, 22, 1, 3), (455, 30, 4, 1), (860, 18, 2, 4), (1050, 28, 2, 2))
"""First frame in the demo film and length of each take; frames burnt out at its end, and frames
that come out of the white at the beginning of the next."""
_RADIUS = 18


def stops() -> tuple[int, ...]:
    """Return the frames at which a new take begins."""
    ends = np.cumsum([length for _, length, _, _ in TAKES])[:-1]
    return tuple(int(e) for e in ends)


def roll_path() -> Path:
    """Return where the roll lies, as a run."""
    last = FIRST + sum(t[1] for t in TAKES) - 1
    folder = Path(platformdirs.user_cache_path("offcut")) / "demo-roll"
    return folder / f"{NAME}_[{FIRST:05d}-{last:05d}].dpx"


def made_roll() -> Path:
    """Make the roll where it is not there yet, and return where it lies. Raises OSError."""
    path = roll_path()
    if not path.parent.is_dir():
        aside = path.parent.with_name("demo-roll.part")
        shutil.rmtree(aside, ignore_errors=True)
        write_roll(aside)
        aside.rename(path.parent)
    return path


def write_roll(folder: Path, size: tuple[int, int] = SIZE) -> None:
    """Write the roll's stills into a folder, without those of the holes. Raises OSError."""
    folder.mkdir(parents=True)
    for place, picture in enumerate(scans(size)):
        number = FIRST + place
        if number not in HOLES:
            write_still(folder / f"{NAME}_{number:05d}.dpx", picture, place)


def scans(size: tuple[int, int] = SIZE) -> Iterator[NDArray[np.float32]]:
    """Yield the scans, as film sees them: light 0 to about 13, shape (height, width, 3)."""
    pictures = _pictures()
    rng = np.random.default_rng(7)
    frame = _gate(size)
    place = 0
    came = 0
    for begin, length, burnt, out_of_white in TAKES:
        for t in range(length):
            gain = 1.0
            if t >= length - burnt:
                gain = 2.2 ** (t - (length - burnt) + 1) * 1.4
            elif t < came and begin != TAKES[0][0]:
                gain = 2.2 ** (came - t) * 1.4
            light = (next(pictures).astype(np.float32) / 255.0) ** 2.2 * 0.9
            light = light * gain + (gain - 1) * 0.16 * np.array([1.0, 0.75, 0.5], np.float32)
            weave = (1.2 * math.sin(place * 0.9), 0.8 * math.cos(place * 1.7))
            yield _scanned(light, frame, size, weave, rng)
            place += 1
        came = out_of_white


def _pictures() -> Iterator[NDArray[np.uint8]]:
    """Yield the pictures of the takes, which lie one after another in the film."""
    wanted = {begin + t for begin, length, *_ in TAKES for t in range(length)}
    with av.open(str(FILM)) as film:
        for number, picture in enumerate(film.decode(video=0)):
            if number in wanted:
                yield np.asarray(picture.to_ndarray(format="rgb24"), np.uint8)
            if number >= max(wanted):
                return


def _gate(size: tuple[int, int]) -> NDArray[np.float32]:
    """Return what lies around the picture: the film's edge, its perforations, the black beyond."""
    wide, high = size
    scale = wide / SIZE[0]
    frame = np.full((high, wide, 3), 0.004, np.float32)
    for k in range(5):
        x, y = 24 * scale, (28 + 82 * k) * scale
        left, top, right, bottom = (round(v) for v in (x, y, x + 26 * scale, y + 36 * scale))
        cv2.rectangle(frame, (left + 4, top), (right - 4, bottom), (0.8, 0.78, 0.7), -1)
        cv2.rectangle(frame, (left, top + 4), (right, bottom - 4), (0.8, 0.78, 0.7), -1)
    return frame


def _scanned(
    light: NDArray[np.float32],
    frame: NDArray[np.float32],
    size: tuple[int, int],
    weave: tuple[float, float],
    rng: np.random.Generator,
) -> NDArray[np.float32]:
    wide, high = size
    scale = wide / SIZE[0]
    left, top, right, bottom = (round(v * scale) for v in LIVE)
    seen = cv2.resize(light, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
    shift = np.array([[1, 0, weave[0]], [0, 1, weave[1]]], np.float32)
    seen = cv2.warpAffine(
        seen, shift, (right - left, bottom - top), borderMode=cv2.BORDER_REPLICATE
    )
    whole = cv2.warpAffine(frame, shift, size, borderMode=cv2.BORDER_REPLICATE)
    mask = np.zeros((high, wide), np.float32)
    radius = round(_RADIUS * scale)
    cv2.rectangle(mask, (left + radius, top), (right - 1 - radius, bottom - 1), 1.0, -1)
    cv2.rectangle(mask, (left, top + radius), (right - 1, bottom - 1 - radius), 1.0, -1)
    for x in (left + radius, right - 1 - radius):
        for y in (top + radius, bottom - 1 - radius):
            cv2.circle(mask, (x, y), radius, 1.0, -1)
    soft = np.asarray(cv2.GaussianBlur(mask, (0, 0), 0.8), np.float32)[..., None]
    picture = np.zeros_like(whole)
    picture[top:bottom, left:right] = seen
    whole = whole * (1 - soft) + picture * soft
    grain = rng.normal(0, 0.035, (high, wide, 1)).astype(np.float32)
    return np.asarray(np.maximum(0, whole * (1 + grain)), np.float32)


def write_still(file: Path, light: NDArray[np.float32], place: int) -> None:
    """Write a scan as a 10-bit log DPX with rate, timecode and names in its header."""
    high, wide = light.shape[:2]
    spec = oiio.ImageSpec(wide, high, 3, "uint16")
    spec.attribute("oiio:BitsPerSample", 10)
    spec.attribute("dpx:Transfer", "Printing density")
    spec.attribute("dpx:FrameRate", float(RATE))
    spec.attribute("dpx:InputDevice", "Port Ansel town archive")
    spec.attribute("dpx:SourceImageFileName", f"{NAME}_{FIRST + place:05d}")
    spec.attribute("smpte:TimeCode", oiio.TypeDesc("timecode"), (_timecode(place), 0))
    codes = np.clip(np.round(cineon_code(light)), 0, 1023)
    pixels = (codes * (65535 / 1023)).round().astype(np.uint16)
    out = oiio.ImageOutput.create(str(file))
    if out is None or not out.open(str(file), spec) or not out.write_image(pixels):
        raise OSError(0, "the roll cannot be written", str(file))
    out.close()


def _timecode(place: int) -> int:
    """Return a timecode from 00:07:00:00 on as SMPTE ST 12-1 packs it."""
    seconds, frames = divmod(place, RATE)

    def coded(value: int) -> int:
        return value // 10 << 4 | value % 10

    return coded(7) << 16 | coded(seconds) << 8 | coded(frames)
