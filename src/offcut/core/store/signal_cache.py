"""Signals kept on disk: measuring goes on from where it stopped, and is never done twice.

They lie in the cache folder under the film's fingerprint, the framing and the method's version,
in pieces of a few thousand frames. Anything in there can be deleted at any time; a piece that is
damaged (each has checksums of its own, from the zip format) is measured again.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import tempfile
import threading
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import platformdirs
from numpy.typing import NDArray

from offcut.core.detect.find import Finding, finding_of, signals_of
from offcut.core.detect.judge import Settled
from offcut.core.detect.signals import ARRAYS, METHOD, Signals, signals_joined
from offcut.core.detect.small import Crop
from offcut.core.media.probe import OpenedFilm
from offcut.core.model.project import Media

PIECE = 2048
LIMIT = 4 << 30


def signals_folder() -> Path:
    """Return the folder that holds all kept signals."""
    return Path(platformdirs.user_cache_path("offcut")) / "signals"


def _folder_of(media: Media, crop: Crop | None) -> Path:
    seen = crop or Crop()
    framing = "-".join(f"{round(v * 1e6)}" for v in (seen.left, seen.top, seen.right, seen.bottom))
    return signals_folder() / f"{media.fingerprint}-{media.frames}-{framing}-{METHOD}"


def kept_signals(folder: Path, start: int, end: int) -> Iterator[Signals]:
    """Yield what is kept of frames [start, end) from ``start`` on without a gap."""
    pieces = []
    for file in folder.glob("*.npz") if folder.is_dir() else ():
        head, _, tail = file.stem.partition("-")
        if head.isdigit() and tail.isdigit():
            pieces.append((int(head), int(tail), file))
    at = start
    for first, last, file in sorted(pieces):
        if first > at or at >= end:
            break
        if last <= at:
            continue
        try:
            with np.load(file, allow_pickle=False) as data:
                arrays = [data[name] for name in ARRAYS]
        except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile):
            file.unlink(missing_ok=True)
            break
        if any(len(a) != last - first for a in arrays):
            file.unlink(missing_ok=True)
            break
        upto = min(last, end)
        yield Signals(at, *(a[at - first : upto - first] for a in arrays))
        at = upto


def kept_trace(media: Media, start: int, end: int, crop: Crop | None = None) -> NDArray[np.float32]:
    """Return the trace of frames [start, end) as far as it is kept, also where the film is gone."""
    parts = [s.trace for s in kept_signals(_folder_of(media, crop), start, end)]
    return np.concatenate(parts) if parts else np.zeros(0, np.float32)


def _keep(folder: Path, parts: list[Signals]) -> None:
    """Write a piece; a full disk or a folder that cannot be written only means no cache."""
    piece = signals_joined(parts)
    with contextlib.suppress(OSError):
        folder.mkdir(parents=True, exist_ok=True)
        handle, aside = tempfile.mkstemp(dir=folder, suffix=".part")
        with os.fdopen(handle, "wb") as out:
            np.savez(out, **{name: getattr(piece, name) for name in ARRAYS})
        os.replace(aside, folder / f"{piece.start}-{piece.end}.npz")


def signals_with_cache(
    film: OpenedFilm,
    start: int,
    end: int,
    *,
    crop: Crop | None = None,
    threads: int = 2,
    stop: threading.Event | None = None,
    limit: int = LIMIT,
) -> Iterator[Signals]:
    """Yield the signals of frames [start, end), kept ones first, and keep what is measured."""
    folder = _folder_of(film.media, crop)
    at = start
    for part in kept_signals(folder, start, end):
        yield part
        at = part.end
    with contextlib.suppress(OSError):
        os.utime(folder)  # used now: the ones used longest ago go first
    if at >= end:
        return
    make_room(limit)
    waiting: list[Signals] = []
    try:
        for part in signals_of(film, at, end, crop=crop, threads=threads, stop=stop):
            waiting.append(part)
            if sum(map(len, waiting)) >= PIECE:
                _keep(folder, waiting)
                waiting = []
            yield part
    finally:
        if waiting:
            _keep(folder, waiting)


def make_room(limit: int) -> None:
    """Delete the films' signals used longest ago until all take no more than ``limit`` bytes."""
    with contextlib.suppress(OSError):
        films = [
            (f.stat().st_mtime, sum(p.stat().st_size for p in f.iterdir()), f)
            for f in signals_folder().iterdir()
            if f.is_dir()
        ]
        whole = sum(size for _, size, _ in films)
        for _, size, folder in sorted(films):
            if whole <= limit:
                return
            shutil.rmtree(folder, ignore_errors=True)
            whole -= size


def find_seams(
    film: OpenedFilm,
    start: int = 0,
    end: int | None = None,
    *,
    crop: Crop | None = None,
    threads: int = 2,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
    found: Callable[[Finding], None] | None = None,
    limit: int = LIMIT,
) -> Finding:
    """Measure what is not measured yet of frames [start, end), and judge it. Raises MediaError.

    ``progress`` hears (frames done, frames in all) after every run of pictures; ``found`` gets
    the finding so far a few times on the way. After ``stop`` what was measured is
    judged. ``limit`` is the most bytes of signals kept.
    """
    last = film.media.frames if end is None else end
    parts: list[Signals] = []
    settled: Settled = {}
    told = 0
    for part in signals_with_cache(
        film, start, last, crop=crop, threads=threads, stop=stop, limit=limit
    ):
        parts.append(part)
        if progress is not None:
            progress(part.end - start, last - start)
        if found is not None and part.end - start >= told + 500:
            told = (part.end - start) * 5 // 4
            found(finding_of(parts, start, last, settled))
    if not parts:
        empty = next(signals_of(film, start, min(last, start + 1), crop=crop, threads=1))
        parts.append(empty)
    return finding_of(parts, start, last, settled)
