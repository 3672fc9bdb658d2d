"""Upright: pictures that a file says are to be shown turned, turned."""

from __future__ import annotations

import av

from offcut.core.media.filtering import Filtering, Filters

_TURNS: dict[int, Filters] = {
    90: (("transpose", "cclock"),),
    180: (("transpose", "clock"), ("transpose", "clock")),
    270: (("transpose", "clock"),),
}
"""What turns a picture by so many degrees counterclockwise, as a display matrix counts."""


class Upright:
    """Turns pictures as their file says; those of most files pass as they are.

    Attributes: ``turn`` degrees counterclockwise that the last one was turned.
    """

    def __init__(self) -> None:
        self.turn = 0
        self._filtering = Filtering()

    def __call__(self, frame: av.VideoFrame) -> av.VideoFrame:
        """Return the picture upright, its format and colours as they are."""
        self.turn = round(frame.rotation / 90) * 90 % 360
        return self._filtering(frame, _TURNS[self.turn]) if self.turn else frame
