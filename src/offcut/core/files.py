"""Files: the one way to write one, whole and for good, and names that any system takes."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import shutil
import tempfile
import time
import unicodedata
from collections.abc import Iterator
from pathlib import Path

PART = ".part"
"""What a file's name ends in while it is being written."""


def write_whole(file: Path, data: bytes) -> None:
    """Write a file aside, flush it to disk and rename it over the old. Raises OSError."""
    with whole_file(file) as aside:
        aside.write_bytes(data)


@contextlib.contextmanager
def whole_file(file: Path) -> Iterator[Path]:
    """Give a path to write to that becomes ``file`` at the end, flushed to disk.

    Where ``file`` is a link, what it leads to is written. Where the writing raises, nothing of it
    stays and the old file is as it was. Raises OSError.
    """
    file = behind_links(file)
    sweep(file.parent, f".{file.name[:60]}.")
    handle, name = tempfile.mkstemp(prefix=f".{file.name[:60]}.", suffix=PART, dir=file.parent)
    os.close(handle)
    aside = Path(name)
    try:
        yield aside
        with aside.open("rb+") as written:
            os.fsync(written.fileno())
        mode = file.stat().st_mode & 0o777 if file.exists() else 0o666 & ~_UMASK
        aside.chmod(mode)
        aside.replace(file)
        _flush_folder(file.parent)
    finally:
        with contextlib.suppress(OSError):
            aside.unlink(missing_ok=True)


_SEAL_BYTES = 16


def sealed(data: bytes) -> bytes:
    """Return bytes that carry their own checksum at the end."""
    return data + hashlib.blake2b(data, digest_size=_SEAL_BYTES).digest()


def unsealed(raw: bytes) -> bytes:
    """Return the bytes that were sealed. Raises ValueError where one of them is another now."""
    data = raw[:-_SEAL_BYTES]
    if sealed(data) != raw:
        raise ValueError("these bytes are harmed")
    return data


def behind_links(file: Path) -> Path:
    """Return the file that a link leads to, itself where it is none or leads in a circle."""
    try:
        return Path(os.path.realpath(file)) if file.is_symlink() else file
    except OSError:
        return file


_MOST_BYTES = 255


def hidden_beside(file: Path, end: str) -> Path:
    """Return a hidden file beside another that is named by it, whatever the length of its name."""
    name = f".{file.name}{end}"
    raw = os.fsencode(name)
    if len(raw) <= _MOST_BYTES:
        return file.with_name(name)
    told = hashlib.blake2b(os.fsencode(file.name), digest_size=8).hexdigest()
    return file.with_name(f".{os.fsdecode(raw[1:121])}{told}{end}")


def sweep(folder: Path, head: str) -> None:
    """Take away what a process killed while writing left half written, an hour ago or more."""
    with contextlib.suppress(OSError), os.scandir(folder) as there:
        for entry in there:
            if entry.name.startswith(head) and entry.name.endswith(PART):
                with contextlib.suppress(OSError):
                    if entry.stat().st_mtime < time.time() - 3600:
                        os.unlink(entry.path)


def _umask() -> int:
    """Return the bits new files do not get; asking the system otherwise would set them as well."""
    try:
        told = Path("/proc/self/status").read_text()
        return int(told.partition("Umask:")[2].split()[0], 8)
    except (OSError, ValueError, IndexError):
        return 0o022


_UMASK = _umask()


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def trim_folder(folder: Path, limit: int) -> None:
    """Delete what was used longest ago in a folder until all takes no more than ``limit`` bytes.

    A folder in it counts as one thing, used when its own time says.
    """
    with contextlib.suppress(OSError):
        held = [(entry.stat().st_mtime, bytes_below(entry), entry) for entry in folder.iterdir()]
        whole = sum(size for _, size, _ in held)
        for _, size, entry in sorted(held):
            if whole <= limit:
                return
            if entry.is_dir():
                shutil.rmtree(entry, ignore_errors=True)
            else:
                entry.unlink(missing_ok=True)
            whole -= size


def bytes_below(place: Path) -> int:
    """Return the bytes of a file, or of all files below a folder; 0 where there is none."""
    if place.is_dir():
        return sum(bytes_below(entry) for entry in place.iterdir())
    with contextlib.suppress(OSError):
        return place.stat().st_size
    return 0


LONGEST = 180
"""Bytes a name may have before its suffix; file systems allow 255 with it."""
_UNSAFE = re.compile(
    '[\x00-\x1f\x7f-\x9f/\\\\:*?"<>|\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]'
)
_RESERVED = re.compile(r"(CON|PRN|AUX|NUL|COM\d|LPT\d)(\.|$)", re.IGNORECASE)


def safe_name(raw: str) -> tuple[str, str]:
    """Return a name that any file system takes, and why it had to be mended (or nothing)."""
    why = ""
    name = unicodedata.normalize("NFC", raw)
    clean = _UNSAFE.sub("-", name)
    if clean != name:
        why = "characters that a file’s name cannot have became “-”"
    clean = " ".join(clean.split()).strip(" .")
    while ".." in clean:
        clean = clean.replace("..", ".")
    if _RESERVED.match(clean):
        clean, why = f"_{clean}", "names that some systems keep for themselves got a “_”"
    cut = clean.encode(errors="replace")[:LONGEST].decode(errors="ignore").rstrip(" .")
    if cut != clean:
        clean, why = cut, f"names longer than {LONGEST} bytes were cut short"
    if not clean:
        clean, why = "shot", "names that were empty became “shot”"
    return clean, why
