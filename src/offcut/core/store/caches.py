"""The caches together: how large they are, how large they may be, and emptying them."""

from __future__ import annotations

import contextlib
import shutil
from pathlib import Path

from offcut.core.store.signal_cache import signals_folder
from offcut.core.store.thumbnails import empty_thumbnails, thumbnails_file


def cache_bytes() -> tuple[int, int]:
    """Return the bytes that signals and thumbnails take on disk."""
    return _below(signals_folder()), _size(thumbnails_file())


def empty_caches() -> None:
    """Delete what is cached; it is made again when it is wanted."""
    shutil.rmtree(signals_folder(), ignore_errors=True)
    empty_thumbnails()


def _below(folder: Path) -> int:
    return sum(_size(f) for f in folder.rglob("*") if f.is_file()) if folder.is_dir() else 0


def _size(file: Path) -> int:
    with contextlib.suppress(OSError):
        return file.stat().st_size
    return 0
