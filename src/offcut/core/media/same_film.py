"""Whether a file is still the film that was opened: by a hash of what is in it."""

from __future__ import annotations

import contextlib
import hashlib
from pathlib import Path

from offcut.core.errors import MediaError
from offcut.core.media.stills import fingerprint_of_run
from offcut.core.model.source import Media

_BLOCK = 1 << 20


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


_State = tuple[int, int, int, int]
_CHECKED: dict[tuple[str, str], _State] = {}
"""The state of files that were read and were the same film: not read again until it changes."""
_MOST = 256


def _state(file: Path) -> _State:
    told = file.stat()
    return told.st_dev, told.st_ino, told.st_size, told.st_mtime_ns


def check_same(media: Media) -> None:
    """Raise MediaError where another film lies in the place of one that was opened.

    Where nothing can be read nothing is said: whoever opens it then says what is wrong.
    """
    if not media.fingerprint:
        return
    file, run = Path(media.path), media.run
    key = media.path, media.fingerprint
    try:
        state = _state(file)
        if run is None and _CHECKED.get(key) == state:
            return
        now = fingerprint(file) if run is None else fingerprint_of_run(file.parent, run)
    except OSError:
        return
    if now == media.fingerprint:
        _CHECKED[key] = state
        while len(_CHECKED) > _MOST:
            with contextlib.suppress(KeyError, StopIteration, RuntimeError):  # other threads
                _CHECKED.pop(next(iter(_CHECKED)))
    else:
        raise MediaError(f"{media.path}: was changed since it was opened; open it again")
