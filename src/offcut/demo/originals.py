"""A few camera files of *Line 7 at First Light*, made on first use out of the demo film: without
its grade, with handles, some of them flopped in the film; one was never used.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
import platformdirs
from numpy.typing import NDArray

from offcut.demo.second_version import RATE, read_frames, stars

HANDLE = 20
_Picture = NDArray[np.uint8]


@dataclass(frozen=True)
class CameraFile:
    """A camera file: its name, the frames [start, end) of the film it holds, and its timecode.

    None of the film for one that was never used.
    """

    name: str
    start: int
    end: int
    timecode: str
    flopped: bool = False


FILES = (
    CameraFile("P62A001", 110, 168, "05:10:00:00"),
    CameraFile("P62A002", 218, 284, "05:31:12:00"),
    CameraFile("P62A003", 338, 398, "05:40:02:10"),
    CameraFile("P62A004", 446, 506, "06:02:00:00", flopped=True),
    CameraFile("P62A005", 626, 700, "06:20:00:00"),
    CameraFile("P62A006", 1210, 1286, "07:01:30:00"),
    CameraFile("P62A007", 1682, 1728, "07:15:00:00", flopped=True),
    CameraFile("P62A008", 0, 0, "07:20:00:00"),
)


def originals_folder() -> Path:
    """Return where the camera files lie."""
    return Path(platformdirs.user_cache_path("offcut")) / "demo-originals"


def made_originals() -> Path:
    """Make the camera files that are not there yet, and return their folder. Raises OSError."""
    folder = originals_folder()
    folder.mkdir(parents=True, exist_ok=True)
    for file in FILES:
        path = folder / f"{file.name}.mov"
        if not path.is_file():
            aside = path.with_suffix(".part.mov")
            write_original(aside, file)
            aside.rename(path)
    return folder


def write_original(path: Path, file: CameraFile, size: tuple[int, int] = (960, 540)) -> None:
    """Draw one camera file, its pictures of a size."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=RATE, options={"crf": "20", "preset": "veryfast"})
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.metadata["timecode"] = file.timecode
        for picture in _pictures(file, size):
            out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, "rgb24")))
        out.mux(stream.encode(None))


def _pictures(file: CameraFile, size: tuple[int, int]) -> Iterator[_Picture]:
    """Yield the pictures: before and after what the film shows the camera ran on."""
    if file.start == file.end:
        yield from (_flat(stars(size, n)) for n in range(60))
        return
    held = list(read_frames(file.start, file.end, size))
    before, after = held[HANDLE:0:-1], held[-2 : -HANDLE - 2 : -1]
    for picture in (*before, *held, *after):
        flat = _flat(picture)
        yield np.ascontiguousarray(flat[:, ::-1]) if file.flopped else flat


def _flat(picture: _Picture) -> _Picture:
    """Return a picture as the camera gave it: flat and a little green."""
    flat = 30 + picture.astype(np.float32) * np.array([0.74, 0.8, 0.76])
    return flat.astype(np.uint8)
