"""The camera's path: what was measured of the picture's motion, as what the camera did."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from offcut.core.facts.smoothing import mean_of
from offcut.core.measure.camera import HIGH, WIDE, kept_camera
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.source import Source

PAN, TILT, ZOOM, ROLL = range(4)
_GOES, _SURELY = 0.01, 0.5
"""Picture widths a second, or of a zoom its logarithm, from which on a camera goes somewhere."""
_TOLD = 0.3
"""Below this share of places that go along, nothing is told of a frame."""
Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class CameraPath:
    """What the camera did from one frame to the next, a row for each frame.

    Attributes: ``steps`` float64 (n, 4): how far it panned right and tilted up, in picture widths,
    by what it zoomed in, as a logarithm, and how far it rolled right, in radians; ``share`` (n,) of
    the picture that went along, 0 where nothing is known; ``beside`` (n,) of what went the same
    way at another pace.
    """

    steps: Floats
    share: Floats
    beside: Floats

    @property
    def known(self) -> NDArray[np.bool_]:
        """Where a step is known."""
        return self.share >= _TOLD

    def __len__(self) -> int:
        return len(self.steps)

    def within(self, start: int, end: int) -> CameraPath:
        """Return the path inside one shot: into its first frame it went as out of it."""
        steps, share, beside = (a[start:end].copy() for a in (self.steps, self.share, self.beside))
        if len(steps) > 1:
            steps[0], share[0], beside[0] = steps[1], share[1], beside[1]
        return CameraPath(steps, share, beside)


def path_of(motion: NDArray[np.float32], fit: NDArray[np.float32], shape: float) -> CameraPath:
    """Return the path that motion and fit tell (see `Camera`); ``shape`` is width over height."""
    steps = np.zeros((len(motion), 4))
    steps[:, PAN] = -motion[:, 0]
    steps[:, TILT] = motion[:, 1] / shape
    steps[:, ZOOM] = np.log1p(np.clip((motion[:, 2] + motion[:, 5]) / 2, -0.5, 0.5))
    true = shape * HIGH / WIDE  # the measured pictures have a shape of their own
    steps[:, ROLL] = -(motion[:, 4] / true - motion[:, 3] * true) / 2
    return CameraPath(steps, fit[:, 0].astype(np.float64), fit[:, 2].astype(np.float64))


def goes_in(path: CameraPath, rate: float) -> NDArray[np.bool_]:
    """Return where a camera surely goes somewhere, however slowly, bool (n,)."""
    n = len(path)
    if n < 2:
        return np.zeros(n, np.bool_)
    told = path.steps[:, [PAN, TILT, ZOOM]] * path.known[:, None]
    a_second = np.abs(mean_of(told, min(n, max(2, round(rate))))) * rate
    sure = mean_of(path.share, min(n, max(2, round(rate)))) > _SURELY
    return np.asarray((a_second.max(axis=1) > _GOES) & sure)


def kept_path(source: Source) -> CameraPath:
    """Return the path of a film as it was measured and kept, from frame 0 on."""
    media = source.media
    motion, fit = kept_camera(media, 0, media.frames, crop_of(source))
    wide, high = source.framing.size(media)
    return path_of(motion, fit, float(wide * media.pixel_shape / high))
