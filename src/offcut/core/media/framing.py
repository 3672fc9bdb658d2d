"""Framing: pictures cut to the part of them that is the film, to the pixel."""

from __future__ import annotations

import av

from offcut.core.errors import MediaError
from offcut.core.media.filtering import Filtering
from offcut.core.model.source import Framing


class Cut:
    """Cuts frames to a framing, their format and colours as they are."""

    def __init__(self, framing: Framing) -> None:
        self._framing = framing
        self._filtering = Filtering()

    def __call__(self, frame: av.VideoFrame) -> av.VideoFrame:
        """Return the frame cut; itself when the framing is the whole picture.

        Raises MediaError when the framing leaves nothing of it.
        """
        f = self._framing
        if not f:
            return frame
        wide, high = frame.width - f.left - f.right, frame.height - f.top - f.bottom
        if min(wide, high) < 1:
            size = f"{frame.width}x{frame.height}"
            raise MediaError(f"the framing leaves nothing of a {size} picture")
        return self._filtering(frame, (("crop", f"{wide}:{high}:{f.left}:{f.top}:0:1"),))
