"""Which stretch of the film the ribbon shows, and where frames fall on it; knows no Qt."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

from offcut.core.timecode import Rate, base_of

SMALLEST = 12.0


@dataclass(frozen=True)
class Stretch:
    """Frames [left, right) of ``whole`` laid over ``width`` pixels."""

    left: float
    right: float
    whole: int
    width: float

    @cached_property
    def scale(self) -> float:
        """Pixels a frame."""
        return self.width / max(1e-9, self.right - self.left)

    def x_of(self, frame: float) -> float:
        """Return where a frame begins."""
        return (frame - self.left) * self.scale

    def holds(self, frame: float) -> bool:
        """Tell whether a frame is shown."""
        return self.left <= frame <= self.right

    def frame_of(self, x: float) -> int:
        """Return the frame under a place, kept inside the film."""
        return max(0, min(self.whole - 1, int(self.left + x / self.scale)))

    def zoomed(self, factor: float, x: float) -> Stretch:
        """Zoom in by a factor above 1, out below it, with the place under ``x`` held still."""
        length = (self.right - self.left) / factor
        length = max(min(SMALLEST, self.whole), min(float(self.whole), length))
        held = self.left + x / self.scale
        return replace(self, left=held - x / self.width * length)._long(length)

    def _long(self, length: float) -> Stretch:
        left = max(0.0, min(self.whole - length, self.left))
        return replace(self, left=left, right=left + length)

    def panned(self, pixels: float) -> Stretch:
        """Move by so many pixels, the film following the hand."""
        length = self.right - self.left
        return replace(self, left=self.left - pixels / self.scale)._long(length)

    def showing(self, frame: int, margin: float = 0.08) -> Stretch:
        """Move as little as needed to show a frame; centre on it when it is far off."""
        length = self.right - self.left
        edge = length * margin
        if self.left + edge <= frame <= self.right - edge or length >= self.whole:
            return self
        return replace(self, left=frame - length / 2)._long(length)

    def ticks(self, rate: Rate, least: float = 96.0) -> list[int]:
        """Return the frames at which the ruler has a label, at least so many pixels apart."""
        second = base_of(rate)
        steps = [1, 2, 5, 10, second // 2, second]
        steps += [second * n for n in (2, 4, 5, 10, 20, 30, 60, 120, 300, 600, 1200, 3600, 7200)]
        step = next((s for s in steps if s >= 1 and s * self.scale >= least), steps[-1])
        first = int(self.left // step) * step
        return [f for f in range(first, int(self.right) + 1, step) if f >= self.left]
