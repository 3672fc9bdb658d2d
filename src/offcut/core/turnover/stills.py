"""Stills: one clean frame of each shot as a picture file: by its place, or by what it shows."""

from __future__ import annotations

from pathlib import Path

import av
import cv2
import numpy as np
from av.video.reformatter import Colorspace
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.facts.best_stills import face_frame, telling_frames
from offcut.core.files import write_whole
from offcut.core.media.display import Display
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import shown_size
from offcut.core.model.source import Media, Source
from offcut.core.turnover.readers_in_use import TrailingReader

LOOKS = 12
"""So many frames of a shot are looked at for the sharpest."""


def still_frame(which: str, span: tuple[int, int], reader: TrailingReader, source: Source) -> int:
    """Return the frame of a shot that a still shows; ``which`` is one of the plan's `STILLS`.

    The one that tells most, and the one that shows most of faces, go by what was measured of the
    film; where nobody looked, the sharpest stands in for them.
    The sharpest has the highest variance of the Laplacian of its luma (Pech-Pacheco et al.,
    "Diatom autofocusing in brightfield microscopy", ICPR 2000), of frames spread over the shot.
    """
    start, end = span
    media = source.media
    if which == "telling" and (told := telling_frames(source, start, end, 1)):
        return told[0]
    if which == "faces" and (face := face_frame(source, start, end)) is not None:
        return face
    if which == "first":
        return start
    if which == "last":
        return end - 1
    if which not in ("sharpest", "telling", "faces"):
        return (start + end) // 2
    best, sharpness = start, -1.0
    for frame in np.unique(np.linspace(start, end - 1, LOOKS).round().astype(int)).tolist():
        picture = rgb_of(reader.frame(frame), min(640, media.width), 360)
        grey = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)
        found = float(cv2.Laplacian(grey, cv2.CV_32F).var())
        if found > sharpness:
            best, sharpness = frame, found
    return best


def write_still(
    picture: av.VideoFrame, media: Media, path: Path, form: str, display: Display | None = None
) -> None:
    """Write a frame as PNG, TIFF or JPEG in square pixels; 16 bit where the film has more than 8.

    JPEG has 8 bits always. It is written as a display shows it. Raises MediaError naming the file.
    """
    deep = form != "jpeg" and any(c.bits > 8 for c in picture.format.components)
    width, height = shown_size(media)
    pixels: NDArray[np.uint16] | NDArray[np.uint8] = (
        _deep(picture, width, height) if deep else rgb_of(picture, width, height, display=display)
    )
    if deep and display is not None:
        pixels = display.seen(pixels, deep=True)
    settings = {
        "jpeg": (".jpg", (cv2.IMWRITE_JPEG_QUALITY, 95)),
        "tiff": (".tif", (cv2.IMWRITE_TIFF_COMPRESSION, 5)),  # LZW
    }.get(form, (".png", (cv2.IMWRITE_PNG_COMPRESSION, 4)))
    good, data = cv2.imencode(settings[0], np.ascontiguousarray(pixels[..., ::-1]), settings[1])
    if not good:
        raise MediaError(f"{path}: the picture cannot be written as {form}")
    try:
        write_whole(path, data.tobytes())
    except OSError as error:
        raise MediaError(f"{path}: cannot be written ({error.strerror})") from error


def _deep(picture: av.VideoFrame, width: int, height: int) -> NDArray[np.uint16]:
    tagged = int(picture.colorspace)
    if tagged in (0, 2):
        tagged = int(Colorspace.ITU709 if picture.height >= 720 else Colorspace.ITU601)
    wide = picture.reformat(
        width, height, format="rgb48le", src_colorspace=tagged, dst_colorspace=tagged
    )
    return np.asarray(wide.to_ndarray(), np.uint16).reshape(height, width, 3)
