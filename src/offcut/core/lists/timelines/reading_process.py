"""The process that reads timelines with OpenTimelineIO and its adapters, one after another.

A file that breaks such a library off, or makes it take all memory or time there is, ends this
process and nothing else. It answers on its standard output and ends when nobody asks for a while.
"""

from __future__ import annotations

import os
import pickle
import re
import resource
import select
import struct
import sys
import xml.etree.ElementTree as ElementTree
import zipfile
import zlib
from pathlib import Path
from typing import Any

from offcut.core.errors import ListError, OffcutError
from offcut.core.lists.incoming import MAX_BYTES, ReadList, harmless_line
from offcut.core.lists.timelines.reading import TimelineReading
from offcut.core.lists.timelines.reading_apart import ListAsked

IDLE = 60.0
"""Seconds after which it ends when nothing is asked."""


def read_timeline(asked: ListAsked) -> ReadList:
    """Read a timeline here and now. Raises ListError naming the file."""
    import opentimelineio as otio

    file = Path(asked.path)
    form = {"xml": "XML", "aaf": "AAF"}.get(asked.form, "OTIO")
    left: list[str] = []
    try:
        timeline: Any = _loaded(otio, file, asked, left)
    except (ListError, MemoryError):
        raise
    except RecursionError as error:
        raise ListError(f"{file}: nested too deep to be read") from error
    except OSError as error:
        raise ListError(f"{file}: cannot be read ({error.strerror or 'not its form'})") from error
    except Exception as error:  # a library may raise anything
        raise ListError(f"{file}: not {_A_FORM[form]}, or damaged{_near(error)}") from error
    if isinstance(timeline, otio.schema.SerializableCollection):
        timeline = next((t for t in timeline if isinstance(t, otio.schema.Timeline)), None)
    if isinstance(timeline, otio.schema.Track | otio.schema.Stack):
        whole = otio.schema.Timeline(timeline.name)
        whole.tracks.append(timeline)
        timeline = whole
    if not isinstance(timeline, otio.schema.Timeline):
        raise ListError(f"{file}: there is no timeline in it")
    try:
        reading = TimelineReading(file, asked.rate, otio, asked.form)
        for name in left:
            reading.troubles.add(0, name, "a clip without a place in time:")
        return reading.read(timeline, form, asked.drop)
    except (ListError, MemoryError):
        raise
    except RecursionError as error:
        raise ListError(f"{file}: nested too deep to be read") from error
    except Exception as error:  # what a timeline is made of may be anything
        raise ListError(f"{file}: its timeline makes no sense") from error


_A_FORM = {"XML": "an XML timeline", "AAF": "an AAF", "OTIO": "a timeline"}
_NEAR = re.compile(r"line ([0-9]{1,9})")


def _near(error: Exception) -> str:
    """Return where a library says that it could not go on, empty where it does not."""
    found = _NEAR.search(str(error))
    return f" near line {found[1]}" if found else ""


def _loaded(otio: Any, file: Path, asked: ListAsked, left: list[str]) -> Any:
    """Return what a library makes of a file; ``left`` takes the names of clips it cannot take."""
    if asked.form in ("otio", "otioz", "otiod"):
        text = _otio_bytes(file, asked.form).decode("utf-8", errors="replace")
        return otio.adapters.read_from_string(text, "otio_json")
    if asked.form == "xml":
        if file.stat().st_size > MAX_BYTES:
            raise ListError(f"{file}: too large for a cut list")
        return otio.adapters.read_from_string(_sound_xml(file.read_bytes(), left), "fcp_xml")
    if asked.form == "aaf":
        return otio.adapters.read_from_file(
            str(file), adapter_name="AAF", transcribe_log=False, bake_keyframed_properties=False
        )
    return otio.adapters.read_from_file(str(file))


_PLACED = ("start", "end", "in", "out")


def _sound_xml(data: bytes, left: list[str]) -> str:
    """Return an xmeml document without what the adapter stumbles over.

    It gives up the whole for one clip without a file or a place: such a clip gets an empty file, or
    goes. Raises ParseError.
    """
    root = ElementTree.fromstring(data)
    if root.tag != "xmeml":
        raise ValueError("no xmeml")
    for track in root.iter("track"):
        for number, item in enumerate(list(track)):
            if item.tag not in ("clipitem", "generatoritem", "transitionitem"):
                continue
            asked = _PLACED if item.tag != "transitionitem" else _PLACED[:2]
            numbers = [_frames(item.findtext(tag)) for tag in asked]
            if item.get("id") is None or len(item):  # not one that is told elsewhere
                if None in numbers:
                    track.remove(item)
                    left.append(harmless_line(item.findtext("name") or item.tag))
                elif item.tag == "clipitem" and not _has_media(item):
                    ElementTree.SubElement(item, "file", id=f"none-{number}")
    return ElementTree.tostring(root, encoding="unicode")


def _frames(text: str | None) -> int | None:
    try:
        return int(float(text or ""))
    except (ValueError, OverflowError):
        return None


def _has_media(item: ElementTree.Element) -> bool:
    return item.find("file") is not None or item.find("sequence") is not None


def _otio_bytes(file: Path, form: str) -> bytes:
    """Return the timeline's document, packed or not; never more than MAX_BYTES of it."""
    if form == "otioz":
        try:
            with zipfile.ZipFile(file) as packed, packed.open("content.otio") as inside:
                data = inside.read(MAX_BYTES + 1)
        except (zipfile.BadZipFile, KeyError, RuntimeError, EOFError, zlib.error) as error:
            raise ListError(f"{file}: not a packed timeline, or damaged") from error
    else:
        with (file / "content.otio" if form == "otiod" else file).open("rb") as opened:
            data = opened.read(MAX_BYTES + 1)
    if len(data) > MAX_BYTES:
        raise ListError(f"{file}: too large for a cut list")
    return data


def main() -> None:
    """Answer what is asked on standard input until it closes."""
    answers = os.fdopen(os.dup(1), "wb")
    silent = os.open(os.devnull, os.O_WRONLY)
    os.dup2(silent, 1)  # adapters print what they think
    os.dup2(silent, 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    asking = sys.stdin.buffer
    while select.select([asking], [], [], IDLE)[0]:
        head = asking.read(4)
        if len(head) < 4:
            return
        asked: ListAsked = pickle.loads(asking.read(struct.unpack(">I", head)[0]))
        _limit(asked)
        answer: Any
        try:
            answer = read_timeline(asked)
        except OffcutError as error:
            answer = str(error)
        except MemoryError:
            answer = None
        _unlimit()
        data = pickle.dumps(answer)
        answers.write(struct.pack(">Q", len(data)) + data)
        answers.flush()


def _limit(asked: ListAsked) -> None:
    resource.setrlimit(resource.RLIMIT_DATA, (asked.memory, resource.RLIM_INFINITY))
    used = resource.getrusage(resource.RUSAGE_SELF)
    seconds = int(used.ru_utime + used.ru_stime + asked.seconds) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, resource.RLIM_INFINITY))


def _unlimit() -> None:
    for what in (resource.RLIMIT_DATA, resource.RLIMIT_CPU):
        resource.setrlimit(what, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))
