"""Reading timelines in a process apart, so that no file can harm this one."""

from __future__ import annotations

import atexit
import contextlib
import io
import os
import pickle
import select
import struct
import subprocess
import threading
import time
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

from offcut.core.errors import ListError
from offcut.core.lists.incoming import MAX_BYTES, ListMarker, ReadEvent, ReadList, Trouble
from offcut.core.machine.loading import apart
from offcut.core.machine.stopping import is_stopped
from offcut.core.model.seam import Kind
from offcut.core.model.source import MarkerColour
from offcut.core.timecode import Rate

_MEGABYTE = 1 << 20
_ASKED_AGAIN = 0.2
"""So many seconds after which it is asked whether the work is stopped."""
WALL_SECONDS = 300.0
"""No answer for so long, whatever the processor is busy with, is none."""
_ANSWERS = (ReadList, ReadEvent, ListMarker, Trouble, Kind, MarkerColour, Fraction)


class ListAsked(NamedTuple):
    """What is asked: a file, the film's rate and drop, how it is read, and what it may take.

    ``memory`` in bytes, ``seconds`` of the processor's time.
    """

    path: str
    rate: Fraction
    drop: bool
    form: str
    memory: int
    seconds: float


def read_apart(path: str | Path, rate: Rate, drop: bool, form: str) -> ReadList:
    """Read a timeline of a form ("otio", "otioz", "otiod", "xml", "aaf" or "" for any adapter).

    Raises ListError naming the file: also where the library breaks off, takes more memory or more
    time than a file of its size can need.
    """
    file = Path(path)
    try:
        if file.is_dir() and form != "otiod":
            raise ListError(f"{file}: this is a folder, not a list")
        size = (file / "content.otio" if form == "otiod" else file).stat().st_size
    except FileNotFoundError as error:
        raise ListError(f"{file}: there is no such file") from error
    except (OSError, ValueError) as error:
        raise ListError(f"{file}: cannot be read") from error
    if not size:
        raise ListError(f"{file}: the file is empty")
    if size > MAX_BYTES and form != "aaf":
        raise ListError(f"{file}: too large for a cut list")
    # a short file is read in no time, a large one takes what it takes
    heavy = form not in ("otio", "otioz", "otiod")
    megabytes = size / _MEGABYTE
    memory = 230 * _MEGABYTE + int(size * (12 if heavy else 0))
    seconds = 1.0 + megabytes * (20 if heavy else 0.3)
    asked = ListAsked(
        str(file), rate, drop, form, min(memory, 1500 * _MEGABYTE), min(seconds, WALL_SECONDS)
    )
    return _PROCESS.ask(asked)


class _Process:
    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._child: subprocess.Popen[bytes] | None = None
        atexit.register(self.end)

    def ask(self, asked: ListAsked) -> ReadList:
        """Return what the process reads. Raises ListError."""
        while not self._lock.acquire(timeout=_ASKED_AGAIN):
            if is_stopped():
                raise ListError(f"{asked.path}: stopped")
        try:
            answer = self._answer(asked)
        finally:
            self._lock.release()
        if isinstance(answer, ReadList):
            return answer
        if isinstance(answer, str):
            raise ListError(answer)
        words = "it takes more memory or time than a list can need, or is damaged"
        raise ListError(f"{asked.path}: cannot be read: {words}")

    def _answer(self, asked: ListAsked) -> Any:
        for _ in range(2):
            child, fresh = self._running()
            try:
                question = pickle.dumps(asked)
                assert child.stdin is not None
                child.stdin.write(struct.pack(">I", len(question)) + question)
                child.stdin.flush()
            except OSError:  # it had ended of itself
                self.end()
                continue
            try:
                answer = self._heard(child)
            except (EOFError, OSError, pickle.UnpicklingError):
                code = child.poll()
                self.end()
                if not fresh and code == 0:
                    continue
                return None
            if answer is None:
                self.end()
            return answer
        return None

    def _running(self) -> tuple[subprocess.Popen[bytes], bool]:
        if self._child is not None and self._child.poll() is None:
            return self._child, False
        self.end()
        self._child = subprocess.Popen(
            apart("offcut.core.lists.timelines.reading_process"), stdin=subprocess.PIPE,
            stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        return self._child, True

    def _heard(self, child: subprocess.Popen[bytes]) -> Any:
        assert child.stdout is not None
        until = time.monotonic() + WALL_SECONDS
        size = struct.unpack(">Q", _exactly(child.stdout.fileno(), 8, until))[0]
        data = _exactly(child.stdout.fileno(), size, until)
        return _Answers(io.BytesIO(data)).load()

    def end(self) -> None:
        """End the process; the next question starts another."""
        child, self._child = self._child, None
        if child is None:
            return
        child.kill()
        for pipe in (child.stdin, child.stdout):
            if pipe is not None:
                with contextlib.suppress(OSError):
                    pipe.close()
        child.wait()


def _exactly(pipe: int, size: int, until: float) -> bytes:
    """Return so many bytes of a pipe. Raises EOFError."""
    parts: list[bytes] = []
    while size:
        while not select.select([pipe], [], [], _ASKED_AGAIN)[0]:
            if is_stopped() or time.monotonic() > until:
                raise EOFError
        part = os.read(pipe, min(size, _MEGABYTE))
        if not part:
            raise EOFError
        parts.append(part)
        size -= len(part)
    return b"".join(parts)


class _Answers(pickle.Unpickler):
    """Takes nothing but what a list is made of."""

    def find_class(self, module: str, name: str) -> Any:
        for known in _ANSWERS:
            if (module, name) == (known.__module__, known.__qualname__):
                return known
        raise pickle.UnpicklingError(f"{module}.{name}")


_PROCESS = _Process()
