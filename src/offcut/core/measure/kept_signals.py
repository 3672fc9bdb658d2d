"""Signals kept on disk: measuring goes on from where it stopped, and is never done twice.

They lie in the cache folder under the film's fingerprint and the framing, each measurer's in a
folder of its own named by its version, in pieces of a few thousand frames. Anything in there can
be deleted at any time; a piece that is damaged (each has checksums of its own, from the zip
format) is measured again, and no other.
"""

from __future__ import annotations

import contextlib
import io
import os
import shutil
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Protocol

import numpy as np
import platformdirs

from offcut.core.files import sealed, trim_folder, unsealed, write_whole
from offcut.core.measure.measurer import Arrays, Kept
from offcut.core.measure.small_pictures import Crop
from offcut.core.model.source import Media

KEPT_PIECE = 2048
LIMIT = 4 << 30
Range = tuple[int, int]


class Store(Protocol):
    """Where signals of one film, seen through one framing, are kept and found again."""

    def ranges(self, measurer: Kept, start: int, end: int, /) -> list[Range]:
        """Return the stretches of frames [start, end) that are there, in order."""

    def pieces(self, measurer: Kept, start: int, end: int, /) -> Iterator[tuple[int, int, Arrays]]:
        """Yield what is there of frames [start, end) as (first, last, signals), in order."""

    def keep(self, measurer: Kept, start: int, parts: Sequence[Arrays], /) -> None:
        """Keep signals of adjoining runs, the first of which begins at a frame."""

    def use(self, limit: int = ..., /) -> None:
        """Say that the film is used now; what is used least may go where there is too much."""


def signals_folder() -> Path:
    """Return the folder that holds all kept signals."""
    return Path(platformdirs.user_cache_path("offcut")) / "signals"


class KeptSignals:
    """What is kept of one film seen through one framing."""

    def __init__(self, media: Media, crop: Crop | None = None) -> None:
        seen = crop or Crop()
        sides = (seen.left, seen.top, seen.right, seen.bottom)
        framing = "-".join(f"{round(v * 1e6)}" for v in sides)
        framing += f"-{seen.first}" if seen.first else ""
        run = media.run
        holes = f"-{run.holes.value}" if run is not None and run.missing else ""
        self._folder = signals_folder() / f"{media.fingerprint}-{media.frames}-{framing}{holes}"

    @property
    def folder(self) -> Path:
        """Where all of it lies."""
        return self._folder

    def _of(self, measurer: Kept) -> Path:
        return self._folder / f"{measurer.name}-{measurer.version}"

    def _pieces(self, measurer: Kept) -> list[tuple[int, int, Path]]:
        """Return the pieces there are, by their names, in order."""
        found = []
        folder = self._of(measurer)
        for file in folder.glob("*.npz") if folder.is_dir() else ():
            head, _, tail = file.stem.partition("-")
            if head.isdigit() and tail.isdigit() and int(tail) > int(head):
                found.append((int(head), int(tail), file))
        return sorted(found, key=lambda piece: piece[:2])

    def ranges(self, measurer: Kept, start: int, end: int) -> list[Range]:
        """Return the stretches of frames [start, end) that are kept, by the names of the pieces."""
        held = [(max(first, start), min(last, end)) for first, last, _ in self._pieces(measurer)]
        return [(low, high) for low, high in held if low < high]

    def pieces(self, measurer: Kept, start: int, end: int) -> Iterator[tuple[int, int, Arrays]]:
        """Yield what is kept of frames [start, end) as (first, last, signals), in order.

        Pieces never overlap; between them are gaps where nothing is kept. A damaged piece is
        deleted and is a gap.
        """
        at = start
        for first, last, file in self._pieces(measurer):
            low, high = max(first, at), min(last, end)
            if high <= low:
                continue
            arrays = _read(file, measurer.arrays, last - first)
            if arrays is None:
                _take_away(file)
                continue
            yield low, high, {n: a[low - first : high - first] for n, a in arrays.items()}
            at = high

    def keep(self, measurer: Kept, start: int, parts: Sequence[Arrays]) -> None:
        """Write a piece that begins at a frame; a full disk only means no cache."""
        joined = {name: np.concatenate([p[name] for p in parts]) for name in measurer.arrays}
        end = start + len(joined[measurer.arrays[0]])
        out = io.BytesIO()
        np.savez(out, **joined)  # type: ignore[arg-type]
        with contextlib.suppress(OSError):
            folder = self._of(measurer)
            folder.mkdir(parents=True, exist_ok=True)
            write_whole(folder / f"{start}-{end}.npz", sealed(out.getvalue()))

    def use(self, limit: int = LIMIT) -> None:
        """Say that the film is used now, and let the ones used longest ago go past a limit."""
        with contextlib.suppress(OSError):
            os.utime(self._folder)
        trim_folder(signals_folder(), limit)


def _take_away(file: Path) -> None:
    """Take away what should be a piece, and is none."""
    with contextlib.suppress(OSError):
        if file.is_dir() and not file.is_symlink():
            shutil.rmtree(file, ignore_errors=True)
        else:
            file.unlink(missing_ok=True)


def _read(file: Path, names: Sequence[str], frames: int) -> Arrays | None:
    """Return the signals of a piece, None where it is damaged."""
    try:
        with np.load(io.BytesIO(unsealed(file.read_bytes())), allow_pickle=False) as data:
            arrays = {name: data[name] for name in names}
    except Exception:  # whatever harmed it, it is measured again
        return None
    return arrays if all(len(a) == frames for a in arrays.values()) else None


def gaps_between(ranges: Sequence[Range], start: int, end: int) -> list[Range]:
    """Return what of [start, end) ranges in order leave out."""
    gaps: list[Range] = []
    at = start
    for first, last in ranges:
        if first > at:
            gaps.append((at, min(first, end)))
        at = max(at, last)
    if at < end:
        gaps.append((at, end))
    return [(low, high) for low, high in gaps if low < high]
