"""Display: log pictures seen as light, through OpenColorIO; nothing is burnt in.

Cineon comes by the conversion of its own system, camera logs by OpenColorIO's built-in studio
configuration and its rendering for SDR displays, anything else by a cube of one's own. Each is
worked out once for a lattice of colours and then looked up between its points.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import PyOpenColorIO as ocio
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.machine.added import DISPLAYS, added
from offcut.core.media.log import cineon_light, screen_values

CINEON = "cineon"
POINTS = 48
_CONFIG = "studio-config-v2.1.0_aces-v1.3_ocio-v2.3"
_VIEW = ("sRGB - Display", "ACES 1.0 - SDR Video")
_CAMERAS = {
    "ARRI LogC3 (EI800)": "LogC3, exposed for 800",
    "ARRI LogC4": "LogC4",
    "CanonLog2 CinemaGamut D55": "C-Log 2, cinema gamut",
    "CanonLog3 CinemaGamut D55": "C-Log 3, cinema gamut",
    "Log3G10 REDWideGamutRGB": "Log3G10, wide gamut",
    "S-Log3 S-Gamut3": "S-Log3, S-Gamut3",
    "S-Log3 S-Gamut3.Cine": "S-Log3, S-Gamut3.Cine",
    "V-Log V-Gamut": "V-Log, V-Gamut",
}
"""Camera logs by the names of the configuration, and in words."""
_LARGE = 200_000
_KNEE = 0.8
"""Light above it is bent towards white, so that what lies over 90 % white is still told apart."""

_Pixels = NDArray[Any]


@cache
def _config() -> Any:
    return ocio.Config.CreateFromBuiltinConfig(_CONFIG)


Look = Callable[[NDArray[np.float32]], NDArray[np.float32]]


@dataclass(frozen=True)
class AddedDisplay:
    """A display that another package adds.

    Attributes: ``name`` as tickets keep it, for good; ``words``; ``look`` turns colours as they are
    coded, float32 (n, 3), RGB 0 to 1, into what a screen shows of them (sRGB, 0 to 1).
    """

    name: str
    words: str
    look: Look


@cache
def _added() -> dict[str, AddedDisplay]:
    known = {CINEON, *_CAMERAS}

    def fault(display: AddedDisplay) -> str:
        if display.name in known:
            return f"there is a display called {display.name}"
        if not display.name or os.sep in display.name:
            return f"“{display.name}” is no name"
        if np.shape(display.look(np.zeros((2, 3), np.float32))) != (2, 3):
            return "it does not give a colour for each colour"
        known.add(display.name)
        return ""

    return {d.name: d for d in added(DISPLAYS, AddedDisplay, fault)}


def displays() -> dict[str, str]:
    """Return the displays there are: their names as tickets keep them, and in words."""
    more = {d.name: d.words for d in _added().values()}
    return {CINEON: "film log (Cineon)", **_CAMERAS, **more}


def display_words(name: str) -> str:
    """Return a display in words: as the pictures are, one that is built in, or a cube's name."""
    if not name:
        return "as it is"
    return displays().get(name, "") or Path(name).name


class Display:
    """Turns pictures of one log into pictures for a screen (sRGB, IEC 61966-2-1).

    Any thread may use it. Attributes: ``name`` as a ticket keeps it.
    """

    def __init__(self, name: str) -> None:
        """Raises MediaError for a cube that cannot be read, and for a name that nobody knows."""
        self.name = name
        self._curve: NDArray[np.uint16] | None = None
        if name == CINEON:
            code = np.arange(1 << 16) * (1023 / 65535)
            curve = shown_light(cineon_light(code)).astype(np.float64)
            self._curve = np.round(curve * 65535).astype(np.uint16)
        lattice = _lattice(name)
        table = ocio.Lut3DTransform(POINTS)
        table.setInterpolation(ocio.INTERP_TETRAHEDRAL)
        table.setData(lattice.reshape(-1))
        self._processor = ocio.Config.CreateRaw().getProcessor(table)
        self._made: dict[tuple[str, str], Any] = {}
        self._lock = threading.Lock()

    def seen(self, pixels: _Pixels, *, deep: bool = False) -> _Pixels:
        """Return RGB pixels, uint8 or uint16, shape (height, width, 3), as they are seen.

        The result is uint8, or uint16 where it is wanted ``deep``.
        """
        pixels = np.ascontiguousarray(pixels)
        if self._curve is not None:
            return self._by_curve(pixels, deep)
        out = np.empty(pixels.shape, np.uint16 if deep else np.uint8)
        work = self._work(str(pixels.dtype), str(out.dtype))
        high = len(pixels)
        if pixels.size < _LARGE:
            _apply(work, pixels, out)
            return out
        half = high // 2
        other = _second().submit(_apply, work, pixels[half:], out[half:])
        _apply(work, pixels[:half], out[:half])
        other.result()
        return out

    def _by_curve(self, pixels: _Pixels, deep: bool) -> _Pixels:
        """Return pixels whose colours are turned each for itself."""
        assert self._curve is not None
        if pixels.dtype == np.uint16:
            wide = np.take(self._curve, pixels)
            return wide if deep else (wide >> 8).astype(np.uint8)
        curve = self._curve[::257]
        if deep:
            return np.take(curve, pixels)
        table = np.round(curve / 257).astype(np.uint8)
        return np.asarray(cv2.LUT(pixels, table), np.uint8)

    def _work(self, came: str, goes: str) -> Any:
        with self._lock:
            if (came, goes) not in self._made:
                self._made[came, goes] = self._processor.getOptimizedCPUProcessor(
                    _DEPTHS[came], _DEPTHS[goes], ocio.OPTIMIZATION_DEFAULT
                )
            return self._made[came, goes]


_DEPTHS = {"uint8": ocio.BIT_DEPTH_UINT8, "uint16": ocio.BIT_DEPTH_UINT16}


@cache
def _second() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(1, thread_name_prefix="offcut-display")


def _apply(work: Any, came: _Pixels, out: _Pixels) -> None:
    work.apply(_described(came), _described(out))


def _described(pixels: _Pixels) -> Any:
    high, wide = pixels.shape[:2]
    size = pixels.itemsize
    return ocio.PackedImageDesc(
        pixels, wide, high, ocio.CHANNEL_ORDERING_RGB, _DEPTHS[str(pixels.dtype)],
        size, 3 * size, 3 * size * wide,
    )  # fmt: skip


def _lattice(name: str) -> NDArray[np.float32]:
    """Return what each point of a lattice of colours is seen as, red slowest, RGB 0 to 1."""
    steps = np.linspace(0, 1, POINTS, dtype=np.float32)
    colours = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), -1).reshape(-1, 3).copy()
    if name == CINEON:
        return shown_light(cineon_light(colours * 1023))
    if name in _added():
        try:
            seen = np.asarray(_added()[name].look(colours), np.float32).reshape(-1, 3)
        except Exception as error:  # whatever a package of others does
            raise MediaError(f"{name}: this display cannot be used ({error})") from error
        return np.clip(np.nan_to_num(seen), 0, 1)
    try:
        if name in displays():
            view = ocio.DisplayViewTransform()
            view.setSrc(name)
            view.setDisplay(_VIEW[0])
            view.setView(_VIEW[1])
            processor = _config().getProcessor(view)
        elif os.path.isfile(name):
            ocio.ClearAllCaches()  # it remembers files by their names alone
            cube = ocio.FileTransform(name)
            cube.setInterpolation(ocio.INTERP_BEST)
            processor = ocio.Config.CreateRaw().getProcessor(cube)
        elif os.sep in name:
            raise MediaError(f"{name}: there is no such file")
        else:
            raise MediaError(f"{name}: no display of that name is known")
        processor.getDefaultCPUProcessor().applyRGB(colours)
    except ocio.Exception as error:
        why = " ".join(str(error).split())[:160]
        raise MediaError(f"{name}: cannot be read as a cube ({why})") from error
    return np.clip(np.nan_to_num(colours), 0, 1)


def shown_light(light: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return light, 1 at white, as the values of an sRGB screen; highlights are bent, not cut."""
    light = np.asarray(light, np.float32)
    over = np.maximum(light - _KNEE, 0) / (1 - _KNEE)
    bent = np.where(light > _KNEE, _KNEE + (1 - _KNEE) * over / (1 + over), light)
    return screen_values(bent)


@lru_cache(maxsize=8)
def _display(name: str, _stamp: int) -> Display:
    return Display(name)


def display_of(name: str) -> Display | None:
    """Return the display of a name, None for none; a cube that changed is read again.

    Raises MediaError.
    """
    if not name:
        return None
    stamp = 0
    if name not in displays():
        try:
            stamp = os.stat(name).st_mtime_ns
        except OSError:
            stamp = 0
    return _display(name, stamp)
