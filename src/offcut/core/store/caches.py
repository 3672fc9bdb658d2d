"""The caches together: how large they are, how large they may be, and emptying them."""

from __future__ import annotations

import shutil
from pathlib import Path

from offcut.core.files import bytes_below
from offcut.core.measure.kept_signals import signals_folder
from offcut.core.media.kept_index import index_folder
from offcut.core.media.proxy import empty_proxies, usual_folder
from offcut.core.store.thumbnails import empty_thumbnails, thumbnails_file


def cache_bytes(proxies: Path | None = None) -> tuple[int, int, int]:
    """Return the bytes that what was measured of films, small pictures and proxies take on disk.

    ``proxies`` is the folder they lie in, the usual one for None.
    """
    measured = bytes_below(signals_folder()) + bytes_below(index_folder())
    return measured, bytes_below(thumbnails_file()), bytes_below(proxies or usual_folder())


def empty_caches(proxies: Path | None = None) -> None:
    """Delete what is cached; it is made again when it is wanted.

    In a folder of proxies nothing else is touched.
    """
    for folder in (signals_folder(), index_folder()):
        shutil.rmtree(folder, ignore_errors=True)
    empty_proxies(proxies or usual_folder())
    empty_thumbnails()
