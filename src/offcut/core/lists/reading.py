"""Reading any list: told by its name, and by what it says where the name does not tell."""

from __future__ import annotations

from pathlib import Path

from offcut.core.errors import ListError
from offcut.core.lists.listed import ReadList, text_of
from offcut.core.lists.read_edl import read_edl
from offcut.core.lists.read_otio import read_otio
from offcut.core.lists.read_rows import read_csv, read_plain
from offcut.core.timecode import Rate


def read_list(path: str | Path, rate: Rate, drop: bool = False) -> ReadList:
    """Read a cut list: EDL, OTIO, CSV, plain text, or what an installed OTIO adapter knows.

    ``rate`` and ``drop`` are the film's; a list does not always say its own. Raises ListError
    with a sentence naming the file (and line).
    """
    file = Path(path)
    suffix = file.suffix.lower()
    if suffix in (".otio", ".otioz", ".otiod"):
        return read_otio(file, rate, drop)
    if suffix == ".csv":
        return read_csv(file, rate)
    if suffix in (".edl", ".cmx"):
        return read_edl(file, rate)
    if suffix.removeprefix(".") in _adapters():
        return read_otio(file, rate, drop)
    text = text_of(file)
    if '"OTIO_SCHEMA"' in text[:2000]:
        raise ListError(f"{file}: an OTIO timeline must be called NAME.otio to be read")
    head = [line.upper() for line in text.splitlines()[:50]]
    if any(line.startswith(("TITLE:", "FCM:")) for line in head):
        return read_edl(file, rate)
    if any("RECORD IN" in line for line in head[:1]):
        return read_csv(file, rate)
    try:
        return read_plain(file, rate)
    except ListError:
        return read_edl(file, rate)


def _adapters() -> set[str]:
    """Return the suffixes that installed OTIO adapters can read."""
    import opentimelineio as otio

    return set(otio.adapters.suffixes_with_defined_adapters(read=True)) - {"txt"}
