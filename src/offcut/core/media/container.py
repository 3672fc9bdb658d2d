"""Containers opened for reading, whatever bytes their tags hold, by every PyAV that is allowed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import av.container

_TAGS_AS_TEXT: dict[str, Any] = (
    {"metadata_errors": "replace"} if int(av.__version__.split(".")[0]) < 19 else {}
)
"""Before PyAV 19 a tag that is no UTF-8 ended the opening, unless it was asked to replace; since
then such bytes come as lone surrogates, and nothing can be asked."""


def open_container(path: str | Path) -> av.container.InputContainer:
    """Open a container for reading. Raises what PyAV raises: FFmpegError, OSError, ValueError."""
    container: av.container.InputContainer = av.open(str(path), **_TAGS_AS_TEXT)
    return container


def tag_of(holder: Any, name: str) -> str:
    """Return what a container or a stream says under a name, in any case; empty where nothing.

    What is no text comes as U+FFFD, so that it can be shown and saved.
    """
    for key, value in holder.metadata.items():
        if clean_text(key).lower() == name:
            return clean_text(value)
    return ""


def clean_text(text: str) -> str:
    """Return text with U+FFFD in place of bytes that were no UTF-8."""
    return str(text).encode("utf-8", "surrogateescape").decode("utf-8", "replace")


_BOXED = {"mov", "mp4", "matroska", "webm"}


def can_seek_exactly(container: Any) -> bool:
    """Tell whether a seek leads to the very keyframe, and each packet is a picture with its time.

    So it is of files that have a table of their packets.
    """
    return not _BOXED.isdisjoint(container.format.name.split(","))


def is_cover(stream: Any) -> bool:
    """Tell whether a video stream is a cover picture: AV_DISPOSITION_ATTACHED_PIC of FFmpeg.

    The flag is asked for by its number: how it is spelt differs from one PyAV to the next.
    """
    return bool(int(getattr(stream, "disposition", 0) or 0) & _COVER)


_COVER = 0x400
