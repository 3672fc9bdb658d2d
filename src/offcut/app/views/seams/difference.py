"""The difference of two pictures, drawn on mid grey."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QImage


def difference(before: QImage, after: QImage) -> QImage:
    """Return how far two pictures of one size are apart, drawn on mid grey: equal is grey."""
    sides = []
    for image in (before, after):
        data = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1)
        sides.append(data[:, : 3 * image.width()].astype(np.int16))
    apart = np.clip((sides[1] - sides[0]) // 2 + 128, 0, 255).astype(np.uint8)
    wide = before.width()
    return QImage(
        np.ascontiguousarray(apart).tobytes(), wide, before.height(), 3 * wide, before.format()
    ).copy()
