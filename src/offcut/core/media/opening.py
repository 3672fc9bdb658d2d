"""Opening a film with PyAV so that every failure is one sentence naming the file."""

from __future__ import annotations

from pathlib import Path

import av
import av.container
import av.video.stream
from av.error import FFmpegError

from offcut.core.errors import MediaError
from offcut.core.media.container import is_cover, open_container

av.logging.set_level(None)


def open_film(
    path: str | Path, *, threads: int = 0, options: dict[str, str] | None = None
) -> tuple[av.container.InputContainer, av.video.stream.VideoStream]:
    """Open a film and return its container and its first real video stream.

    ``threads`` is how many the decoder may use, 0 for as many as there are; ``options`` are
    decoder options by FFmpeg's names. Cover pictures do not count as video. Raises MediaError.
    """
    file = Path(path)
    check_readable(file)
    try:
        container = open_container(file)
    except PermissionError as error:
        raise MediaError(f"{path}: no permission to read it") from error
    except (FFmpegError, OSError, ValueError) as error:
        check_readable(file)  # it may be gone since
        raise MediaError(
            f"{path}: not a film that can be read; damaged at its start, or not finished yet"
        ) from error
    stream = next((s for s in container.streams.video if not is_cover(s)), None)
    if stream is None:
        container.close()
        raise MediaError(f"{path}: {file.name} has no picture")
    if stream.codec_context is None:
        container.close()
        raise MediaError(f"{path}: its video codec is not supported")
    if stream.codec_context.width <= 0 or stream.codec_context.height <= 0:
        container.close()
        raise MediaError(f"{path}: its picture size cannot be read; the file may be damaged")
    context = stream.codec_context
    if options:
        context.options = options
    if threads == 1:
        context.thread_count = 1
    else:
        context.thread_type = "AUTO"
        context.thread_count = threads
    return container, stream


def check_readable(file: Path) -> None:
    """Raise MediaError, with a sentence, where there is no file that holds something."""
    try:
        if not file.exists():
            raise MediaError(f"{file}: there is no such file")
        if file.is_dir():
            raise MediaError(f"{file}: this is a folder, not a film")
        if file.stat().st_size == 0:
            raise MediaError(f"{file}: the file is empty")
    except FileNotFoundError as error:  # it went just now
        raise MediaError(f"{file}: there is no such file") from error
    except OSError as error:
        raise MediaError(f"{file}: cannot be read ({error.strerror})") from error
