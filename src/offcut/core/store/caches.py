"""The caches together: how large they are, how large they may be, and emptying them."""

from __future__ import annotations

import shutil

from offcut.core.files import bytes_below
from offcut.core.measure.kept_signals import signals_folder
from offcut.core.media.kept_index import index_folder
from offcut.core.store.thumbnails import empty_thumbnails, thumbnails_file


def cache_bytes() -> tuple[int, int]:
    """Return the bytes that what was measured of films, and thumbnails, take on disk."""
    return bytes_below(signals_folder()) + bytes_below(index_folder()), bytes_below(
        thumbnails_file()
    )


def empty_caches() -> None:
    """Delete what is cached; it is made again when it is wanted."""
    for folder in (signals_folder(), index_folder()):
        shutil.rmtree(folder, ignore_errors=True)
    empty_thumbnails()
